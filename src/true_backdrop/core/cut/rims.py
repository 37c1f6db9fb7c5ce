"""Pale rims: a strip along the product that is a little brighter than the backdrop, beside a far stronger edge within.

The strongest step is that inner edge, so the outline was drawn there. Light that the product throws on the table is as bright,
but shows the backdrop's grain.
"""

from __future__ import annotations

import cv2
import numpy as np

from true_backdrop.core.arrays import Mask
from true_backdrop.core.cut.bare import grained
from true_backdrop.core.cut.evidence import Evidence

#: So much brighter than the backdrop (log units, and in its noise) a rim is, as a mean of three by three pixels.
_BRIGHTER, _IN_NOISE = 0.01, 2.5
#: It is so near to the product (pixels), and so large at least.
_REACH_PX, _LEAST_PX = 20, 60


def pale_rims(evidence: Evidence, product: Mask) -> Mask:
    """Rims (H, W) of a product that were left outside; none where the backdrop has no grain to tell them by."""
    found = np.zeros_like(product)
    if evidence.grain is None:
        return found
    tone = cv2.blur(evidence.tone, (3, 3))
    bright = tone > max(_BRIGHTER, _IN_NOISE * evidence.noise)
    bright &= cv2.dilate(product.astype(np.uint8), np.ones((3, 3), np.uint8)) == 0
    if np.count_nonzero(bright) < _LEAST_PX:
        return found
    bright &= cv2.dilate(product.astype(np.uint8), np.ones((2 * _REACH_PX + 1,) * 2, np.uint8)) > 0
    broad = cv2.morphologyEx(bright.astype(np.uint8), cv2.MORPH_OPEN, np.ones((3, 3), np.uint8)) > 0
    rims = cv2.dilate(grained(evidence, broad, False).astype(np.uint8), np.ones((5, 5), np.uint8)) > 0
    return np.asarray(rims & (tone > _BRIGHTER / 2))
