"""The line where product meets table: the darkest of the contact shadow, and not where the shadow's own slope is steepest."""

from __future__ import annotations

import numpy as np

from true_backdrop.core.arrays import Mask, Plane
from true_backdrop.core.compiled import compiled

#: The outline is looked at where the shadow outside of it is as deep as this (log units).
_IN_SHADOW = -0.2
#: A shadow grows darker by this much (log units a pixel) on its way in to the crease.
_DARKER = 0.15
#: In a shadow the light that is left came off the product and carries so much of its colour, for each unit of depth.
_TINTED = 0.35
#: So many pixels out an edge's own softness has ended.
_CLEAR = 3
#: A contact shadow is at most so wide, in proxy pixels.
_WIDEST = 12


@compiled
def off_the_crease(product: Mask, tone: Plane, tint: Plane, tint_limit: float) -> None:
    """Take contact shadow off the product, in place, from the outline inwards: as long as it gets darker and keeps neutral.

    `product`, `tone` and `tint` are (H, W), as in `Evidence`. On a black product the slope ends with the edge itself.
    """
    height, width = product.shape
    for down, across in ((-1, 0), (0, 1), (0, -1), (1, 0)):
        for y in range(_CLEAR, height - _CLEAR):
            for x in range(_CLEAR, width - _CLEAR):
                # From here, out in the shadow, inwards. Next to an edge the lens makes everything dark.
                out = tone[y - (_CLEAR - 1) * down, x - (_CLEAR - 1) * across]
                if product[y, x] or out > _IN_SHADOW or not product[y + down, x + across]:
                    continue
                py, px = y + down, x + across
                for _ in range(_WIDEST):
                    if py < 1 or px < 1 or py > height - 2 or px > width - 2 or not product[py, px]:
                        break
                    if not _is_slope(product, tone, tint, tint_limit, py, px, down, across):
                        break
                    product[py, px] = False
                    py, px = py + down, px + across


@compiled
def _is_slope(product: Mask, tone: Plane, tint: Plane, tint_limit: float, y: int, x: int, down: int, across: int) -> bool:
    """Whether a pixel is as neutral as shadow, and what lies ahead of it is darker product."""
    depth = min(max(-tone[y, x], np.float32(0)), np.float32(1))
    if tint[y, x] > tint_limit + _TINTED * depth:
        return False
    ahead_y, ahead_x = y + down, x + across
    return bool(product[ahead_y, ahead_x] and tone[ahead_y, ahead_x] < tone[y, x] - _DARKER)
