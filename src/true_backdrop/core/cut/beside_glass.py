"""Openings of a clear product: the table in the loop of a spectacle cord, which goes from full light into a shadow."""

from __future__ import annotations

import cv2
import numpy as np

from true_backdrop.core.arrays import Mask, Plane
from true_backdrop.core.cut.bare import NOT_PALE, TONE, Bare, among_strands, lacks_grain, unlike_around
from true_backdrop.core.cut.components import places_of
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.masks import disc, median, percentiles

#: An opening is so large at least (parts of the long side, squared), so much of it is exactly as the backdrop in full light, and
#: its shadow is so deep (log units, at the 5th percentile). In the loop of a cord it was 0.14 of it, and 0.3 deep.
_LEAST, _LIT, _SHADOW = 0.002, 0.1, -0.1
#: It has so many times as much structure as bare backdrop at most: in that loop 1.8 times, in the lenses beside it 6 and more.
_AS_SMOOTH = 3.0


def open_beside_glass(evidence: Evidence, bare: Bare, inside: Mask, expected: Plane, grain: float) -> Mask:
    """Places (H, W) of what is `inside` a clear product that nothing lies over.

    Glass takes light everywhere, and bends what is seen through it. Such a place is in part as the backdrop in full light,
    nowhere brighter, otherwise in a shadow, and as smooth as bare backdrop, whose usual structure is `grain`. `expected` (H, W)
    is the tone of the backdrop nearby.
    """
    found = np.zeros_like(inside)
    least = round(_LEAST * evidence.long_side**2)
    for here, place in places_of(cv2.erode((bare.soft & inside).astype(np.uint8), disc(1)), 4, least):
        lit = np.count_nonzero(bare.exactly[here] & place) > _LIT * np.count_nonzero(place)
        if not lit or median(evidence.thin[here][place]) > _AS_SMOOTH * grain:
            continue
        deepest, brightest = percentiles(evidence.tone[here][place], 5, 95)
        if deepest > _SHADOW or brightest > TONE or lacks_grain(evidence, here, place):
            continue
        if unlike_around(evidence, here, place, expected) > NOT_PALE and not among_strands(evidence, here, place):
            found[here] |= place
    return found
