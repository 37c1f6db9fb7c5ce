"""Shadow that was taken for product: it goes over into the backdrop more softly than any lens draws an edge.

A lens spreads every edge in focus over a pixel or two; a shadow's edge is as soft as the lamp is wide. So the slope of the one
is mostly lost when the tone is smoothed, and the slope of the other stays.
"""

from __future__ import annotations

import cv2
import numpy as np

from true_backdrop.core.arrays import Mask
from true_backdrop.core.cut.closing import Closing
from true_backdrop.core.cut.components import all_of, components
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.masks import half_width, median, outline_of, percentiles
from true_backdrop.core.cut.pockets import places_beside
from true_backdrop.core.cut.streaks import COLOURLESS, is_grey, less_sharp, streaks
from true_backdrop.core.cut.tolerances import Tolerances

#: A shadow is so large at least, in parts of the long side squared (tips of fur are as soft, and smaller), and so dark (log
#: units, from and to).
_LEAST, _DARKEST, _LIGHTEST = 0.0006, -1.4, -0.05
#: So much of its border lies along the backdrop at least, so much of that is soft, and so much of the rest at most: towards the
#: product there is an edge (measured on composites and path-traced products).
_MOUTH, _SOFT, _SOFT_WITHIN = 0.3, 0.9, 0.6
#: The soft edge is seen: its slope is so many times the noise, and not that of a sharp one nearby, which smoothing spreads.
_SEEN, _ITS_OWN = 2.0, 1.15
_BORDER_PX = 3
#: A neutral place below product that is coloured (median tint next to it, log units) is shadow where so much of its border lies
#: along the backdrop (half of a wedge's does, of a white dress below flowers a third) and so much of that is soft: of the borders
#: of neutral parts of drawn products less than 0.1 was. It has no more tint (median) than that: of nine such shadows on 600
#: composites 0.07 to 0.24, of three parts of products 0.28 and more.
_COLOURED, _MOUTH_OF_COLOURED, _SOFT_OF_COLOURED, _SHADOWS_TINT = 0.2, 0.45, 0.5, 0.26
#: Below a plainer colour (log units) so is one without any (median tint) whose border with the backdrop is less sharp than the
#: product's other outline (streaks.py): contact shadows are tinted by 0.01 to 0.04, neutral parts of products by 0.09 and more.
_PLAINLY_COLOURED, _NO_COLOUR = 0.5, 0.05
#: From its middle to its side such a place is narrower than this (pixels): broader shadows are soft for more than half of that
#: border (four of 6 to 17 pixels 0.63 at least), grey posts of 17 and 28 for 0.41 and 0.06.
_NARROW_PX = 8.0
#: A streak of shadow that stands apart from the rest is so large at most, in parts of that. One that touches product with so much
#: of a colour is so large at least (pixels) and at most, and so much of its border lies along the backdrop: on 250 composites 14
#: such places were shadow, 0.57 to 0.86 times as sharp as the product, and 17 parts of products, 0.92 times and more.
_APART, _LEAST_TOUCHING_PX, _TOUCHING, _MOUTH_OF_TOUCHING = 0.02, 60, 0.1, 0.5
#: But where nearly all of the border does it hangs on by a neck, as a grip does on a shaft (0.93 of it, of 29 streaks 0.81 at
#: most); and the border is nowhere (but for a tenth) as steep as this (log units a pixel; of these 0.08, of a part of one 0.3).
_BY_A_NECK, _STEEP, _MOST_OF_BORDER = 0.87, 0.2, 90
#: Where the product has less of a colour (log units, from that on), more of the border lies along the backdrop and is still less
#: sharp: of a shadow 0.81, 0.65 times as sharp; of parts of products so soft 0.46 at most.
_HARDLY_COLOURED, _MOSTLY_OPEN, _HARDLY_SHARP = 0.15, 0.65, 0.7
#: What has so much of the colour is the product's own. Along so much of its width the product is so few pixels above.
_HALF_COLOURED, _MOSTLY_BELOW, _ABOVE_PX = 0.5, 0.5, 4


def soft_shadows(evidence: Evidence, product: Mask, closing: Closing, box: tuple[slice, slice], limits: Tolerances) -> Mask:
    """What of a product (h, w) is shadow, where `closing` is that of the evidence of which this is a box."""
    tone, tint = evidence.tone, evidence.tint
    neutral = tint < limits.tint + limits.tint_in_shadow * np.clip(-tone, 0, 1)
    dark = product & neutral & (tone > _DARKEST) & (tone < _LIGHTEST)
    found, much = streaks_apart(evidence, product, closing, box), np.count_nonzero(dark)
    if much < _LEAST_TOUCHING_PX:
        return found
    even = _broad(dark)
    # What has no colour at all may hang together with product of little colour.
    for places in (even, _broad(dark & (tint < COLOURLESS))):
        found |= _touching(evidence, places, product, closing, box)
    least = _LEAST * evidence.long_side**2
    if much < least:
        return found
    soft = closing.soft[box]
    fine, broad = (plane[box] for plane in closing.slopes)
    places = _broad(dark & soft)
    for here, place, around in places_beside(places, ~product, least, np.inf, _BORDER_PX):
        mouth = around & ~product[here]
        if np.count_nonzero(mouth) < _MOUTH * np.count_nonzero(around) or soft[here][mouth].mean() < _SOFT:
            continue
        within = around & ~mouth
        if within.any() and soft[here][within].mean() > _SOFT_WITHIN:
            continue
        left = median(broad[here][mouth])
        if left > _SEEN * evidence.noise and median(fine[here][mouth]) > _ITS_OWN * left:
            found[here] |= place
    return found | _below_colour(evidence, even, product, closing, box, least)


