"""A matte that a retoucher made: opacity as given, product colour from the frame or from the retouched picture."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.arrays import Alpha, LinearRGB, Mask
from true_backdrop.core.picture import Picture, Region


@dataclass(frozen=True, slots=True)
class HandMade:
    """Opacity (H, W) of the whole frame, 65535 for opaque; and retouched pixels of its size, where they came with it."""

    opacity: NDArray[np.uint16]
    retouched: Picture | None = None

    def product(self, shape: tuple[int, int]) -> Mask:
        """What is mostly product, on a proxy (H, W)."""
        return np.asarray(cv2.resize(self.opacity, shape[::-1], interpolation=cv2.INTER_AREA) > 32767)

    def seen(self, window: Region, shape: tuple[int, int]) -> HandMadeView:
        """A window of the frame (frame pixels) as (h, w)."""
        part = np.ascontiguousarray(self.opacity[window.slices])
        shrinks = shape[0] < part.shape[0]
        kind = cv2.INTER_AREA if shrinks else cv2.INTER_LINEAR
        alpha = np.asarray(cv2.resize(part, shape[::-1], interpolation=kind), np.float32) / np.float32(65535)
        if self.retouched is None:
            return HandMadeView(alpha, None)
        light = self.retouched.linear(window)
        # Colour counts as much as there is of it, or what lies under clear pixels would be mixed in.
        weight = part.astype(np.float32) / np.float32(65535)
        total = cv2.resize(light * weight[..., None], shape[::-1], interpolation=kind)
        colour = np.asarray(total, np.float32) / np.maximum(alpha, np.float32(1e-4))[..., None]
        return HandMadeView(alpha, np.asarray(np.clip(colour, 0, 1), np.float32))


@dataclass(frozen=True, slots=True)
class HandMadeView:
    """Alpha (h, w) and, where it was retouched, straight colour (h, w, 3) of a view."""

    alpha: Alpha
    colour: LinearRGB | None
