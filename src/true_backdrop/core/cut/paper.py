"""Is it the paper that is seen? The grain of the backdrop frame comes back wherever the frame shows bare backdrop.

A shadow dims the grain's light but not its relative pattern, so paper in shadow is told from white product that is exactly
as bright and as neutral. Where the backdrop has no structure that can be seen, nothing can be said.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.arrays import Mask, Plane
from true_backdrop.core.cut.components import all_of, components
from true_backdrop.core.cut.masks import median
from true_backdrop.core.picture import Region

#: What is broader than this (sigma in proxy pixels) is light, not grain.
_GRAIN_PX = 4.0
#: With less than this of the grain seen again in bare backdrop it is noise, and says nothing.
LEAST_STRUCTURE = 0.3
#: From so many pixels on the pattern can be compared; each pixel of grain is some pixels wide.
LEAST_PIXELS = 120
#: A difference to the neighbourhood beyond this is an edge and no grain (log units).
_NO_GRAIN = 0.06
#: A backdrop with less grain than this (standard deviation, log units) has none: a guessed one, or a perfect screen.
_NO_STRUCTURE = 0.001


def structure_along_rim(along: Sequence[tuple[Moments, float]]) -> float:
    """The part of the backdrop frame's grain that is seen again where no product is, 0 to 1; of `moments_along_rim`."""
    found = [one.common / one.own for one, _ in along]
    return float(np.clip(np.median(found), 0, 1)) if found else 0.0


#: No darker and no brighter than this (log units) is bare backdrop in full light.
_LIT = 0.1


def moments_along_rim(tone: Plane, bare: Plane) -> list[tuple[Moments, float]]:
    """What the grain is where no product is, along the top and both sides, and the log brightness there.

    `tone` is the frame's log brightness against the backdrop frame, `bare` that of the backdrop frame, (H, W) each.
    """
    seen = ((moments(tone[part], bare[part], np.abs(tone[part]) < _LIT), float(bare[part].mean())) for part in rim(tone.shape))
    return [(one, level) for one, level in seen if one is not None]


#: Width of the strips along the rim, in parts of the long side.
_STRIP_OF_SIDE = 0.05


def rim(shape: tuple[int, ...]) -> tuple[tuple[slice, slice], ...]:
    """The top and both sides of a picture, where no product is."""
    by = max(8, round(_STRIP_OF_SIDE * max(shape)))
    return (slice(0, by), slice(None)), (slice(by, None), slice(0, by)), (slice(by, None), slice(-by, None))


def seen_again(tone: Plane, bare: Plane, where: Mask) -> float | None:
    """How much of the backdrop's grain is in the frame, in a region: 1 all of it, 0 none; None when that is too small to say.

    The regression of the frame's grain on the backdrop frame's; noise of the latter makes it smaller than 1 even on bare
    backdrop, so it is to be held against `structure_along_rim`.
    """
    found = compared(tone, bare, where)
    return None if found is None else found[0]


def compared(tone: Plane, bare: Plane, where: Mask) -> tuple[float, float] | None:
    """`seen_again`, and the part of the frame's own structure that the backdrop's grain explains (r squared), 0 to 1."""
    found = moments(tone, bare, where)
    if found is None:
        return None
    own, common, other, _ = found
    return common / own, common * common / max(own * other, 1e-12)


class Moments(NamedTuple):
    """Of the grain of backdrop frame and frame in a region: sums of own square, product and other square, and how many pixels."""

    own: float
    common: float
    other: float
    pixels: int


def moments(tone: Plane, bare: Plane, where: Mask) -> Moments | None:
    """Of a region (h, w) of such planes; None where it is too small, or the backdrop has no grain."""
    if np.count_nonzero(where) < LEAST_PIXELS:
        return None
    weight = where.astype(np.float32)
    near = np.asarray(cv2.GaussianBlur(weight, (0, 0), _GRAIN_PX), np.float32) + np.float32(1e-4)

    def grain(plane: Plane) -> Plane:
        level = cv2.GaussianBlur(plane * weight, (0, 0), _GRAIN_PX) / near
        return np.asarray((plane - level)[where], np.float32)

    of_backdrop, of_frame = grain(bare), grain(tone + bare)
    plain = no_line(of_backdrop) & (np.abs(of_backdrop) < _NO_GRAIN) & (np.abs(of_frame) < _NO_GRAIN)
    if np.count_nonzero(plain) < LEAST_PIXELS:
        return None
    one, other = of_backdrop[plain], of_frame[plain]
    own = float(one @ one)
    if own < one.size * _NO_STRUCTURE**2:
        return None
    return Moments(own, float(one @ other), float(other @ other), one.size)


