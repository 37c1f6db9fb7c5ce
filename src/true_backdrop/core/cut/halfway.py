"""The outline of a mask, moved to just outside of where product covers half of each pixel, in linear light.

A mask ends where the product is told from the backdrop. A bright product before a dark backdrop is told from a few hundredths of
cover on, a dark one before white, beside its shadow, from most of it: where the lens drew the edge softly these are pixels apart.
"""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.arrays import LinearRGB, Mask, Plane
from true_backdrop.core.compiled import compiled
from true_backdrop.core.cut.inwards import inwards, read_inwards
from true_backdrop.core.cut.strands import FIRM_BAND
from true_backdrop.core.side_by_side import in_halves

#: So far on both sides of the mask's outline (proxy pixels) half of a pixel may be covered.
_REACH_PX = 5.0
#: The outline is moved alike along so many proxy pixels (sigma), in cells of this side.
_ALONG_PX, _CELL = 6.0, 4
#: A projection says which half of a pixel is covered if noise (standard deviation) moves it by so much at most, and if product
#: and backdrop differ by so much (mean square, relative).
_SURE_NOISE, _SURE_CONTRAST = 0.12, 0.02
#: Off the line from backdrop to product colour, in parts of the way and in noise, a pixel is another colour of the product.
_OFF_LINE, _OFF_NOISE = 0.1, 3.0
#: The product's colour is taken inside the mask from so deep on (proxy pixels), from so many pixels at most.
_SHALLOWEST, _DEPTHS = 1.5, 7
#: Around half of cover, give or take so much, the slope is the lens's.
_AROUND_HALF = 0.4
#: So few pixels, half covered, tell nothing of the lens.
_LEAST = 30
#: The mask may end so far outside of half cover (proxy pixels): beside a sharp edge hardly at all, beside a soft one by so many
#: times what its steepest slope would take from none to all, less this. Farther in there is a pale rim of the product.
_LEAST_MOVED_PX, _OF_THE_EDGE, _LESS_PX = 0.6, 1.0, 1.4
MOST_PX = 3.0
#: An outline runs so far (proxy pixels) outside of half a pixel's cover: the line between two pixels belongs to the product, and
#: what the distance says of opacity (solve.py) is set for that.
OUTSIDE_PX = 0.5
#: Half width of the band in such slopes, and in proxy pixels at most; a band so much wider than a firm one's is not firm.
_BAND, _WIDEST_BAND, _NOT_FIRM = 0.6, 2.3, 2.0
#: In a cell there is so much of the outline at least (of that of a straight one that runs through its middle).
_ENOUGH = 0.2


def at_halfway(
    frame: LinearRGB,
    backdrop: LinearRGB,
    light: tuple[Plane, tuple[float, float, float]],
    signed: Plane,
    band: Plane,
    held: Mask | None,
    noise: float,
) -> tuple[Plane, Plane]:
    """The distance to the outline `OUTSIDE_PX` outside of half cover, and a band as wide as the lens drew the edge.

    How far the one outline lies off the other is told by the area between the two over the length of the outline, for a stretch
    of some twenty pixels. It cannot be farther than the edge is wide, but for what is backdrop for sure outside of that. Only a
    firm edge is moved: among strands the band is wide enough as it is, and in a contact shadow half cover and half shadow look
    the same.

    Parameters
    ----------
    frame, backdrop
        (H, W, 3) linear light of the proxy, the backdrop as shot.
    light
        The shadow (H, W) and the gain of each channel, which together bring the backdrop to the frame's light.
    signed, band
        (H, W) distance to the mask's outline, positive inside, and half width of the unknown band, in proxy pixels.
    held
        (H, W) what somebody said is product or backdrop, where nothing is moved; None where nobody did.
    noise
        Standard deviation of a proxy pixel over the backdrop, relative.

    Returns
    -------
    The same two planes, the first moved by `MOST_PX` and `OUTSIDE_PX` at most; as they are where nothing can be told.
    """
    shadow, gain = light
    firm = np.asarray(np.clip(1 - (band - np.float32(FIRM_BAND)) / np.float32(_NOT_FIRM), 0, 1), np.float32)
    firm[band < np.float32(FIRM_BAND)] = 0
    if held is not None:
        firm[held] = 0
    covered = np.zeros(signed.shape, np.float32)
    told = np.zeros(signed.shape, np.uint8)
    lighter = np.zeros((*signed.shape, 2), np.float32)
    lit = frame, backdrop, shadow, gain
    in_halves(lambda begin, end: _project(*lit, signed, firm, noise, begin, end, covered, told, lighter), len(signed))
    slopes = np.empty(np.count_nonzero(told), np.float32)
    slopes = slopes[: _slopes(covered, told, signed, slopes)]
    if slopes.size < _LEAST:
        return signed, band
    usual = float(np.median(slopes))
    most = min(MOST_PX, max(_LEAST_MOVED_PX, _OF_THE_EDGE / usual - _LESS_PX))
    off = _off(covered, told, lighter, signed, most)
    wide = np.float32(min(_WIDEST_BAND, _BAND / usual))
    wider = firm * np.maximum(wide - band, 0)
    return np.asarray(signed - firm * off, np.float32), np.asarray(band + wider, np.float32)


