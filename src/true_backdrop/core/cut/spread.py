"""Continue a plane from where it is known into where it is not."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.arrays import Plane
from true_backdrop.core.compiled import compiled


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
        filled = np.empty(total.shape, np.float32)
        _fill(part, *(np.asarray(plane, np.float32).reshape(*part.shape, -1) for plane in (total, coarse, filled)))
    return np.asarray(filled, dtype=np.float32)


@compiled
def _fill(part: Plane, total: NDArray[np.float32], coarse: NDArray[np.float32], filled: NDArray[np.float32]) -> None:
    """The mean of what is seen, (h, w, c), and the coarser level the more the less of it there is."""
    for y in range(part.shape[0]):
        for x in range(part.shape[1]):
            trust, known = min(part[y, x] * np.float32(4), np.float32(1)), max(part[y, x], np.float32(1e-6))
            for c in range(total.shape[2]):
                filled[y, x, c] = trust * total[y, x, c] / known + (np.float32(1) - trust) * coarse[y, x, c]


def _like(plane: Plane, other: NDArray[np.float32]) -> NDArray[np.float32]:
    return plane[..., None] if other.ndim == 3 else plane
