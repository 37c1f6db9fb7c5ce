"""Whether the backdrop is sharper in one of two pictures of it, told from its own structure."""

from __future__ import annotations

import cv2
import numpy as np

from true_backdrop.core.arrays import Mask, Plane
from true_backdrop.core.channels import channel_mean
from true_backdrop.core.cut.align import FLOOR, Aligned

#: Sigmas (pixels) of the band of detail that is compared: fine enough to be lost by a lens out of focus.
_BAND = (0.7, 2.0)
#: Only where the take is as bright as the backdrop frame to this (log units) is the noise of both the same.
_AS_BRIGHT = 0.05
#: Detail that both show must be this part of all detail there; the rest is noise.
_COMMON = 0.1
#: Pixels that are needed, and how far from the product they lie at least.
_NEEDED, _MARGIN = 4000, 9


def sharpness_against(aligned: Aligned, product: Mask) -> float | None:
    """How much stronger (log units) the backdrop's fine detail is in the take than in the backdrop frame; None if unseen.

    With the same true detail d in both, taken with strengths a and b, and noise of equal variance n, the variances of the
    band are a²d + n and b²d + n and the covariance is abd. So (var - var') / cov = a/b - b/a, free of noise.
    """
    rows = _barest(product)
    take, empty = (_detail(channel_mean(np.ascontiguousarray(picture[rows]))) for picture in (aligned.frame, aligned.backdrop))
    tone = cv2.blur(channel_mean(np.ascontiguousarray(aligned.log_ratio[rows])), (7, 7))
    near = cv2.dilate(product[rows].astype(np.uint8), np.ones((2 * _MARGIN + 1, 2 * _MARGIN + 1), np.uint8)) > 0
    bare = (np.abs(tone) < _AS_BRIGHT) & ~near
    bare[:_MARGIN] = bare[-_MARGIN:] = False
    bare[:, :_MARGIN] = bare[:, -_MARGIN:] = False
    if np.count_nonzero(bare) < _NEEDED:
        return None
    one, other = take[bare], empty[bare]
    common = float(np.mean(one * other) - one.mean() * other.mean())
    if common < _COMMON * float(np.sqrt(one.var() * other.var())):
        return None
    return float(np.arcsinh((float(one.var()) - float(other.var())) / common / 2))


def _barest(product: Mask) -> slice:
    """The third of the rows with the least product in it; a third of a picture is plenty for a variance."""
    height = product.shape[0]
    part = max(3 * _MARGIN, height // 3)
    begins = sorted({0, max(0, (height - part) // 2), max(0, height - part)})
    best = min(begins, key=lambda top: int(np.count_nonzero(product[top : top + part])))
    return slice(best, best + part)


def _detail(level: Plane) -> Plane:
    log = np.asarray(cv2.log(cv2.add(level, FLOOR)), np.float32)  # type: ignore[call-overload]
    fine, coarse = _BAND
    return np.asarray(cv2.GaussianBlur(log, (0, 0), fine) - cv2.GaussianBlur(log, (0, 0), coarse), np.float32)
