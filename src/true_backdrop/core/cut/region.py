"""Which side of the outline: backdrop reached from the rim, product, and holes that show backdrop."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from true_backdrop.core.arrays import Mask, Plane
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.spread import spread
from true_backdrop.core.treatment import Material

#: The long side that the step tolerance below was measured at.
_MEASURED_AT = 1280
#: In a shadow the light that is left came off the product and carries its colour, and the shadow's own
#: slope is steeper: both tolerances grow with its depth, up to this depth (log units).
_DEEPEST = 1.0


#: Seen through glass, or as white product, a place has structure of its own; a hole has the backdrop's grain.
#: So much more than that (in parts of it) weighs as much as the whole tolerance of tone.
_OWN_GRAIN = 1.5
#: How unlike the backdrop an enclosed place may be and still be a hole. Where product is pale, less.
_UNLIKE: dict[Material, float] = {"auto": 1.5, "solid": 1.5, "strands": 1.5, "clear": 1.4, "pale": 0.9}


@dataclass(frozen=True, slots=True)
class Tolerances:
    """What still counts as backdrop, in log units of the ratio to the backdrop frame.

    Twice the tolerance for every 25 points of backdrop match downwards. `tint` and `step` hold on bare
    backdrop; `tint_in_shadow` and `step_in_shadow` are added for each unit of shadow depth.
    """

    tint: float
    tint_in_shadow: float
    step: float
    step_in_shadow: float
    brighter: float
    darkest: float
    thin: float
    hole_tone: float

    @classmethod
    def of(cls, match: float, noise: float, long_side: int = _MEASURED_AT) -> Tolerances:
        loose = 2.0 ** ((50.0 - match) / 25.0)
        # A shadow's slope is spread over the picture, an edge is as wide as the lens makes it: in a smaller
        # picture the slope for each pixel grows, the edge does not.
        coarse = float(np.sqrt(_MEASURED_AT / long_side))
        return cls(
            tint=0.06 * loose + 5 * noise,
            tint_in_shadow=0.8 * min(1.5, loose**0.5),
            step=0.019 * loose * coarse + 2.5 * noise,
            step_in_shadow=0.08 * loose**0.5 * coarse,
            brighter=0.05 * loose + 3 * noise,
            darkest=-1.8 * min(1.6, loose**0.5),
            thin=0.042 * loose + 3 * noise,
            hole_tone=0.10 * loose**0.5 + 2 * noise,
        )


def decide(evidence: Evidence, match: float, material: Material) -> Mask:
    """The product as a mask (H, W) of the proxy.

    1. Backdrop is what can be reached from the rim over pixels that look like backdrop or soft shadow,
       through passages of some width, so that a gap in a pale outline does not let it in.
    2. Enclosed places that look like the backdrop around them are holes.
    3. Product for sure is what no backdrop and no soft shadow can be, and the inside of what is left.
    4. Between backdrop and product the outline lies on the strongest step (watershed on the ratio).
    """
    limits = Tolerances.of(match, evidence.noise, max(evidence.tone.shape))
    depth = np.clip(-evidence.tone, 0, _DEEPEST)
    tint = evidence.tint / (limits.tint + limits.tint_in_shadow * depth)
    alike = _alike(evidence, limits, tint, depth)
    outside = _outside(evidence, limits, alike, depth)
    expected = _shade_around(evidence, outside)
    backdrop = outside | _holes(evidence, limits, alike & ~outside, outside, expected, material)
    product = _without_specks(_watershed(evidence, backdrop, _sure_product(evidence, limits, tint, backdrop)))
    return _opened(evidence, limits, product, expected, material)


def _alike(evidence: Evidence, limits: Tolerances, tint: Plane, depth: Plane) -> Mask:
    mask: Mask = tint < 1
    mask &= evidence.step < limits.step + limits.step_in_shadow * depth
    mask &= evidence.tone < limits.brighter
    mask &= evidence.tone > limits.darkest
    mask &= evidence.thin < limits.thin
    return mask


def _disc(radius: int) -> np.ndarray:
    return cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * radius + 1, 2 * radius + 1))


#: Half the width of the narrowest passage that backdrop flows through at first, as a part of the long side.
_PASSAGE = 0.008
#: With that and up to this many doublings the outline's gaps are closed.
_DOUBLINGS = 4
#: So much leaked outline (parts of the long side) is a leak and not a stray reflection.
_LEAK_LENGTH = 0.04


def _outside(evidence: Evidence, limits: Tolerances, alike: Mask, depth: Plane) -> Mask:
    """Backdrop that hangs together with the rim, through passages wide enough that no outline leaks.

    Where a shadow happens to be as light as the product, the outline has a gap. A leak shows: a clear step
    then has backdrop on both sides. The passage is widened until that is gone; narrower places that are
    backdrop all the same are found as holes.
    """
    clear = evidence.step > 1.5 * (limits.step + limits.step_in_shadow * depth)
    clear &= evidence.thin < limits.thin  # a thin strand has backdrop on both sides by right
    long_side = max(alike.shape)
    best, fewest = alike, np.inf
    for doubling in range(_DOUBLINGS + 1):
        reached = _reached(alike, max(1, round(_PASSAGE * long_side)) << doubling)
        closed = cv2.morphologyEx(reached.astype(np.uint8), cv2.MORPH_CLOSE, _disc(4)) > 0
        leaked = float((closed & clear).sum()) / long_side
        if leaked < fewest:
            best, fewest = reached, leaked
        if leaked < _LEAK_LENGTH:
            break
    return best


def _reached(alike: Mask, radius: int) -> Mask:
    """The part of `alike` that hangs together with the rim through passages wider than twice the radius."""
    edge = radius + 1
    padded = cv2.copyMakeBorder(alike.astype(np.uint8), edge, edge, edge, edge, cv2.BORDER_REPLICATE)
    # A distance and a threshold: an erosion by a disc whose cost does not grow with its radius.
    inner = (cv2.distanceTransform(padded, cv2.DIST_L2, 5) > radius)[edge:-edge, edge:-edge]
    _, labels = cv2.connectedComponents(inner.astype(np.uint8), connectivity=4)
    rim = np.unique(np.concatenate([labels[0], labels[-1], labels[:, 0], labels[:, -1]]))
    reached = np.isin(labels, rim[rim > 0])
    grown = cv2.distanceTransform((~reached).astype(np.uint8), cv2.DIST_L2, 5) <= radius
    return np.asarray(grown & alike)


def _sure_product(evidence: Evidence, limits: Tolerances, tint: Plane, backdrop: Mask) -> Mask:
    rest = ~backdrop
    strong = rest & (
        (tint > 2.5)
        | (evidence.tone < limits.darkest)
        | (evidence.tone > 2 * limits.brighter)
        | (evidence.thin > 3 * limits.thin)
    )
    # The soft foot of a shadow is at most this far from where it was first stopped.
    radius = max(2, round(0.009 * max(rest.shape)))
    distance = cv2.distanceTransform(rest.astype(np.uint8), cv2.DIST_L2, 5)
    return np.asarray(strong | (distance > radius))


def _watershed(evidence: Evidence, outside: Mask, inside: Mask) -> Mask:
    markers = np.zeros(outside.shape, np.int32)
    markers[outside] = 1
    markers[inside] = 2
    if not inside.any():
        return np.zeros(outside.shape, bool)
    cv2.watershed(evidence.watershed_relief, markers)
    lines = markers == -1
    # OpenCV marks the picture's own rim as line too.
    lines[[0, -1]] = False
    lines[:, [0, -1]] = False
    # A line pixel lies on the outline itself; the band of unknown opacity covers it either way.
    product: Mask = (markers == 2) | (lines & ~outside)
    product[0], product[-1] = product[1], product[-2]
    product[:, 0], product[:, -1] = product[:, 1], product[:, -2]
    return product


def _holes(evidence: Evidence, limits: Tolerances, enclosed: Mask, outside: Mask, expected: Plane, material: Material) -> Mask:
    """Enclosed backdrop: in tone like the backdrop nearby, as neutral and as even as the bare backdrop.

    The three count together, so that a hole in deep shadow passes and a white label, which is a little off
    in each, does not.
    """
    seeds = cv2.erode(enclosed.astype(np.uint8), _disc(1))
    count, labels, stats, _ = cv2.connectedComponentsWithStats(seeds, connectivity=4)
    holes = np.zeros(enclosed.shape, bool)
    smallest = max(12, round(1.5e-5 * enclosed.size))
    bare = max(1e-4, float(np.median(evidence.thin[outside])) if outside.any() else 0.0)
    for label in range(1, count):
        if stats[label, cv2.CC_STAT_AREA] < smallest:
            continue
        box = stats[label, :4]
        rows, columns = slice(box[1], box[1] + box[3]), slice(box[0], box[0] + box[2])
        here = labels[rows, columns] == label
        off = float(np.median(np.abs(evidence.tone[rows, columns] - expected[rows, columns])[here]))
        tint = float(np.median(evidence.tint[rows, columns][here]))
        grain = float(np.median(evidence.thin[rows, columns][here]))
        unlike = off / limits.hole_tone + tint / (0.6 * limits.tint) + max(0.0, grain / bare - 1) / _OWN_GRAIN
        if unlike < _UNLIKE[material]:
            holes[rows, columns] |= here
    return holes


def _shade_around(evidence: Evidence, outside: Mask) -> Plane:
    """Tone of the backdrop, continued smoothly to where product stands; at half size, since it is smooth."""
    height, width = outside.shape
    half = (max(1, width // 2), max(1, height // 2))
    weight = cv2.resize(outside.astype(np.float32), half, interpolation=cv2.INTER_AREA)
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


#: Tone of a strand against the backdrop (log units) from which it can be told from structure in glass.
_STRAND_TONE = 0.15
#: Between strands backdrop is looked for this far inside the outline, in parts of the long side.
_STRANDS_REACH = 0.03


def _opened(evidence: Evidence, limits: Tolerances, product: Mask, expected: Plane, material: Material) -> Mask:
    """Among strands, take out the pixels between them that are bare backdrop.

    Where thin dark or bright structure is dense the watershed cannot follow every strand; it draws a line
    around them all.
    """
    if material not in ("auto", "strands"):
        return product
    inside = product.astype(np.float32)
    side = round(0.016 * max(product.shape)) | 1
    dense = cv2.blur(((evidence.thin > _STRAND_TONE) & product).astype(np.float32), (side, side))
    least = 0.15 if material == "strands" else 0.40
    crowded = dense > least * np.maximum(cv2.blur(inside, (side, side)), 0.05)
    bare = (np.abs(evidence.tone - expected) < limits.brighter) & (evidence.tint < limits.tint)
    if material == "strands":
        return np.asarray(product & ~(crowded & bare))
    # Nobody said that there are strands: far inside the outline light structure is a reflection.
    near = cv2.distanceTransform(product.astype(np.uint8), cv2.DIST_L2, 5) < _STRANDS_REACH * max(product.shape)
    return np.asarray(product & ~(crowded & bare & near))
