"""Two like places in a product of which one was taken for an opening and the other for product: one of the two is wrong.

The whites of two eyes, two pale stripes, the cells of a grille: chance or a shadow made one of them pass for backdrop, or hid
that the other one is.
"""

from __future__ import annotations

from typing import NamedTuple

import cv2
import numpy as np

from true_backdrop.core.arrays import Mask
from true_backdrop.core.cut.components import places_of
from true_backdrop.core.cut.decided import Decided, Found
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.masks import MIXED_PX, median, outside_of, shrunk
from true_backdrop.core.cut.places import named, places

#: Places of a product are so near to the backdrop's tone and tint (log units), or to the tone of an opening in deeper shadow.
_PALE, _NEUTRAL = 0.35, 0.12
#: Openings that have a twin are so large together (parts of the product's area), and the inside of one, off its edge, so many
#: pixels; each, and a place of product, is so large at least.
_LEAST, _LEAST_PX, _LEAST_ONE = 0.006, 12, 0.003
#: Two are alike that differ by so much at most in tone and tint (log units), and have such parts of each other's area and
#: length. Of 1,583 composites 12 had such a pair; 11 of these were off by more than 1 %, six of them called clean.
#: With openings in deep shadow and small ones, as those of a dial, two more of 432 had one, both off.
_TONE, _TINT, _AREA, _LENGTH = 0.12, 0.06, (0.3, 3.0), (0.5, 2.0)


class _Place(NamedTuple):
    """One of the places: its box and mask (h, w) in that, area (pixels), length of the box, and median tone and tint."""

    here: tuple[slice, slice]
    mask: Mask
    area: int
    length: int
    tone: float
    tint: float

    def is_like(self, other: _Place) -> bool:
        alike = abs(self.tone - other.tone) < _TONE and abs(self.tint - other.tint) < _TINT
        as_large = _AREA[0] < other.area / self.area < _AREA[1]
        return alike and as_large and _LENGTH[0] < other.length / self.length < _LENGTH[1]


def twins(decided: Decided) -> Found:
    """Whether an opening has a twin in the product that nobody has touched."""
    if not decided.by_itself:
        return [], 0.0
    busy = decided.busy
    found = unlike_twins(busy.evidence, busy.of_proxy(decided.product))
    if not found.any():
        return [], 0.0
    at = places(busy.on_proxy(found), decided.product, "one of two alike taken for an opening")
    said = f"of places that are alike some were taken for openings and some for product, {named(at)}; which are they?"
    return [(said, at)], 0.2


def unlike_twins(evidence: Evidence, product: Mask) -> Mask:
    """The openings (H, W) in a product (H, W) that have a twin in it, and these."""
    found = np.zeros_like(product)
    openings = ~product & ~outside_of(product)
    if not openings.any():
        return found
    area = float(np.count_nonzero(product))
    opened = _places(evidence, openings, _LEAST_ONE * area, MIXED_PX // 2)
    if not opened:
        return found
    left = _neutral_places(evidence, product, 0.0, _PALE, _LEAST_ONE * area)
    # In a deep shadow; a grille may have hundreds of openings there, of a few depths.
    for depth in {round(one.tone / _TONE) for one in opened if abs(one.tone) > _PALE - _TONE}:
        left += _neutral_places(evidence, product, depth * _TONE, 1.5 * _TONE, _LEAST_ONE * area)
    pairs = [(opening, twin) for opening in opened for twin in left if opening.is_like(twin)]
    for place in (one for pair in pairs for one in pair):
        found[place.here] |= place.mask
    if np.count_nonzero(found & openings) < _LEAST * area:
        return np.zeros_like(product)
    return found


def _places(evidence: Evidence, mask: Mask, least: float, inwards_px: int) -> list[_Place]:
    """What of a mask (H, W) hangs together over such an area at least; its light is that of its inside, so many pixels in."""
    found = []
    for here, place in places_of(mask, 4, round(least)):
        inside = shrunk(place, inwards_px)
        if np.count_nonzero(inside) >= _LEAST_PX:
            tone, tint = (median(plane[here][inside]) for plane in (evidence.tone, evidence.tint))
            found.append(_Place(here, place, int(np.count_nonzero(place)), max(place.shape), tone, tint))
    return found


def _neutral_places(evidence: Evidence, product: Mask, tone: float, off: float, least: float) -> list[_Place]:
    """Places of a product (H, W) that are neutral, and off a tone by so much at most."""
    places = product & (np.abs(evidence.tone - tone) < off) & (evidence.tint < _NEUTRAL)
    opened = cv2.morphologyEx(places.astype(np.uint8), cv2.MORPH_OPEN, np.ones((3, 3), np.uint8)) > 0
    return _places(evidence, opened, least, 0)
