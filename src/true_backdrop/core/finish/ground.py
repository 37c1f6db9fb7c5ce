"""The product's own soft shadow over white."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.arrays import Mask, Plane

#: Darkening below this is backdrop that is not quite even, not a shadow, and goes to white.
NOT_A_SHADOW = 0.02
FULL_SHADOW = 0.07
#: Nearer to the square's edge than this part of its side there is no shadow.
CLEAR_RIM = 0.03
#: How much distance from the product counts against distance from that rim, when the shadow fades between the two.
_FADES_EARLY = 0.5
#: A shadow is the softer the farther it falls: from and to these distances from the product it goes over to one that is
#: smoothed by this sigma, all in parts of the proxy's long side. What is finer out there is noise.
_SOFTER = ((0.004, 0.03, 0.006), (0.03, 0.12, 0.02))


@dataclass(frozen=True, slots=True)
class Square:
    """Where the finished square lies over the proxy: its corner and side in proxy pixels. It may reach beyond it."""

    top: float
    left: float
    side: float


def own_shadow(shade: Plane, strength: float, product: Mask, painted: Plane | None = None) -> Plane:
    """Light on the new white ground (H, W), exactly 1 where there is no shadow.

    Parameters
    ----------
    shade
        Light that reached the backdrop, 1 as in the backdrop frame; also over 1 where product adds light.
    strength
        0 leaves white, 1 keeps the shadow as shot.
    product
        Where the product is, (H, W).
    painted
        (H, W) 1 where somebody painted the shadow back, as it was shot, -1 where away.
    """
    if strength == 0:
        return np.ones_like(shade)
    depth = np.asarray(np.maximum(1 - shade, 0), np.float32)
    away, long_side = _away_from(product), max(shade.shape)
    for begins, ends, sigma in _SOFTER:
        soft = _blurred(depth, sigma * long_side)
        depth += _smooth(np.asarray((away / long_side - begins) / (ends - begins), np.float32)) * (soft - depth)
    kept = depth * _smooth((depth - NOT_A_SHADOW) / (FULL_SHADOW - NOT_A_SHADOW))
    if painted is not None:
        as_shot = np.asarray(np.maximum(1 - shade, 0), np.float32)
        kept = kept + np.maximum(painted, 0) * (as_shot - kept)
        kept = kept * (1 - np.maximum(-painted, 0))
    return np.asarray(1 - strength * kept, dtype=np.float32)


def faded(ground: Plane, product: Mask, square: Square, painted: Plane | None = None) -> Plane:
    """`ground` (H, W) of the proxy, white towards the rim of a square that will be cut out of it.

    The shadow grows fainter all the way from the product to the rim, so that it ends nowhere in a line: with r the distance
    to the clear rim and d that to the product its strength is a smooth step of r / (r + d / 2). Where somebody `painted` it
    back (H, W), 1, it does not.
    """
    rows, columns = (np.arange(length, dtype=np.float32) + 0.5 for length in ground.shape)
    from_rim = np.minimum.outer(
        np.minimum(rows - square.top, square.top + square.side - rows),
        np.minimum(columns - square.left, square.left + square.side - columns),
    )
    room = np.maximum(from_rim - CLEAR_RIM * square.side, 0)
    share = _smooth(room / np.maximum(room + _FADES_EARLY * _away_from(product), 1e-6))
    if painted is not None:
        share = np.maximum(share, np.maximum(painted, 0))
    return np.asarray(1 - (1 - ground) * share, dtype=np.float32)


def _blurred(plane: Plane, sigma: float) -> Plane:
    """A broad Gaussian; nothing as fine as a quarter of its sigma is left in it, so a quarter of the size will do."""
    height, width = plane.shape
    by = 4 if sigma >= 4 and min(height, width) >= 64 else 1
    small = cv2.resize(plane, (width // by, height // by), interpolation=cv2.INTER_AREA)
    soft = cv2.GaussianBlur(small, (0, 0), sigma / by)
    return np.asarray(cv2.resize(soft, (width, height), interpolation=cv2.INTER_LINEAR), np.float32)


def _away_from(product: Mask) -> Plane:
    """Distance to the nearest pixel of the product, (H, W) in pixels; far where there is none."""
    return np.asarray(cv2.distanceTransform((~product).astype(np.uint8), cv2.DIST_L2, 5), np.float32)


def _smooth(t: NDArray[np.float32]) -> NDArray[np.float32]:
    t = np.clip(t, 0, 1)
    return np.asarray(t * t * (3 - 2 * t), np.float32)
