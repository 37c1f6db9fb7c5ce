"""Lines at the very rim of a picture that show nothing: black or odd ones that converters and corrections of lenses leave."""

from __future__ import annotations

import numpy as np

from true_backdrop.core.arrays import LinearRGB, Plane
from true_backdrop.core.channels import channel_mean

#: So many lines of a proxy of the whole frame may be dead on each side.
MOST_LINES = 3
#: Added to the light before its logarithm.
_FLOOR = 1e-3
#: A dead line is so far off the lines farther in (median, log units), which are so alike themselves at most.
_OFF, _ALIKE = 0.1, 0.03


def without_dead_rim(frame: LinearRGB, backdrop: LinearRGB, most: int = MOST_LINES) -> tuple[LinearRGB, LinearRGB]:
    """A frame and its backdrop frame (H, W, 3) with dead lines at the rim replaced by the line farther in, in both alike.

    A line is dead where the ratio of the two is, along most of it, another than in the lines beside it: product that goes on to
    the rim is also seen in these, a shadow does not end there. At most `most` lines a side are. The same arrays come back
    where there is none.
    """
    if min(frame.shape[:2]) < 8 * most:
        return frame, backdrop
    dead = [_dead(_lines(frame, side, most), _lines(backdrop, side, most), most) for side in range(4)]
    if not any(dead):
        return frame, backdrop
    top, right, bottom, left = dead
    height, width = frame.shape[:2]
    rows = np.clip(np.arange(height), top, height - 1 - bottom)
    columns = np.clip(np.arange(width), left, width - 1 - right)
    there = np.ix_(rows, columns)
    return np.ascontiguousarray(frame[there]), np.ascontiguousarray(backdrop[there])


def _lines(picture: LinearRGB, side: int, most: int) -> Plane:
    """The outermost lines (n, length) of a side, the outermost first: top, right, bottom, left."""
    lines = 2 * most + 1
    parts = picture[:lines], picture[:, : -lines - 1 : -1], picture[: -lines - 1 : -1], picture[:, :lines]
    found = channel_mean(np.ascontiguousarray(parts[side]))
    return found if side % 2 == 0 else np.asarray(found.T)


def _dead(frame: Plane, backdrop: Plane, most: int) -> int:
    """How many of the outermost lines (n, length) are dead."""
    ratio = np.log((frame + _FLOOR) / (backdrop + _FLOOR))
    farther_in = ratio[most:]
    level = np.median(farther_in, axis=0)
    if np.median(np.abs(farther_in - level)) > _ALIKE:
        return 0
    off = np.median(np.abs(ratio[:most] - level), axis=1) > _OFF
    return int(np.flatnonzero(off)[-1]) + 1 if off.any() else 0