def streaks_apart(evidence: Evidence, product: Mask, closing: Closing, box: tuple[slice, slice]) -> Mask:
    """Small places of a product (h, w), apart from the rest of it, that are streaks of shadow."""
    labels, stats = components(product, 8)
    areas = stats[:, cv2.CC_STAT_AREA]
    chosen = (areas > 0) & (areas < _APART * areas.sum())
    if not chosen.any():
        return np.zeros_like(product)
    small = all_of(labels, chosen)
    return streaks(evidence, closing, small, product & ~small, box)


def _broad(places: Mask) -> Mask:
    return np.asarray(cv2.morphologyEx(places.astype(np.uint8), cv2.MORPH_OPEN, np.ones((3, 3), np.uint8)) > 0)


def _touching(evidence: Evidence, even: Mask, product: Mask, closing: Closing, box: tuple[slice, slice]) -> Mask:
    """What (h, w) of an `even` dark and neutral part of a product hangs on a coloured one, and ends less sharply than that."""
    found = np.zeros_like(product)
    most = _TOUCHING * float(np.count_nonzero(product))
    for here, place, around in places_beside(even, ~product, _LEAST_TOUCHING_PX, most, _BORDER_PX):
        mouth = around & ~product[here]
        within = around & ~mouth
        opens = np.count_nonzero(mouth) / np.count_nonzero(around)
        if not within.any() or not _MOUTH_OF_TOUCHING <= opens < _BY_A_NECK:
            continue
        if percentiles(evidence.step[here][mouth], _MOST_OF_BORDER)[0] > _STEEP:
            continue
        colour = median(evidence.tint[here][within])
        if colour < _HARDLY_COLOURED or not is_grey(evidence, here, place):
            continue
        sharp, other = closing.sharp[box], outline_of(product)
        other[here] &= ~around
        if not other.any() or not less_sharp(sharp[here][mouth], sharp[other]):
            continue
        if colour > _COLOURED or (opens > _MOSTLY_OPEN and median(sharp[here][mouth]) < _HARDLY_SHARP * median(sharp[other])):
            found[here] |= place & (evidence.tint[here] < _HALF_COLOURED * colour)
    return found


def _below_colour(
    evidence: Evidence, even: Mask, product: Mask, closing: Closing, box: tuple[slice, slice], least: float
) -> Mask:
    """What (h, w) of an `even` dark and neutral part of a product lies below a coloured one and ends softly: contact shadow."""
    found, tint, soft = np.zeros_like(product), evidence.tint, closing.soft[box]
    for here, place, around in places_beside(even, ~product, least, np.inf, _BORDER_PX):
        mouth = around & ~product[here]
        within = around & ~mouth
        opens = np.count_nonzero(mouth) / np.count_nonzero(around)
        if not within.any() or not _MOUTH_OF_COLOURED <= opens < _BY_A_NECK:
            continue
        colour, own = median(tint[here][within]), median(tint[here][place])
        if np.nonzero(mouth)[0].mean() <= np.nonzero(within)[0].mean() or colour < _COLOURED or own > _SHADOWS_TINT:
            continue
        is_shadow = soft[here][mouth].mean() > _SOFT_OF_COLOURED
        plainly = colour > _PLAINLY_COLOURED and own < _NO_COLOUR
        if not is_shadow and plainly and _is_below(place, product[here] & ~place):
            sharp, other = closing.sharp[box], outline_of(product)
            other[here] &= ~around
            is_shadow = bool(other.any()) and less_sharp(sharp[here][mouth], sharp[other])
            # One too narrow to be soft is; what is broad and mostly not soft is a grey post in the shadow of its own box.
            is_shadow = is_shadow and half_width(place) < _NARROW_PX
        if is_shadow:
            found[here] |= place & (tint[here] < _HALF_COLOURED * colour)
    return found


def _is_below(place: Mask, product: Mask) -> bool:
    """Whether a place (h, w) has the rest of the product (h, w) right above it along most of its columns."""
    columns = np.flatnonzero(place.any(axis=0))
    highest = place.argmax(axis=0)[columns]
    above = [product[np.maximum(highest - up, 0), columns] for up in range(1, _ABOVE_PX + 1)]
    return float(np.mean(np.logical_or.reduce(above))) > _MOSTLY_BELOW
