"""An opening has product between it and the backdrop around.

A lit place right beside a shadow, with nothing but a seen edge between the two, is none: light does not end so, and the place is
a pale surface of the product that ends there.
"""

from __future__ import annotations

import cv2
import numpy as np

from true_backdrop.core.arrays import Mask
from true_backdrop.core.cut.components import places_of
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.masks import disc, median
from true_backdrop.core.picture import Region

#: An opening is larger than that (pixels). A wall is wider than that (pixels); along so many pixels of its border at least a
#: place has none.
_LEAST_PX, _WALL_PX, _ALONG_PX = 30, 5, 15
#: The tones of both and of what is between are those up to so far away (pixels) from where there is no wall.
_BESIDE_PX = 8
#: Of that border so much shows an edge; the place is so much lighter than the backdrop beyond, and what is between is no darker
#: than that backdrop (log units). Of 602 composites three had such places, and all were product.
_SEEN, _LIGHTER, _NO_DARKER = 0.3, 0.1, 0.02


def unwalled(evidence: Evidence, openings: Mask, outside: Mask, seen: Mask) -> Mask:
    """Which of some openings (H, W) are surfaces, by what is between them and the backdrop.

    `outside` (H, W) is that, and `seen` (H, W) where an edge is seen.
    """
    found = np.zeros_like(openings)
    for here, place in places_of(openings, 4, _LEAST_PX):
        rows, columns = here
        box = Region(rows.start, columns.start, rows.stop, columns.stop)
        around = box.grown(_WALL_PX + _BESIDE_PX, *openings.shape).slices
        whole = np.zeros(openings[around].shape, bool)
        top, left = rows.start - around[0].start, columns.start - around[1].start
        whole[top : top + place.shape[0], left : left + place.shape[1]] = place
        if _is_open(evidence, around, whole, outside[around], seen[around]):
            found[here] |= place
    return found


def _is_open(evidence: Evidence, here: tuple[slice, slice], place: Mask, outside: Mask, seen: Mask) -> bool:
    """Whether a place, a mask (h, w) of a box, is lighter than a shadow `outside` (h, w), with only an edge between them."""
    border = place & (cv2.erode(place.view(np.uint8), np.ones((3, 3), np.uint8)) == 0)
    along = border & (cv2.dilate(outside.view(np.uint8), disc(_WALL_PX)) > 0)
    if np.count_nonzero(along) < _ALONG_PX or float(seen[along].mean()) < _SEEN:
        return False
    beside, tone = cv2.dilate(along.view(np.uint8), disc(_BESIDE_PX)) > 0, evidence.tone[here]
    beyond, between = beside & outside, beside & ~outside & ~place
    if not beyond.any():
        return False
    shadow = median(tone[beyond])
    if between.any() and median(tone[between]) < shadow + _NO_DARKER:
        return False
    return median(tone[beside & place]) - shadow > _LIGHTER
