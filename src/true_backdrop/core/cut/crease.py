"""The line where product meets table: the darkest of the contact shadow, and not where the shadow's own slope is steepest."""

from __future__ import annotations

import cv2
import numpy as np

from true_backdrop.core.arrays import Mask, Plane
from true_backdrop.core.compiled import compiled

#: The outline is looked at where the shadow outside of it is as deep as this (log units).
_IN_SHADOW = -0.2
#: A shadow grows darker by this much (log units a pixel) on its way in to the crease.
_DARKER = 0.15
#: In a shadow the light that is left came off the product and carries so much of its colour, for each unit of depth.
TINTED = 0.35
#: So many pixels out an edge's own softness has ended.
_CLEAR = 3
#: A contact shadow is at most so wide, in proxy pixels.
_WIDEST = 16
#: Below a product it may end more abruptly. It still goes from bare to deep (log units) over more pixels than any edge, then gets
#: darker for so many, and above its darkest the product is lighter within so many, by so much.
_BARE, _DEEP, _SOFT = -0.05, -0.3, 4
#: How far away bare backdrop is looked for.
_REACH = 24
_LONG, _BEHIND, _LIGHTER = 4, 12, 0.3
#: It gets darker up to the product. A dark rim is level (log units, or parts of the backdrop's light, over so many pixels)
#: somewhere behind its edge (log units a pixel).
_LEVEL, _LEVEL_LIGHT, _LEVEL_PX, _EDGE = 0.05, 0.015, 4, 0.1
#: So many of the lines next to each other say so, as far up and down as this (pixels).
_MOST_LINES, _RISE = 0.5, 3
#: In a smaller picture (long side in pixels) such a shadow is as narrow as an edge.
_TELLING = 640
#: So many lines left standing side by side are no product.
_LINES = 6
#: From so far away something may have a say in whether a pixel is contact shadow.
REACH_PX = _REACH + _WIDEST + _BEHIND


def off_the_crease(product: Mask, tone: Plane, tint: Plane, tint_limit: float, long_side: int) -> None:
    """Take contact shadow off the product, in place, from the outline inwards: as long as it gets darker and keeps neutral.

    `product`, `tone` and `tint` are (H, W), as in `Evidence`, of a picture of a long side. On a black product the slope ends with
    the edge itself.
    """
    before, telling = product.copy(), long_side >= _TELLING
    rims = _dark_rims(product, tone, tint, tint_limit) if telling else np.zeros_like(product)
    _walk_in(product, tone, tint, tint_limit, rims, -1, 0, telling)
    taken = before & ~product
    if taken.any():
        # It went line by line; where a few lines were left standing in between they are shadow as well.
        standing = product & ~_wider(product) & (tint < tint_limit + TINTED * np.clip(-tone, 0, 1))
        standing &= cv2.dilate(taken.astype(np.uint8), np.ones((1, 2 * _LINES + 1), np.uint8)) > 0
        product[standing] = False
    for down, across in ((0, 1), (0, -1), (1, 0)):
        _walk_in(product, tone, tint, tint_limit, rims, down, across, False)


def _wider(product: Mask) -> Mask:
    """What of a product (H, W) is wider than lines that are left standing."""
    return cv2.morphologyEx(product.astype(np.uint8), cv2.MORPH_OPEN, np.ones((1, _LINES + 1), np.uint8)) > 0


def _dark_rims(product: Mask, tone: Plane, tint: Plane, tint_limit: float) -> Mask:
    """Where (H, W), seen from below, what might be contact shadow is a dark rim of the product: along most lines there."""
    slopes, rims = np.zeros(product.shape, np.float32), np.zeros(product.shape, np.float32)
    _find_rims(product, tone, tint, tint_limit, slopes, rims)
    if not rims.any():
        return np.zeros_like(product)
    around = 2 * _LINES + 1, 2 * _RISE + 1
    return np.asarray(cv2.blur(rims, around) > _MOST_LINES * cv2.blur(slopes, around))


@compiled
def _find_rims(product: Mask, tone: Plane, tint: Plane, tint_limit: float, slopes: Plane, rims: Plane) -> None:
    """Mark where (H, W) such a slope begins, and where it is a dark rim's."""
    for y in range(_CLEAR, product.shape[0] - _CLEAR):
        for x in range(_CLEAR, product.shape[1] - _CLEAR):
            if not product[y, x] and product[y - 1, x]:
                length = _slope(product, tone, tint, tint_limit, y, x, -1, 0, 0.0)
                if length >= _LONG:
                    slopes[y, x] = 1
                    rims[y, x] = _is_level(tone, y, x, length)


