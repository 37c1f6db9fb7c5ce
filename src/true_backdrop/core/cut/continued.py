"""An outline goes on as it came where it gives way unseen: bites into a product as light as the backdrop are filled.

A label from side to side, or the lit flank of a white cup, may have the backdrop's own light; its edge is not seen there, and the
outline gives way to where something else begins. But before and behind the bite the same straight line or even curve is seen, as
of no notch that a product has: the walls of that would be seen. (Good continuation: Wertheimer 1923, Psychologische Forschung 4.)
"""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.arrays import Mask, Plane
from true_backdrop.core.compiled import compiled
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.masks import near
from true_backdrop.core.cut.shade import shade_around
from true_backdrop.core.picture import Region

#: An outline is looked at from so many pixels on, for gaps of these lengths along it, beginning at every so many pixels.
_LEAST_OUTLINE, _LENGTHS, _EVERY = 60, (10, 13, 17, 22, 29, 37, 48, 63, 82, 106, 138, 180, 235, 305), 5
#: Whether there may be a bite in a gap is looked at in so many places.
_LOOKS = 16
#: What is seen on each side is taken over such a part of the gap as the crow flies, and over so many pixels.
_SUPPORT, _LEAST_SUPPORT, _MOST_SUPPORT = 0.4, 12, 40
#: As the crow flies that is so much of its own length at least, and the gap of its.
_STRAIGHT, _CROW = 0.7, 0.5
#: Off the one line it is at most so much (pixels; root mean square, and each point).
_OFF_PX, _EACH_PX = 0.5, 1.4
#: The line bends by so much at most over the gap (sagitta in parts of that).
_BEND = 0.12
#: A bite is so deep (pixels) at least, and at most in parts of the gap; nowhere does the outline bulge so far out.
_DEPTH_PX, _DEEPEST, _BULGE_PX = 2.5, 0.5, 1.0
#: An edge is seen from so many times its noise on; of the outline in a bite, more than so many pixels deep, so much may be seen.
_SEEN, _INNER_PX, _SEEN_PART = 3.0, 1.0, 0.3
#: Up to so much may be, where edges along the line are stronger, and the bite is so deep (pixels) that the two are told apart.
_MOST_SEEN, _APART_PX = 0.6, 5.0
#: Along what is seen on both sides edges are so strong, where more than so much counts as no more.
_SUPPORT_SEEN, _AT_MOST = 1.5, 6.0
#: In a shadow deeper than this (log units) a bite may be one, and so it may if it is itself darker or lighter by so much.
_SHADE, _OFF_TONE = -0.25, 0.15
#: Within so many pixels of it a quarter is not tinted by so much (log units): that would be an edge.
_AROUND_PX, _TINT = 3, 0.15


