"""The product at every backdrop match at once: for each pixel the strictest match at which it still counts as backdrop."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import astuple, dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.arrays import Mask, Plane
from true_backdrop.core.compiled import compiled
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.hole_criteria import OWN_GRAIN, UNLIKE
from true_backdrop.core.cut.holes import PASSAGE
from true_backdrop.core.cut.propose import VISIBLE_PART
from true_backdrop.core.cut.tolerances import Tolerances
from true_backdrop.core.picture import Region

#: Values of backdrop match of the chart of a set.
CHARTED = tuple(range(2, 99, 3))
#: Long side of a plane of levels.
LONG_SIDE = 256
#: A plane's value for what is backdrop at every match; `match + 1` for what is backdrop up to a match; 0 for never.
ALWAYS = 255
_STRICTEST = 100
#: How unlike the backdrop a hole may be.
_UNLIKE = UNLIKE["auto"]

Levels = NDArray[np.uint8]


def levels(evidence: Evidence, product: Mask, match: int, busy: Region, anchors: Mapping[int, Mask]) -> Levels:
    """A small plane (h, w): the product at any match m is where the plane is at most m.

    Parameters
    ----------
    evidence
        Of a whole proxy (H, W).
    product, match
        The decision (H, W), and the match that it was made at: there the plane says the same.
    busy
        The part of the proxy outside which all is bare backdrop at any match.
    anchors
        Full decisions (H, W) at some values, `match` among them, before anything was done by hand.

    Notes
    -----
    At a match, backdrop is what can be reached from the rim over pixels that look like it, through passages of some
    width (region.py). The strictest match at which a pixel is reached is the largest over all ways of the smallest level
    on the way: a reconstruction by dilation (Vincent 1993), done once for all values. Enclosed holes count by
    themselves. That orders the pixels; between which of the anchors each changes sides, those say.
    """
    # Every other pixel of every other row is plenty for a plane of a quarter of the size.
    half = tuple(slice(each.start, each.stop, 2) for each in busy.slices)
    steps = [astuple(Tolerances.of(m, evidence.noise, evidence.long_side)) for m in range(_STRICTEST + 1)]
    planes = evidence.tone, evidence.tint, evidence.step, evidence.thin, _own_grain(evidence, product, busy)
    tone, tint, step, thin, grain = (np.ascontiguousarray(plane[half]) for plane in planes)
    there, hole_there = np.empty(tone.shape, np.uint8), np.empty(tone.shape, np.uint8)
    _critical(tone, tint, step, thin, grain, np.array(steps, np.float32), there, hole_there)
    shape = evidence.shape
    critical, as_hole = (np.full(shape, _STRICTEST + 1, np.uint8) for _ in range(2))
    for plane, part in ((critical, there), (as_hole, hole_there)):
        plane[busy.slices] = cv2.resize(part, (busy.width, busy.height), interpolation=cv2.INTER_NEAREST)
    scale = LONG_SIDE / max(evidence.shape)
    size = (max(1, round(evidence.shape[1] * scale)), max(1, round(evidence.shape[0] * scale)))
    small = np.asarray(cv2.resize(critical, size, interpolation=cv2.INTER_AREA), np.uint8)
    inside = cv2.resize(product.astype(np.uint8) * 255, size, interpolation=cv2.INTER_AREA) > 127
    radius = max(1, round(2 * PASSAGE * LONG_SIDE))
    disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * radius + 1, 2 * radius + 1))
    reached = np.zeros_like(small)
    _reach(np.asarray(cv2.erode(small, disc), np.uint8), reached)
    found = np.minimum(cv2.dilate(reached, disc), small)
    hole = ~inside & (found <= match)
    found = np.where(hole, small, found).astype(np.uint8)
    # What is enclosed and looks like the backdrop is taken for a hole, also where it is pale product.
    taken = cv2.medianBlur(np.asarray(cv2.resize(as_hole, size, interpolation=cv2.INTER_AREA), np.uint8), 5)
    found = np.where(inside, np.maximum(found, taken), found).astype(np.uint8)
    low, high = _brackets(inside, match, _with_hands(product, match, anchors), size)
    return np.where(~inside & (found <= match) & (high == ALWAYS), ALWAYS, np.clip(found, low, high)).astype(np.uint8)


def _with_hands(product: Mask, match: int, anchors: Mapping[int, Mask]) -> dict[int, Mask]:
    """The anchors with what was added and taken away at `match`: by hand, or to continue its outline."""
    added, removed = product & ~anchors[match], anchors[match] & ~product
    return {value: (mask | added) & ~removed for value, mask in anchors.items() if value != match}


def _brackets(inside: Mask, match: int, anchors: Mapping[int, Mask], size: tuple[int, int]) -> tuple[Levels, Levels]:
    """The lowest and the highest level (h, w) that the anchors leave each pixel; the nearest to `match` counts first."""
    low, high = np.where(inside, 0, match + 1).astype(np.uint8), np.where(inside, match, ALWAYS).astype(np.uint8)
    for value in sorted(anchors, key=lambda each: abs(each - match)):
        there = cv2.resize(anchors[value].astype(np.uint8) * 255, size, interpolation=cv2.INTER_AREA) > 127
        open_still = (inside if value < match else ~inside) & (low <= value) & (value < high)
        high[open_still & there] = value
        low[open_still & ~there] = value + 1
    return low, high


def _own_grain(evidence: Evidence, product: Mask, busy: Region) -> Plane:
    """How much more fine structure a place has than bare backdrop, in the measure of `_UNLIKE`, (H, W)."""
    bare = evidence.thin[~product][::7]
    usual = max(1e-4, float(np.median(bare)) if bare.size else 0.0)
    grain = np.zeros(evidence.shape, np.float32)
    near = np.ascontiguousarray(evidence.thin[busy.slices])
    grain[busy.slices] = np.maximum(cv2.blur(near, (9, 9)) / usual - 1, 0) / OWN_GRAIN
    return grain


@compiled
def _critical(
    tone: Plane, tint: Plane, step: Plane, thin: Plane, grain: Plane, limits: NDArray[np.float32], out: Levels, as_hole: Levels
) -> None:
    """1 + the strictest match at which a pixel looks like backdrop, and like a hole where it is enclosed; 0 for none.

    `limits` are 101 rows of `Tolerances`; by bisection.
    """
    for y in range(tone.shape[0]):
        for x in range(tone.shape[1]):
            depth = min(max(-tone[y, x], np.float32(0)), np.float32(1))
            low, high = -1, limits.shape[0] - 1
            while low < high:
                middle = (low + high + 1) // 2
                limit = limits[middle]
                alike = (
                    tint[y, x] < limit[0] + limit[1] * depth
                    and tone[y, x] > limit[5]
                    and tone[y, x] < limit[4]
                    and thin[y, x] < limit[6]
                    and step[y, x] < limit[2] + limit[3] * depth
                )
                if alike:
                    low = middle
                else:
                    high = middle - 1
            out[y, x] = low + 1
            low, high = -1, limits.shape[0] - 1
            while low < high:
                middle = (low + high + 1) // 2
                limit = limits[middle]
                unlike = abs(tone[y, x]) / limit[7] + tint[y, x] / (np.float32(0.6) * limit[0]) + grain[y, x]
                if unlike < np.float32(_UNLIKE):
                    low = middle
                else:
                    high = middle - 1
            as_hole[y, x] = low + 1


@compiled
def _reach(passable: Levels, reached: Levels) -> None:
    """The best smallest level on a way from the rim, into `reached` (h, w), by flooding from the highest level down."""
    height, width = passable.shape
    stack = np.empty(height * width, np.int32)
    for level in range(101, 0, -1):
        count = 0
        for y in range(height):
            for x in range(width):
                if reached[y, x] or passable[y, x] < level:
                    continue
                begins = y in (0, height - 1) or x in (0, width - 1)
                if not begins:
                    begins = bool(reached[y - 1, x] or reached[y + 1, x] or reached[y, x - 1] or reached[y, x + 1])
                if begins:
                    reached[y, x] = level
                    stack[count] = y * width + x
                    count += 1
        while count:
            count -= 1
            at = stack[count]
            y, x = at // width, at % width
            for k in range(4):
                ny, nx = y + (k == 0) - (k == 1), x + (k == 2) - (k == 3)
                if 0 <= ny < height and 0 <= nx < width and not reached[ny, nx] and passable[ny, nx] >= level:
                    reached[ny, nx] = level
                    stack[count] = ny * width + nx
                    count += 1


def product_at(plane: Levels, match: int) -> Mask:
    """The product (h, w) at a backdrop match."""
    return np.asarray(plane <= match)


@dataclass(frozen=True, slots=True)
class Risk:
    """Of one shot at some values of backdrop match: leftover backdrop and lost product, as parts of the product's area."""

    leftover: tuple[float, ...]
    lost: tuple[float, ...]


