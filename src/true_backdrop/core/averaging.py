"""Area averages of a part of a picture in linear light, at any reduction."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.arrays import LinearRGB
from true_backdrop.core.compiled import compiled


@compiled
def area_mean(
    pixels: NDArray[np.uint8] | NDArray[np.uint16],
    light: NDArray[np.float32],
    top: float,
    left: float,
    down: float,
    across: float,
    out: LinearRGB,
) -> None:
    """Means over rectangles of pixels, partly covered ones in proportion, into `out` (h, w, 3), 0 to 1.

    Parameters
    ----------
    pixels
        (H, W, 3).
    light
        Linear light of each pixel value, (256,) or (65536,); one number when values are linear: light of value 1.
    top, left, down, across
        The rectangle of out[y, x] begins at row top + y * down, column left + x * across, and is `down` high and
        `across` wide, both at least 1. All of them lie inside the picture.
    """
    width = out.shape[1]
    first = int(left)
    columns = min(pixels.shape[1], int(np.ceil(left + width * across))) - first
    row, total = np.empty(3 * columns, np.float32), np.empty(3 * columns, np.float32)
    starts, stops, before, after = _spans(left - first, across, width, columns)
    decoded = -1
    for y in range(out.shape[0]):
        begin, end = top + y * down, top + (y + 1) * down
        total[:] = 0
        for source in range(int(begin), min(pixels.shape[0], int(np.ceil(end)))):
            if source != decoded:
                _decode(pixels, source, first, light, row)
                decoded = source
            share = np.float32((min(end, source + 1.0) - max(begin, source + 0.0)) / (down * across))
            for i in range(total.size):
                total[i] += share * row[i]
        for x in range(width):
            i, stop = 3 * starts[x], 3 * stops[x]
            part = np.float32(1) - before[x]
            red, green, blue = part * total[i], part * total[i + 1], part * total[i + 2]
            for at in range(i + 3, stop, 3):
                red += total[at]
                green += total[at + 1]
                blue += total[at + 2]
            out[y, x, 0] = red - after[x] * total[stop - 3]
            out[y, x, 1] = green - after[x] * total[stop - 2]
            out[y, x, 2] = blue - after[x] * total[stop - 1]


@compiled
def _spans(
    begin: float, step: float, count: int, length: int
) -> tuple[NDArray[np.int64], NDArray[np.int64], NDArray[np.float32], NDArray[np.float32]]:
    """For each of `count` stretches: its first pixel, the one after its last, and what these two reach beyond it."""
    starts, stops = np.empty(count, np.int64), np.empty(count, np.int64)
    before, after = np.empty(count, np.float32), np.empty(count, np.float32)
    for i in range(count):
        start = begin + i * step
        stop = min(start + step, length + 0.0)
        starts[i], stops[i] = int(start), int(np.ceil(stop))
        before[i], after[i] = start - starts[i], stops[i] - stop
    return starts, stops, before, after


@compiled
def _decode(
    pixels: NDArray[np.uint8] | NDArray[np.uint16], source: int, first: int, light: NDArray[np.float32], row: NDArray[np.float32]
) -> None:
    i = 0
    if light.size == 1:
        factor = light[0]
        for x in range(first, first + row.size // 3):
            for c in range(3):
                row[i] = np.float32(pixels[source, x, c]) * factor
                i += 1
    else:
        for x in range(first, first + row.size // 3):
            for c in range(3):
                row[i] = light[pixels[source, x, c]]
                i += 1
