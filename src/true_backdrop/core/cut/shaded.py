"""Shadow between the parts of a product, which edges enclose on all sides but the one where it ends softly."""

from __future__ import annotations

import cv2
import numpy as np

from true_backdrop.core.arrays import Mask
from true_backdrop.core.cut.bare import tint_allowed
from true_backdrop.core.cut.components import components
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.masks import median
from true_backdrop.core.cut.tolerances import Tolerances
from true_backdrop.core.picture import Region

#: Backdrop match that neutral is held against.
_MATCH = 50
#: A shadow is darker than this all in all (log units), so much of it is as neutral as one, and so much of its own line is soft:
#: in two lots of the bench's sets of many kinds all 7 such shadows, and none of 5 parts of a product.
_DARKER, _NEUTRAL, _SOFT = -0.05, 0.95, 0.9
#: Where product is around it but for so much of its border, the contact shadow of a foot beside the mouth takes a larger part of
#: that. Of the places on 583 composites one shadow was so, a sixth of the product: 0.13 of its border, 0.84 of that soft; of two
#: parts of products, as neutral and with mouths as narrow, 0.65 at most.
_NARROW_MOUTH, _SOFT_OF_NARROW = 0.2, 0.78
#: What is beside it, from and to so many pixels away, is so far off the backdrop (log units).
_BESIDE_PX, _BODY = (2, 7), 0.25


def shadow_between(evidence: Evidence, places: Mask, outside: Mask, open_backdrop: Mask, soft: Mask) -> Mask:
    """Of places (H, W) taken out of `outside` because edges enclose them, those that are shadow between parts of a product.

    Their own line, towards the `open_backdrop`, is as `soft` as a shadow's edge; (H, W) each.
    """
    found = np.zeros_like(places)
    limits = Tolerances.of(_MATCH, evidence.noise, evidence.long_side)
    labels, stats = components(places, 8)
    for label in range(1, len(stats)):
        left, top, across, down, _ = (int(value) for value in stats[label])
        here = Region(top, left, top + down, left + across).grown(_BESIDE_PX[1] + 1, *places.shape).slices
        place = labels[here] == label
        tone, tint = evidence.tone[here], evidence.tint[here]
        if median(tone[place]) > _DARKER:
            continue
        if np.mean(tint[place] < tint_allowed(tone[place], limits)) < _NEUTRAL:
            continue
        near, far = (cv2.dilate(place.astype(np.uint8), np.ones((2 * by + 1,) * 2, np.uint8)) > 0 for by in _BESIDE_PX)
        line, body = near & ~place & open_backdrop[here], far & ~near & ~outside[here]
        if not line.any() or not body.any():
            continue
        narrow = np.count_nonzero(line) < _NARROW_MOUTH * np.count_nonzero(near & ~place)
        if soft[here][line].mean() < (_SOFT_OF_NARROW if narrow else _SOFT):
            continue
        if median(np.maximum(np.abs(tone[body]), tint[body])) > _BODY:
            found[here] |= place
    return found
