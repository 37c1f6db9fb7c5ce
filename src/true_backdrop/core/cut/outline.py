"""The decision of the proxy in a form that serves every size: signed distance, band width, shadow."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from true_backdrop.core.arrays import Mask, Plane
from true_backdrop.core.cut.align import Aligned, brightness
from true_backdrop.core.cut.spread import spread
from true_backdrop.core.picture import Region
from true_backdrop.core.treatment import Material

#: Half width of the unknown band along a firm outline, in proxy pixels: the lens, the proxy's own sampling
#: and the watershed's choice of one pixel each add about half a pixel.
FIRM_BAND = 1.6
#: The same where the outline is strands.
STRANDS_BAND = 9.0


@dataclass(frozen=True, slots=True)
class Outline:
    """Planes (H, W) of the proxy.

    signed   distance to the outline in proxy pixels, positive inside the product
    band     half width of the unknown band there, in proxy pixels
    shadow   light that reaches the backdrop, 1 as in the backdrop frame; continued under the product
    """

    product: Mask
    signed: Plane
    band: Plane
    shadow: Plane
    gain: tuple[float, float, float]
    noise: float

    @property
    def shape(self) -> tuple[int, int]:
        return int(self.signed.shape[0]), int(self.signed.shape[1])

    @property
    def box(self) -> Region | None:
        """Everything that is or may be product, in proxy pixels; None when there is none."""
        rows, columns = np.flatnonzero(self.product.any(axis=1)), np.flatnonzero(self.product.any(axis=0))
        if rows.size == 0:
            return None
        margin = int(np.ceil(self.band.max())) + 2
        return Region(int(rows[0]), int(columns[0]), int(rows[-1]) + 1, int(columns[-1]) + 1).grown(margin, *self.shape)


def trace(aligned: Aligned, product: Mask, material: Material) -> Outline:
    """Distances, band and shadow for a mask of the proxy."""
    inside = cv2.distanceTransform(product.astype(np.uint8), cv2.DIST_L2, 5)
    outside = cv2.distanceTransform((~product).astype(np.uint8), cv2.DIST_L2, 5)
    # The outline runs between the last pixel inside and the first outside: half a pixel from each centre.
    signed = np.where(product, inside - 0.5, 0.5 - outside).astype(np.float32)
    band = FIRM_BAND + (STRANDS_BAND - FIRM_BAND) * _strandedness(product, material)
    return Outline(product, signed, band.astype(np.float32), _shadow(aligned, product), aligned.gain, aligned.noise)


def _half(plane: Plane) -> Plane:
    return np.asarray(cv2.resize(plane, (plane.shape[1] // 2, plane.shape[0] // 2), interpolation=cv2.INTER_AREA), np.float32)


def _as_large_as(plane: Plane, shape: tuple[int, ...]) -> Plane:
    return np.asarray(cv2.resize(plane, (shape[1], shape[0]), interpolation=cv2.INTER_LINEAR), np.float32)


def _strandedness(product: Mask, material: Material) -> Plane:
    """0 along a firm outline, 1 where the outline dissolves into strands: how much of it is thin detail."""
    if material == "strands":
        return np.ones(product.shape, np.float32)
    mask = product.astype(np.uint8)
    side = max(5, round(0.006 * max(product.shape))) | 1
    body = cv2.morphologyEx(mask, cv2.MORPH_OPEN, cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (side, side)))
    detail = _half((mask - body).astype(np.float32))
    rough = _half(cv2.morphologyEx(mask, cv2.MORPH_GRADIENT, np.ones((3, 3), np.uint8)).astype(np.float32))
    sigma = 0.012 * max(detail.shape)
    near = cv2.GaussianBlur(rough, (0, 0), sigma)
    # A straight outline gives a gradient one pixel wide at this size, so its length within the Gaussian is
    # 1 after this scaling; strands give many times that.
    length = near * sigma * np.sqrt(2 * np.pi)
    parts = cv2.GaussianBlur(detail, (0, 0), sigma) / np.maximum(near, 1e-4)
    crowded = np.clip((length - 2.2) / 1.6, 0, 1) * np.clip(parts * 4, 0, 1)
    return _as_large_as(crowded.astype(np.float32), product.shape)


def _shadow(aligned: Aligned, product: Mask) -> Plane:
    """Light that reaches the backdrop: measured where it is free, smoothed, and continued where it is not."""
    free = cv2.erode((~product).astype(np.uint8), np.ones((5, 5), np.uint8), borderValue=1).astype(np.float32)
    tone = _half(brightness(aligned.log_ratio) * free)
    share = _half(free)
    near = cv2.GaussianBlur(share, (0, 0), 1.2)
    mean = cv2.GaussianBlur(tone, (0, 0), 1.2) / np.maximum(near, 1e-4)
    seen = share * np.clip(near * 4, 0, 1)
    continued = spread(mean.astype(np.float32), share)
    return _as_large_as(np.exp(mean * seen + continued * (1 - seen)).astype(np.float32), product.shape)
