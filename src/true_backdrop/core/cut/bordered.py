"""Places chosen by the line along which they end."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.arrays import Mask, Plane
from true_backdrop.core.cut.components import all_of, components, counted
from true_backdrop.core.cut.masks import disc
from true_backdrop.core.picture import Region

#: The line along which the bare backdrop goes on is so long at least (pixels), and at most half of it is so steep (log units a
#: pixel) and so much steeper than what broad smoothing leaves: shadows up to 1.3 times, handles out of focus from 1.5 times on.
_LEAST_LINE_PX, _STEEP, _STEEPER = 8, 0.025, 1.4
#: So near to each other (pixels of a square's side) places share a line.
_LINE = np.ones((5, 5), np.uint8)


def bounded(places: Mask, other: Mask, seen: Mask, wide_px: int, *, large: float = 0, least: float = 0, most: float = 1) -> Mask:
    """Of some places (H, W) those that border on another one (H, W), along a line that is seen for such a part of its length.

    `seen` (H, W) is where an edge is seen; `wide_px` how wide a place is somewhere, in pixels, and `large` its area at least.
    What is as thin as an edge is no place.
    """
    places = cv2.morphologyEx(places.astype(np.uint8), cv2.MORPH_OPEN, disc(1)) > 0
    found = np.zeros_like(places)
    left, top, across, down = cv2.boundingRect(places.astype(np.uint8))
    if across == 0:
        return found
    box = Region(top, left, top + down, left + across).grown(wide_px, *places.shape).slices
    places, other, seen = places[box], other[box], seen[box]
    labels, stats = components(places, 8)
    border = places & (cv2.dilate(other.astype(np.uint8), _LINE) > 0)
    length = counted(labels, border, len(stats))
    plain = counted(labels, border & seen, len(stats)) / np.maximum(length, 1)
    chosen = (length > 0) & (plain >= least) & (plain <= most) & (stats[:, cv2.CC_STAT_AREA] >= large)
    chosen &= counted(labels, cv2.erode(places.astype(np.uint8), disc(wide_px // 2)) > 0, len(stats)) > 0
    found[box] = all_of(labels, chosen)
    return found


def gone_into(places: Mask, bare: Mask, fine: Plane, broad: Plane) -> Mask:
    """Of some places (H, W) those that bare backdrop (H, W) goes on into as light or shadow does, without an edge.

    An edge out of focus is hardly seen as one, but it is steeper than a shadow's. `fine` and `broad` are the slopes (H, W) of the
    tone, in log units a pixel, and what is left of them after broad smoothing.
    """
    labels, stats = components(places, 8)
    count = len(stats)
    line = places & (cv2.dilate(bare.astype(np.uint8), _LINE) > 0)
    steep = part_of(labels, line, (fine > _STEEPER * broad) & (fine > _STEEP), count)
    chosen = (steep < 0.5) & (counted(labels, line, count) >= _LEAST_LINE_PX)
    return all_of(labels, chosen)


def part_of(labels: np.ndarray, of: Mask, there: Mask, count: int) -> NDArray[np.float64]:
    """For each label, how much of some pixels (H, W) are there too (n), 0 to 1."""
    whole, part = (counted(labels, pixels, count) for pixels in (of, of & there))
    return np.asarray(part / np.maximum(whole, 1))
