"""Which side of the outline: backdrop reached from the rim, product, and holes that show backdrop."""

from __future__ import annotations

from dataclasses import astuple, dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.arrays import Mask, Plane
from true_backdrop.core.compiled import compiled
from true_backdrop.core.cut.crease import off_the_crease
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.paper import LEAST_PIXELS, LEAST_STRUCTURE, seen_again, without_grain
from true_backdrop.core.cut.spread import spread
from true_backdrop.core.cut.tolerances import Tolerances
from true_backdrop.core.picture import Region
from true_backdrop.core.treatment import Material

#: In a shadow the light that is left came off the product and carries its colour, and the shadow's own
#: slope is steeper: both tolerances grow with its depth, up to this depth (log units).
_DEEPEST = 1.0


#: Seen through glass, or as white product, a place has structure of its own; a hole has the backdrop's grain.
#: So much more than that (in parts of it) weighs as much as the whole tolerance of tone.
OWN_GRAIN = 1.5
#: So many enclosed places are looked at.
_MOST_HOLES = 60
#: How unlike the backdrop an enclosed place may be and still be a hole. Where product is pale or clear, less.
_UNLIKE: dict[Material, float] = {"auto": 1.5, "solid": 1.5, "strands": 1.5, "clear": 1.4, "pale": 1.35}


@dataclass(frozen=True, slots=True)
class Busy:
    """The part of a proxy of some shape (H, W) that has anything to decide, and the evidence there.

    `opaque` is what a silhouette frame shows to be product (silhouette.py), where there is one.
    """

    region: Region
    evidence: Evidence
    shape: tuple[int, int]
    opaque: Mask | None = None

    def on_proxy(self, product: Mask) -> Mask:
        """What was decided there, as (H, W)."""
        whole = np.zeros(self.shape, bool)
        whole[self.region.slices] = product
        return whole


