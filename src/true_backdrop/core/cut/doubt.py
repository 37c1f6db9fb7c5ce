"""Places inside the product that may be backdrop, and places beside it that may be product."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from true_backdrop.core.arrays import Mask, Plane
from true_backdrop.core.cut.bare import bare_pixels, ring_around, unlike_around
from true_backdrop.core.cut.closing import LARGE_OUTSIDE, Closing
from true_backdrop.core.cut.components import all_of, components, counted
from true_backdrop.core.cut.crease import REACH_PX, off_the_crease
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.grain import shows_grain
from true_backdrop.core.cut.likeness import alike_at
from true_backdrop.core.cut.masks import disc, median, near, percentiles
from true_backdrop.core.cut.paper import seen_again
from true_backdrop.core.cut.shade import shade_around
from true_backdrop.core.cut.streaks import streaks
from true_backdrop.core.cut.tolerances import Tolerances
from true_backdrop.core.picture import Region

#: How far off the tone of the backdrop nearby, and how much of a shadow's tint tolerance, when its grain can be seen: the grain
#: decides then. Without grain metal mirrors paper and looks the same: only what is nearer counts, and more of it.
_WITH_GRAIN, _WITHOUT = (0.16, 1.0, 0.6), (0.05, 0.6, 0.0)
#: Grain is seen plainly from here on; so much of it again in a place speaks for paper.
_PLAIN, _AGAIN = 0.5, 0.3
#: In so deep a shadow (log units) the light's own slope and the noise hide the grain.
_GRAIN_LOST = -0.45
#: A place is at least so large, in parts of the product's area and in pixels.
_LEAST, _LEAST_PX = 0.002, 30
#: So much of the product's area in such places is worth a look: with fine grain, with structure alone, and with neither (measured
#: on composites, docs/cut.md).
_BY_GRAIN, _BY_STRUCTURE, _BY_LIGHT = 0.006, 0.03, 0.08


#: Beside the product: so far away (pixels), so long, and in parts of the outline's length worth a look; at this match. What is
#: soft for more than such a part is a shadow.
_AWAY_PX, _LONG_PX, _MOSTLY = 8, 18, 0.5
BESIDE_WORTH_A_LOOK = 0.02
_BESIDE_MATCH = 45


def product_like(evidence: Evidence, product: Mask, closing: Closing) -> tuple[Mask, float]:
    """Places (h, w) away from the product that look like neither backdrop nor shadow, and how much of them there is.

    In parts of the outline's length: a pale part that was lost leaves the thin lines of its own outline. All are of the busy
    part of the proxy, outside which all is bare. A shadow of something narrow is as thin as a line; it is told by being
    mostly soft, which a lens does not make of an edge, or by being less sharp than the product's outline.
    """
    unlike = ~alike_at(evidence, _BESIDE_MATCH)
    rest = _long(unlike & ~near(product, _AWAY_PX))
    if rest.any():
        rest = _long(rest & _off_the_crease(evidence, product | unlike, rest), closing.soft)
        rest &= ~streaks(evidence, closing, rest, product)
    outline = cv2.morphologyEx(product.astype(np.uint8), cv2.MORPH_GRADIENT, np.ones((3, 3), np.uint8))
    return rest, int(np.count_nonzero(rest)) / max(1, int(np.count_nonzero(outline)))


#: Edges so far away (pixels) belong to nothing; more of them than such a part of the outline are no shadow's. Where there is
#: hardly an outline it counts as so long, in parts of the long side (on sets of many kinds).
_BELONG_PX, _MANY_EDGES, _LEAST_OUTLINE = 10, 0.5, 0.4
#: A place is so broad at least (pixels from its middle to its edge).
_BROAD_PX = 3
#: So much of its border is an edge that is seen.
_BORDER_SEEN = 0.08


def lost_beside(evidence: Evidence, closing: Closing, product: Mask) -> Mask:
    """What may be a pale part that was lost, (h, w), away from a product of the busy part.

    Large places that are not as light as the backdrop or lack its grain, and edges that belong to nothing, where there are many.
    """
    away = cv2.dilate(product.astype(np.uint8), disc(_BELONG_PX)) == 0
    pale = cv2.morphologyEx((closing.light_as_product & away).astype(np.uint8), cv2.MORPH_OPEN, disc(_BROAD_PX))
    labels, stats = components(pale, 4)
    lost = np.zeros_like(away)
    for label in range(1, len(stats)):
        left, top, width, height, area = (int(value) for value in stats[label])
        if area < LARGE_OUTSIDE * closing.long_side**2:
            continue
        here = Region(top, left, top + height, left + width).grown(2 * _BROAD_PX, *away.shape).slices
        place = (labels[here] == label).astype(np.uint8)
        border = cv2.morphologyEx(place, cv2.MORPH_GRADIENT, disc(_BROAD_PX)) > 0
        if closing.seen[here][border].mean() > _BORDER_SEEN:  # light that the product throws ends softly
            lost[here] |= place > 0
    edges = closing.seen & away & ~closing.soft
    edges &= ~streaks(evidence, closing, edges, product)
    lost &= ~streaks(evidence, closing, lost, product)
    outline = np.count_nonzero(cv2.morphologyEx(product.astype(np.uint8), cv2.MORPH_GRADIENT, np.ones((3, 3), np.uint8))) / 2
    many = np.count_nonzero(edges) > _MANY_EDGES * max(outline, _LEAST_OUTLINE * closing.long_side)
    return np.asarray(lost | (edges & many))


def _long(places: Mask, soft: Mask | None = None) -> Mask:
    """What of some places (h, w) is long enough to be looked at, and not mostly `soft`."""
    labels, stats = components(places, 8)
    long = np.maximum(stats[:, cv2.CC_STAT_WIDTH], stats[:, cv2.CC_STAT_HEIGHT]) >= _LONG_PX
    if soft is not None:
        long &= counted(labels, soft, len(stats)) < _MOSTLY * stats[:, cv2.CC_STAT_AREA]
    long[0] = False
    return all_of(labels, long) if long.any() else np.zeros_like(places)


def _off_the_crease(evidence: Evidence, product: Mask, rest: Mask) -> Mask:
    """What of a product (h, w) and all beside it is no contact shadow, wherever there is a rest (h, w) to ask about."""
    left, top, across, down = cv2.boundingRect(rest.astype(np.uint8))
    box = Region(top, left, top + down, left + across).grown(REACH_PX, *rest.shape).slices
    limits = Tolerances.of(_BESIDE_MATCH, evidence.noise, evidence.long_side)
    tone, tint = np.ascontiguousarray(evidence.tone[box]), np.ascontiguousarray(evidence.tint[box])
    without = np.ascontiguousarray(product[box])
    off_the_crease(without, tone, tint, limits.tint, evidence.long_side)
    product[box] = without
    return product


@dataclass(frozen=True, slots=True)
class BackdropLike:
    """Masks (h, w) of the busy part of the proxy, in the product.

    places    what looks like backdrop
    by_grain  whether the backdrop's grain could be asked
    openings  what looks like openings into which a shadow falls
    least     so much of such places, in parts of the product's area, is worth a look
    """

    places: Mask
    by_grain: bool
    openings: Mask
    least: float


def backdrop_like(evidence: Evidence, product: Mask) -> BackdropLike:
    """Places inside the product (h, w) that may be backdrop; all of the busy part of the proxy."""
    found, openings = np.zeros_like(product), np.zeros_like(product)
    by_grain = evidence.structure > _PLAIN
    worth = _BY_LIGHT if not by_grain else _BY_STRUCTURE if evidence.grain is None else _BY_GRAIN
    left, top, across, down = cv2.boundingRect(product.astype(np.uint8))
    if across == 0:
        return BackdropLike(found, by_grain, openings, worth)
    expected = shade_around(evidence, ~product)
    box = Region(top, left, top + down, left + across).slices
    limits = Tolerances.of(50, evidence.noise, evidence.long_side)
    depth = np.clip(-expected[box], 0, 1)
    tone, bare = evidence.tone[box], evidence.bare[box]
    inner = cv2.erode(product[box].astype(np.uint8), np.ones((3, 3), np.uint8)) > 0
    askable = (expected[box] > _GRAIN_LOST) if by_grain else np.zeros_like(inner)
    close, tint, in_shadow = (np.where(askable, np.float32(a), np.float32(b)) for a, b in zip(_WITH_GRAIN, _WITHOUT, strict=True))
    alike = inner & (np.abs(tone - expected[box]) < close)
    alike &= evidence.tint[box] < tint * limits.tint + in_shadow * limits.tint_in_shadow * depth
    opened = cv2.morphologyEx(alike.astype(np.uint8), cv2.MORPH_OPEN, np.ones((3, 3), np.uint8))
    labels, stats = components(opened, 4)
    least = max(_LEAST_PX, _LEAST * float(np.count_nonzero(product)))
    inside = found[box]
    for label in range(1, len(stats)):
        x, y, width, height, area = stats[label]
        if area < least:
            continue
        here = slice(y, y + height), slice(x, x + width)
        place = labels[here] == label
        if shows_grain(tone[here], bare[here], place, evidence.grain) is False:
            continue
        again = seen_again(tone[here], bare[here], place & askable[here])
        if again is None or again >= _AGAIN * evidence.structure:
            inside[here] |= place
    if evidence.grain is None:
        least = WORTH_AN_OPENING * float(np.count_nonzero(product))
        openings[box] = product[box] & _openings_in_shadow(evidence.view(box), inner, expected[box], limits, least)
    return BackdropLike(found, by_grain, openings, worth)


#: So much of the product's area is an opening at least; where it is lightest (95th percentile) it is so near to full light, and
#: where it is darkest (5th) so much darker; the body around is so far off (log units).
WORTH_AN_OPENING, _NEARLY_LIT, _FALLS, _BODY = 0.01, -0.2, 0.15, 0.8
#: Or it lies in a shadow as a whole, as what is nearby does (log units each), and is so even; the body around may then be less
#: far off, as a dark one before dark paper is. On 432 composites all three such places were openings.
_IN_SHADOW, _SHADE_NEARBY, _EVEN_IN_SHADOW, _BODY_IN_SHADOW = -0.12, -0.1, 0.35, 0.35
#: Or it has no colour (median tint in log units, and in the noise) in product of such a colour.
_COLOURLESS, _COLOURLESS_NOISE, _COLOURED = 0.035, 5.5, 0.5
#: Its middle (median tone, log units) is darker than product may be in the light, and lighter than the dark parts of one: of 12
#: openings on 1,000 composites it was -0.47 to -0.10; of product that was asked about -0.85 and less, or -0.08 and more, in 14 of
#: 19 places. So much of the product's area in them, of which the lens's blur takes some, is worth a look.
_DARK_PART, _IN_THE_LIGHT, OPENING_IN_SHADOW = -0.7, -0.09, 0.007
#: Where there are several, as between the bars of a frame, one may be so much smaller; all of them together must be as large.
_ONE_OF_SEVERAL = 0.3


def _openings_in_shadow(evidence: Evidence, inner: Mask, expected: Plane, limits: Tolerances, least: float) -> Mask:
    """Places (h, w) in a dark body that are as neutral and soft as a shadow, and go from nearly full light into the dark, or
    lie evenly in a shadow that is seen around; or that have no colour in a coloured body.

    Such is an opening, as that of a letter O, where its own shadow falls into it; a grey part may be so as well.
    """
    found = np.zeros_like(inner)
    if np.count_nonzero((np.abs(evidence.tone) > _BODY_IN_SHADOW) | (evidence.tint > _BODY_IN_SHADOW)) < least:
        return found  # no such body
    soft = bare_pixels(evidence, limits, expected).soft & inner
    deep = cv2.erode(soft.astype(np.uint8), np.ones((3, 3), np.uint8))
    labels, stats = components(deep, 4)
    for label in range(1, len(stats)):
        x, y, width, height, area = (int(value) for value in stats[label])
        if area < _ONE_OF_SEVERAL * least:
            continue
        here = slice(y, y + height), slice(x, x + width)
        place = labels[here] == label
        darkest, middle, lightest = percentiles(evidence.tone[here][place], 5, 50, 95)
        if not _DARK_PART < middle < _IN_THE_LIGHT:
            continue
        in_light = _NEARLY_LIT < lightest < limits.brighter and lightest - darkest > _FALLS
        shaded = lightest < _IN_SHADOW and lightest - darkest < _EVEN_IN_SHADOW
        shaded = shaded and float(np.median(expected[here][place])) < _SHADE_NEARBY
        body = _BODY_IN_SHADOW if shaded else _BODY
        by_light = (in_light or shaded) and unlike_around(evidence, here, place, expected) > body
        if by_light or (lightest < limits.brighter and _without_colour(evidence, here, place)):
            found[here] |= place
    return np.asarray(cv2.dilate(found.astype(np.uint8), np.ones((5, 5), np.uint8)) > 0)


def _without_colour(evidence: Evidence, here: tuple[slice, slice], place: Mask) -> bool:
    """Whether a place (h, w) has no colour, and what is around has."""
    colour = median(evidence.tint[here][place])
    if colour > max(_COLOURLESS, _COLOURLESS_NOISE * evidence.noise):
        return False
    around, ring = ring_around(evidence.shape, here, place)
    return bool(ring.any()) and median(evidence.tint[around][ring]) > _COLOURED
