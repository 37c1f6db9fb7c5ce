"""Places inside a product that are backdrop by their own light or grain: the gap between two legs, the slit of an eye."""

from __future__ import annotations

from collections.abc import Iterator

import cv2
import numpy as np

from true_backdrop.core.arrays import Mask, Plane
from true_backdrop.core.cut.bare import (
    AS_LIGHT,
    FULL_LIGHT,
    GOES_ON,
    NOT_PALE,
    TONE,
    Bare,
    among_strands,
    as_glass,
    brighter_in_part,
    is_all_around,
    is_pane,
    lacks_grain,
    lit_all_over,
    ring_around,
    unlike_around,
)
from true_backdrop.core.cut.components import components, places_of
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.grain import compared, shows_grain
from true_backdrop.core.cut.hue import BackdropHue
from true_backdrop.core.cut.masks import disc, half_width, median, near, percentiles
from true_backdrop.core.cut.paper import with_grain
from true_backdrop.core.treatment import Material

#: A place is as large as this at least (pixels without its edges) for anything to be told.
_LEAST_PX = 12


def papered(evidence: Evidence, bare: Bare, inside: Mask, expected: Plane, material: Material, hue: BackdropHue) -> Mask:
    """Places (H, W) of what is `inside` that are backdrop, whatever else speaks against it: its grain is seen in them, or
    they are exactly as it is in full light, go on into nothing brighter, and all around is unlike them. From where the gap
    between two legs is lit, or opens into the backdrop, it goes on into its shadow. Of another `hue` than the backdrop has
    around none is, unless its grain is seen.
    """
    found = np.zeros(inside.shape, bool)
    exactly = bare.exactly & inside
    for here, place in _places(bare.soft & inside):
        tone = evidence.tone[here]
        off = min(abs(median(tone[place])), median(np.abs(tone[place] - expected[here][place])))
        shown = shows_grain(tone, evidence.bare[here], place, evidence.grain, likely=off < FULL_LIGHT)
        if shown is None and material != "clear" and not lacks_grain(evidence, here, place) and not hue.is_another(here, place):
            if _all_brighter(tone[place]):
                continue
            if lit_all_over(tone[place], evidence.tint[here][place], evidence.noise):
                shown = _enclosed_by_product(evidence, here, place, expected, slender=True)
            elif _lit_in_part(tone[place], exactly[here][place]) and _begins_nearby(evidence, here, place):
                shown = _enclosed_by_product(evidence, here, place, expected)
        if shown and not as_glass(evidence, here, place, expected, material) and not is_pane(evidence, here, place, expected):
            found[here] |= place
    if material == "clear":
        return found
    lit = ((here, place) for here, place in _places(exactly & ~found) if abs(median(evidence.tone[here][place])) <= FULL_LIGHT)
    places = [at for at in lit if _enclosed_by_product(evidence, *at, expected, slender=True)]
    if not places:
        return found
    parts, boxes = components(bare.soft & inside, 4)
    for here, place in places:
        of = parts[here][place][0]
        left, top, width, height, area = boxes[of]
        if np.count_nonzero(place) < _OF_A_PLACE * area or _all_brighter(evidence.tone[here][place]):
            continue
        whole = slice(top, top + height), slice(left, left + width)
        if brighter_in_part(evidence.tone[whole][parts[whole] == of], evidence.noise):
            continue
        if not lacks_grain(evidence, here, place) and not hue.is_another(here, place):
            found[here] |= place
    return found


def paper_within(evidence: Evidence, inside: Mask, expected: Plane) -> Mask:
    """What (H, W) of places that may be backdrop and are `inside` shows its grain, while the rest of the place does not."""
    found = np.zeros(inside.shape, bool)
    if evidence.grain is None:
        return found
    for here, place in places_of(with_grain(evidence.tone, evidence.bare, evidence.structure, inside), 4):
        seen_again = compared(evidence.tone[here], evidence.bare[here], place)
        if seen_again is None or seen_again.explained < _PLAINLY * evidence.grain.explained:
            continue
        if not as_glass(evidence, here, place, expected, "clear"):
            found[here] |= place
    # The grain cannot be seen right up to an edge; it goes on that far where there is none.
    return inside & near(found, _AROUND_PLACE_PX) if found.any() else found