def busy_part(evidence: Evidence, opaque: Mask | None = None) -> Busy:
    """The part of the proxy outside which all is bare backdrop, at any backdrop match.

    Cells in which more than a few pixels differ from the backdrop by the strictest tolerances, and a margin:
    lone grains of noise do not count (of bare backdrop far less than a hundredth differs).
    """
    height, width = evidence.tone.shape
    limits = Tolerances.of(_STRICTEST, evidence.noise, evidence.long_side)
    differs = ~_likeness(evidence, limits).alike
    if opaque is not None:
        differs |= opaque
    cells = (-(-width // _CELL), -(-height // _CELL))
    crowded = cv2.resize(differs.astype(np.uint8) * np.uint8(255), cells, interpolation=cv2.INTER_AREA) > _CROWDED * 255
    left, top, across, down = cv2.boundingRect(crowded.astype(np.uint8))
    if across == 0:
        return Busy(Region(0, 0, height, width), evidence, evidence.shape, opaque)
    part = Region(top * _CELL, left * _CELL, (top + down) * _CELL, (left + across) * _CELL)
    region = part.grown(round(_ROOM * evidence.long_side), height, width)
    there = region.slices
    return Busy(region, evidence.part(there), evidence.shape, None if opaque is None else np.ascontiguousarray(opaque[there]))


#: Backdrop match that the busy part is found at.
_STRICTEST = 90
#: Cells are so many proxy pixels wide and high; so much of a busy one differs.
_CELL = 8
_CROWDED = 0.1
#: Bare backdrop kept around the busy part, in parts of the long side.
_ROOM = 0.04


def decide(evidence: Evidence, match: float, material: Material, opaque: Mask | None = None) -> Mask:
    """The product as a mask (H, W) of a proxy, or of the busy part of it; `opaque` (H, W) is product for sure.

    1. Backdrop is what can be reached from the rim over pixels that look like backdrop or soft shadow,
       through passages of some width, so that a gap in a pale outline does not let it in.
    2. Enclosed places that look like the backdrop around them are holes.
    3. Product for sure is what no backdrop and no soft shadow can be, and the inside of what is left.
    4. Between backdrop and product the outline lies on the strongest step (watershed on the ratio).
    """
    product = np.zeros(evidence.shape, bool)
    limits = Tolerances.of(match, evidence.noise, evidence.long_side)
    like = _likeness(evidence, limits)
    if opaque is not None:
        like.alike[opaque] = False
    outside = _outside(like, evidence.long_side)
    left, top, width, height = cv2.boundingRect((~outside).astype(np.uint8))
    if width == 0:
        return product
    # All that is left to decide lies in there; the margin is backdrop that the watershed can start from.
    box = Region(top, left, top + height, left + width).grown(_MARGIN, *outside.shape).slices
    expected = shade_around(evidence, outside)[box]
    bare_grain = _bare_grain(evidence, outside)
    evidence, outside = evidence.part(box), outside[box]
    holes = _holes(evidence, limits, like.alike[box] & ~outside, bare_grain, expected, material)
    bare, surely = _bare(evidence, limits, expected)
    holes |= _papered(evidence, bare & ~outside & ~holes, expected)
    backdrop = outside | holes
    if material != "clear":  # through glass everything looks like a gap
        backdrop |= _gaps(surely & ~backdrop, backdrop, evidence.long_side)
    if opaque is not None:
        backdrop &= ~opaque[box]
    sure = _sure_product(evidence, limits, like.tint[box], backdrop)
    if opaque is not None:
        sure |= opaque[box]
    inside = _watershed(evidence, backdrop, sure)
    white = without_grain(evidence.tone, evidence.bare, evidence.structure, ~inside)
    if white.any():
        # The comparison reaches some pixels beyond the white product; where it ends the strongest step says.
        kept = ~_near(white, 2 * _MIXED_PX)
        inside = _watershed(evidence, backdrop & kept, sure | (_eroded(white, _MIXED_PX // 2) > 0))
    inside = _without_specks(inside)
    if material != "strands":
        off_the_crease(inside, evidence.tone, evidence.tint, limits.tint)
    product[box] = _opened(evidence, limits, inside, expected, material)
    return product


_MARGIN = 8


@dataclass(frozen=True, slots=True)
class _Likeness:
    """Planes (H, W): what looks like backdrop or soft shadow, where there is a clear step, and tint against its tolerance."""

    alike: Mask
    clear: Mask
    tint: Plane


def _likeness(evidence: Evidence, limits: Tolerances) -> _Likeness:
    alike, clear = np.empty(evidence.shape, bool), np.empty(evidence.shape, bool)
    tint = np.empty(evidence.shape, np.float32)
    planes = evidence.tone, evidence.tint, evidence.step, evidence.thin
    _compare(*planes, np.array(astuple(limits), np.float32), alike, clear, tint)
    return _Likeness(alike, clear, tint)


@compiled
def _compare(
    tone: Plane,
    tint: Plane,
    step: Plane,
    thin: Plane,
    limits: NDArray[np.float32],
    alike: Mask,
    clear: Mask,
    relative_tint: Plane,
) -> None:
    """One pixel at a time against the `Tolerances`, which grow with the depth of the shadow; see `_Likeness`."""
    tint_limit, tint_in_shadow, step_limit, step_in_shadow, brighter, darkest, thin_limit = limits[:7]
    deepest = np.float32(_DEEPEST)
    for y in range(tone.shape[0]):
        for x in range(tone.shape[1]):
            depth = min(max(-tone[y, x], np.float32(0)), deepest)
            most = step_limit + step_in_shadow * depth
            off = tint[y, x] / (tint_limit + tint_in_shadow * depth)
            broad = thin[y, x] < thin_limit
            relative_tint[y, x] = off
            # `&` and not `and`: without branches the compiler does eight pixels at a time.
            neutral = (off < np.float32(1)) & (tone[y, x] > darkest) & (tone[y, x] < brighter)
            alike[y, x] = neutral & broad & (step[y, x] < most)
            # A thin strand has backdrop on both sides by right.
            clear[y, x] = broad & (step[y, x] > np.float32(1.5) * most)


def _disc(radius: int) -> np.ndarray:
    return cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * radius + 1, 2 * radius + 1))


#: Half the width of the narrowest passage that backdrop flows through at first, as a part of the long side.
PASSAGE = 0.008
#: With that and up to this many doublings the outline's gaps are closed.
_DOUBLINGS = 4
#: So much leaked outline (parts of the long side) is a leak and not a stray reflection.
_LEAK_LENGTH = 0.04


def _outside(like: _Likeness, long_side: int) -> Mask:
    """Backdrop that hangs together with the rim, through passages wide enough that no outline leaks.

    Where a shadow happens to be as light as the product, the outline has a gap. A leak shows: a clear step
    then has backdrop on both sides. The passage is widened until that is gone; narrower places that are
    backdrop all the same are found as holes.
    """
    best, fewest = like.alike, np.inf
    for doubling in range(_DOUBLINGS + 1):
        reached = _reached(like.alike, max(1, round(PASSAGE * long_side)) << doubling)
        closed = cv2.morphologyEx(reached.astype(np.uint8), cv2.MORPH_CLOSE, _disc(4)) > 0
        leaked = np.count_nonzero(closed & like.clear) / long_side
        if leaked < fewest:
            best, fewest = reached, leaked
        if leaked < _LEAK_LENGTH:
            break
    return best


def _reached(alike: Mask, radius: int) -> Mask:
    """The part of `alike` that hangs together with the rim through passages wider than twice the radius."""
    count, labels = cv2.connectedComponents(_eroded(alike, radius), connectivity=4)
    at_rim = np.zeros(count, np.uint8)
    for line in (labels[0], labels[-1], labels[:, 0], labels[:, -1]):
        at_rim[line] = 1
    at_rim[0] = 0
    grown = _eroded(at_rim[labels] == 0, radius) == 0
    return np.asarray(grown & alike)


#: Up to this radius OpenCV's erosion is faster than a distance transform.
_SMALL_DISC = 10


def _eroded(mask: Mask, radius: int) -> NDArray[np.uint8]:
    """What is farther than `radius` from everything that is not in the mask; the picture's rim does not count."""
    inside = mask.astype(np.uint8)
    if radius <= _SMALL_DISC:
        return np.asarray(cv2.erode(inside, _disc(radius)), np.uint8)
    return np.asarray(cv2.distanceTransform(inside, cv2.DIST_L2, 5) > radius, np.uint8)


def _sure_product(evidence: Evidence, limits: Tolerances, tint: Plane, backdrop: Mask) -> Mask:
    rest = ~backdrop
    # The soft foot of a shadow is at most this far from where it was first stopped.
    radius = max(2, round(0.009 * evidence.long_side))
    body = _eroded(rest, radius) > 0
    # Where product meets table the shadow is thin and dark as well: beside a body only tint tells.
    beside = _near(body, 2 * radius)
    thin = (evidence.thin > 3 * limits.thin) & (~beside | (tint > 1))
    strong = rest & ((tint > 2.5) | (evidence.tone < limits.darkest) | (evidence.tone > 2 * limits.brighter) | thin)
    return np.asarray(strong | body)


def _watershed(evidence: Evidence, outside: Mask, inside: Mask) -> Mask:
    markers = np.zeros(outside.shape, np.int32)
    markers[outside] = 1
    markers[inside] = 2
    if not inside.any():
        return np.zeros(outside.shape, bool)
    cv2.watershed(evidence.relief, markers)
    lines = markers == -1
    # OpenCV marks the picture's own rim as line too.
    lines[[0, -1]] = False
    lines[:, [0, -1]] = False
    # A line pixel lies on the outline itself; the band of unknown opacity covers it either way.
    product: Mask = (markers == 2) | (lines & ~outside)
    product[0], product[-1] = product[1], product[-2]
    product[:, 0], product[:, -1] = product[:, 1], product[:, -2]
    return product


def _holes(
    evidence: Evidence, limits: Tolerances, enclosed: Mask, bare_grain: float, expected: Plane, material: Material
) -> Mask:
    """Enclosed backdrop: in tone like the backdrop nearby, as neutral and as even as the bare backdrop, with its grain.

    They count together, so that a hole in deep shadow passes and a white label, which is a little off in each, does
    not. Where the backdrop's grain can be seen, it decides between white product and white backdrop.
    """
    seeds = cv2.erode(enclosed.astype(np.uint8), _disc(1))
    _, labels, stats, _ = cv2.connectedComponentsWithStats(seeds, connectivity=4)
    holes = np.zeros(enclosed.shape, bool)
    areas = stats[:, cv2.CC_STAT_AREA].copy()
    areas[0] = 0
    # Thousands of spots are no holes but grain; the largest are looked at.
    for label in np.argsort(-areas)[:_MOST_HOLES]:
        if areas[label] < max(12, round(1e-5 * evidence.long_side**2)):
            break
        box = stats[label, :4]
        here = slice(box[1], box[1] + box[3]), slice(box[0], box[0] + box[2])
        place = labels[here] == label
        if _is_hole(evidence, here, limits, place, bare_grain, expected, _UNLIKE[material]):
            holes[here] |= place
    return holes


#: So much of the paper's grain, against bare backdrop, is proof of paper, where it is seen so plainly there.
_PROOF, _PLAIN = 0.65, 0.7
#: A sheet of glass takes 8 % at least (two surfaces, Fresnel's 4 % each at an index of 1.5): half of that, in log units.
_THROUGH_GLASS = 0.04


def _papered(evidence: Evidence, bare: Mask, expected: Plane) -> Mask:
    """Places among those that may be bare in which the paper's own grain is seen: backdrop, whatever else speaks against it."""
    found = np.zeros(bare.shape, bool)
    if evidence.structure < _PLAIN:
        return found
    count, labels, stats, _ = cv2.connectedComponentsWithStats(cv2.erode(bare.astype(np.uint8), _disc(1)), connectivity=4)
    for label in range(1, count):
        left, top, width, height, area = stats[label]
        if area < LEAST_PIXELS:
            continue
        here = slice(top, top + height), slice(left, left + width)
        place = labels[here] == label
        again = seen_again(evidence.tone[here], evidence.bare[here], place)
        as_bright = _median(np.abs(evidence.tone[here][place] - expected[here][place])) < _THROUGH_GLASS
        if as_bright and again is not None and again > _PROOF * evidence.structure:
            found[here] |= place
    return found


def _bare(evidence: Evidence, limits: Tolerances, expected: Plane) -> tuple[Mask, Mask]:
    """Pixels (H, W) with the tone and tint of the backdrop nearby; and narrow ones that meet both closely."""
    bare, surely = np.empty(evidence.shape, bool), np.empty(evidence.shape, bool)
    planes = evidence.tone, evidence.tint, evidence.thin, expected
    _compare_with_shade(*planes, np.array(astuple(limits), np.float32), bare, surely)
    return bare, surely


@compiled
def _compare_with_shade(
    tone: Plane, tint: Plane, thin: Plane, expected: Plane, limits: NDArray[np.float32], bare: Mask, surely: Mask
) -> None:
    """One pixel at a time against the `Tolerances`; see `_bare`."""
    tint_limit, tint_in_shadow, brighter, thin_limit, hole_tone = limits[0], limits[1], limits[4], limits[6], limits[7]
    strictly, deepest = np.float32(_STRICTLY), np.float32(_DEEPEST)
    for y in range(tone.shape[0]):
        for x in range(tone.shape[1]):
            off = abs(tone[y, x] - expected[y, x])
            most = tint_limit + tint_in_shadow * min(max(-expected[y, x], np.float32(0)), deepest)
            bare[y, x] = (off < hole_tone) & (tint[y, x] < most)
            narrow = thin[y, x] > thin_limit
            surely[y, x] = narrow & (off < strictly * brighter) & (tint[y, x] < strictly * most)


#: So much of a tolerance is allowed in a gap, where only tone and tint can be looked at.
_STRICTLY = 0.5


#: Within so many pixels of a hole's side the lens and the evidence mix it with the product around.
_MIXED_PX = 4
#: What the paper's grain weighs when it is wholly there or wholly missing, in the measure of `_UNLIKE`.
_GRAIN_WEIGHT = 1.6


def _is_hole(
    evidence: Evidence,
    here: tuple[slice, slice],
    limits: Tolerances,
    place: Mask,
    bare_grain: float,
    expected: Plane,
    allowed: float,
) -> bool:
    """Whether an enclosed place, a mask (h, w) of a box of the evidence, is less unlike the backdrop than allowed."""
    off = _median(np.abs(evidence.tone[here][place] - expected[here][place]))
    unlike = off / limits.hole_tone + _median(evidence.tint[here][place]) / (0.6 * limits.tint)
    if unlike > allowed + _GRAIN_WEIGHT / 2:
        return False  # no grain could make up for that
    # A small place has no inside.
    inner = _eroded(np.pad(place, 1), _MIXED_PX)[1:-1, 1:-1] > 0 if np.count_nonzero(place) > _SMALL else None
    deep = inner is not None and np.count_nonzero(inner) >= _ENOUGH
    grain = _median(evidence.thin[here][inner if deep else place])
    unlike += max(0.0, grain / bare_grain - 1) / OWN_GRAIN
    again = None
    if inner is not None and evidence.structure >= LEAST_STRUCTURE:
        again = seen_again(evidence.tone[here], evidence.bare[here], inner)
    if again is not None:
        # Grain that is seen faintly on bare backdrop is told by chance in a small place.
        plainly = min(max((evidence.structure - LEAST_STRUCTURE) / (_PLAIN - LEAST_STRUCTURE), 0.0), 1.0)
        missing = 0.5 - min(max(again / evidence.structure, 0.0), 1.0)
        # Through glass paper is seen as well, but dimmer: only where it is as bright as around is its grain a proof.
        unlike += plainly * _GRAIN_WEIGHT * (missing if missing > 0 else missing * max(0.0, 1 - off / _THROUGH_GLASS))
    return bool(unlike < allowed)


#: Pixels that a median of evidence is taken from at least, and pixels of a place that has an inside.
_ENOUGH, _SMALL = 40, 180


def _gaps(gaps: Mask, backdrop: Mask, long_side: int) -> Mask:
    """Narrow gaps that open into the backdrop: too narrow to be flowed through, and thin between dark sides.

    They are told by tone and tint alone, so `gaps` are pixels that meet both closely; what hangs together with the backdrop is.
    """
    if not gaps.any():
        return gaps
    # What is wide, or lies along the open backdrop, could have been flowed into: if it was not, its outline holds.
    wide = max(2, round(PASSAGE * long_side))
    left, top, width, height = cv2.boundingRect(gaps.astype(np.uint8))
    box = Region(top, left, top + height, left + width).grown(2 * wide + 2, *gaps.shape).slices
    free = (gaps | backdrop)[box].astype(np.uint8)
    gaps = gaps.copy()
    gaps[box] &= ~_near(cv2.distanceTransform(free, cv2.DIST_L2, 5) > wide, wide)
    if not gaps.any():
        return gaps
    count, labels = cv2.connectedComponents((gaps | backdrop).astype(np.uint8), connectivity=4)
    opens = np.zeros(count, bool)
    opens[labels[backdrop]] = True
    opens[0] = False
    return np.asarray(gaps & opens[labels])


def _near(mask: Mask, reach: float) -> Mask:
    """What is at most `reach` pixels away from a mask, itself included."""
    return np.asarray(cv2.distanceTransform((~mask).astype(np.uint8), cv2.DIST_L2, 5) <= reach)


def _bare_grain(evidence: Evidence, outside: Mask) -> float:
    """Typical `thin` of the bare backdrop; every seventh pixel is plenty for a median."""
    around = evidence.thin[outside][::7]
    return max(1e-4, _median(around) if around.size else 0.0)


def _median(values: np.ndarray) -> float:
    """The upper median; NumPy's own costs more for its checks than for its work on a small hole."""
    middle = values.size // 2
    return float(np.partition(values, middle)[middle])


def shade_around(evidence: Evidence, outside: Mask) -> Plane:
    """Tone of the backdrop, continued smoothly to where product stands; at half size, since it is smooth."""
    height, width = outside.shape
    half = (max(1, width // 2), max(1, height // 2))
    weight = cv2.resize(outside.astype(np.uint8) * np.uint8(255), half, interpolation=cv2.INTER_AREA) / np.float32(255)
    tone = cv2.resize(evidence.tone, half, interpolation=cv2.INTER_AREA)
    filled = spread(np.asarray(tone, np.float32), np.asarray(weight, np.float32))
    return np.asarray(cv2.resize(filled, (width, height), interpolation=cv2.INTER_LINEAR), np.float32)


def _without_specks(product: Mask) -> Mask:
    """Dust and noise: parts much smaller than the largest one are not product."""
    count, labels, stats, _ = cv2.connectedComponentsWithStats(product.astype(np.uint8), connectivity=8)
    if count < 2:
        return product
    areas = stats[1:, cv2.CC_STAT_AREA]
    keep = np.zeros(count, bool)
    keep[1:] = areas >= max(8.0, 0.002 * float(areas.max()))
    return np.asarray(keep[labels])


#: Tone of a strand against what is around it (log units).
_STRAND_TONE = 0.15
#: So much of a place must be strands, in parts of the product there.
_STRANDS_SHARE = 0.15


def _opened(evidence: Evidence, limits: Tolerances, product: Mask, expected: Plane, material: Material) -> Mask:
    """Where somebody said that there are strands, take out the bare backdrop between them.

    Where thin dark or bright structure is dense the watershed cannot follow every strand; it draws a line
    around them all. Unsaid, highlights on metal and lines in glass look the same, and product would be lost.
    """
    if material != "strands":
        return product
    bare = product & (evidence.tint < limits.tint) & (cv2.absdiff(evidence.tone, expected) < limits.brighter)
    strands = product & (evidence.thin > _STRAND_TONE)
    if not (bare.any() and strands.any()):
        return product
    side = round(0.016 * evidence.long_side) | 1
    dense = cv2.blur(strands.astype(np.float32), (side, side))
    inside = cv2.blur(product.astype(np.float32), (side, side))
    return np.asarray(product & ~(bare & (dense > _STRANDS_SHARE * np.maximum(inside, np.float32(0.05)))))
