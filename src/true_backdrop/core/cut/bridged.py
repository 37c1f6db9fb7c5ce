"""A limb goes on as it came: a handle that has the backdrop's own light on its way from light to dark is put together again.

Where a limb of the product ends, a real end is seen. If it is not, but the limb's sides are, and another limb of the same width
ends unseen as well, where the one would come to if it went on round one even curve, then the two are one. The curve is an
ellipse (or nearly a line) through the middle of both, moved to where the faint edges on both sides of it are strongest; without
these it stays open.
(Good continuation: Wertheimer 1923, Psychologische Forschung 4. Ellipse: Fitzgibbon, Pilu and Fisher 1999.)
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import combinations

import cv2
import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.arrays import Mask, Plane
from true_backdrop.core.cut.continued import as_backdrop
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.limbs import Limb, limbs
from true_backdrop.core.cut.shade import shade_around

#: Two limbs are so far apart at most, in multiples of their width and in pixels at least; one is so wide as the other at least.
_APART, _LEAST_APART_PX, _AS_WIDE = 12.0, 3.0, 0.6
#: The middle of both lies on one ellipse within so many pixels (root mean square), and they go on along so much of it at most.
_OFF_PX, _SWEEP = 1.3, np.pi
#: Or straight on, with such a bend at most (sagitta in parts of the way).
_BEND = 0.12
#: It is moved outwards in its middle by up to so many pixels, and made wider by so many, or narrower.
_BULGE_PX, _WIDER_PX = 10, (-8, 4)
#: Edges count in multiples of their noise, and for no more than so much; along either side they are so strong on the mean.
_AT_MOST, _SEEN = 8.0, 1.0
#: So much of what is put in lies on the product already, at most.
_OVER = 0.4
#: On to the rest of the product it is so far at most, in multiples of its width.
_ONWARDS = 3.0
#: So many points of a curve are looked at, but for some at its ends.
_POINTS, _ENDS = 80, 4
#: Of a limb so many points say which way it goes, and that it goes over into the backdrop: off it by so little there (log units).
_DIRECTION, _NEARLY, _TINT = 6, 0.55, 0.15

Points = NDArray[np.float64]


def bridged(product: Mask, evidence: Evidence, edges: Plane) -> Mask:
    """A product (H, W) with the piece between two ends of one limb where no end is seen.

    `edges` (h, w) are those of half the size, in multiples of their noise.
    """
    ends = limbs(product, evidence.long_side, edges)
    if not ends:
        return product
    expected = shade_around(evidence, ~product)
    ends = [limb for limb in ends if _goes_over(limb, evidence, expected)]
    whole = product
    for piece in _pieces(ends, product, edges):
        here = cv2.boundingRect(piece)
        box = slice(here[1], here[1] + here[3]), slice(here[0], here[0] + here[2])
        new = (piece[box] > 0) & ~product[box]
        if not new.any() or np.count_nonzero(new) < (1 - _OVER) * np.count_nonzero(piece):
            continue
        if as_backdrop(evidence.tone[box], evidence.tint[box], expected[box], new):
            whole = whole.copy() if whole is product else whole
            whole[box] |= new
    return whole


def _pieces(ends: list[Limb], product: Mask, edges: Plane) -> list[NDArray[np.uint8]]:
    """What lies between limbs that are one, and between the others and the rest of the product, as masks (H, W)."""
    found, alone = [], list(ends)
    for one, other in combinations(ends, 2):
        piece = _between(one, other, product.shape, edges)
        if piece is not None:
            found.append(piece)
            alone = [limb for limb in alone if limb is not one and limb is not other]
    onwards = (_onwards(limb, product, edges) for limb in alone)
    return found + [piece for piece in onwards if piece is not None]


def _goes_over(limb: Limb, evidence: Evidence, expected: Plane) -> bool:
    """Whether a limb is nearly as light and as neutral as the backdrop (H, W: its tone) where it ends."""
    x, y = np.round(limb.middle[:_DIRECTION]).astype(int).T
    off = np.abs(evidence.tone[y, x] - expected[y, x])
    return bool(np.median(off) < _NEARLY and np.median(evidence.tint[y, x]) < _TINT)


def _between(one: Limb, other: Limb, shape: tuple[int, ...], edges: Plane) -> NDArray[np.uint8] | None:
    """What lies between two limbs if they are one, as a mask (H, W)."""
    width, apart = max(one.width, other.width), float(np.hypot(*(one.middle[0] - other.middle[0])))
    if not _LEAST_APART_PX < apart < _APART * width or min(one.width, other.width) < _AS_WIDE * width:
        return None
    curve = _curve(one.middle, other.middle)
    if curve is None:
        return None
    share = np.linspace(0, 1, _POINTS)
    sides = _along_edges(curve, one.width + (other.width - one.width) * share, np.sin(np.pi * share), edges)
    return None if sides is None else _filled(sides, shape)


def _filled(sides: tuple[Points, Points], shape: tuple[int, ...]) -> NDArray[np.uint8]:
    piece = np.zeros(shape, np.uint8)
    cv2.fillPoly(piece, [np.round(np.concatenate([sides[0], sides[1][::-1]])).astype(np.int32)], 1)
    return piece


def _onwards(limb: Limb, product: Mask, edges: Plane) -> NDArray[np.uint8] | None:
    """What lies between a limb and the rest of the product (H, W), straight on or round one bend, as a mask (H, W)."""
    steps = np.arange(len(limb.middle), dtype=np.float64)
    x, y = (np.polynomial.Polynomial.fit(steps, limb.middle[:, i], 2) for i in (0, 1))
    ahead = -np.arange(0, int(_ONWARDS * limb.width))
    curve = np.stack([x(ahead), y(ahead)], axis=1)
    at = np.round(curve).astype(int)
    if at.min() < 0 or at[:, 0].max() >= product.shape[1] or at[:, 1].max() >= product.shape[0]:
        return None
    inside = product[at[:, 1], at[:, 0]]
    left = int(np.argmin(inside))
    if inside[left] or left > limb.width or not inside[left:].any():
        return None
    reached = left + int(np.argmax(inside[left:]))
    if reached - left < _LEAST_APART_PX:
        return None
    curve = curve[: reached + 1]
    sides = _along_edges(curve, np.full(len(curve), limb.width), np.linspace(0, 1, len(curve)) ** 2, edges)
    return None if sides is None else _filled(sides, product.shape)


@dataclass(frozen=True, slots=True)
class _Ellipse:
    """Centre (x, y), half axes, and the directions of these as rows (2, 2)."""

    centre: Points
    half: Points
    axes: Points

    @staticmethod
    def through(points: Points) -> _Ellipse:
        centre, axes, degrees = cv2.fitEllipseDirect(points.astype(np.float32).reshape(-1, 1, 2))
        turn = np.deg2rad(degrees)
        directions = np.array([[np.cos(turn), np.sin(turn)], [-np.sin(turn), np.cos(turn)]])
        return _Ellipse(np.array(centre), np.maximum(np.array(axes) / 2, 1e-6), directions)

    def angles(self, points: Points) -> NDArray[np.float64]:
        """At which angle (n,) of the ellipse points (n, 2) lie."""
        at = (points - self.centre) @ self.axes.T / self.half
        return np.asarray(np.arctan2(at[:, 1], at[:, 0]))

    def at(self, angles: NDArray[np.float64]) -> Points:
        round_it = np.stack([np.cos(angles), np.sin(angles)], axis=1) * self.half
        return np.asarray(round_it @ self.axes + self.centre)


def _curve(one: Points, other: Points) -> Points | None:
    """Points (n, 2) of the curve on which two limbs' middles (from their ends backwards) go on to each other, if there is one."""
    round_it = _round(one, other)
    return _straight(one, other) if round_it is None else round_it