#: The grain explains so much of what is seen of such a place, against bare backdrop: of 14 places of pale product that chance
#: made look so pixel by pixel it was 0.42 at most.
_PLAINLY = 0.6
#: How far beside an edge (pixels) the grain is not seen.
_AROUND_PLACE_PX = 6


def _places(mask: Mask) -> Iterator[tuple[tuple[slice, slice], Mask]]:
    """What of a mask (H, W) hangs together, without its edges: box, and in it (h, w) the place."""
    return places_of(cv2.erode(mask.astype(np.uint8), disc(1)), 4, _LEAST_PX)


#: Nearly all of a place (5th percentile, log units) is so much brighter than the backdrop in full light: on 960 composites none
#: of 380 that were backdrop was (0.002 at most), of 50 that were product four (0.005 and more).
_BRIGHTER, _NEARLY_ALL = 0.004, 5


def _all_brighter(tone: Plane) -> bool:
    """Whether hardly one of a place's n pixels is no brighter than the backdrop: white print, for product takes light from it."""
    return percentiles(tone, _NEARLY_ALL)[0] > _BRIGHTER


#: So much of a gap is lit, and its shadow is so deep at least (log units, at the 5th percentile).
_LIT_PART, _SHADOW = 0.15, -0.08


def _lit_in_part(tone: Plane, exactly: Mask) -> bool:
    """Whether of a place's n pixels many are exactly as the backdrop and none is brighter, but some lie in shadow.

    No surface is as flat as the backdrop over so much of it and dark elsewhere; glass has highlights, or is even.
    """
    if np.count_nonzero(exactly) <= _LIT_PART * tone.size:
        return False
    deepest, brightest = percentiles(tone, 5, 95)
    return bool(deepest < _SHADOW and brightest < TONE)


#: What is exactly as the backdrop is so much of all that is soft around it: of places that were backdrop on 960 composites 0.15
#: at least, of most of 40 that were product less.
_OF_A_PLACE = 0.12
#: A gap that nowhere (95th percentile, log units) is as light as that opens into something so near to its tone and tint, along a
#: tenth of its border (percentile): on 960 composites all 26 that were backdrop were lit or did, of seven panels three.
_HARDLY_DARKER, _NEARLY_ITS_OWN, _A_TENTH = -0.05, 0.06, 10


def _begins_nearby(evidence: Evidence, here: tuple[slice, slice], place: Mask) -> bool:
    """Whether a gap, a mask (h, w) of a box, is in the light somewhere, or what is as dark begins beside it."""
    tone = evidence.tone[here][place]
    if percentiles(tone, 95)[0] > _HARDLY_DARKER:
        return True
    around, ring = ring_around(evidence.shape, here, place)
    off = np.maximum(np.abs(evidence.tone[around][ring] - median(tone)), evidence.tint[around][ring])
    return bool(off.size and percentiles(off, _A_TENTH)[0] < _NEARLY_ITS_OWN)


#: A gap between slender parts is wider than this from its middle to its edge (pixels), or has product all around.
_WIDE_PX = 2.5


def _enclosed_by_product(
    evidence: Evidence, here: tuple[slice, slice], place: Mask, expected: Plane, *, slender: bool = False
) -> bool:
    """Whether a body, and neither pale product nor strands, is all around a place (h, w); or slender parts, if a gap is wide."""
    if unlike_around(evidence, here, place, expected) < NOT_PALE:
        return False
    if not among_strands(evidence, here, place):
        return True
    around, ring = ring_around(evidence.shape, here, place)
    off = np.maximum(np.abs(evidence.tone[around][ring]), evidence.tint[around][ring])
    if not slender or np.mean(off < AS_LIGHT) >= GOES_ON:
        return False
    if is_all_around(off):
        return True
    return half_width(place) > _WIDE_PX
