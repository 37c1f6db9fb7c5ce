"""What lies beside an outline, unrolled along it and away from it; a faint edge that runs along it is a straight line there.

Along so many pixels it stands out from the noise. A shadow ends beside a product as well, but softly.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.arrays import EncodedRGB, Mask, Plane
from true_backdrop.core.cut.components import components
from true_backdrop.core.cut.evidence import RELIEF_STEPS

#: Such a line may be so far away (pixels). From so far on product that is met is another part of it, and a line so near before
#: that is the edge of it. Light and noise around are those farther out.
_FARTHEST, _ANOTHER_PX, _EDGE_PX, _LIGHT_PX, _NOISE_PX = 12, 3, 2, (6, 15), (10, 17)
#: So far out (pixels) the surroundings are unrolled, and so far in; that far to both sides of a step its sharpness is looked at.
_OUT, _BROAD_PX = 20, 3
#: A step is so many times the noise of steps, a deviation of which is so much at least (in parts of the light), and is itself so
#: much at least; and so much of the whole change to both sides is there, as of no shadow's.
_IN_NOISE, _LEAST_NOISE, _LEAST_STEP, _SHARP = 8.0, 0.0015, 0.02, 0.7
#: It is fainter than the outline's own edge, and somewhere between the two steps are so many times smaller.
_APART = 1.5
#: Along the outline light is averaged over so many pixels. The outline itself is smoothed by so much (sigma, pixels), and its way
#: is taken over so many; a shorter one than this is none.
_ALONG_PX, _ROUNDED_PX, _WAY_PX, _SHORTEST_PX = 15, 3.0, 4, 60
#: Where a line goes on unseen, its step is averaged over so many pixels more along the outline; it is that between the light so
#: far inside and outside of it, beyond the slope from there to so far outside (pixels).
_ON_PX, _STEP_PX, _SLOPE_PX = 47, (1, 3), (5, 7)
#: Gaps of so many pixels are none.
_GAP_PX = 3
#: Where there is less than such a part of the backdrop's light, steps are held against that.
_DARKEST = 0.15


@dataclass(frozen=True, slots=True)
class Line:
    """One that runs along an outline: the n points of that it is beside, in turn, and how far out it is at each (pixels)."""

    along: NDArray[np.int64]
    away: NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Beside:
    """The surroundings of one closed outline of N points, unrolled as far as D pixels outwards.

    contour  (N, 2), x and y of its points
    x, y     (N, D), where each pixel of the surroundings is, from the outline on
    light    (N, D), in parts of that farther out, averaged along the outline
    twice    (2 N, D), where there is a sharp step before the edge of product that is met again, gaps of some pixels closed; once
             more from the first point on, since a line may go on there
    """

    contour: NDArray[np.int32]
    x: Plane
    y: Plane
    light: Plane
    twice: Mask

    def lines(self, least: int = 1) -> list[Line]:
        """All that are beside so many points at least, from the longest on; a line may bend by a pixel."""
        n, found = len(self.contour), list[Line]()
        labels, stats = components(self.twice, 8)
        known = np.zeros(n, bool)
        for label in 1 + np.argsort(-stats[1:, cv2.CC_STAT_HEIGHT], kind="stable"):
            left, top, across, length, _ = (int(value) for value in stats[label])
            if length < least:
                break
            along = np.arange(top, top + min(length, n)) % n
            if known[along].any():
                continue
            known[along] = True
            line = labels[top : top + along.size, left : left + across] == label
            out = np.arange(left, left + across)
            found.append(Line(along, (line * out).sum(axis=1) / line.sum(axis=1)))
        return found

    def step(self, away: float) -> NDArray[np.float32]:
        """The step (N,) so far away (pixels), in parts of the light, averaged along more of the outline than for a line."""
        at, (first, last) = round(away), _STEP_PX

        def level(start: int, end: int) -> NDArray[np.float32]:
            return np.asarray(self.light[:, max(0, at + start) : at + end + 1].mean(axis=1))

        beyond = level(first, last)
        each = np.pad(level(-last, -first) - 2 * beyond + level(*_SLOPE_PX), _ON_PX // 2, mode="wrap")
        return np.asarray(np.convolve(each, np.full(_ON_PX, 1 / _ON_PX), mode="valid"), np.float32)


def surroundings(relief: EncodedRGB, product: Mask) -> Iterator[Beside]:
    """Of each outer outline of a product (H, W) that is not too short to have any; the relief (H, W, 3) is as in `Evidence`."""
    light, whole = relief.astype(np.float32) / RELIEF_STEPS, product.astype(np.float32)
    contours, _ = cv2.findContours(product.view(np.uint8), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    for contour in contours:
        if len(contour) < _SHORTEST_PX:
            continue
        x, y = _outwards(contour)
        out_x, out_y = x[:, _BROAD_PX:], y[:, _BROAD_PX:]
        planes, met = _levelled(_unrolled(light, x, y)), _unrolled(whole, out_x, out_y) > 0.5
        other = np.logical_or.accumulate(met & (np.arange(met.shape[1]) >= _ANOTHER_PX), axis=1)
        lines = _lines(planes)
        lines[:, :-_EDGE_PX] &= ~other[:, _EDGE_PX:]
        twice = np.concatenate([lines, lines]).astype(np.uint8)
        closed = cv2.morphologyEx(twice, cv2.MORPH_CLOSE, np.ones((2 * _GAP_PX + 1, 3), np.uint8)) > 0
        tone = np.asarray(planes[0][:, _BROAD_PX:])
        yield Beside(np.asarray(contour[:, 0], np.int32), out_x, out_y, tone, np.asarray(closed))


def _outwards(contour: np.ndarray) -> tuple[Plane, Plane]:
    """For each of N points of a closed contour, the x and the y (N, D) of what lies from some pixels in to some pixels out.

    The contour is one that OpenCV has traced around a mask: it turns one way.
    """
    room = 4 * round(_ROUNDED_PX)
    points = np.pad(contour[:, 0].astype(np.float32), ((room, room), (0, 0)), mode="wrap")
    points = np.asarray(cv2.GaussianBlur(points, (1, 2 * room + 1), _ROUNDED_PX), np.float32)[room:-room]
    way = np.roll(points, -_WAY_PX // 2, axis=0) - np.roll(points, _WAY_PX // 2, axis=0)
    way /= np.maximum(np.linalg.norm(way, axis=1, keepdims=True), 1e-6)
    out = np.arange(-_BROAD_PX, _OUT, dtype=np.float32)
    return points[:, :1] - out * way[:, 1:], points[:, 1:] + out * way[:, :1]


def _unrolled(plane: np.ndarray, x: Plane, y: Plane) -> NDArray[np.float32]:
    return np.asarray(cv2.remap(plane, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE), np.float32)


def _levelled(light: NDArray[np.float32]) -> NDArray[np.float32]:
    """Light (N, D', 3), from some pixels inside of the outline outwards, averaged along that and in parts of what is farther out:
    its mean and two differences of channels (3, N, D')."""
    around = np.pad(light, ((_ALONG_PX, _ALONG_PX), (0, 0), (0, 0)), mode="wrap")
    red, green, blue = cv2.split(cv2.blur(around, (1, _ALONG_PX))[_ALONG_PX:-_ALONG_PX])
    tone = (red + green + blue) / 3
    level = np.maximum(tone[:, _BROAD_PX:][:, slice(*_LIGHT_PX)].mean(axis=1, keepdims=True), _DARKEST)
    return np.asarray(np.stack([tone, red - green, blue - green]) / level, np.float32)


def _lines(planes: NDArray[np.float32]) -> Mask:
    """Where (N, D), from the outline outwards, there is a sharp step in planes (3, N, D') that begin some pixels inside of it."""
    steps, broad, weighed = (np.abs(each) for each in _steps(planes))
    plainest = weighed.argmax(axis=0)[None]
    step, wide = (np.take_along_axis(planes, plainest, axis=0)[0] for planes in (steps, broad))
    strength = np.sqrt(np.square(weighed).sum(axis=0))
    found = (strength > _IN_NOISE) & (step > _LEAST_STEP) & (step > _SHARP * wide)
    found &= is_second(strength)
    found[:, 1:-1] &= (strength[:, 1:-1] >= strength[:, :-2]) & (strength[:, 1:-1] >= strength[:, 2:])
    found[:, _FARTHEST + 1 :] = False
    return np.asarray(found)


def is_second(strength: Plane) -> Mask:
    """Where (N, D), outwards, steps of some strength (N, D) are fainter than ones before, and stronger than some in between."""
    found = np.zeros(strength.shape, bool)
    peak = lowest = strength[:, 0]
    for out in range(1, strength.shape[1]):
        here = strength[:, out]
        found[:, out] = (here < peak) & (here > _APART * lowest)
        lowest = np.where(here > peak, here, np.minimum(lowest, here))
        peak = np.maximum(peak, here)
    return found


def _steps(planes: NDArray[np.float32]) -> tuple[NDArray[np.float32], NDArray[np.float32], NDArray[np.float32]]:
    """From the outline outwards (K, N, D): the steps in K planes that begin farther in, the change over a broader distance, and
    the steps in multiples of their noise."""
    steps, broad = np.zeros_like(planes), np.zeros_like(planes)
    steps[..., 2:-2] = (planes[..., :-4] + planes[..., 1:-3] - planes[..., 3:-1] - planes[..., 4:]) / 2
    broad[..., _BROAD_PX:-_BROAD_PX] = planes[..., : -2 * _BROAD_PX] - planes[..., 2 * _BROAD_PX :]
    steps, broad = steps[..., _BROAD_PX:], broad[..., _BROAD_PX:]
    far = steps[..., slice(*_NOISE_PX)].reshape(len(planes), -1)
    noise = 1.48 * np.median(np.abs(far - np.median(far, axis=1, keepdims=True)), axis=1)
    return steps, broad, steps / np.maximum(noise, _LEAST_NOISE)[:, None, None].astype(np.float32)
