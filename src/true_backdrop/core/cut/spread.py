"""Continue a plane from where it is known into where it is not."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.arrays import Plane


def spread(values: NDArray[np.float32], weight: Plane) -> NDArray[np.float32]:
    """`values` (H, W[, C]) continued from where `weight` (H, W, 0 to 1) is large into the rest.

    Normalised convolution (Knutsson and Westin 1993) on a pyramid: each level fills what the finer one
    could not see. Smooth everywhere, and equal to a local mean where data are dense.
    """
    broad = weight[..., None] if values.ndim == 3 else weight
    levels = [(values * broad, weight)]
    while min(levels[-1][1].shape) > 4:
        total, part = levels[-1]
        levels.append((np.asarray(cv2.pyrDown(total), np.float32), np.asarray(cv2.pyrDown(part), np.float32)))
    total, part = levels.pop()
    filled = total / _like(np.maximum(part, 1e-6), total)
    while levels:
        total, part = levels.pop()
        coarse = cv2.pyrUp(filled, dstsize=(part.shape[1], part.shape[0]))
        trust = _like(np.minimum(part * 4, 1.0), total)
        filled = trust * total / _like(np.maximum(part, 1e-6), total) + (1 - trust) * coarse
    return np.asarray(filled, dtype=np.float32)


def _like(plane: Plane, other: NDArray[np.float32]) -> NDArray[np.float32]:
    return plane[..., None] if other.ndim == 3 else plane
