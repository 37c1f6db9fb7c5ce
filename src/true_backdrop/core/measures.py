"""How far an alpha matte is from the truth.

Rhemann, Rother, Wang, Gelautz, Kohli and Rott (2009), "A perceptually motivated online benchmark for
image matting", CVPR: SAD, MSE, the gradient and the connectivity error.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from true_backdrop.core.arrays import Alpha, Plane


@dataclass(frozen=True, slots=True)
class MatteError:
    """`sad`, `gradient` and `connectivity` are sums over pixels divided by 1000, as the paper's tables give them."""

    mse: float
    sad: float
    gradient: float
    connectivity: float


def matte_error(matte: Alpha, truth: Alpha) -> MatteError:
    """Errors of a matte (H, W) against the true one, both 0 to 1, over the whole picture."""
    if matte.shape != truth.shape:
        raise ValueError(f"matte is {matte.shape}, truth is {truth.shape}")
    off = matte.astype(np.float64) - truth
    gradient = (_gradient(matte) - _gradient(truth)) ** 2
    return MatteError(
        float((off**2).mean()),
        float(np.abs(off).sum() / 1000),
        float(gradient.sum() / 1000),
        float(np.abs(_connectedness(matte, truth) - _connectedness(truth, matte)).sum() / 1000),
    )


#: Steps of opacity, and what less of a gap does not count (section 4 there).
_STEP, _NO_GAP = 0.1, 0.15


def _connectedness(alpha: Alpha, other: Alpha) -> Plane:
    """How connected each pixel is to the largest region that both mattes have in full: 1 - (gap, if it is a gap).

    At each level the region is the largest 4-connected one in which both are at least that opaque; a pixel is connected
    up to the highest level at which it belongs to it, and the gap is what its opacity is above that.
    """
    reached = np.zeros(alpha.shape, np.float64)
    both = np.minimum(alpha, other)
    for level in np.arange(_STEP, 1 + _STEP / 2, _STEP):
        _, labels, stats, _ = cv2.connectedComponentsWithStats((both >= level - 1e-9).astype(np.uint8), connectivity=4)
        if len(stats) < 2:
            break
        reached[labels == 1 + int(np.argmax(stats[1:, cv2.CC_STAT_AREA]))] = level
    gap = np.maximum(alpha - reached, 0)
    return np.asarray(1 - gap * (gap >= _NO_GAP), np.float32)


def _gradient(alpha: Alpha, sigma: float = 1.4) -> Plane:
    """Length of the gradient by first-order Gaussian derivative filters of variance 1.4 (section 4 there)."""
    reach = int(np.ceil(sigma * np.sqrt(-2 * np.log(np.sqrt(2 * np.pi) * sigma * 0.01))))
    t = np.arange(-reach, reach + 1, dtype=np.float64)
    bell = np.exp(-(t**2) / (2 * sigma**2)) / (sigma * np.sqrt(2 * np.pi))
    slope = -t * bell / sigma**2
    kernel = np.outer(bell, slope)
    kernel /= np.sqrt((kernel**2).sum())
    a = alpha.astype(np.float64)
    across = cv2.filter2D(a, cv2.CV_64F, kernel, borderType=cv2.BORDER_REPLICATE)
    down = cv2.filter2D(a, cv2.CV_64F, kernel.T, borderType=cv2.BORDER_REPLICATE)
    return np.asarray(np.hypot(across, down), dtype=np.float32)
