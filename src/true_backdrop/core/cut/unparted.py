"""Openings that nothing parts from the product at one end: light stripes that are as light as the backdrop for part of their way.

Wherever an opening ends, product begins, and if most of that is wholly unlike the backdrop, all of it should be.
"""

from __future__ import annotations

from itertools import islice

import cv2
import numpy as np

from true_backdrop.core.arrays import Mask, Plane
from true_backdrop.core.cut.components import components, places_of
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.masks import disc, median, outside_of
from true_backdrop.core.picture import Region

#: An opening has so many pixels at least; so many are looked at. Its border is so wide; light is compared from so many pixels in,
#: and from some pixels out to some more, as means over so wide a square.
_LEAST_PX, _MOST, _BORDER_PX, _IN_PX, _OUT_PX, _SQUARE_PX = 80, 100, 2, 1, (2, 7), 9
#: So little they differ (tone and tint, log units) where nothing parts the two, and so much where something plainly does; that is
#: such a part of the border at least, and the other so long (pixels): of openings on 1,000 composites 6 at most, of surfaces that
#: were taken for one 8 and more.
_ALIKE, _UNLIKE, _MOSTLY, _LONG_PX = 0.12, 0.3, 0.5, 8
#: In so small a part of a square nothing can be told.
_ENOUGH = 0.05


def unparted(evidence: Evidence, product: Mask) -> Mask:
    """Which openings (H, W) of a product (H, W) are surfaces of it that go on as they are."""
    found = np.zeros_like(product)
    for here, place in islice(places_of(~product & ~outside_of(product), 4, _LEAST_PX), _MOST):
        rows, columns = here
        around = Region(rows.start, columns.start, rows.stop, columns.stop).grown(_OUT_PX[1] + 1, *product.shape)
        opening = np.zeros((around.bottom - around.top, around.right - around.left), bool)
        opening[rows.start - around.top :, columns.start - around.left :][: place.shape[0], : place.shape[1]] = place
        if _goes_on(evidence.view(around.slices), product[around.slices], opening):
            found[here] |= place
    return found


def _goes_on(evidence: Evidence, product: Mask, opening: Mask) -> bool:
    """Whether an opening (h, w) of a product (h, w) is parted from most of that, and a stretch of its border parts nothing."""
    close, far = (cv2.dilate(opening.astype(np.uint8), disc(px)) > 0 for px in _OUT_PX)
    border = (cv2.dilate(opening.astype(np.uint8), disc(_BORDER_PX)) > 0) & product
    inside, beyond = cv2.erode(opening.astype(np.uint8), disc(_IN_PX)) > 0, product & far & ~close
    told = border & (_share(inside) > _ENOUGH) & (_share(beyond) > _ENOUGH)
    apart, other = np.zeros(opening.shape, np.float32), np.zeros(opening.shape, np.float32)
    for plane in (np.clip(evidence.tone, -2, 2), evidence.tint):
        there = _mean(plane, beyond)
        apart = np.maximum(apart, np.abs(_mean(plane, inside) - there))
        other = np.maximum(other, np.abs(median(plane[opening]) - there))
    if np.count_nonzero(told & (other > _UNLIKE)) < _MOSTLY * np.count_nonzero(border):
        return False
    _, stats = components(told & (apart < _ALIKE) & (other < _UNLIKE), 8)
    return int(stats[1:, cv2.CC_STAT_AREA].max(initial=0)) >= _LONG_PX * _BORDER_PX


def _share(mask: Mask) -> Plane:
    """How much of the square around each pixel lies in a mask (h, w)."""
    return np.asarray(cv2.blur(mask.astype(np.float32), (_SQUARE_PX, _SQUARE_PX)), np.float32)


def _mean(plane: Plane, mask: Mask) -> Plane:
    """The mean of a plane (h, w) over what of the square around each pixel lies in a mask (h, w)."""
    total = cv2.blur(np.where(mask, plane, np.float32(0)), (_SQUARE_PX, _SQUARE_PX))
    return np.asarray(total / np.maximum(_share(mask), np.float32(1e-4)), np.float32)