#: Grain is no more than so many times its standard deviation.
_USUAL = 5.0


def no_line(of_backdrop: Plane) -> Mask:
    """Which of n values of fine structure are grain: it is everywhere. A crease, the line of a floor or a seam is seen in a few
    places and says nothing of all others, so the standard deviation is taken from the median (Hampel 1974)."""
    size = np.abs(of_backdrop)
    return np.asarray(size < _USUAL * 1.4826 * max(median(size), _NO_STRUCTURE / _USUAL))


#: So many pixels of a smoothed picture weigh as one that is measured by itself.
ALIKE_PX = 20.0
#: So many standard deviations above chance is proof, and so much of what is seen again on bare backdrop, but not so many times as
#: much: that is shading which runs like the paper's by chance. And so much of the frame's structure is explained by it, against
#: what noise would leave: a surface of its own has more that is not.
_PROVEN, _PROOF, _NO_PAPER, _EXPLAINED = 3.0, 0.5, 2.0, 0.1


def shows_paper(tone: Plane, bare: Plane, where: Mask, structure: float) -> bool:
    """Whether a region shows the paper beyond chance, also where its grain is hardly above the noise: a large one can tell.

    The correlation of two planes that have nothing in common has a standard deviation of about 1 / sqrt(n) (from memory).
    """
    if structure < LEAST_STRUCTURE:
        return False
    found = compared(tone, bare, where)
    if found is None or not _PROOF * structure <= found[0] <= _NO_PAPER * structure:
        return False
    # Grain over noise on bare backdrop; in a shadow there is less light, and so more noise.
    plainly = structure / max(1 - structure, 1e-3)
    expected = structure * plainly / (plainly + float(np.exp(-np.median(tone[where]))))
    by_chance = np.sqrt(ALIKE_PX / np.count_nonzero(where))
    return bool(np.sqrt(found[1]) > _PROVEN * by_chance and found[1] > _EXPLAINED * expected)


#: The grain is missing where, with so many standard errors more, it is less than this of what is seen of it on bare backdrop. Of
#: openings on 11 of 384 composites it was 1.2 at least.
_ERRORS, _LACKING = 3.0, 0.6


def lacks_paper(tone: Plane, bare: Plane, where: Mask, structure: float) -> bool:
    """Whether a region lacks the paper's grain beyond chance, also where that is hardly above the noise: a large one can tell.

    The standard error of a regression's slope is sqrt((1 - r squared) / n) times the ratio of the two standard deviations.
    """
    if structure < LEAST_STRUCTURE:
        return False
    found = moments(tone, bare, where)
    if found is None:
        return False
    own, common, other, pixels = found
    unexplained = max(0.0, other - common * common / own)
    error = np.sqrt(unexplained / own * ALIKE_PX / pixels)
    return bool(common / own + _ERRORS * error < _LACKING * structure)


#: How far around a pixel its grain is compared (sigma in proxy pixels).
_AROUND_PX = 5.0
#: With less of the grain than this (against bare backdrop) a place is none; it must be seen plainly to say so.
_MISSING, _PLAIN_STRUCTURE = 0.35, 0.8
#: So much of what is around must be no more than grain usually is.
_ASKED = 0.5
#: The backdrop frame's own grain there is so much of what it is elsewhere at least (variance).
_HAS_GRAIN = 0.25
#: Only in so light a shadow (log units): darker, a camera's file has no grain left.
_LIGHT = -0.25
#: A place is so broad at least, and so large, in proxy pixels.
_BROAD, _LARGE = 5, 600
#: An opening shows so much of it, against bare backdrop, and is so broad and so large.
_SEEN, _BROAD_SEEN, _LARGE_SEEN = 0.6, 4, 200
#: The means that tell it reach no farther than this, in pixels.
_BEYOND_PX = 24
#: White product hangs together with what was found of it: so near (a square of so many pixels), since both are eroded.
_BESIDE = 21


def seen_around(of_backdrop: Plane, of_frame: Plane, asked: Plane) -> tuple[Plane, Plane, Plane]:
    """Around each pixel (H, W) what the grain of backdrop frame and frame have in common, the backdrop frame's own, and how
    much of what is there was asked (0 to 1). Only where `asked` is above 0 the grain counts."""
    counts = asked > 0
    planes = of_backdrop * of_frame * counts, of_backdrop * of_backdrop * counts, asked
    common, own, part = (np.asarray(cv2.GaussianBlur(plane, (0, 0), _AROUND_PX), np.float32) for plane in planes)
    return common, own, part


