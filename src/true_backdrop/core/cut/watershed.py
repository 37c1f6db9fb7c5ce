"""Where between backdrop and product the outline lies: on the strongest step."""

from __future__ import annotations

import cv2
import numpy as np

from true_backdrop.core.arrays import Mask
from true_backdrop.core.cut.evidence import Evidence


def watershed(evidence: Evidence, outside: Mask, inside: Mask) -> Mask:
    """The product (h, w) that grows from what is inside for sure, up to the strongest step towards what is outside for sure."""
    markers = np.zeros(outside.shape, np.int32)
    markers[outside] = 1
    markers[inside] = 2
    if not inside.any():
        return np.zeros(outside.shape, bool)
    cv2.watershed(evidence.relief, markers)
    lines = markers == -1
    # OpenCV marks the picture's own rim as line too.
    lines[[0, -1]] = False
    lines[:, [0, -1]] = False
    # A line pixel lies on the outline itself; the band of unknown opacity covers it either way.
    product: Mask = (markers == 2) | (lines & ~outside)
    product[0], product[-1] = product[1], product[-2]
    product[:, 0], product[:, -1] = product[:, 1], product[:, -2]
    return product