def _off(covered: Plane, told: NDArray[np.uint8], lighter: NDArray[np.float32], signed: Plane, most: float) -> Plane:
    """How far (H, W) the mask's outline lies outside of where it should run; see `_project`.

    That is `most` at most, beyond what the mask holds of backdrop for sure: however sharp the edge is, that can be left out.
    """
    rows, columns = -(-signed.shape[0] // _CELL), -(-signed.shape[1] // _CELL)
    sums = np.zeros((rows, columns, _SUMS), np.float32)
    _between_outlines(covered, told, lighter, signed, sums)
    sigma = _ALONG_PX / _CELL
    area, length, bare, more, of_product, share = (
        np.asarray(cv2.GaussianBlur(np.ascontiguousarray(sums[..., kind]), (0, 0), sigma), np.float32) for kind in range(_SUMS)
    )
    # A straight outline has this length in each cell, once it is smoothed across.
    straight = _CELL / (np.sqrt(2 * np.pi) * sigma)
    length = np.where(length > _ENOUGH * straight, length, np.float32(np.inf))
    # The lens spreads a little of the product's own light over what is bare.
    spread = np.clip(share, 0, np.float32(_SPREAD) * bare) * of_product / np.maximum(bare, np.float32(1e-6))
    exactly = np.abs(more - spread) < np.float32(_BARE_MEAN) * bare
    farthest = np.minimum(most + np.where(exactly, bare / length, 0), MOST_PX)
    off = np.where(np.isinf(length), OUTSIDE_PX, np.clip(area / length, -most, farthest)) - OUTSIDE_PX
    large = cv2.resize(off.astype(np.float32), (columns * _CELL, rows * _CELL), interpolation=cv2.INTER_LINEAR)
    return np.asarray(large[: signed.shape[0], : signed.shape[1]], np.float32)


#: What is told of a pixel: nothing, how much of it is covered, that it is of another colour of the product, and that it is the
#: backdrop's own, up to so much (relative) and so many times the noise. Along a stretch these are so little lighter or darker,
#: but for a small part of the product's own light.
_UNTOLD, _COVER, _OTHER, _BARE = 0, 1, 2, 3
_BARE_OFF, _BARE_NOISE, _BARE_MEAN, _SPREAD = 0.015, 3.0, 0.02, 0.02


@compiled
def _project(
    frame: LinearRGB,
    backdrop: LinearRGB,
    shadow: Plane,
    gain: tuple[float, float, float],
    signed: Plane,
    firm: Plane,
    noise: float,
    begin_row: int,
    end_row: int,
    covered: Plane,
    told: NDArray[np.uint8],
    lighter: NDArray[np.float32],
) -> None:
    """How much of each pixel near the outline is covered, 0 to 1, and what is told of it, (H, W) each; of some rows only.

    `lighter` (H, W, 2) is by how much a pixel that is the backdrop's own is lighter than it, and by how much the product there is
    (relative); the cover of such a pixel is not clipped.
    """
    height, width = signed.shape
    behind, span, away, own = np.empty(3, np.float32), np.empty(3, np.float32), np.empty(3, np.float32), np.empty(3, np.float32)
    third, noisy = np.float32(1 / 3), np.float32(noise * noise / (3 * _SURE_NOISE * _SURE_NOISE))
    for y in range(max(begin_row, 1), min(end_row, height - 1)):
        for x in range(1, width - 1):
            if abs(signed[y, x]) > np.float32(_REACH_PX) or firm[y, x] <= 0:
                continue
            begin = _SHALLOWEST - signed[y, x]
            if not read_inwards(frame, backdrop, shadow, gain, signed, y, x, begin, _DEPTHS, own):
                continue
            level = square = along = np.float32(0)
            for c in range(3):
                behind[c] = backdrop[y, x, c] * shadow[y, x] * np.float32(gain[c])
                span[c] = own[c] - behind[c]
                away[c] = frame[y, x, c] - behind[c]
                level += behind[c] * third
                square += span[c] * span[c]
                along += away[c] * span[c]
            level = max(level, np.float32(0.01))
            contrast = square * third / (level * level)
            if contrast < max(np.float32(_SURE_CONTRAST), noisy):
                continue
            share = min(max(along / square, np.float32(0)), np.float32(1))
            off = np.float32(0)
            for c in range(3):
                off += (away[c] - share * span[c]) ** 2
            unlike = np.sqrt(off * third) / level
            covered[y, x] = share
            another = signed[y, x] > 0 and unlike > _OFF_LINE * np.sqrt(contrast) + _OFF_NOISE * noise
            told[y, x] = _OTHER if another else _COVER
            if np.sqrt((away[0] ** 2 + away[1] ** 2 + away[2] ** 2) * third) < level * (_BARE_OFF + _BARE_NOISE * noise):
                told[y, x], covered[y, x] = _BARE, along / square
                lighter[y, x, 0] = (away[0] + away[1] + away[2]) * third / level
                lighter[y, x, 1] = (span[0] + span[1] + span[2]) * third / level


@compiled
def _slope(covered: Plane, told: NDArray[np.uint8], signed: Plane, y: int, x: int) -> float:
    """How fast the cover of a pixel around half grows inwards, per pixel (Sobel); 0 where that cannot be told.

    Lines on the product that cross its outline change it along that, which says nothing of the lens.
    """
    if told[y, x] == _UNTOLD or abs(covered[y, x] - np.float32(0.5)) > np.float32(_AROUND_HALF):
        return 0.0
    if y == 0 or x == 0 or y == covered.shape[0] - 1 or x == covered.shape[1] - 1:
        return 0.0
    across = down = 0.0
    for i in (-1, 0, 1):
        if told[y + i, x - 1] == _UNTOLD or told[y + i, x] == _UNTOLD or told[y + i, x + 1] == _UNTOLD:
            return 0.0
        weight = 2.0 if i == 0 else 1.0
        across += weight * (covered[y + i, x + 1] - covered[y + i, x - 1])
        down += weight * (covered[y + 1, x + i] - covered[y - 1, x + i])
    way = inwards(signed, y, x)
    return (down * way[0] + across * way[1]) / 8


@compiled
def _slopes(covered: Plane, told: NDArray[np.uint8], signed: Plane, found: NDArray[np.float32]) -> int:
    """The slope of every pixel around half, one after another into `found`, and how many there are."""
    count = 0
    for y in range(covered.shape[0]):
        for x in range(covered.shape[1]):
            if told[y, x] != _UNTOLD:
                slope = _slope(covered, told, signed, y, x)
                if slope > 0:
                    found[count] = slope
                    count += 1
    return count


#: What is summed up per cell: pixels that are inside of one outline alone (positive: of the mask's), the outline's length, how
#: many of the mask's are the backdrop's own, by how much these and the product there are lighter, and their cover.
_AREA, _LENGTH, _BARE_AREA, _LIGHTER, _OF_PRODUCT, _SHARE, _SUMS = 0, 1, 2, 3, 4, 5, 6


@compiled
def _between_outlines(
    covered: Plane, told: NDArray[np.uint8], lighter: NDArray[np.float32], signed: Plane, sums: NDArray[np.float32]
) -> None:
    """What lies between the mask's outline and half cover, into (h, w, `_SUMS`)."""
    for y in range(signed.shape[0]):
        for x in range(signed.shape[1]):
            if told[y, x] == _UNTOLD:
                continue
            cell = sums[y // _CELL, x // _CELL]
            cell[_LENGTH] += np.float32(0.5 / _REACH_PX)
            inside = covered[y, x] > np.float32(0.5)
            if signed[y, x] > 0 and not inside and told[y, x] != _OTHER:
                cell[_AREA] += np.float32(1)
                if told[y, x] == _BARE:
                    cell[_BARE_AREA] += np.float32(1)
                    cell[_LIGHTER] += lighter[y, x, 0]
                    cell[_OF_PRODUCT] += lighter[y, x, 1]
                    cell[_SHARE] += covered[y, x]
            elif signed[y, x] <= 0 and inside:
                cell[_AREA] -= np.float32(1)
