"""Openings that nothing parts from the product at one end: light stripes that are as light as the backdrop for part of their way.

Wherever an opening ends, product begins, and if most of that is wholly unlike the backdrop, all of it should be. What goes on may
be a shadow in the opening as well; a surface has light of its own, which does not follow the backdrop's (own_light.py).
"""

from __future__ import annotations

from itertools import islice

import cv2
import numpy as np

from true_backdrop.core.arrays import Mask, Plane
from true_backdrop.core.cut.bare import ring_around
from true_backdrop.core.cut.components import components, places_of
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.masks import MIXED_PX, median, outside_of, percentiles, shrunk
from true_backdrop.core.cut.own_light import against_backdrop

#: An opening has so many pixels at least; so many are looked at. The product beyond it is looked at from and to so many pixels
#: away, as means over so wide a square.
_LEAST_PX, _MOST, _OUT_PX, _SQUARE_PX = 80, 100, (2, 7), 9
#: What goes on is so near to the opening as a whole (tone and tint, log units), and hardly darker: it may be a shadow in it. Of
#: surfaces it was 0.053 off at most, and darker by 0.028. It does so along so many pixels of the border: of openings on 1,000
#: composites 6 at most, of surfaces that were taken for one 8 and more.
_AS_OPENING, _HARDLY_DARKER, _LONG_PX = 0.07, 0.04, 8
#: Of such a part of the border what is beyond is so unlike the opening (log units) that it parts the two plainly.
_MOSTLY, _UNLIKE = 0.5, 0.3
#: The backdrop's light rises over it by so much at least (log units, from the 5th to the 95th percentile), and for each unit of
#: that the tone falls by so much at least: of surfaces it was 0.69 to 1.01, of two openings with a shadow in them it rose.
_VARIES, _FALLS = 0.008, -0.5
#: In so small a part of a square nothing can be told.
_ENOUGH = 0.05


def unparted(evidence: Evidence, product: Mask) -> Mask:
    """Which openings (H, W) of a product (H, W) are surfaces of it that go on as they are.

    Where the backdrop shows its grain that has told already.
    """
    found = np.zeros_like(product)
    if evidence.grain is not None:
        return found
    for here, place in islice(places_of(~product & ~outside_of(product), 4, _LEAST_PX), _MOST):
        if _has_own_light(evidence, here, place) and _goes_on(evidence, product, here, place):
            found[here] |= place
    return found


def _goes_on(evidence: Evidence, product: Mask, here: tuple[slice, slice], opening: Mask) -> bool:
    """Whether an opening (h, w) of a product (H, W) is parted from most of that, and a stretch of its border parts nothing."""
    around, ring = ring_around(evidence.shape, here, opening, (0, _OUT_PX[1]))
    _, beyond = ring_around(evidence.shape, here, opening, _OUT_PX)
    border, beyond = ring & ~beyond & product[around], beyond & product[around]
    share = _blurred(beyond.astype(np.float32))

    def off(plane: Plane) -> Plane:
        """How far the mean of what is beyond is off the opening's median."""
        mean = _blurred(np.where(beyond, plane[around], np.float32(0))) / np.maximum(share, np.float32(1e-4))
        return np.asarray(mean - median(plane[here][opening]), np.float32)

    told, tone, tint = border & (share > _ENOUGH), off(np.maximum(evidence.tone, np.float32(-2))), off(evidence.tint)
    other = np.maximum(np.abs(tone), np.abs(tint))
    if np.count_nonzero(told & (other > _UNLIKE)) < _MOSTLY * np.count_nonzero(border):
        return False
    _, stats = components(told & (other < _AS_OPENING) & (tone >= -_HARDLY_DARKER), 8)
    return int(stats[1:, cv2.CC_STAT_AREA].max(initial=0)) >= _LONG_PX * _OUT_PX[0]


def _has_own_light(evidence: Evidence, here: tuple[slice, slice], opening: Mask) -> bool:
    """Whether the light of an opening (h, w) does not follow the fall-off of the backdrop's."""
    inner = shrunk(opening, MIXED_PX)
    if not inner.any():
        return False
    tone, bare = evidence.tone[here][inner], evidence.bare[here][inner]
    low, high = percentiles(bare, 5, 95)
    return high - low > _VARIES and against_backdrop(tone, bare) < _FALLS


def _blurred(plane: Plane) -> Plane:
    return np.asarray(cv2.blur(plane, (_SQUARE_PX, _SQUARE_PX)), np.float32)
