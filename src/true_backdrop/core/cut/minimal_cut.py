"""The region whose outline costs least, as a minimal cut.

Computed as the minimum of a weighted total variation (Chan, Esedoglu and Nikolova 2006) by the primal-dual method of
Chambolle and Pock (2011), from a small picture to a larger one.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.arrays import Mask, Plane
from true_backdrop.core.compiled import compiled

#: Steps at a quarter, a half and the whole of the size.
_STEPS = (400, 250, 150)


def minimal_cut(cost: Plane, product: Plane, outer: Mask) -> Plane:
    """The region u (h, w), 0 or 1 nearly everywhere, with the least sum of cost |grad u| - product u, and 0 on `outer`.

    `cost` (h, w) is not negative; `product` (h, w) is where backdrop is likelier.
    """
    levels = [(cost, product, outer)]
    for _ in _STEPS[1:]:
        levels.append(smaller(*levels[-1]))
    state = np.full((3, *levels[-1][0].shape), 0, np.float32)
    state[0] = 0.5
    for (line, inside, rim), steps in zip(reversed(levels), _STEPS, strict=True):
        height, width = line.shape
        state = np.ascontiguousarray(state[:, :height, :width])
        state[0][rim] = 0
        _descend(line, inside, rim, state[0], state[1], state[2], steps)
        found: Plane = state[0]
        state = state.repeat(2, axis=1).repeat(2, axis=2)
    return found


def smaller(cost: Plane, product: Plane, outer: Mask) -> tuple[Plane, Plane, Mask]:
    """The same at half the size: a pixel is two long there and has the evidence of four. An edge keeps its least cost."""
    a, b, c, d = _quarters(product)
    least = np.minimum.reduce(_quarters(cost))
    return np.asarray(least, np.float32), np.asarray((a + b + c + d) / 2, np.float32), np.logical_or.reduce(_quarters(outer))


def _quarters(plane: NDArray[Any]) -> list[NDArray[Any]]:
    """The four pixels of each two by two, as planes (h / 2, w / 2); an odd last row or column is repeated."""
    height, width = plane.shape
    even = np.pad(plane, ((0, height % 2), (0, width % 2)), mode="edge") if height % 2 or width % 2 else plane
    return [even[y::2, x::2] for y in (0, 1) for x in (0, 1)]


#: Lengths of step of the primal-dual method; their product times 8 is less than 1.
_STEP = 0.35


@compiled
def _descend(cost: Plane, product: Plane, outer: Mask, u: Plane, across: Plane, down: Plane, steps: int) -> None:
    """So many steps towards the least sum; changes u (h, w) and its dual field."""
    height, width = u.shape
    ahead = u.copy()
    step = np.float32(_STEP)
    for _ in range(steps):
        for y in range(height):
            for x in range(width):
                right = ahead[y, x + 1] - ahead[y, x] if x < width - 1 else np.float32(0)
                below = ahead[y + 1, x] - ahead[y, x] if y < height - 1 else np.float32(0)
                a, b = across[y, x] + step * right, down[y, x] + step * below
                length, most = a * a + b * b, cost[y, x]
                if length > most * most:
                    shorter = most / np.sqrt(length)
                    a, b = a * shorter, b * shorter
                across[y, x], down[y, x] = a, b
        for y in range(height):
            for x in range(width):
                if outer[y, x]:
                    continue
                flow = across[y, x] + down[y, x]
                if x > 0:
                    flow -= across[y, x - 1]
                if y > 0:
                    flow -= down[y - 1, x]
                value = min(max(u[y, x] + step * (flow + product[y, x]), np.float32(0)), np.float32(1))
                ahead[y, x] = 2 * value - u[y, x]
                u[y, x] = value
