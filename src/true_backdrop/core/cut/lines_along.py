"""Lines along an outline, as strands and print make them, and what is seen between them."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.arrays import Mask, Plane
from true_backdrop.core.channels import halved
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.spread import spread

#: Sigma of the neighbourhood that bristles fill, in parts of the long side; a few stripes do not.
_EXTENT = 0.03
#: From so far outside of the outline to so far inside (proxy pixels) it is looked at.
_ZONE_PX = (-2, 16)
#: A fine line's tone against what is around it (log units) from which it can be a bristle.
_LINE_TONE = 0.3
#: Strands show the backdrop between them, which the surface of rope or embossed metal does not: the lightest and most neutral
#: of three by three pixels at half size differs by so little (log units).
_LIKE_BACKDROP = 0.3
#: Strands cover pixels in part, so of what is like backdrop not all is very like it; of product of the backdrop's tone it is.
_VERY_LIKE = 0.1
#: Of the backdrop's own light is what is off by so little (log units, and in its noise), and of its hue by a little more.
_JUST_AS, _JUST_AS_NOISE, _TINT = 0.01, 3.0, 0.02
#: A light place that is even (log units a pixel) and yet so far off the backdrop around (log units) is a surface.
_EVEN, _OFF_BACKDROP, _LIGHT = 0.015, 0.035, 0.4
#: Less tint than this (log units) is none.
_GREY = 0.15
#: What is deep inside is so far from the outline (proxy pixels), and so much of a place at least; elsewhere it is as where it is
#: nearest.
_DEEPER_PX, _SOME_DEEPER = 28, 0.02


class Means:
    """Means (h, w), at a quarter of the size, over the neighbourhood of a place, of what is `where` (h, w) alone; `size` is how
    much of it is.

    They reach so far that a quarter of the size is plenty for them.
    """

    def __init__(self, where: Plane, long_side: int) -> None:
        self._where, self._sigma = where, _EXTENT * long_side / 4
        self.size = np.maximum(self._summed(where), np.float32(1e-3))

    def of(self, plane: NDArray[np.generic]) -> Plane:
        """The mean of a plane (h, w) of half the size."""
        return np.asarray(self._summed(np.asarray(plane, np.float32) * self._where) / self.size, np.float32)

    def _summed(self, plane: Plane) -> Plane:
        return np.asarray(cv2.GaussianBlur(halved(plane), (0, 0), self._sigma, borderType=cv2.BORDER_CONSTANT), np.float32)


@dataclass(frozen=True, slots=True)
class Lines:
    """Lines along the outline (h, w), at a quarter of the size, as means over the neighbourhood.

    share   of the tone's gradient that runs along it and not across (a structure tensor, Bigun and Granlund 1987)
    run     strength of that part (log units a pixel at half size)
    fine    part of fine lines
    near    where there is an outline at all
    zone    along it, at half the size (h, w); so are tone, tint and the distance to the outline, and `means` are over it
    """

    share: Plane
    run: Plane
    fine: Plane
    near: Mask
    zone: Plane
    tone: Plane
    tint: Plane
    distance: Plane
    means: Means


def lines_along(evidence: Evidence, signed: Plane) -> Lines:
    """The lines along an outline that lies `signed` (H, W) proxy pixels away, positive inside."""
    tone, tint = halved(np.clip(evidence.tone, -2.0, 0.5)), halved(evidence.tint)
    distance = halved(np.clip(signed, -60, 60))
    across, down = (cv2.Sobel(tone, cv2.CV_32F, *axis, ksize=3, scale=1 / 8) for axis in ((1, 0), (0, 1)))
    shape = cv2.GaussianBlur(distance, (0, 0), 4)
    normal_x, normal_y = (cv2.Sobel(shape, cv2.CV_32F, *axis, ksize=3) for axis in ((1, 0), (0, 1)))
    length_sq = np.maximum(normal_x * normal_x + normal_y * normal_y, np.float32(1e-6))
    along = (down * normal_x - across * normal_y) ** 2 / length_sq
    zone = ((distance > _ZONE_PX[0]) & (distance < _ZONE_PX[1])).astype(np.float32)
    means = Means(zone, evidence.long_side)
    run, whole = means.of(along), means.of(across * across + down * down)
    fine = means.of(halved((evidence.thin > _LINE_TONE).astype(np.float32)))
    share = np.asarray(run / np.maximum(whole, np.float32(1e-5)), np.float32)
    return Lines(share, np.asarray(np.sqrt(run), np.float32), fine, halved(zone) > 0, zone, tone, tint, distance, means)


@dataclass(frozen=True, slots=True)
class BetweenLines:
    """What is between such lines (h, w), likewise.

    gaps    part next to which something like backdrop is seen
    deeper  the same deep inside, in parts of that: strands have met there, print goes on; 0 where nothing is so deep
    bare    part that is just as the backdrop, as far as noise lets one tell
    partly  and how much of what is like it is not very like it
    surface part that is light and even, and no backdrop
    unlike  difference from the backdrop (log units)
    shown   backdrop and grey that is seen inside of the outline, in parts of all that is inside
    """

    gaps: Plane
    deeper: Plane
    bare: Plane
    partly: Plane
    surface: Plane
    unlike: Plane
    shown: tuple[float, float]


def between_lines(evidence: Evidence, lines: Lines, shade: Plane) -> BetweenLines:
    """What is between lines along an outline; `shade` (H, W) is the tone of the backdrop there (log units)."""
    tone, tint = lines.tone, lines.tint
    inside = lines.zone * (lines.distance > 0.5)
    apart = tone - halved(shade)
    around = np.ones((3, 3), np.uint8)
    least = np.asarray(cv2.erode(tint, around), np.float32)
    off, in_shade = (least - np.minimum(cv2.dilate(light, around), 0) for light in (tone, np.maximum(tone, apart)))
    even = (halved(evidence.step) < _EVEN + 2 * evidence.noise) & (tint - np.minimum(apart, 0) < _LIGHT)
    surface = even & (apart < _LIGHT) & (np.abs(apart) + tint > _OFF_BACKDROP + 3 * evidence.noise)
    like = in_shade < _LIKE_BACKDROP
    just_as = _JUST_AS + _JUST_AS_NOISE * evidence.noise
    bare = (np.abs(apart) < just_as) & (tint < just_as + _TINT)
    backdrop = like * inside
    within = Means(inside, evidence.long_side)
    deeper = Means((lines.distance > _DEEPER_PX).astype(np.float32), evidence.long_side)
    gaps, very_like = within.of(backdrop), within.of(off < _VERY_LIKE)
    there = (deeper.size > _SOME_DEEPER).astype(np.float32)
    size = max(1.0, float(inside.sum()))
    return BetweenLines(
        gaps=gaps,
        deeper=spread(np.asarray(deeper.of(like) / np.maximum(gaps, np.float32(1e-3)), np.float32), there),
        bare=within.of(bare),
        partly=np.asarray(1 - very_like / np.maximum(gaps, np.float32(1e-3)), np.float32),
        surface=within.of(surface),
        unlike=lines.means.of(np.abs(tone) + tint),
        shown=(float(backdrop.sum()) / size, float(((tint < _GREY) * inside).sum()) / size),
    )