def _round(one: Points, other: Points) -> Points | None:
    """The same round an ellipse."""
    both = np.concatenate([one[::-1], other])
    ellipse = _Ellipse.through(both)
    if not np.isfinite(ellipse.half).all():
        return None
    angles = ellipse.angles(both)
    if np.sqrt(np.mean(np.sum((ellipse.at(angles) - both) ** 2, axis=1))) > _OFF_PX:
        return None
    back = len(one) - 1 - min(_DIRECTION, len(one) - 1)
    way = _turned(angles[len(one) - 1] - angles[back])
    sweep = (angles[len(one)] - angles[len(one) - 1]) * np.sign(way) % (2 * np.pi)
    if sweep > _SWEEP:
        return None
    return ellipse.at(angles[len(one) - 1] + np.sign(way) * sweep * np.linspace(0, 1, _POINTS))


def _straight(one: Points, other: Points) -> Points | None:
    """The same straight on or nearly: an ellipse through points on one line is none. A parabola over the way between the two."""
    way = other[0] - one[0]
    length = float(np.hypot(*way))
    ahead, aside = way / length, np.array([-way[1], way[0]]) / length
    both = np.concatenate([one, other]) - one[0]
    along, off = 2 * (both @ ahead) / length - 1, both @ aside
    if along[: len(one)].max() > -1 + 2 / length or along[len(one) :].min() < 1 - 2 / length:
        return None
    line = np.polynomial.Polynomial(np.polynomial.polynomial.polyfit(along, off, 2))
    if np.sqrt(np.mean((line(along) - off) ** 2)) > _OFF_PX or abs(float(line.coef[2])) > _BEND * length:
        return None
    at = np.linspace(-1, 1, _POINTS)
    return np.asarray(one[0] + ((at + 1) / 2 * length)[:, None] * ahead + line(at)[:, None] * aside)


def _turned(angle: float) -> float:
    """The same angle between -pi and pi."""
    return float((angle + np.pi) % (2 * np.pi) - np.pi)


def _along_edges(
    curve: Points, widths: NDArray[np.float64], bow: NDArray[np.float64], edges: Plane
) -> tuple[Points, Points] | None:
    """The two sides (n, 2) of a band along a curve, `widths` (n,) wide, where faint edges are strongest; None without these.

    `bow` (n,) is how much of it each point of the curve may be moved by.
    """
    ahead = np.gradient(curve, axis=0)
    outwards = np.stack([-ahead[:, 1], ahead[:, 0]], axis=1) / np.maximum(np.hypot(*ahead.T), 1e-9)[:, None]
    most, best = 2 * _SEEN, None
    for bulge in range(-_BULGE_PX, _BULGE_PX + 1):
        middle = curve + outwards * (bulge * bow)[:, None]
        for wider in range(_WIDER_PX[0], _WIDER_PX[1] + 1):
            half = (widths + wider * np.sqrt(bow)) / 2
            if half.min() < 1:
                continue
            sides = middle + outwards * half[:, None], middle - outwards * half[:, None]
            seen = [_seen(side, edges) for side in sides]
            if min(seen) > _SEEN and sum(seen) > most:
                most, best = sum(seen), sides
    return best


def _seen(side: Points, edges: Plane) -> float:
    """How strong edges (h, w; half the size) are along a side (n, 2), on the mean."""
    if len(side) <= 2 * _ENDS:
        return 0.0
    across, down = (np.round(side[_ENDS:-_ENDS, i] / 2 - 0.25).astype(int) for i in (0, 1))
    if across.min() < 0 or down.min() < 0 or across.max() >= edges.shape[1] or down.max() >= edges.shape[0]:
        return 0.0
    return float(np.minimum(edges[down, across], _AT_MOST).mean())
