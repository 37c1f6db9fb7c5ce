"""Passes over whole pictures that OpenCV makes many times faster than NumPy."""

from __future__ import annotations

from typing import Any, TypeVar

import cv2
import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.arrays import Plane

N = TypeVar("N", np.float32, np.uint8)

_THIRDS = np.full((1, 3), 1 / 3, np.float32)


def channel_mean(pixels: NDArray[np.float32]) -> Plane:
    """Mean over the channels of (H, W, 3)."""
    return np.asarray(cv2.transform(pixels, _THIRDS), dtype=np.float32).reshape(pixels.shape[:2])


def channel_min(pixels: NDArray[N]) -> NDArray[N]:
    """Smallest channel of (H, W, 3), same dtype."""
    red, green, blue = cv2.split(pixels)
    return np.asarray(cv2.min(cv2.min(red, green), blue))


def channel_max(pixels: NDArray[N]) -> NDArray[N]:
    """Largest channel of (H, W, 3), same dtype."""
    red, green, blue = cv2.split(pixels)
    return np.asarray(cv2.max(cv2.max(red, green), blue))


def squared_length(vectors: NDArray[np.float32]) -> Plane:
    """Sum of the squared channels of (H, W, 3)."""
    return np.asarray(cv2.transform(cv2.multiply(vectors, vectors), np.ones((1, 3), np.float32)), np.float32).reshape(
        vectors.shape[:2]
    )


def halved(plane: NDArray[np.float32]) -> NDArray[np.float32]:
    """Means of 2 x 2 pixels of (H, W) or (H, W, 3). An odd last row or column is left out: OpenCV is ten times slower with it."""
    height, width = plane.shape[0] // 2, plane.shape[1] // 2
    even = plane[: 2 * max(1, height), : 2 * max(1, width)]
    return np.asarray(cv2.resize(even, (max(1, width), max(1, height)), interpolation=cv2.INTER_AREA), np.float32)


def doubled(plane: NDArray[np.float32], shape: tuple[int, int]) -> NDArray[np.float32]:
    """What `halved` made of (H, W[, 3]), at its full size again: linear between pixels; an odd last row is repeated."""
    height, width = plane.shape[:2]
    large = cv2.resize(plane, (2 * width, 2 * height), interpolation=cv2.INTER_LINEAR)
    down, right = shape[0] - 2 * height, shape[1] - 2 * width
    if down > 0 or right > 0:
        large = cv2.copyMakeBorder(large, 0, max(0, down), 0, max(0, right), cv2.BORDER_REPLICATE)
    return np.asarray(large[: shape[0], : shape[1]], np.float32)


def rounded(values: NDArray[np.float32], factor: float, depth: int) -> NDArray[Any]:
    """`values` times `factor`, rounded and kept to the range of an OpenCV depth (cv2.CV_8U or cv2.CV_16U)."""
    return np.asarray(cv2.multiply(values, (factor, factor, factor, factor), dtype=depth))  # type: ignore[call-overload]