def continued(product: Mask, evidence: Evidence, edges: Plane) -> Mask:
    """A product (H, W) with what is missing where its outline, unseen, gives way between two pieces of one line.

    `edges` (h, w) are those of half the size, in multiples of their noise.
    """
    outlines, _ = cv2.findContours(product.astype(np.uint8), cv2.RETR_CCOMP, cv2.CHAIN_APPROX_NONE)
    strength = np.asarray(cv2.dilate(edges, np.ones((3, 3), np.uint8)), np.float32)
    bites: list[NDArray[np.float64]] = []
    for outline in outlines:
        if len(outline) >= _LEAST_OUTLINE:
            points = np.ascontiguousarray(outline[:, 0], np.int32)
            gaps = np.empty((len(_LENGTHS) * -(-len(points) // _EVERY), _GAP), np.float64)
            found = _gaps(points, strength, np.array(_LENGTHS), gaps)
            bites += [_polygon(points, gap) for gap in _apart(gaps[:found])]
    if not bites:
        return product
    expected, whole = shade_around(evidence, ~product), product.copy()
    for bite in bites:
        left, top, width, height = cv2.boundingRect(np.round(bite).astype(np.int32))
        here = Region(top, left, top + height, left + width).grown(_AROUND_PX, *product.shape).slices
        fill = np.zeros(product[here].shape, np.uint8)
        cv2.fillPoly(fill, [np.round(bite).astype(np.int32)], 1, offset=(-here[1].start, -here[0].start))
        there = (fill > 0) & ~product[here]
        if there.any() and as_backdrop(evidence.tone[here], evidence.tint[here], expected[here], there):
            whole[here] |= there
    return whole


def as_backdrop(tone: Plane, tint: Plane, expected: Plane, there: Mask) -> bool:
    """Whether no colour parts a bite `there` (h, w) from what is around it, and it is as light as the backdrop would be."""
    if float(np.median(expected[there])) < _SHADE or abs(float(np.median((tone - expected)[there]))) > _OFF_TONE:
        return False
    around = near(there, _AROUND_PX)
    return float(np.percentile(tint[around], 75)) < _TINT


#: Of a gap: first and last index, and its line as y = a + b u + c u^2, where u is -1 at the first and 1 at the last point.
_GAP = 5


def _apart(gaps: NDArray[np.float64]) -> list[NDArray[np.float64]]:
    """Of gaps (n, `_GAP`) that overlap by half of the shorter one or more the longest."""
    kept: list[NDArray[np.float64]] = []
    for gap in sorted(gaps, key=lambda gap: gap[0] - gap[1]):
        if all(min(gap[1], one[1]) - max(gap[0], one[0]) < (gap[1] - gap[0]) / 2 for one in kept):
            kept.append(gap)
    return kept


def _polygon(points: NDArray[np.int32], gap: NDArray[np.float64]) -> NDArray[np.float64]:
    """The polygon (m, 2) between an outline (n, 2) and its line over a gap, as far as the two are apart."""
    start, end = int(gap[0]), int(gap[1])
    between = points[np.arange(start, end + 1) % len(points)].astype(np.float64)
    way = between[-1] - between[0]
    length = float(np.hypot(*way))
    inwards = np.array([way[1], -way[0]]) / length
    u = 2 * (between - between[0]) @ way / length**2 - 1
    line = np.polynomial.Polynomial(gap[2:])
    depth = (between - between[0]) @ inwards - line(u)
    near_it, deepest = np.flatnonzero(depth <= _INNER_PX), int(depth.argmax())
    first, last = int(near_it[near_it < deepest].max(initial=0)), int(near_it[near_it > deepest].min(initial=len(u) - 1))
    back = np.linspace(u[last], u[first], int(length) + 2)
    # What lies on the line itself is filled as well.
    over = between[0] + (back[:, None] + 1) / 2 * way + (line(back)[:, None] + 0.25) * inwards
    return np.concatenate([between[first : last + 1], over])


@compiled
def _gaps(points: NDArray[np.int32], strength: Plane, lengths: NDArray[np.int64], found: NDArray[np.float64]) -> int:
    """Gaps of a closed outline (n, 2) that one line goes over, into (m, `_GAP`), and how many there are."""
    count, some = points.shape[0], 0
    frame, line, beside = np.empty(5), np.empty(3), np.empty((2 * _MOST_SUPPORT + 1, 2))
    for start in range(0, count, _EVERY):
        for along in lengths:
            end = start + along
            length = _framed(points, start, end, frame)
            support = int(min(max(_SUPPORT * length, _LEAST_SUPPORT), _MOST_SUPPORT))
            if length < _CROW * along or along + 2 * support > count:
                continue
            deepest = 0.0
            for i in range(start, end, max(1, along // _LOOKS)):
                deepest = max(deepest, _seen_from(frame, points, i)[1])
            if deepest < _DEPTH_PX or deepest > _DEEPEST * length:
                continue
            if _one_line(points, start, end, frame, beside[: 2 * support + 1], line) and _bitten(
                points, strength, start, end, frame, support, line
            ):
                found[some, 0], found[some, 1] = start, end
                found[some, 2:] = line
                some += 1
    return some


@compiled
def _framed(points: NDArray[np.int32], start: int, end: int, frame: NDArray[np.float64]) -> float:
    """The frame (5,) of a gap: its first point, the direction to its last, and how long it is as the crow flies, returned too."""
    last = end % points.shape[0]
    ahead, below = float(points[last, 0] - points[start, 0]), float(points[last, 1] - points[start, 1])
    length = max(np.sqrt(ahead * ahead + below * below), 1e-6)
    frame[0], frame[1], frame[2], frame[3], frame[4] = points[start, 0], points[start, 1], ahead / length, below / length, length
    return float(length)


@compiled
def _seen_from(frame: NDArray[np.float64], points: NDArray[np.int32], i: int) -> tuple[float, float]:
    """Where a point of an outline lies along a gap, from -1 at its first to 1 at its last point, and how far inwards (pixels).

    An outline runs counter-clockwise on the screen around a product and clockwise around a hole: inside is to its left.
    """
    x, y = points[i % points.shape[0], 0] - frame[0], points[i % points.shape[0], 1] - frame[1]
    return 2 * (x * frame[2] + y * frame[3]) / frame[4] - 1, x * frame[3] - y * frame[2]


@compiled
def _one_line(
    points: NDArray[np.int32],
    start: int,
    end: int,
    frame: NDArray[np.float64],
    beside: NDArray[np.float64],
    line: NDArray[np.float64],
) -> bool:
    """Whether the outline before and behind a gap lies on one line (3,); `beside` (2 n + 1, 2) holds the points there."""
    support, length = beside.shape[0] // 2, frame[4]
    farther = 1 + 2 * _STRAIGHT * support / length
    sums, right = np.zeros(5), np.zeros(3)
    for i in range(-support, support + 1):
        u, inwards = _seen_from(frame, points, start + i if i <= 0 else end + i)
        if (i <= 0 and u > 2 / length - 1) or (i > 0 and u < 1 - 2 / length):
            return False
        beside[support + i, 0], beside[support + i, 1] = u, inwards
        power = 1.0
        for k in range(5):
            sums[k] += power
            if k < 3:
                right[k] += power * inwards
            power *= u
    if beside[0, 0] > -farther or beside[-1, 0] < farther:
        return False
    whole = _det(sums[0], sums[1], sums[2], sums[1], sums[2], sums[3], sums[2], sums[3], sums[4])
    line[0] = _det(right[0], sums[1], sums[2], right[1], sums[2], sums[3], right[2], sums[3], sums[4]) / whole
    line[1] = _det(sums[0], right[0], sums[2], sums[1], right[1], sums[3], sums[2], right[2], sums[4]) / whole
    line[2] = _det(sums[0], sums[1], right[0], sums[1], sums[2], right[1], sums[2], sums[3], right[2]) / whole
    off_sq, most = 0.0, 0.0
    for k in range(beside.shape[0]):
        off = beside[k, 1] - _at(line, beside[k, 0])
        off_sq += off * off
        most = max(most, abs(off))
    return abs(line[2]) <= _BEND * length and most <= _EACH_PX and off_sq <= beside.shape[0] * _OFF_PX * _OFF_PX


@compiled
def _bitten(
    points: NDArray[np.int32],
    strength: Plane,
    start: int,
    end: int,
    frame: NDArray[np.float64],
    support: int,
    line: NDArray[np.float64],
) -> bool:
    """Whether the outline gives way inwards, unseen, between two pieces of a line that are seen."""
    beside = 0.0
    for i in range(-support, support + 1):
        beside += _edge(strength, points, start + i if i <= 0 else end + i)
    inner, seen, deep, most = 0.0, 0, 0, 0.0
    for i in range(start + 1, end):
        u, inwards = _seen_from(frame, points, i)
        depth = inwards - _at(line, u)
        if depth < -_BULGE_PX:
            return False
        most = max(most, depth)
        if depth > _INNER_PX:
            edge = _edge(strength, points, i)
            inner += edge
            seen += edge > _SEEN
            deep += 1
    if beside < (2 * support + 1) * _SUPPORT_SEEN or most < _DEPTH_PX or most > _DEEPEST * frame[4]:
        return False
    if seen <= _SEEN_PART * deep:
        return True
    return most > _APART_PX and seen <= _MOST_SEEN * deep and _along(strength, frame, line) * deep > inner


@compiled
def _along(strength: Plane, frame: NDArray[np.float64], line: NDArray[np.float64]) -> float:
    """How strong edges are along the line over a gap, on the mean."""
    steps, total, at = int(frame[4]), 0.0, np.empty((1, 2), np.int32)
    for i in range(steps):
        u = 2 * (i + 0.5) / steps - 1
        ahead, inwards = (u + 1) / 2 * frame[4], _at(line, u)
        at[0, 0] = int(frame[0] + ahead * frame[2] + inwards * frame[3] + 0.5)
        at[0, 1] = int(frame[1] + ahead * frame[3] - inwards * frame[2] + 0.5)
        total += _edge(strength, at, 0)
    return total / steps


@compiled
def _at(line: NDArray[np.float64], u: float) -> float:
    return float(line[0] + line[1] * u + line[2] * u * u)


@compiled
def _edge(strength: Plane, points: NDArray[np.int32], i: int) -> float:
    """The strength of edges, of half the size, at a point of an outline."""
    x, y = points[i % points.shape[0], 0] // 2, points[i % points.shape[0], 1] // 2
    return float(min(strength[min(max(y, 0), strength.shape[0] - 1), min(max(x, 0), strength.shape[1] - 1)], _AT_MOST))


@compiled
def _det(a: float, b: float, c: float, d: float, e: float, f: float, g: float, h: float, i: float) -> float:
    """The determinant of three by three numbers, row by row."""
    return a * (e * i - f * h) - b * (d * i - f * g) + c * (d * h - e * g)
