"""Openings in front of a backdrop that is not white: hardly any product has just its grey or its colour, so what has is backdrop.

On white the same place may be white print or a white part, and there more is asked (hole_criteria.py).
"""

from __future__ import annotations

import numpy as np

from true_backdrop.core.arrays import Mask, Plane
from true_backdrop.core.cut.bare import PANE_PX, THROUGH_GLASS, lacks_grain, unlike_around
from true_backdrop.core.cut.components import places_of
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.hue import BackdropHue
from true_backdrop.core.cut.masks import eroded, median, near, percentiles, shrunk

#: A backdrop is not white that has such a colour (log units between its channels), or is so dark (log units, below what the file
#: can hold) while a part of the product (percent from the brightest) is so much brighter (log units).
_COLOURED, _DARK, _BRIGHTEST, _BRIGHTER = 0.15, -0.6, 98, 0.1
#: Every so many pixels of a backdrop say how dark it is.
_EVERY = slice(None, None, 8)
#: A place is so large and somewhere so broad at least (pixels without its edges, and of these from its middle to its edge).
_LEAST_PX, _BROAD_PX = 20, 1
#: What is left of a place, so near (pixels) to what was found of it to be backdrop, was left for a reason.
_BESIDE_PX = 3
#: It is as light as the backdrop, or lies in a light shadow, evenly; it is so neutral (median tint); and what is around is so far
#: off (log units each). On composites on grey, dark and coloured sets all such places were openings (11 of 11), of those on white
#: ones 1 of 32.
_LIGHTEST, _DARKEST, _EVEN, _NEUTRAL, _AROUND = 0.02, -0.32, 0.15, 0.04, 0.6


def is_off_white(evidence: Evidence, inside: Mask) -> bool:
    """Whether the backdrop of some evidence (H, W) is grey, dark or coloured, by itself and by what is `inside` (H, W) of it."""
    if evidence.coloured > _COLOURED:
        return True
    if float(np.percentile(evidence.bare[_EVERY, _EVERY], 90)) > _DARK or not inside.any():
        return False
    return bool(percentiles(evidence.tone[inside], _BRIGHTEST)[0] > _BRIGHTER)


def openings_off_white(evidence: Evidence, soft: Mask, inside: Mask, expected: Plane, hue: BackdropHue) -> Mask:
    """What (H, W) of the `soft` and neutral places `inside` a product is backdrop, on a set that is not white.

    `expected` (H, W) is the tone of the backdrop nearby.
    """
    found = np.zeros(inside.shape, bool)
    if evidence.grain is not None or not is_off_white(evidence, inside):
        return found
    beside = near(~inside, _BESIDE_PX)
    for here, place in places_of(eroded(soft & inside, 1) > 0, 4, _LEAST_PX):
        if beside[here][place].any() or not shrunk(place, _BROAD_PX).any() or not _is_as_light(evidence, here, place, expected):
            continue
        if not lacks_grain(evidence, here, place) and not hue.is_another(here, place):
            found[here] |= place
    return found


def _is_as_light(evidence: Evidence, here: tuple[slice, slice], place: Mask, expected: Plane) -> bool:
    """Whether a place (h, w) of a box is as light, even and neutral as an opening, in product that is not, and not as a pane."""
    tone, tint = evidence.tone[here][place], evidence.tint[here][place]
    darkest, middle, lightest = percentiles(tone, 5, 50, 95)
    if middle <= _DARKEST or lightest > _LIGHTEST or lightest - darkest > _EVEN:
        return False
    if median(tint) > _NEUTRAL:
        return False
    if tone.size >= PANE_PX and median(expected[here][place] - tone) > THROUGH_GLASS:
        return False
    return unlike_around(evidence, here, place, expected) > _AROUND