@compiled
def _walk_in(
    product: Mask, tone: Plane, tint: Plane, tint_limit: float, rims: Mask, down: int, across: int, abrupt: bool
) -> None:
    """The same in one of four directions; `abrupt`: shadows that end within some pixels too, which is told upwards only."""
    height, width = product.shape
    for y in range(_CLEAR, height - _CLEAR):
        for x in range(_CLEAR, width - _CLEAR):
            if product[y, x] or not product[y + down, x + across]:
                continue
            # From here, out in the shadow, inwards. Next to an edge the lens makes everything dark.
            out = tone[y - (_CLEAR - 1) * down, x - (_CLEAR - 1) * across]
            length = 0
            if out <= _IN_SHADOW:
                length = _slope(product, tone, tint, tint_limit, y, x, down, across, _DARKER)
            if abrupt and not rims[y, x] and _begins_softly(tone, y, x):
                longer = _slope(product, tone, tint, tint_limit, y, x, down, across, 0.0)
                if longer >= _LONG and _is_lighter_behind(product, tone, y - longer, x):
                    length = max(length, longer + 1)  # the darkest pixel is table as well
            for i in range(1, length + 1):
                product[y + i * down, x + i * across] = False


@compiled
def _slope(
    product: Mask, tone: Plane, tint: Plane, tint_limit: float, y: int, x: int, down: int, across: int, darker: float
) -> int:
    """How many pixels of product get darker, each by so much, and stay as neutral as shadow, from an outline inwards."""
    height, width = tone.shape
    for length in range(_WIDEST):
        py, px = y + (length + 1) * down, x + (length + 1) * across
        if py < 1 or px < 1 or py > height - 2 or px > width - 2 or not product[py, px]:
            return length
        depth = min(max(-tone[py, px], np.float32(0)), np.float32(1))
        if tint[py, px] > tint_limit + TINTED * depth:
            return length
        if not product[py + down, px + across] or tone[py + down, px + across] >= tone[py, px] - darker:
            return length
    return _WIDEST


@compiled
def _begins_softly(tone: Plane, y: int, x: int) -> bool:
    """Whether below a pixel the tone goes from bare backdrop to shadow over more pixels than at any edge."""
    bare = y
    while bare < tone.shape[0] - 1 and tone[bare, x] <= _BARE:
        bare += 1
    deep = bare
    while deep > 0 and tone[deep, x] > _DEEP and bare - deep < _REACH:
        deep -= 1
    long = bare - deep
    if long < _SOFT:
        return False
    # Straight down an inclined edge is soft as well: what counts is how far it is across it.
    left = right = x
    while x - left < _REACH and left > 0 and tone[deep, left] <= _BARE:
        left -= 1
    while right - x < _REACH and right < tone.shape[1] - 1 and tone[deep, right] <= _BARE:
        right += 1
    wide = min(x - left, right - x)
    return wide >= _REACH or long * long * wide * wide >= _SOFT * _SOFT * (long * long + wide * wide)


@compiled
def _is_level(tone: Plane, y: int, x: int, length: int) -> bool:
    """Whether such a slope falls off as an edge does and is level somewhere behind that: that is a dark rim of the product."""
    end, edge = y - length, y + _CLEAR - 1
    while edge >= end and tone[edge + 1, x] - tone[edge, x] <= _EDGE:
        edge -= 1
    for first in range(max(end - _LEVEL_PX + 1, 0), edge - _LEVEL_PX + 2):
        lowest = highest = tone[first, x]
        for py in range(first + 1, first + _LEVEL_PX):
            lowest, highest = min(lowest, tone[py, x]), max(highest, tone[py, x])
        if highest - lowest < _LEVEL or np.exp(highest) - np.exp(lowest) < _LEVEL_LIGHT:
            return True
    return False


@compiled
def _is_lighter_behind(product: Mask, tone: Plane, y: int, x: int) -> bool:
    """Whether above the darkest pixel of a slope the product soon gets lighter again."""
    darkest = tone[y, x]
    for above in range(y - 1, max(y - _BEHIND, 0) - 1, -1):
        if not product[above, x]:
            return False
        darkest = min(darkest, tone[above, x])
        if tone[above, x] > darkest + _LIGHTER:
            return True
    return False
