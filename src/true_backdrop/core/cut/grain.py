"""Does a place show bare backdrop? Its grain says so by itself, once all light over it is taken away.

A shadow dims the grain's light but not its relative pattern. What hides it is the shadow's own slope, and the ends of the
place: so around each pixel a surface of second degree is fitted to what is seen of the place itself, and what is left over
is compared (normalized convolution with a polynomial basis, Knutsson and Westin 1993).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.arrays import Mask, Plane
from true_backdrop.core.compiled import compiled
from true_backdrop.core.cut.masks import median
from true_backdrop.core.cut.paper import no_line, rim

#: How far around a pixel the surface of light is fitted (sigma in proxy pixels).
_AROUND_PX = 4.0
#: A smaller place (proxy pixels) says nothing.
_LEAST_PX = 60
#: A backdrop frame with less of it than this (standard deviation, log units) has none: a guessed one, or a perfect screen.
_NO_GRAIN = 0.0005
#: With so little of it seen again on bare backdrop, or of the frame explained by it, it is noise and says nothing.
_LEAST_AGAIN, _LEAST_EXPLAINED = 0.4, 0.25
#: So many pixels of what is left over weigh as one that is measured by itself (on composites, docs/cut.md).
_ALIKE_PX = 12.0
#: A place shows so much of the grain that bare backdrop shows (from, to), and that explains so much of its structure, against
#: what it would of bare backdrop in such a shadow (measured on composites).
_AGAIN, _EXPLAINED = (0.6, 1.4), 0.4
#: With so much of what bare backdrop shows a place may be part backdrop, part product.
_MIXED = 0.3
#: Chance explains so much at most, in parts of what it does on average; where backdrop is likely, so much is proof enough. And it
#: hides so much at most.
_BY_CHANCE, _PROOF_IF_LIKELY, _HIDDEN = 4.0, 2.0, 3.0
#: A large place is looked at in about so many pixels, evenly spread over it.
_SAMPLES = 150


@dataclass(frozen=True, slots=True)
class Grain:
    """How the backdrop frame's grain is seen in a place, as `compared` finds it.

    again      the slope of the regression of the frame's grain on the backdrop frame's: 1 all of it, 0 none
    explained  the part of the frame's own structure that it explains (r squared), 0 to 1
    pixels     how many pixels that is worth
    """

    again: float
    explained: float
    pixels: float


def along_rim(tone: Plane, bare: Plane) -> Grain | None:
    """How it is seen on bare backdrop, along the top and both sides of planes as in `shows_grain`; None where it says nothing."""
    seen = [compared(tone[strip], bare[strip], np.abs(tone[strip]) < _LIT) for strip in rim(tone.shape)]
    found = [one for one in seen if one is not None]
    if not found:
        return None
    again, explained = (float(np.median(values)) for values in zip(*((one.again, one.explained) for one in found), strict=True))
    told = again > _LEAST_AGAIN and explained > _LEAST_EXPLAINED
    return Grain(again, min(explained, 0.99), sum(one.pixels for one in found)) if told else None


#: No darker and no brighter than this (log units) is bare backdrop in full light.
_LIT = 0.1


def shows_grain(tone: Plane, bare: Plane, where: Mask, on_bare: Grain | None, *, likely: bool = False) -> bool | None:
    """Whether a place shows the backdrop: True where its grain is seen, False where it is not, None where nothing can be said.

    `tone` (h, w) is the frame's log brightness against the backdrop frame, `bare` (h, w) that of the backdrop frame, `where`
    (h, w) the place without its edges, `on_bare` how the grain is seen along the rim, and `likely` whether the place has the
    tone of backdrop.
    """
    if on_bare is None:
        return None
    found = compared(tone, bare, where)
    if found is None:
        return None
    # In a shadow there is less light, and so more noise.
    noise = (1 / on_bare.explained - 1) * float(np.exp(-median(tone[where])))
    expected = 1 / (1 + noise)
    share, chance = found.explained / expected, _ALIKE_PX / (found.pixels * expected)
    proof = _PROOF_IF_LIKELY if likely else _BY_CHANCE
    again, by_chance = found.again / on_bare.again, float(np.sqrt(_ALIKE_PX / found.pixels))
    if share > max(_EXPLAINED, proof * chance) and _AGAIN[0] < again < _AGAIN[1] * (1 + by_chance):
        return True
    absent = share < _EXPLAINED - _HIDDEN * chance and again < _MIXED
    return False if absent else None


def compared(tone: Plane, bare: Plane, where: Mask) -> Grain | None:
    """The backdrop's grain in the frame, in a place (h, w); None where that is too small, or the backdrop has no grain."""
    pixels = int(np.count_nonzero(where))
    if pixels < _LEAST_PX:
        return None
    every = max(1, round(np.sqrt(pixels / _SAMPLES)))
    rows, columns = (every * index for index in np.nonzero(where[::every, ::every]))
    if rows.size == 0:
        return None  # a line that lies between all that is looked at
    left = np.empty((2, rows.size), np.float32)
    _without_light(where, bare, tone, rows, columns, left)
    of_backdrop, of_frame = left[:, no_line(left[0])].astype(np.float64)
    own, common, seen = float(of_backdrop @ of_backdrop), float(of_backdrop @ of_frame), float(of_frame @ of_frame)
    if not own or own < of_backdrop.size * _NO_GRAIN**2:
        return None
    return Grain(common / own, common * common / max(own * seen, 1e-12), min(float(pixels), _ALIKE_PX * of_backdrop.size))


