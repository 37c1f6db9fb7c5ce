"""Places that look like openings and have light of their own: the backdrop's falls off over them, and theirs does not follow.

Through an opening I / B is even, or changes as shadows do, whichever way B falls off. On a surface I is even, so that the tone
log I - log B falls as log B rises, one for one: white print on a product, the white of an eye.
"""

from __future__ import annotations

import numpy as np

from true_backdrop.core.arrays import Mask
from true_backdrop.core.cut.components import places_of
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.masks import median, percentiles, shrunk

#: A place is looked at without so many pixels along its side, and has so many left at least.
_SIDE_PX, _LEAST_PX = 2, 40
#: The backdrop's light varies over it by so much (log units, 5th to 95th percentile), and by so many times the noise.
_VARIES, _VARIES_NOISE = 0.04, 4.0
#: For each unit that the backdrop's rises the tone falls by one, give or take so much, and the place's own light spreads (10th to
#: 90th percentile) over less than such a part of what its tone does. Of 8 surfaces and 698 openings on 57 frames four and 189
#: had such a backdrop: the surfaces 0.53 at most, of openings those that fell at all 0.77 at least. The slope of a deeper shadow
#: than this (median, log units) may happen to be the same: of another 36 openings it was that of three, with 0.45 to 0.62.
_OFF_ONE, _EVENER, _SHADED = 0.4, 0.58, -0.12


def with_own_light(evidence: Evidence, backdrop: Mask) -> Mask:
    """Which places of what was taken for backdrop (H, W), none of them at the rim, are surfaces of the product after all."""
    found, (height, width) = np.zeros_like(backdrop), backdrop.shape
    for here, place in places_of(backdrop, 4, _LEAST_PX):
        rows, columns = here
        if rows.start == 0 or columns.start == 0 or rows.stop == height or columns.stop == width:
            continue
        inner = shrunk(place, _SIDE_PX)
        planes = evidence.tone[here][inner], evidence.bare[here][inner]
        if planes[0].size >= _LEAST_PX and _is_even(*planes, evidence.noise):
            found[here] |= place
    return found


def _is_even(tone: np.ndarray, bare: np.ndarray, noise: float) -> bool:
    """Whether n pixels of some tone have an even light of their own before a backdrop whose log light is `bare`."""
    low, high = percentiles(bare, 5, 95)
    if high - low < max(_VARIES, _VARIES_NOISE * noise) or median(tone) < _SHADED:
        return False
    slope = against_backdrop(tone, bare)
    (darkest, lightest), (least, most) = percentiles(tone, 10, 90), percentiles(tone + bare, 10, 90)
    return abs(slope + 1) < _OFF_ONE and most - least < _EVENER * (lightest - darkest)


def against_backdrop(tone: np.ndarray, bare: np.ndarray) -> float:
    """By how much the tone of n pixels rises for each unit that the backdrop's log light does: -1 on an even surface, and 0
    through an opening."""
    off = bare - bare.mean()
    return float(np.mean(off * (tone - tone.mean())) / max(float(np.mean(off * off)), 1e-9))
