"""The product's colour around a pixel, for where nothing says which way the product lies: strands, threads, tips."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.arrays import LinearRGB, Mask, Plane
from true_backdrop.core.channels import channel_mean, doubled, halved, squared_length
from true_backdrop.core.compiled import compiled
from true_backdrop.core.cut.inwards import unlike_backdrop
from true_backdrop.core.cut.masks import rising
from true_backdrop.core.cut.spread import spread

#: Sigma of the local mean, and how far it reaches, in proxy pixels.
_SIGMA = 1.3
_REACH = 5
#: Bilinear reading between proxy pixels touches so much more than the band.
MARGIN = 2
#: Square of the squared relative difference to the backdrop at which a pixel is half as good as plain product.
_PLAIN_CONTRAST = 0.01
#: Half widths of the band (proxy pixels) from and to which the colour goes over to the one continued from farther away.
WIDE = (3.2, 4.8)


def among_strands(
    frame: LinearRGB,
    backdrop: LinearRGB,
    light: tuple[Plane, tuple[float, float, float]],
    signed: Plane,
    band: Plane,
    colour: LinearRGB,
) -> None:
    """Change `colour` (h, w, 3) where the band is wide: parameters as in `own_colour`, of a part of the planes."""
    shadow, gain = light
    height, width = signed.shape
    weighted = np.zeros((height, width + 2 * _REACH, 4), np.float32)
    sure = np.zeros(signed.shape, np.float32)
    _weigh(frame, backdrop, shadow, gain, signed, band, weighted, sure)
    _local_mean(weighted, _bell(), signed, band, np.zeros((height + 2 * _REACH, width, 4), np.float32), colour)
    _continue(frame, signed, band, sure * _covered(frame, backdrop, shadow, gain), colour)


#: Mean over largest difference to the backdrop, three by three pixels, from and to which product covers them; and from and to
#: which part of the most within so many pixels it does wholly, from and to where all there differs the same way (1).
_COVERED, _PURE, _AROUND_PX, _ONE_COLOUR = (0.7, 0.9), (0.65, 0.92), 17, (0.95, 0.985)
#: Over so many pixels what is so even, and so far from grey (parts of its light), is a surface.
_SURFACE_PX, _EVEN, _TINTED = 7, 0.85, 0.06


def _covered(frame: LinearRGB, backdrop: LinearRGB, shadow: Plane, gain: tuple[float, float, float]) -> Plane:
    """1 where product covers pixels wholly, 0 where strands finer than a pixel do in part, (h, w).

    Those are uneven, or less unlike the backdrop than strands nearby: none is of the strand's own colour, and how far off it is
    nobody knows. So is a shadow between strands, which has no colour; what has one and is even is a surface of another colour.
    Metal glitters: lighter here than the backdrop and darker there, no part of it is purer than another.
    """
    behind = backdrop * (shadow[..., None] * np.asarray(gain, np.float32))
    off = np.asarray(frame - behind, np.float32)
    away = np.sqrt(squared_length(off))
    most, mean = np.maximum(cv2.dilate(away, np.ones((3, 3), np.uint8)), np.float32(1e-4)), cv2.blur(away, (3, 3))
    even, side = rising(mean / most, _COVERED), (_AROUND_PX, _AROUND_PX)
    purest = np.maximum(cv2.dilate(mean, np.ones(side, np.uint8)), np.float32(1e-4))
    together = np.sqrt(squared_length(np.asarray(cv2.blur(off * even[..., None], side), np.float32)))
    one_colour = rising(together / np.maximum(cv2.blur(away * even, side), np.float32(1e-6)), _ONE_COLOUR)
    one_colour *= ~_surface(frame, behind, away)
    return np.asarray(even * (1 - one_colour * (1 - rising(mean / purest, _PURE))), np.float32)


def _surface(frame: LinearRGB, behind: LinearRGB, away: Plane) -> Mask:
    """Where (h, w) it is even and has another colour than the backdrop; `away` (h, w) is how far off that it is."""
    light = np.asarray(frame / np.maximum(behind, np.float32(1e-3)), np.float32)
    level, side = channel_mean(light), (_SURFACE_PX, _SURFACE_PX)
    tinted = squared_length(light) / 3 > (1 + _TINTED**2) * level * level
    return np.asarray(tinted & (cv2.blur(away, side) > _EVEN * cv2.dilate(away, np.ones(side, np.uint8))))


def _continue(frame: LinearRGB, signed: Plane, band: Plane, sure: Plane, colour: LinearRGB) -> None:
    """Change `colour` (h, w, 3) where the band is wide.

    There is not product near every pixel: where the local mean is only backdrop and noise, the colour is
    continued from where it is product. Far from product it is smooth: half the size will do.
    """
    near = halved(np.asarray(cv2.GaussianBlur(sure, (0, 0), _SIGMA), np.float32))
    _fill_inside(frame, signed, band, colour)
    _go_over(doubled(spread(halved(colour), near), (band.shape[0], band.shape[1])), signed, band, colour)


def _bell() -> NDArray[np.float32]:
    """A Gaussian of sum 1, (2 * _REACH + 1,)."""
    bell = np.exp(-0.5 * (np.arange(-_REACH, _REACH + 1) / _SIGMA) ** 2)
    return np.asarray(bell / bell.sum(), np.float32)


@compiled
def _weight(
    frame: LinearRGB,
    backdrop: LinearRGB,
    shadow: Plane,
    gain: tuple[float, float, float],
    signed: Plane,
    band: Plane,
    y: int,
    x: int,
) -> tuple[float, float]:
    """What a pixel weighs in a local mean, and how surely it is plain product."""
    contrast = unlike_backdrop(frame, backdrop, shadow, gain, y, x) ** 2
    side = min((signed[y, x] + band[y, x]) / (np.float32(1.6) * band[y, x]), np.float32(1)) ** 4
    return side * (contrast + np.float32(1e-5)), side * (contrast / (contrast + np.float32(_PLAIN_CONTRAST)))


@compiled
def _weigh(
    frame: LinearRGB,
    backdrop: LinearRGB,
    shadow: Plane,
    gain: tuple[float, float, float],
    signed: Plane,
    band: Plane,
    weighted: NDArray[np.float32],
    sure: Plane,
) -> None:
    """The frame times its weight and the weight itself, as far as they reach into the band: (H, _REACH + W + _REACH, 4)."""
    for y in range(signed.shape[0]):
        for x in range(signed.shape[1]):
            if signed[y, x] <= -band[y, x]:
                continue
            weight, sure[y, x] = _weight(frame, backdrop, shadow, gain, signed, band, y, x)
            for c in range(3):
                weighted[y, x + _REACH, c] = weight * frame[y, x, c]
            weighted[y, x + _REACH, 3] = weight


@compiled
def mean_around(
    frame: LinearRGB,
    backdrop: LinearRGB,
    shadow: Plane,
    gain: tuple[float, float, float],
    signed: Plane,
    band: Plane,
    y: int,
    x: int,
    own: NDArray[np.float32],
) -> bool:
    """The local mean around one pixel into `own` (3,); False if no product is near."""
    total = 0.0
    own[:] = 0
    for i in range(max(y - _REACH, 0), min(y + _REACH + 1, signed.shape[0])):
        for j in range(max(x - _REACH, 0), min(x + _REACH + 1, signed.shape[1])):
            if signed[i, j] <= -band[i, j]:
                continue
            near = np.exp(np.float32(-0.5 / _SIGMA**2) * ((i - y) ** 2 + (j - x) ** 2))
            weight = near * _weight(frame, backdrop, shadow, gain, signed, band, i, j)[0]
            total += weight
            for c in range(3):
                own[c] += weight * frame[i, j, c]
    if total <= 0:
        return False
    for c in range(3):
        own[c] /= total
    return True


@compiled
def _local_mean(
    weighted: NDArray[np.float32],
    bell: NDArray[np.float32],
    signed: Plane,
    band: Plane,
    along: NDArray[np.float32],
    colour: LinearRGB,
) -> None:
    """Gaussian means of `weighted`, where they are asked for: first along rows into `along`, padded above and below."""
    height, width = signed.shape
    for y in range(height):
        for x in range(width):
            # One more for each row that the second pass reads; a distance changes by one from pixel to pixel at most.
            if abs(signed[y, x]) > band[y, x] + np.float32(MARGIN + _REACH + 1):
                continue
            red = green = blue = share = np.float32(0)
            for i in range(bell.size):
                red += bell[i] * weighted[y, x + i, 0]
                green += bell[i] * weighted[y, x + i, 1]
                blue += bell[i] * weighted[y, x + i, 2]
                share += bell[i] * weighted[y, x + i, 3]
            row = y + _REACH
            along[row, x, 0], along[row, x, 1], along[row, x, 2], along[row, x, 3] = red, green, blue, share
    for y in range(height):
        for x in range(width):
            if abs(signed[y, x]) > band[y, x] + np.float32(MARGIN) or band[y, x] <= np.float32(WIDE[0]):
                continue
            red = green = blue = share = np.float32(0)
            for i in range(bell.size):
                red += bell[i] * along[y + i, x, 0]
                green += bell[i] * along[y + i, x, 1]
                blue += bell[i] * along[y + i, x, 2]
                share += bell[i] * along[y + i, x, 3]
            share = max(share, np.float32(1e-12))
            colour[y, x, 0], colour[y, x, 1], colour[y, x, 2] = red / share, green / share, blue / share


@compiled
def _fill_inside(frame: LinearRGB, signed: Plane, band: Plane, colour: LinearRGB) -> None:
    """Inside of the band the product's colour is what the frame shows."""
    for y in range(signed.shape[0]):
        for x in range(signed.shape[1]):
            if signed[y, x] > band[y, x] + np.float32(MARGIN):
                for c in range(3):
                    colour[y, x, c] = frame[y, x, c]


@compiled
def _go_over(continued: LinearRGB, signed: Plane, band: Plane, colour: LinearRGB) -> None:
    """In the band `colour` goes over to the continued one, the more so the wider it is; inside there is none."""
    for y in range(signed.shape[0]):
        for x in range(signed.shape[1]):
            if abs(signed[y, x]) > band[y, x] + np.float32(MARGIN):
                for c in range(3):
                    colour[y, x, c] = 0
                continue
            share = (band[y, x] - np.float32(WIDE[0])) / np.float32(WIDE[1] - WIDE[0])
            share = min(max(share, np.float32(0)), np.float32(1))
            for c in range(3):
                colour[y, x, c] += share * (continued[y, x, c] - colour[y, x, c])
