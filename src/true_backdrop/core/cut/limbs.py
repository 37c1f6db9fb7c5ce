"""Limbs of a product that end blunt, where no end is seen: handles, straps and legs that were cut off."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.arrays import Mask, Plane
from true_backdrop.core.compiled import compiled

#: An outline is looked at from so many pixels on, for ends so wide at least (pixels) and at most (parts of the long side).
_LEAST_OUTLINE, _NARROWEST_PX, _WIDEST = 60, 4.0, 0.05
#: Round an end the way is so long at most, in multiples of its width and in pixels.
_ROUND, _ROUND_PX = 1.5, 2.0
#: The sides are looked at over so many times the width, and so many pixels at least; they run alike (cosine), at right angles to
#: the end (sine), and are as far apart at their beginning within such factors.
_BACK, _BACK_PX, _ALIKE, _SQUARE, _TAPERS = 1.2, 8.0, 0.6, 0.6, (0.6, 1.6)
#: Of the outline over so many pixels so much at least is straight on.
_ONWARDS = 0.57
#: An end is unseen where its edge (in multiples of its noise) is weaker than this, and than such a part of that along its sides.
_UNSEEN, _WEAKER = 4.5, 0.75
#: A limb is so long at least (pixels, and in multiples of its width: a dot is not), and looked at over so much at most; its width
#: is steady within such a part of it, from so much of the width on.
_LEAST_LONG_PX, _LEAST_LONG, _LONG, _MOST_LONG_PX, _STEADY, _FROM = 8, 0.9, 2.0, 16, 0.3, 0.6
#: So many ends of one outline are looked at.
_MOST_ENDS = 40

Points = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Limb:
    """Points (n, 2) in the middle of a limb, from its end backwards, x and y in pixels, and how wide it is."""

    middle: Points
    width: float


def limbs(product: Mask, long_side: int, edges: Plane) -> list[Limb]:
    """The limbs of a product (H, W) that end unseen while their sides are seen; `edges` (h, w) as in `continued`."""
    outlines, _ = cv2.findContours(product.astype(np.uint8), cv2.RETR_CCOMP, cv2.CHAIN_APPROX_NONE)
    strength: Plane | None = None
    found = []
    for outline in outlines:
        if len(outline) < _LEAST_OUTLINE:
            continue
        points = np.ascontiguousarray(outline[:, 0], np.int64)
        for start, way in blunt_ends(points, _WIDEST * long_side):
            if strength is None:
                strength = np.asarray(cv2.dilate(edges, np.ones((3, 3), np.uint8)), np.float32)
            limb = _limb(points, start, way) if _unseen(points, start, way, strength) else None
            if limb is not None:
                found.append(limb)
    return found


def blunt_ends(points: NDArray[np.int64], widest: float) -> list[tuple[int, int]]:
    """Where on an outline (n, 2) limbs end that are no wider than so many pixels: first point, and how many on to the last."""
    found = np.empty((len(points), 3), np.float64)
    margin = int(_ROUND * widest + _ROUND_PX) + int(max(_BACK_PX, _BACK * widest)) + 1
    # A remainder for each point would take longer than all the rest.
    wrapped = np.pad(points.astype(np.float64), ((margin, margin), (0, 0)), mode="wrap")
    count = _ends(wrapped, margin, widest, found)
    ends: list[tuple[int, int]] = []
    for start, way, _ in found[:count][np.argsort(found[:count, 2])]:
        apart = (abs(int(start) - one) for one, _ in ends)
        longest = max((int(way), *(steps for _, steps in ends)))
        if all(min(by, len(points) - by) > longest + _NARROWEST_PX for by in apart):
            ends.append((int(start), int(way)))
        if len(ends) == _MOST_ENDS:
            break
    return ends


@compiled
def _ends(points: Points, margin: int, widest: float, found: Points) -> int:
    """For each point of a closed outline the bluntest end that begins there, into (n, 3): first point, steps to the last, and how
    far from blunt it is; and how many have one. The points (n + 2 margins, 2) go on over their beginning and end."""
    count, some = points.shape[0] - 2 * margin, 0
    for i in range(count):
        best = np.inf
        for steps in range(int(_NARROWEST_PX), int(_ROUND * widest + _ROUND_PX) + 1):
            first, last = i + margin, i + margin + steps
            across, down = points[last, 0] - points[first, 0], points[last, 1] - points[first, 1]
            width = np.sqrt(across * across + down * down)
            if width < _NARROWEST_PX or width > widest or steps > _ROUND * width + _ROUND_PX:
                continue
            back = int(max(_BACK_PX, _BACK * width))
            if 2 * back + steps > count:
                continue
            off = _not_blunt(points, first, last, across / width, down / width, width, back)
            if off < best:
                best = off
                found[some, 0], found[some, 1], found[some, 2] = i, steps, off
        some += best < np.inf
    return some


@compiled
def _not_blunt(points: Points, first: int, last: int, across: float, down: float, width: float, back: int) -> float:
    """How far from a blunt end an outline (n, 2) is between two points, infinite where it is none; `across` and `down` are the
    direction from the one to the other, and it is looked at over so many points further `back` on both sides."""
    before, behind = first - back, last + back
    one_x, one_y = points[first, 0] - points[before, 0], points[first, 1] - points[before, 1]
    other_x, other_y = points[last, 0] - points[behind, 0], points[last, 1] - points[behind, 1]
    along = one_x * other_x + one_y * other_y
    if along <= 0:
        return np.inf
    one, other = np.sqrt(one_x * one_x + one_y * one_y), np.sqrt(other_x * other_x + other_y * other_y)
    if min(one, other) < _ONWARDS * back:
        return np.inf
    alike = along / (one * other)
    if alike < _ALIKE:
        return np.inf
    ahead_x, ahead_y = one_x / one + other_x / other, one_y / one + other_y / other
    # Inside of an outline, that runs counter-clockwise on the screen, is to its left.
    square = (across * ahead_y - down * ahead_x) / np.sqrt(ahead_x * ahead_x + ahead_y * ahead_y)
    off_x, off_y = points[before, 0] - points[behind, 0], points[before, 1] - points[behind, 1]
    began = np.sqrt(off_x * off_x + off_y * off_y) / width
    if square < _SQUARE or began < _TAPERS[0] or began > _TAPERS[1]:
        return np.inf
    return float((last - first) / (width * square) + 0.3 * (1 - alike) - 0.004 * width)


def _unseen(points: NDArray[np.int64], start: int, way: int, strength: Plane) -> bool:
    """Whether no edge (h, w; half the size) is seen along an end, while it is along the sides."""
    long = max(10, way)
    end = points[np.arange(start, start + way + 1) % len(points)] // 2
    beside = np.concatenate([np.arange(start - long, start - 2), np.arange(start + way + 3, start + way + long)])
    sides = points[beside % len(points)] // 2
    height, width = strength.shape
    at_end, at_sides = (
        float(np.median(strength[np.minimum(at[:, 1], height - 1), np.minimum(at[:, 0], width - 1)])) for at in (end, sides)
    )
    return at_end < min(_UNSEEN, _WEAKER * at_sides)


def _limb(points: NDArray[np.int64], start: int, way: int) -> Limb | None:
    """The limb behind an end, as far as it is of one width."""
    wide = float(np.hypot(*(points[(start + way) % len(points)] - points[start])))
    back = int(max(_MOST_LONG_PX, _LONG * wide))
    one = points[np.arange(start - 2, start - back - 1, -1) % len(points)].astype(np.float64)
    other = points[np.arange(start + way + 2, start + way + back + 1) % len(points)].astype(np.float64)
    apart = np.hypot(one[:, None, 0] - other[None, :, 0], one[:, None, 1] - other[None, :, 1])
    nearest, widths = apart.argmin(axis=1), apart.min(axis=1)
    width = float(np.median(widths[int(_STEADY * wide) : max(int(_BACK * wide), int(_STEADY * wide) + 4)]))
    steady = (np.abs(widths - width) < _STEADY * width) & (nearest < len(other) - 1)
    first = int(np.argmax(steady))
    if not steady[first] or first > _FROM * wide:
        return None
    long = int(np.argmin(np.append(steady[first:], False)))
    if long < max(_LEAST_LONG_PX, _LEAST_LONG * width):
        return None
    middle = (one + other[nearest]) / 2
    return Limb(middle[first : first + long], width)
