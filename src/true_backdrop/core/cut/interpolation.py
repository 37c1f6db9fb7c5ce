"""Pictures of other sizes between their pixel centres, bilinear, for loops over the pixels of a tile."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.arrays import LinearRGB, Plane
from true_backdrop.core.compiled import compiled

#: Linear light of one pixel: red, green, blue. As values: a view of an array costs a compiled loop more than what it computes.
Colour = tuple[float, float, float]
#: Where pixel (y, x) of a tile lies in another plane: at (down * y + top, across * x + left), pixel centres whole.
Place = NDArray[np.float64]
#: For each pixel of a tile, along one axis: the two pixels of a plane that it lies between, and the second one's weight.
Corners = tuple[NDArray[np.uint32], NDArray[np.uint32], NDArray[np.float32]]


@compiled
def _corners(step: float, begin: float, count: int, length: int) -> Corners:
    """Outside of the plane (of some length) its rim goes on."""
    first, second, weight = np.empty(count, np.uint32), np.empty(count, np.uint32), np.empty(count, np.float32)
    for i in range(count):
        at = min(max(step * i + begin, 0.0), length - 1.0)
        first[i] = int(at)
        second[i] = min(int(at) + 1, length - 1)
        weight[i] = at - int(at)
    return first, second, weight


@compiled
def grid(at: Place, tile: tuple[int, ...], plane: tuple[int, ...]) -> tuple[Corners, Corners]:
    """Rows and columns for every pixel of a tile (its shape) in a plane (its shape)."""
    return _corners(at[0], at[1], tile[0], plane[0]), _corners(at[2], at[3], tile[1], plane[1])


@compiled
def between(plane: Plane, rows: Corners, y: int, columns: Corners, x: int) -> float:
    """A plane (H, W) between pixel centres, bilinear."""
    top, bottom, down = rows[0][y], rows[1][y], rows[2][y]
    left, right, across = columns[0][x], columns[1][x], columns[2][x]
    above = plane[top, left] + across * (plane[top, right] - plane[top, left])
    below = plane[bottom, left] + across * (plane[bottom, right] - plane[bottom, left])
    return above + down * (below - above)  # type: ignore[no-any-return]


@compiled
def colour_between(picture: LinearRGB, rows: Corners, y: int, columns: Corners, x: int) -> Colour:
    """A picture (H, W, 3) between pixel centres, bilinear."""
    top, bottom, down = rows[0][y], rows[1][y], rows[2][y]
    left, right, across = columns[0][x], columns[1][x], columns[2][x]
    return (
        _mixed(picture, 0, top, bottom, left, right, down, across),
        _mixed(picture, 1, top, bottom, left, right, down, across),
        _mixed(picture, 2, top, bottom, left, right, down, across),
    )


@compiled
def _mixed(
    picture: LinearRGB, c: int, top: np.uint32, bottom: np.uint32, left: np.uint32, right: np.uint32, down: float, across: float
) -> float:
    above = picture[top, left, c] + across * (picture[top, right, c] - picture[top, left, c])
    below = picture[bottom, left, c] + across * (picture[bottom, right, c] - picture[bottom, left, c])
    return above + down * (below - above)  # type: ignore[no-any-return]
