"""How far an alpha matte is from the truth.

Rhemann, Rother, Wang, Gelautz, Kohli and Rott (2009), "A perceptually motivated online benchmark for
image matting", CVPR: SAD, MSE and the gradient error.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from true_backdrop.core.arrays import Alpha, Plane


@dataclass(frozen=True, slots=True)
class MatteError:
    """`sad` and `gradient` are sums over pixels divided by 1000, as the paper's tables give them."""

    mse: float
    sad: float
    gradient: float


def matte_error(matte: Alpha, truth: Alpha) -> MatteError:
    """Errors of a matte (H, W) against the true one, both 0 to 1, over the whole picture."""
    if matte.shape != truth.shape:
        raise ValueError(f"matte is {matte.shape}, truth is {truth.shape}")
    off = matte.astype(np.float64) - truth
    gradient = (_gradient(matte) - _gradient(truth)) ** 2
    return MatteError(float((off**2).mean()), float(np.abs(off).sum() / 1000), float(gradient.sum() / 1000))


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
