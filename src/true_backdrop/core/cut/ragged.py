"""Where the outline of a product is ragged, as that of hair, bristles and fringe is: strands end at different places."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.arrays import Mask, Plane
from true_backdrop.core.channels import halved

#: Sigma of a mean over a place, in parts of the long side.
_PLACE = 0.02
#: An outline is ragged if so much of the mask, for each pixel of it, is not as when smoothed by this sigma (pixels of half the
#: size). Ripples that are not so deep do not count: stripes as light as the backdrop make them.
_RAGGED, _SMOOTH_SIGMA, _RIPPLE_PX = 0.12, 3.0, 2


def over_a_place(plane: NDArray[np.generic], long_side: int) -> Plane:
    """Weighted sums (h / 2, w / 2) around each pixel of a plane (h, w) of half the proxy's size; beyond it there is nothing."""
    sigma = _PLACE * long_side / 4
    small = halved(np.asarray(plane, np.float32))
    return np.asarray(cv2.GaussianBlur(small, (0, 0), sigma, borderType=cv2.BORDER_CONSTANT), np.float32)


def ragged(product: Mask, long_side: int) -> Mask:
    """Where the outline of a mask (h, w) of half the proxy's size is ragged, (h / 2, w / 2)."""
    smooth = cv2.GaussianBlur(product.astype(np.float32), (0, 0), _SMOOTH_SIGMA) > 0.5
    line = smooth & (cv2.erode(smooth.astype(np.uint8), np.ones((3, 3), np.uint8)) == 0)
    off = cv2.morphologyEx((product != smooth).astype(np.uint8), cv2.MORPH_OPEN, np.ones((_RIPPLE_PX, _RIPPLE_PX), np.uint8))
    length = np.maximum(over_a_place(line, long_side), np.float32(1e-3))
    return np.asarray(over_a_place(off, long_side) > _RAGGED * length)
