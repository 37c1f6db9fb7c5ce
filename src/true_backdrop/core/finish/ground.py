"""The product's own soft shadow over white."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

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


def rim_weight(side_px: int) -> NDArray[np.float32]:
    """Along one side of the square: 0 in the border that has to be exact white, 1 inside, smooth between."""
    place = np.arange(side_px)
    from_edge = np.minimum(place, place[::-1]) / side_px
    return np.asarray(_smooth((from_edge - CLEAR_RIM) / (FADED_BY - CLEAR_RIM)), dtype=np.float32)


def faded(ground: Plane, down: NDArray[np.float32], across: NDArray[np.float32]) -> Plane:
    """White towards the edges of the square: `ground` (h, w) with the rim weights of its rows and columns."""
    return np.asarray(1 - (1 - ground) * np.outer(down, across), dtype=np.float32)


def _smooth(t: np.ndarray) -> np.ndarray:
    t = np.clip(t, 0, 1)
    return np.asarray(t * t * (3 - 2 * t))