#: Around a pixel so many are looked at, and weigh as a Gaussian.
_REACH_PX = 7
_SIDE_PX = 2 * _REACH_PX + 1
_DOWN, _ACROSS = (offset.ravel() / _AROUND_PX for offset in np.mgrid[-_REACH_PX : _REACH_PX + 1, -_REACH_PX : _REACH_PX + 1])
#: The basis, as powers of x and y; the powers that products of two of them have; and which of these each product has.
_POWERS = ((0, 0), (1, 0), (0, 1), (2, 0), (1, 1), (0, 2))
_ALL_POWERS = sorted({(a + c, b + d) for a, b in _POWERS for c, d in _POWERS})
_OF_MOMENTS = np.array([[_ALL_POWERS.index((a + c, b + d)) for a, b in _POWERS] for c, d in _POWERS])
#: What a pixel at each place around adds to the moments, and in parts of its value to the sums: (places, powers).
_MOMENTS, _SUMS = (
    np.stack([np.exp(-(_DOWN**2 + _ACROSS**2) / 2) * _ACROSS**a * _DOWN**b for a, b in powers], axis=1).astype(np.float32)
    for powers in (_ALL_POWERS, _POWERS)
)
_TERMS, _KINDS, _PLACES = len(_POWERS), len(_ALL_POWERS), len(_DOWN)
#: Added to the moments, so that a line of pixels can be solved for as well.
_STEADY = 1e-4


@compiled
def _without_light(where: Mask, bare: Plane, tone: Plane, rows: NDArray[np.intp], columns: NDArray[np.intp], left: Plane) -> None:
    """What is left of backdrop frame and frame at each pixel, into (2, n), beyond a surface of second degree around it."""
    height, width = where.shape
    moments, sums, equations = np.empty(_KINDS), np.empty((2, _TERMS)), np.empty((_TERMS, _TERMS + 2))
    for n in range(rows.size):
        moments[:], sums[:] = 0, 0
        for place in range(_PLACES):
            y, x = rows[n] + place // _SIDE_PX - _REACH_PX, columns[n] + place % _SIDE_PX - _REACH_PX
            if 0 <= y < height and 0 <= x < width and where[y, x]:
                of_backdrop, of_frame = bare[y, x], tone[y, x] + bare[y, x]
                for k in range(_KINDS):
                    moments[k] += _MOMENTS[place, k]
                for k in range(_TERMS):
                    sums[0, k] += of_backdrop * _SUMS[place, k]
                    sums[1, k] += of_frame * _SUMS[place, k]
        for i in range(_TERMS):
            for j in range(_TERMS):
                equations[i, j] = moments[_OF_MOMENTS[i, j]]
            equations[i, i] += _STEADY
            equations[i, _TERMS], equations[i, _TERMS + 1] = sums[0, i], sums[1, i]
        # Gauss from the last term to the first; the matrix is positive definite and needs no pivots. The surface's value at the
        # pixel itself is its constant, all else of the basis is 0 there.
        for i in range(_TERMS - 1, 0, -1):
            for j in range(i):
                share = equations[j, i] / equations[i, i]
                for k in range(_TERMS + 2):
                    equations[j, k] -= share * equations[i, k]
        y, x = rows[n], columns[n]
        left[0, n] = bare[y, x] - equations[0, _TERMS] / equations[0, 0]
        left[1, n] = tone[y, x] + bare[y, x] - equations[0, _TERMS + 1] / equations[0, 0]
