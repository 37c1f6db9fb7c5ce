"""Corners of backdrop that a wide passage does not reach into: open towards the backdrop, with an edge towards the product."""

from __future__ import annotations

from collections.abc import Iterator

import cv2
import numpy as np

from true_backdrop.core.arrays import Mask
from true_backdrop.core.cut.bare import ring_around, tint_allowed
from true_backdrop.core.cut.components import components, counted
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.masks import median, near, outside_of, percentiles, square
from true_backdrop.core.cut.paper import shows_paper
from true_backdrop.core.cut.tolerances import Tolerances
from true_backdrop.core.picture import Region

#: A pocket has so many pixels at least, and is so large at most, in parts of the long side squared; in pale product so large.
_LEAST_PX, _MOST, _MOST_PALE = 24, 0.002, 0.0007
#: Its border with the backdrop is so much of its whole border at least, and so much of that is an edge that is seen at most.
_OPEN, _SEEN_OPEN = 0.3, 0.2
#: So much of its border with the product is an edge that is seen.
_SEEN_CLOSED = 0.7


def pockets(evidence: Evidence, outside: Mask, alike: Mask, seen: Mask) -> Mask:
    """What of the product (H, W) looks like backdrop and opens wide into it.

    The inside of a pale product opens through a gap in its outline at most, which is narrow against all of that. `outside` is
    the backdrop that was reached, `alike` what looks like it, `seen` where an edge is seen, some pixels wide; (H, W) each.
    """
    found = np.zeros_like(outside)
    most, pale = (part * evidence.long_side**2 for part in (_MOST, _MOST_PALE))
    for here, place, around in places_beside(alike & ~outside & ~seen, outside, _LEAST_PX, most):
        opens = around & outside[here]
        closed = around & ~opens
        if not closed.any() or np.count_nonzero(opens) < _OPEN * np.count_nonzero(around):
            continue
        if seen[here][opens].mean() > _SEEN_OPEN or seen[here][closed].mean() < _SEEN_CLOSED:
            continue
        if np.count_nonzero(place) > pale and not _beside_another_body(evidence, here, place, outside):
            continue
        found[here] |= place
    return found


#: What is not pale is so far off a pocket's tone, or the backdrop's tint (log units).
_UNLIKE = 0.2


def _beside_another_body(evidence: Evidence, here: tuple[slice, slice], place: Mask, outside: Mask) -> bool:
    """Whether the product beside a pocket (h, w) is plainly darker, lighter or of another colour."""
    around, ring = ring_around(evidence.shape, here, place)
    ring &= ~outside[around]
    off = np.maximum(np.abs(evidence.tone[around] - median(evidence.tone[here][place])), evidence.tint[around])
    return bool(ring.any() and median(off[ring]) > _UNLIKE)


#: A place in which paper is looked for is as large at least, in pixels, as free of edges as at this match, and so much of its
#: border with the backdrop is an edge that is seen at most; that is so long at least.
_LARGE_PX, _EVEN_MATCH, _SEAMLESS, _SEAM_PX = 250, 40, 0.3, 12
#: Light that a product throws makes table no brighter than this (log units).
_THROWN = 0.25


def paper_beside(evidence: Evidence, product: Mask, seen: Mask) -> Mask:
    """What of a product (H, W) is table in shadow, or in light that the product throws on it.

    It goes over into the backdrop without an edge, and shows its grain. Glass shows that too, but has an outline.
    """
    found = np.zeros_like(product)
    limits = Tolerances.of(_EVEN_MATCH, evidence.noise, evidence.long_side)
    even = product & ~seen & (evidence.step < limits.step + limits.step_in_shadow) & (evidence.thin < limits.thin)
    for here, place, around in places_beside(even, ~product, _LARGE_PX, np.inf):
        opens = around & ~product[here]
        if np.count_nonzero(opens) < 2 * _SEAM_PX or seen[here][opens].mean() > _SEAMLESS:
            continue
        level = median(evidence.tone[here][place])
        if level > _THROWN or median(evidence.tint[here][place]) > tint_allowed(level, limits):
            continue  # shading of a pale or a coloured body can follow the paper's by chance
        if shows_paper(evidence.tone[here], evidence.bare[here], place, evidence.structure):
            found[here] |= place | around
    return found & product


