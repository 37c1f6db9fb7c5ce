"""What of a mask hangs together: its parts, each with its box and its area."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.arrays import Mask
from true_backdrop.core.compiled import compiled

#: So many pixels are looked at together, and what they are where none or all are in the mask.
_WORD, _NONE, _ALL = 8, np.uint64(0), np.uint64(0x0101010101010101)


def components(mask: np.ndarray, connectivity: Literal[4, 8]) -> tuple[NDArray[np.int32], NDArray[np.int32]]:
    """Labels (H, W) from 1 on, in the order of their first pixels, 0 beside the mask, and (n, 5) for each its left, top, width,
    height and area.

    The mask (H, W) is bool, or uint8 of 0 and 1. The columns are those of OpenCV's `CC_STAT_*`; of what is beside the mask all
    are 0. Runs of pixels along the rows are joined to those above (Rosenfeld and Pfaltz 1966, from memory). Most of a mask is
    empty or full, and is passed over eight pixels at a time; OpenCV's own takes three times as long on it.
    """
    height, width = mask.shape
    pixels = np.zeros((height, -(-width // _WORD) * _WORD), np.uint8)
    pixels[:, :width] = mask
    runs = _runs(pixels, pixels.view(np.uint64))
    labels = np.zeros((height, width), np.int32)
    return labels, _joined(runs, connectivity == 8, labels)


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


def all_of(labels: NDArray[np.int32], chosen: NDArray[np.bool_]) -> Mask:
    """What of labels (H, W) is one of those that are chosen (n,), as a mask (H, W); what has none never is."""
    found = np.empty(labels.shape, np.bool_)
    _look_up(labels, np.asarray(chosen, np.bool_), found)
    return found


def counted(labels: NDArray[np.int32], there: Mask, count: int) -> NDArray[np.int64]:
    """How many pixels of each label (H, W) below `count` are `there` (H, W), as (count,); what has none is counted as 0."""
    counts = np.zeros(count, np.int64)
    _count(labels, there, counts)
    return counts


def hanging_together(mask: np.ndarray, with_some: Mask, connectivity: Literal[4, 8]) -> Mask:
    """What of a mask (H, W) hangs together with some of its pixels, a mask (H, W) that may hold others as well."""
    labels, stats = components(mask, connectivity)
    return all_of(labels, counted(labels, with_some, len(stats)) > 0)


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
def _look_up(labels: NDArray[np.int32], chosen: NDArray[np.bool_], found: Mask) -> None:
    for y in range(labels.shape[0]):
        for x in range(labels.shape[1]):
            label = labels[y, x]
            found[y, x] = label != 0 and chosen[label]


@compiled
def _count(labels: NDArray[np.int32], there: Mask, counts: NDArray[np.int64]) -> None:
    for y in range(labels.shape[0]):
        for x in range(labels.shape[1]):
            if there[y, x]:
                counts[labels[y, x]] += 1


@compiled
def _runs(pixels: NDArray[np.uint8], words: NDArray[np.uint64]) -> NDArray[np.int32]:
    """Row, first column and column after the last (n, 3) of every run of pixels (H, W) that are 1, from top left on.

    `words` (H, W / 8) are the same bytes, eight at a time.
    """
    height, width = pixels.shape
    runs = np.empty((height * (width // 2), 3), np.int32)
    n = 0
    for y in range(height):
        first = -1
        for i in range(words.shape[1]):
            word, x = words[y, i], i * _WORD
            if (first < 0 and word == _NONE) or (first >= 0 and word == _ALL):
                continue
            for j in range(x, x + _WORD):
                if pixels[y, j] != 0:
                    if first < 0:
                        first = j
                elif first >= 0:
                    runs[n, 0], runs[n, 1], runs[n, 2] = y, first, j
                    n, first = n + 1, -1
        if first >= 0:
            runs[n, 0], runs[n, 1], runs[n, 2] = y, first, width
            n += 1
    return runs[:n]


@compiled
def _root(parents: NDArray[np.int32], at: int) -> int:
    """The first run that hangs together with a run; on the way there each is hung on its grandparent."""
    while parents[at] != at:
        parents[at] = parents[parents[at]]
        at = parents[at]
    return at


@compiled
def _joined(runs: NDArray[np.int32], diagonally: bool, labels: NDArray[np.int32]) -> NDArray[np.int32]:
    """The statistics (n, 5) of what runs hang together in; labels (H, W), 0 so far, are written where they are."""
    reach = 1 if diagonally else 0
    parents = np.arange(len(runs)).astype(np.int32)
    above, after = 0, 0  # the first run of the row above that may still touch, and that after its last
    row, begins = -1, 0
    for i in range(len(runs)):
        y, first, last = runs[i, 0], runs[i, 1], runs[i, 2]
        if y != row:
            above, after = (begins, i) if y == row + 1 else (i, i)
            row, begins = y, i
        while above < after and runs[above, 2] + reach <= first:
            above += 1
        j = above
        while j < after and runs[j, 1] < last + reach:
            one, other = _root(parents, i), _root(parents, j)
            if one < other:
                parents[other] = one
            else:
                parents[one] = other
            j += 1
    count = 1
    names = np.zeros(len(runs), np.int32)
    for i in range(len(runs)):
        if parents[i] == i:
            names[i] = count
            count += 1
    stats = np.zeros((count, 5), np.int32)
    for i in range(len(runs)):
        label = names[_root(parents, i)]
        y, first, last = runs[i, 0], runs[i, 1], runs[i, 2]
        labels[y, first:last] = label
        part = stats[label]
        if part[4] == 0:
            part[0], part[1], part[2] = first, y, last
        part[0], part[2], part[3] = min(part[0], first), max(part[2], last), y + 1
        part[4] += last - first
    for label in range(1, count):
        stats[label, 2] -= stats[label, 0]
        stats[label, 3] -= stats[label, 1]
    return stats
