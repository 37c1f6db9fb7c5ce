"""What of a mask hangs together: its parts, each with its box and its area."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.arrays import Mask
from true_backdrop.core.compiled import compiled


def components(mask: np.ndarray, connectivity: Literal[4, 8]) -> tuple[NDArray[np.int32], NDArray[np.int32]]:
    """Labels (H, W) from 1 on, 0 beside the mask, and (n, 5) for each its left, top, width, height and area.

    The mask (H, W) is bool, or uint8 of 0 and 1. The columns are those of OpenCV's `CC_STAT_*`. Of what is beside the mask all of
    them are 0: OpenCV's own statistics go over the whole of that too, and take longer than the labels where most is empty.
    """
    pixels = mask.view(np.uint8) if mask.dtype == np.bool_ else mask
    left, top, width, height = cv2.boundingRect(pixels)
    labels = np.zeros(mask.shape, np.int32)
    if width == 0:
        return labels, np.zeros((1, 5), np.int32)
    here = slice(top, top + height), slice(left, left + width)
    count, labels[here] = cv2.connectedComponents(pixels[here], connectivity=connectivity)
    stats = np.zeros((count, 5), np.int32)
    _measure(labels[here], left, top, stats)
    return labels, stats


def places_of(mask: np.ndarray, connectivity: Literal[4, 8], least: int = 1) -> Iterator[tuple[tuple[slice, slice], Mask]]:
    """What of a mask (H, W) hangs together over so many pixels at least: box, and in it (h, w) the place."""
    labels, stats = components(mask, connectivity)
    wanted = np.flatnonzero(stats[:, cv2.CC_STAT_AREA] >= least)
    for _, here, place in each(labels, stats, wanted[wanted > 0]):
        yield here, place


def each(
    labels: NDArray[np.integer], stats: NDArray[np.integer], wanted: NDArray[np.integer]
) -> Iterator[tuple[int, tuple[slice, slice], Mask]]:
    """Of components those labels (n,) that are wanted: label, box, and in it (h, w) the place."""
    for label in wanted:
        left, top, width, height, _ = (int(value) for value in stats[label])
        here = slice(top, top + height), slice(left, left + width)
        yield int(label), here, labels[here] == label


def within(outer: tuple[slice, slice], box: tuple[slice, slice]) -> tuple[slice, slice]:
    """Where a box of what lies in an outer one is on the whole."""
    (rows, columns), (down, across) = outer, box
    return (
        slice(int(rows.start + down.start), int(rows.start + down.stop)),
        slice(int(columns.start + across.start), int(columns.start + across.stop)),
    )


def beside(labels: NDArray[np.int32], there: Mask) -> NDArray[np.float64]:
    """Of the pixels next to each label (H, W) that no place holds, the part (n,) that is `there` (H, W)."""
    counts = np.zeros((int(labels.max()) + 1, 2), np.int64)
    _count_beside(labels, there, counts)
    return np.asarray(counts[:, 1] / np.maximum(counts[:, 0], 1), np.float64)


@compiled
def _count_beside(labels: NDArray[np.int32], there: Mask, counts: NDArray[np.int64]) -> None:
    """For each label how many pixels of none are next to it (eight ways), and how many of these are `there`, into (n, 2)."""
    height, width = labels.shape
    found = np.zeros(8, np.int32)
    for y in range(height):
        for x in range(width):
            if labels[y, x] != 0:
                continue
            seen = 0
            for i in range(max(y - 1, 0), min(y + 2, height)):
                for j in range(max(x - 1, 0), min(x + 2, width)):
                    label = labels[i, j]
                    known = label == 0
                    for k in range(seen):
                        known = known or found[k] == label
                    if not known:
                        found[seen] = label
                        seen += 1
            for k in range(seen):
                counts[found[k], 0] += 1
                if there[y, x]:
                    counts[found[k], 1] += 1


@compiled
def _measure(labels: NDArray[np.int32], left: int, top: int, stats: NDArray[np.int32]) -> None:
    """The statistics (n, 5) of labels (h, w) that begin at `left` and `top`; rows come from top to bottom."""
    for y in range(labels.shape[0]):
        for x in range(labels.shape[1]):
            label = labels[y, x]
            if label == 0:
                continue
            row = stats[label]
            if row[4] == 0:
                row[0], row[1], row[2] = x, y, x
            row[0], row[2], row[3] = min(row[0], x), max(row[2], x), y
            row[4] += 1
    for label in range(1, stats.shape[0]):
        row = stats[label]
        row[2], row[3] = row[2] - row[0] + 1, row[3] - row[1] + 1
        row[0], row[1] = row[0] + left, row[1] + top