#: In this lower part of a product wedges of table are looked for, so deep in it at most (pixels); they are so large at least, in
#: pixels, and at most, in parts of the long side squared.
_LOWER_PART, _DEEP_PX, _WEDGE_PX, _LARGEST_WEDGE = 0.3, 24, 20, 0.002
#: Lines between places are so near to the steepest of seven by seven pixels, and so steep (log units a pixel).
_NEARLY, _LINE = 0.6, 0.02
#: Table is as neutral as this many times the tolerance allows, and not darker than this (log units).
_NEUTRAL, _NOT_BLACK = 1.2, -1.3
#: A wedge is not darker than the backdrop along it by more than this (log units), as product would be, and not so many times
#: brighter than what is brighter for sure.
_DARKER, _BRIGHTER = 0.1, 3.0
#: So much of a wedge's border lies along the backdrop at least, as steep as this at most, and the rest is so many times steeper.
_WIDE_OPEN, _SOFT, _STEEPER = 0.2, 0.1, 3.0
#: A wedge's border is looked at this far around it, in pixels.
_RIM_PX = 3


def wedges(evidence: Evidence, product: Mask, limits: Tolerances) -> Mask:
    """What of a product (H, W) is table beside a round foot: its edge towards the product is far steeper than that outwards.

    Pale product with a firm line in it is the same higher up; there nothing is said.
    """
    found = np.zeros_like(product)
    left, top, across, down = cv2.boundingRect(product.astype(np.uint8))
    foot = Region(top + round((1 - _LOWER_PART) * down), left, top + down, left + across).grown(_DEEP_PX, *product.shape)
    if across == 0:
        return found
    box = foot.slices
    tone, tint, step, there = evidence.tone[box], evidence.tint[box], evidence.step[box], product[box]
    neutral = tint < _NEUTRAL * (limits.tint + limits.tint_in_shadow * np.clip(-tone, 0, 1))
    neutral &= (tone > _NOT_BLACK) & (tone < _BRIGHTER * limits.brighter)
    line = (step > _LINE) & (step > _NEARLY * cv2.dilate(step, np.ones((7, 7), np.uint8)))
    rim = cv2.distanceTransform(there.astype(np.uint8), cv2.DIST_L2, 5) < _DEEP_PX
    most = _LARGEST_WEDGE * evidence.long_side**2
    lowest = top + (1 - _LOWER_PART) * down - foot.top
    steepest = cv2.dilate(step, np.ones((5, 5), np.uint8))
    inside = found[box]
    for here, place, around in places_beside(there & rim & neutral & ~line, ~there, _WEDGE_PX, most, _RIM_PX):
        opens = around & ~there[here]
        closed = around & ~opens
        if not closed.any() or np.count_nonzero(opens) < _WIDE_OPEN * np.count_nonzero(around):
            continue
        if here[0].start + np.flatnonzero(place.any(axis=1)).mean() < lowest:
            continue
        if median(tone[here][place]) < median(tone[here][opens]) - _DARKER:
            continue
        outwards = median(steepest[here][opens])
        if outwards < _SOFT and median(steepest[here][closed]) > _STEEPER * outwards:
            inside[here] |= place | (around & there[here] & (steepest[here] < _STEEPER * outwards))
    return found


