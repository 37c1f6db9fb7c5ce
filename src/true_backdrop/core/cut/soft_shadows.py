"""Shadow that was taken for product: it goes over into the backdrop more softly than any lens draws an edge.

A lens spreads every edge in focus over a pixel or two; a shadow's edge is as soft as the lamp is wide. So the slope of the one
is mostly lost when the tone is smoothed, and the slope of the other stays.
"""

from __future__ import annotations

import cv2
import numpy as np

from true_backdrop.core.arrays import Mask, Plane
from true_backdrop.core.cut.closing import Closing
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.masks import median
from true_backdrop.core.cut.pockets import places_beside
from true_backdrop.core.cut.tolerances import Tolerances

#: A shadow is so large at least, in parts of the long side squared (tips of fur are as soft, and smaller), and so dark (log
#: units, from and to).
_LEAST, _DARKEST, _LIGHTEST = 0.0006, -1.4, -0.05
#: So much of its border lies along the backdrop at least, so much of that is soft, and so much of the rest at most: towards the
#: product there is an edge (measured on composites and path-traced products).
_MOUTH, _SOFT, _SOFT_WITHIN = 0.3, 0.9, 0.6
#: The soft edge is seen: its slope is so many times the noise, and not that of a sharp one nearby, which smoothing spreads.
_SEEN, _ITS_OWN = 2.0, 1.15
_BORDER_PX = 3
#: A neutral place below product that is coloured (median tint next to it, log units) is shadow where so much of its border lies
#: along the backdrop (half of a wedge's does, of a white dress below flowers a third) and so much of that is soft: of the borders
#: of neutral parts of drawn products less than 0.1 was.
_COLOURED, _MOUTH_OF_COLOURED, _SOFT_OF_COLOURED = 0.2, 0.45, 0.5


def soft_shadows(evidence: Evidence, product: Mask, closing: Closing, box: tuple[slice, slice], limits: Tolerances) -> Mask:
    """What of a product (h, w) is shadow, where `closing` is that of the evidence of which this is a box."""
    found = np.zeros_like(product)
    tone, tint = evidence.tone, evidence.tint
    neutral = tint < limits.tint + limits.tint_in_shadow * np.clip(-tone, 0, 1)
    dark = product & neutral & (tone > _DARKEST) & (tone < _LIGHTEST)
    least = _LEAST * evidence.long_side**2
    if np.count_nonzero(dark) < least:
        return found
    soft = closing.soft[box]
    fine, broad = (plane[box] for plane in closing.slopes)
    places = cv2.morphologyEx((dark & soft).astype(np.uint8), cv2.MORPH_OPEN, np.ones((3, 3), np.uint8)) > 0
    for here, place, around in places_beside(places, ~product, least, np.inf, _BORDER_PX):
        mouth = around & ~product[here]
        if np.count_nonzero(mouth) < _MOUTH * np.count_nonzero(around) or soft[here][mouth].mean() < _SOFT:
            continue
        within = around & ~mouth
        if within.any() and soft[here][within].mean() > _SOFT_WITHIN:
            continue
        left = median(broad[here][mouth])
        if left > _SEEN * evidence.noise and median(fine[here][mouth]) > _ITS_OWN * left:
            found[here] |= place
    return found | _below_colour(dark, product, tint, soft, least)


def _below_colour(dark: Mask, product: Mask, tint: Plane, soft: Mask, least: float) -> Mask:
    """What (h, w) of a dark and neutral part of a product lies below a coloured one and ends softly: contact shadow."""
    found = np.zeros_like(product)
    even = cv2.morphologyEx(dark.astype(np.uint8), cv2.MORPH_OPEN, np.ones((3, 3), np.uint8)) > 0
    for here, place, around in places_beside(even, ~product, least, np.inf, _BORDER_PX):
        mouth = around & ~product[here]
        within = around & ~mouth
        if not within.any() or np.count_nonzero(mouth) < _MOUTH_OF_COLOURED * np.count_nonzero(around):
            continue
        below = np.nonzero(mouth)[0].mean() > np.nonzero(within)[0].mean()
        if below and soft[here][mouth].mean() > _SOFT_OF_COLOURED and median(tint[here][within]) > _COLOURED:
            found[here] |= place
    return found
