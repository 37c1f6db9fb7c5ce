"""What of a mask hangs together, with the box and the area of each part."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.compiled import compiled


def connected(mask: np.ndarray, connectivity: int) -> tuple[int, NDArray[np.int32], NDArray[np.int32]]:
    """How many parts a mask (H, W) has, the ground included; each pixel's label (H, W); left, top, width, height, area (n, 5).

    As OpenCV's `connectedComponentsWithStats`, whose statistics cost more than the labels: a decision asks ten times. The
    ground's row is 0.
    """
    count, found = cv2.connectedComponents(np.asarray(mask, np.uint8), connectivity=connectivity)
    labels = np.asarray(found, np.int32)
    boxes = np.zeros((count, 5), np.int32)
    if count > 1:
        boxes[1:, :2] = np.iinfo(np.int32).max
        _measure(labels, boxes)
        boxes[1:, 2:4] -= boxes[1:, :2] - 1
    return count, labels, boxes


@compiled
def _measure(labels: NDArray[np.int32], boxes: NDArray[np.int32]) -> None:
    """Into (n, 5): first column, first row, last column, last row, pixels."""
    height, width = labels.shape
    for y in range(height):
        for x in range(width):
            label = labels[y, x]
            if label:
                boxes[label, 0] = min(boxes[label, 0], x)
                boxes[label, 1] = min(boxes[label, 1], y)
                boxes[label, 2] = max(boxes[label, 2], x)
                boxes[label, 3] = y
                boxes[label, 4] += 1
