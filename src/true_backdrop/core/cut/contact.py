"""Contact shadow that was taken for product: a dark strip whose edge outwards is softer than its edge towards the product.

One lens draws all edges at one place equally sharp, so a dark part of the product is as sharp outwards as inwards. A shadow's
edge is as soft as the lamp is wide. How sharp an edge is, is its steepest slope against how far it rises over some pixels.
"""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.arrays import Mask, Plane
from true_backdrop.core.compiled import compiled
from true_backdrop.core.cut.components import all_of, components, counted
from true_backdrop.core.cut.crease import TINTED

#: A strip is at most so wide, and its edge outwards is looked for so far away, in proxy pixels.
_WIDEST, _REACH = 16, 12
#: It is so much darker than what is outside, and than the product within (in parts of the backdrop's light, where an edge rises
#: and falls evenly), by so many times the noise, and not as dark as black.
_DARKER, _LIGHTER, _IN_NOISE, _BLACK = 0.12, 0.2, 8.0, 0.25
#: So much of its depth is seen outside of the outline, a pixel away: along an edge in focus hardly anything is.
_OUTSIDE = 0.2
#: It gets lighter in one edge: before that by no more than such a part of its slope.
_ANOTHER = 0.12
#: How far an edge rises is looked at over so many pixels to either side of where it is steepest.
_ASIDE = 2
#: The edge inwards is so many times as sharp, as a mean of the lines next to each other, as far to either side and up and down as
#: this (pixels); one line says so much at most.
_SHARPER, _BESIDE, _RISE, _MOST = 1.3, 6, 3, 2.5


def off_the_contact(product: Mask, tone: Plane, tint: Plane, tint_limit: float, noise: float) -> None:
    """Take such strips off the product, in place, seen from below.

    `product`, `tone` and `tint` are (H, W), as in `Evidence`, `tint_limit` is the most tint of backdrop in full light, and
    `noise` the standard deviation of the tone.
    """
    strips, softer = np.zeros(product.shape, np.float32), np.zeros(product.shape, np.float32)
    _find(product, tone, tint, tint_limit, noise, strips, softer)
    if not softer.any():
        return
    there, size = strips > 0, (2 * _BESIDE + 1, 2 * _RISE + 1)
    chosen = there & (cv2.blur(softer, size) > _SHARPER * cv2.blur(there.astype(np.float32), size))
    if chosen.any():
        before = product.copy()
        _take(product, strips, chosen)
        product &= ~_ends(product, before & ~product, tone, tint, tint_limit)


def _ends(product: Mask, taken: Mask, tone: Plane, tint: Plane, tint_limit: float) -> Mask:
    """What (H, W) goes on from a strip that was taken, where it is seen aslant: as dark, as neutral, and smaller."""
    dark = product & (tone < -_DARKER / 2) & (tint < tint_limit + TINTED * np.clip(-tone, 0, 1))
    labels, stats = components(dark, 4)
    beside = counted(labels, cv2.dilate(taken.astype(np.uint8), np.ones((3, 3), np.uint8)) > 0, len(stats))
    strips, of_strips = components(taken | dark, 8)
    size = counted(strips, taken, len(of_strips))
    chosen = np.zeros(len(stats), bool)
    for label in np.flatnonzero(beside[1:]) + 1:
        left, top, across, down, area = stats[label]
        here = slice(top, top + down), slice(left, left + across)
        chosen[label] = area < size[strips[here][labels[here] == label][0]]
    return all_of(labels, chosen)


#: So many pixels of product are looked at, from the outline upwards.
_INSIDE = _WIDEST + 2 * _ASIDE + 4


@compiled
def _find(product: Mask, tone: Plane, tint: Plane, tint_limit: float, noise: float, strips: Plane, softer: Plane) -> None:
    """Where (H, W) an outline has a dark strip above it: how many pixels wide, and how many times softer its edge is outwards."""
    height, width = product.shape
    levels, neutral = np.empty(_REACH + 1 + _INSIDE, np.float32), np.empty(_REACH + 1 + _INSIDE, np.bool_)
    for y in range(_INSIDE, height - 2 * _ASIDE - 2):
        for x in range(width):
            if product[y, x] or not product[y - 1, x]:
                continue
            # From below upwards: what is outside, and behind it the product.
            first = min(_REACH, height - 1 - y) + 1
            for i in range(first + _INSIDE):
                at = y + first - 1 - i
                levels[i] = np.exp(tone[at, x])
                depth = min(max(-tone[at, x], np.float32(0)), np.float32(1))
                neutral[i] = (product[at, x] or i < first) and tint[at, x] <= tint_limit + TINTED * depth
            strips[y, x], softer[y, x] = _strip(levels, neutral, first, noise)


@compiled
def _strip(levels: NDArray[np.float32], neutral: NDArray[np.bool_], first: int, noise: float) -> tuple[float, float]:
    """Along a line inwards: how many pixels of product, from the first on, are a dark and neutral strip, and how many times
    softer its edge is outwards; 0 where there is none."""
    darkest, inner = _dark(levels, neutral, first)
    if inner == 0:
        return 0.0, 0.0
    edge, rise = inner, np.float32(0)
    for i in range(darkest, inner + 3):
        if levels[i + 1] - levels[i] > rise:
            edge, rise = i, levels[i + 1] - levels[i]
    for i in range(darkest, edge - _ASIDE - 1):
        if levels[i + 1] - levels[i] > _ANOTHER * rise:
            return 0.0, 0.0  # product that is no darker than the shadow before it
    outer, fall, lightest = darkest, np.float32(0), levels[darkest]
    for i in range(_ASIDE, darkest):
        lightest = max(lightest, levels[i])
        if levels[i] - levels[i + 1] > fall:
            outer, fall = i, levels[i] - levels[i + 1]
    top = levels[edge + 1 + _ASIDE]
    rises = top - levels[max(edge - _ASIDE, darkest)]
    # Outwards on the lighter side only: on the other one the strip may be too narrow.
    falls = fall + 2 * (levels[outer - _ASIDE] - levels[outer])
    least = _IN_NOISE * noise
    if lightest - levels[darkest] < max(_DARKER, least) or rises < max(_LIGHTER, least) or falls <= 0:
        return 0.0, 0.0
    half = (levels[darkest] + top) / 2
    wide = 0
    while first + wide <= edge + _ASIDE and levels[first + wide] < half:
        wide += 1
    return float(wide), float(min(rise * falls / (fall * rises), _MOST))


@compiled
def _dark(levels: NDArray[np.float32], neutral: NDArray[np.bool_], first: int) -> tuple[int, int]:
    """Where along such a line a strip is darkest, and where it ends; 0 where there is none that could be shadow."""
    darkest = first - 1
    for i in range(first - 4, first):
        if levels[i] < levels[darkest]:
            darkest = i
    for i in range(first, first + _WIDEST):
        # Along the edge the lens mixes the product's colour in.
        if levels[i] > levels[darkest] + _LIGHTER or not neutral[i]:
            shadow = levels[darkest] > _BLACK and 1 - levels[first - 2] > _OUTSIDE * (1 - levels[darkest])
            return darkest, i if shadow else 0
        if levels[i] < levels[darkest]:
            darkest = i
    return darkest, 0


@compiled
def _take(product: Mask, strips: Plane, chosen: Mask) -> None:
    """Take strips as wide as that (pixels) off a product (H, W), from the chosen pixels below it upwards."""
    for y in range(product.shape[0]):
        for x in range(product.shape[1]):
            if chosen[y, x]:
                for k in range(1, int(strips[y, x]) + 1):
                    product[y - k, x] = False