#: A bay has so many pixels at least and is so large at most, in parts of the long side squared. So much of its border lies along
#: the backdrop at most, and is seen as a step by this (log units a pixel) and so many times the noise at most.
_BAY_PX, _LARGEST_BAY, _MOUTH, _MOUTH_STEP, _STEP_NOISE = 24, 0.0035, 0.5, (0.02, 0.04), 5.5
#: It is as light there as the backdrop (log units), and the product around, but for such a part, is so far off it, in tone or
#: tint; around a small bay (in pixels) less is enough, since nearby the lens mixes the two.
_AS_LIGHT, _BODY_PART, _BODY, _SMALL_BAY_PX, _SMALL_BODY = (0.06, 0.1), 25, 0.5, 150, 0.3
#: It is no brighter than the backdrop by more than this (log units).
_NOT_BRIGHTER = 0.03
#: A bay as small as this (parts of the long side squared) lies deeper in its own shadow, and the second value holds.
_SMALL_BAY = 0.0004
#: In a mouth of fewer pixels than this most are mixed with what is beside it: the least of them tell, and not the median.
_NARROW_PX, _NARROW_PART = 20, 20
#: The light beside the mouth is looked at so far into the bay (pixels).
_INTO_PX = 4


def bays(evidence: Evidence, product: Mask, soft: Mask) -> Mask:
    """What of a product (H, W) is backdrop that goes on into it without a step, between parts that are wholly unlike it.

    So are gaps in shadow that were reached in part, or that have a mouth too narrow to flow through; a part of the product
    as light as the backdrop beside it has an edge there. `soft` (H, W) is as neutral as backdrop in shadow, and no edge.
    """
    found = np.zeros_like(product)
    most = _LARGEST_BAY * evidence.long_side**2
    # Without grain a hole says nothing: it may be none.
    reached = outside_of(product) if evidence.grain is None else ~product
    for here, place, around in places_beside(soft & product, reached, _BAY_PX, most):
        mouth = around & reached[here]
        if not mouth.any() or np.count_nonzero(mouth) > _MOUTH * np.count_nonzero(around):
            continue
        tone, tint = evidence.tone[here], evidence.tint[here]
        small = int(np.count_nonzero(place) < _SMALL_BAY * evidence.long_side**2)
        of_them = _NARROW_PART if np.count_nonzero(mouth) < _NARROW_PX else 50
        if percentiles(evidence.step[here][mouth], of_them)[0] > _MOUTH_STEP[small] + _STEP_NOISE * evidence.noise:
            continue
        beside = place & near(mouth, _INTO_PX)
        if not beside.any() or abs(median(tone[beside]) - median(tone[mouth])) > _AS_LIGHT[small]:
            continue
        level, colour = median(tone[place]), median(tint[place])
        if level > _NOT_BRIGHTER:
            continue
        box, ring = ring_around(evidence.shape, here, place)
        ring &= product[box]
        off = np.maximum(np.abs(evidence.tone[box][ring] - level), np.abs(evidence.tint[box][ring] - colour))
        if off.size == 0:
            continue
        body = percentiles(off, _BODY_PART)[0]
        if body > (_BODY if np.count_nonzero(place) > _SMALL_BAY_PX else _SMALL_BODY):
            nearer = np.maximum(np.abs(tone - level), np.abs(tint - colour)) < body / 2
            found[here] |= place | (around & nearer)
    return found & product


#: A border is looked at this far around a place.
_BORDER_PX = 2


def places_beside(
    places: Mask, other: Mask, least: float, most: float, border_px: int = _BORDER_PX
) -> Iterator[tuple[tuple[slice, slice], Mask, Mask]]:
    """Of some places (H, W) those of such areas that lie beside another: box, and in it (h, w) the place and its border."""
    labels, stats = components(places, 4)
    areas = stats[:, cv2.CC_STAT_AREA]
    fits = (areas >= least) & (areas <= most)
    fits[0] = False
    if not fits.any():
        return
    fits &= counted(labels, cv2.dilate(other.astype(np.uint8), square(border_px)) > 0, len(stats)) > 0
    for label in np.flatnonzero(fits):
        left, top, across, down, _ = stats[label]
        here = Region(top, left, top + down, left + across).grown(border_px + 1, *places.shape).slices
        place = labels[here] == label
        yield here, place, (cv2.dilate(place.astype(np.uint8), square(border_px)) > 0) & ~place
