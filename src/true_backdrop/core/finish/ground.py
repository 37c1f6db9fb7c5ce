"""The product's own soft shadow over white."""

from __future__ import annotations

import cv2
import numpy as np

from true_backdrop.core.arrays import Plane

#: Darkening below this is backdrop that is not quite even, not a shadow, and goes to white.
NOT_A_SHADOW = 0.02
FULL_SHADOW = 0.07
#: The shadow has faded to white at this part of the side from the square's edge.
CLEAR_RIM = 0.03
FADED_BY = 0.10


def own_shadow(shade: Plane, strength: float) -> Plane:
    """Light on the new white ground (H, W), exactly 1 where there is no shadow.

    Parameters
    ----------
    shade
        Light that reached the backdrop, 1 as in the backdrop frame; also over 1 where product adds light.
    strength
        0 leaves white, 1 keeps the shadow as shot.
    """
    if strength == 0:
        return np.ones_like(shade)
    depth = np.maximum(1 - shade, 0)
    kept = depth * _smooth((depth - NOT_A_SHADOW) / (FULL_SHADOW - NOT_A_SHADOW))
    return np.asarray(1 - strength * kept, dtype=np.float32)


def fade_to_rim(ground: Plane) -> Plane:
    """White towards the edges of the whole square (side, side), so that its border is exact white."""
    height, width = ground.shape
    y = np.minimum(np.arange(height), np.arange(height)[::-1]) / height
    x = np.minimum(np.arange(width), np.arange(width)[::-1]) / width
    span = FADED_BY - CLEAR_RIM
    weight = np.outer(_smooth((y - CLEAR_RIM) / span), _smooth((x - CLEAR_RIM) / span)).astype(np.float32)
    return np.asarray(1 - (1 - ground) * weight, dtype=np.float32)


def _smooth(t: np.ndarray) -> np.ndarray:
    t = np.clip(t, 0, 1)
    return np.asarray(t * t * (3 - 2 * t))


def soften(shade: Plane, sigma_px: float) -> Plane:
    """A slight blur against the grain of the frame."""
    return np.asarray(cv2.GaussianBlur(shade, (0, 0), max(0.6, sigma_px)), dtype=np.float32)