def risk(plane: Levels, match: int, values: Sequence[int] = CHARTED) -> Risk:
    """Against the product at `match`. One histogram serves all values."""
    below = np.cumsum(np.bincount(plane.ravel(), minlength=256))
    area = max(1, int(below[match]))
    leftover = tuple(max(0, int(below[v] - below[match])) / area for v in values)
    lost = tuple(max(0, int(below[match] - below[v])) / area for v in values)
    return Risk(leftover, lost)


@dataclass(frozen=True, slots=True)
class Column:
    """At one backdrop match the shots (by any number of theirs) that would keep leftovers or lose product."""

    match: int
    leftover: tuple[int, ...]
    lost: tuple[int, ...]


def chart(risks: Iterable[tuple[int, Risk]], values: Sequence[int] = CHARTED) -> tuple[list[Column], int]:
    """The columns of a set, and the middle of its valley: the longest stretch of values at which the fewest shots suffer."""
    found = list(risks)
    columns = [
        Column(
            value,
            tuple(number for number, each in found if each.leftover[i] > VISIBLE_PART),
            tuple(number for number, each in found if each.lost[i] > VISIBLE_PART),
        )
        for i, value in enumerate(values)
    ]
    suffering = [len(column.leftover) + len(column.lost) for column in columns]
    fewest = min(suffering, default=0)
    best: list[int] = []
    stretch: list[int] = []
    for value, count in zip(values, suffering, strict=True):
        stretch = [*stretch, value] if count == fewest else []
        if len(stretch) > len(best):
            best = stretch
    return columns, best[len(best) // 2] if best else 50
