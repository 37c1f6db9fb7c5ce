"""What floats in an opening is print on a pale face: through an opening backdrop is seen, and nothing hangs there by itself.

Unless it lies on the table, as earrings within their necklace; but then what is around it is just the backdrop.
"""

from __future__ import annotations

import cv2
import numpy as np

from true_backdrop.core.arrays import Mask
from true_backdrop.core.cut.components import components, each, places_of
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.masks import median, with_margin

#: A place that is looked at, and what floats in it, has so many pixels at least.
_LARGE_PX, _ISLAND_PX = 200, 20
#: One island may be a ball in a ring; of 602 composites one had such, and none that was an opening had so many.
_MANY = 2
#: An island is so much darker than the backdrop or, before a dark one, brighter, or so tinted (log units, medians).
_UNLIKE, _TINTED = 0.4, 0.3
#: A face is just as light as the backdrop (log units, and in its noise) in less than such a part of it.
_JUST_AS, _JUST_AS_NOISE, _LIT = 0.015, 2.0, 0.5


def printed(evidence: Evidence, openings: Mask) -> Mask:
    """Which of some openings (H, W) have print in them, parts that are far from the backdrop and touch nothing else."""
    found = np.zeros_like(openings)
    for here, place in places_of(openings, 4, _LARGE_PX):
        if not is_lit(evidence, here, place) and islands_in(evidence, here, place) >= _MANY:
            found[here] |= place
    return found


def is_lit(evidence: Evidence, here: tuple[slice, slice], place: Mask) -> bool:
    """Whether most of a place, a mask (h, w) of a box, has just the backdrop's light."""
    tone = evidence.tone[here][place]
    return bool(np.mean(np.abs(tone) < _JUST_AS + _JUST_AS_NOISE * evidence.noise) > _LIT)


def islands_in(evidence: Evidence, here: tuple[slice, slice], place: Mask) -> int:
    """How many parts that are no backdrop a place, a mask (h, w) of a box, surrounds."""
    free = with_margin(~place, 1)
    cv2.floodFill(free, None, (0, 0), (0,), flags=8)
    labels, stats = components(free[1:-1, 1:-1], 8)
    tone, tint, islands = evidence.tone[here], evidence.tint[here], 0
    wanted = np.flatnonzero(stats[:, cv2.CC_STAT_AREA] >= _ISLAND_PX)
    for _, box, island in each(labels, stats, wanted[wanted > 0]):
        islands += abs(median(tone[box][island])) > _UNLIKE or median(tint[box][island]) > _TINTED
    return int(islands)