def without_grain(tone: Plane, bare: Plane, structure: float, backdrop: Mask) -> Mask:
    """Places (H, W) of what was taken for bare backdrop that lack its grain: white product, as bright as what is
    behind it, beside the product that was found."""
    nothing = np.zeros(backdrop.shape, bool)
    if structure < _PLAIN_STRUCTURE:
        return nothing
    local = _locally(tone, bare, cv2.erode(backdrop.astype(np.uint8), np.ones((5, 5), np.uint8)).astype(np.float32))
    # The less of the grain is seen again on bare backdrop, the more chance is in it: one more factor of it for that.
    missing = (local.common < _MISSING * structure**2 * local.own) & (local.asked > _ASKED) & local.counted & (tone > _LIGHT)
    # Where the backdrop frame has hardly any grain itself, as where a file's steps look like it elsewhere, none is missed.
    missing &= local.own > _HAS_GRAIN * local.typical * local.asked
    labels, areas = _broad(missing, _BROAD)
    large = areas >= _LARGE
    beside = cv2.dilate((~backdrop).astype(np.uint8), np.ones((_BESIDE, _BESIDE), np.uint8)) > 0
    large[np.setdiff1d(np.arange(large.size), labels[beside])] = False
    large[0] = False
    return all_of(labels, large) if large.any() else nothing


def with_grain(tone: Plane, bare: Plane, structure: float, product: Mask) -> Mask:
    """Places (H, W) of what was taken for product in which the backdrop's grain comes back: an opening that hangs together with
    pale product, between which and itself no edge is seen, as behind the handle of a white cup."""
    found = np.zeros(product.shape, bool)
    if structure < _PLAIN_STRUCTURE or not _broad(product, _BROAD_SEEN)[1][1:].max(initial=0) >= _LARGE_SEEN:
        return found
    left, top, across, down = cv2.boundingRect(product.astype(np.uint8))
    here = Region(top, left, top + down, left + across).grown(_BEYOND_PX, *product.shape).slices
    product = product[here]
    local = _locally(tone[here], bare[here], product.astype(np.float32))
    again = (local.common > _SEEN * structure * local.own) & (local.common < _NO_PAPER * structure * local.own)
    again &= (local.asked > _ASKED) & product & (local.own > _HAS_GRAIN * local.typical * local.asked)
    labels, areas = _broad(again, _BROAD_SEEN)
    large = areas >= _LARGE_SEEN
    large[0] = False
    found[here] = all_of(labels, large)
    return found


class _Local(NamedTuple):
    """Around each pixel (H, W) what `seen_around` says of the grain where it counts; `typical` is its variance on the whole."""

    common: Plane
    own: Plane
    asked: Plane
    counted: Mask
    typical: float


def _locally(tone: Plane, bare: Plane, weight: Plane) -> _Local:
    near = np.asarray(cv2.GaussianBlur(weight, (0, 0), _GRAIN_PX), np.float32) + np.float32(1e-4)

    def grain(plane: Plane) -> Plane:
        level = cv2.GaussianBlur(plane * weight, (0, 0), _GRAIN_PX) / near
        return np.asarray((plane - level) * weight, np.float32)

    of_backdrop, of_frame = grain(bare), grain(tone + bare)
    # A contact shadow's slope is many times the grain, and says nothing about it.
    typical = float(np.sum(of_backdrop * of_backdrop) / max(1.0, float(weight.sum())))
    usual = min(_NO_GRAIN, _USUAL * float(np.sqrt(typical)))
    plain = (np.abs(of_backdrop) < usual) & (np.abs(of_frame) < usual)
    return _Local(*seen_around(of_backdrop, of_frame, weight * plain), weight > 0, typical)


def _broad(places: Mask, radius: int) -> tuple[NDArray[np.int32], NDArray[np.int32]]:
    """What of some places (H, W) is so broad everywhere: labels (H, W) and how many pixels each has."""
    side = 2 * radius + 1
    kernel = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (side, side))
    labels, stats = components(cv2.morphologyEx(places.astype(np.uint8), cv2.MORPH_OPEN, kernel), 4)
    return labels, stats[:, cv2.CC_STAT_AREA]
