"""Glass before paper without grain: through it the fall-off of the set's own light is seen.

A pane is as dark against the backdrop wherever one looks, however the backdrop's light falls off: I / B is constant. A surface
has its own light, which does not follow that of what stands behind it. One that lies flat on the backdrop does; then all
surfaces of the product do, and nothing is told.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import cv2
import numpy as np

from true_backdrop.core.arrays import Mask, Plane
from true_backdrop.core.cut.components import components
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.masks import median, most_alike, percentiles, shrunk
from true_backdrop.core.cut.tolerances import Tolerances
from true_backdrop.core.picture import Region

#: Match at which a place counts as free of edges and lines of its own.
_MATCH = 40
#: A place is looked at without so many pixels at its sides, in squares of so many, of which there must be so many.
_SIDES_PX, _SQUARE_PX, _LEAST_SQUARES = 3, 8, 12
#: So much of a place (the part that is most alike) is looked at: a shadow or a highlight may lie over the rest.
_MOST_OF = 0.6
#: The backdrop behind that part varies so many times as much as its tone, and by so much (log units, 5th to 95th percentile). Of
#: flat and shaded surfaces on 110 composites it was 2.1 times at most, of panes 3.3 at least.
_TIMES, _VARIES = 3.0, 0.003
#: Its tone varies by no more than so many times the noise.
_EVEN = 2.5
#: A pane leaves so much of the backdrop's light (log units), and is so much of the product at least.
_OF_GLASS, _LEAST_PART = (-0.6, -0.03), 0.02
#: What is so near to a pane's tone (log units), and of so many pixels at least, is the same glass.
_SAME, _SMALL_PX = 0.012, 40
#: A surface that tells that all lies flat is as large as this at least.
_SURFACE_PART = 0.01
#: What borders a pane is its rim, or a highlight: within so many pixels, so much darker than itself, or brighter than the
#: backdrop (log units), on so much of its border.
_BORDER_PX, _RIM, _HIGHLIGHT, _RIMMED = 6, 0.1, 0.04, 0.6


@dataclass(frozen=True, slots=True)
class _Place:
    """A place between edges: its box in the evidence and the mask in it (h, w), tone and tint, its part of the product's area,
    and whether it `follows` the backdrop's light, which varies there."""

    box: Region
    mask: Mask
    tone: float
    tint: float
    part: float
    follows: bool


def seen_by_fall_off(evidence: Evidence, product: Mask) -> Mask | None:
    """Places (H, W) inside a product that are glass, as far as the backdrop's light tells; None where there are none."""
    if not product.any():
        return None
    left, top, across, down = cv2.boundingRect(product.astype(np.uint8))
    box = Region(top, left, top + down, left + across).slices
    limits = Tolerances.of(_MATCH, evidence.noise, evidence.long_side)
    part = evidence.view(box)
    glass: list[_Place] = []
    surfaces: list[_Place] = []
    for place in _places(part, product[box], limits):
        pane = _OF_GLASS[0] < place.tone < _OF_GLASS[1] and place.tint < limits.tint
        (glass if pane else surfaces).append(place)
    if any(place.follows for place in surfaces):
        return None
    told = [place for place in glass if place.follows and place.part > _LEAST_PART and _rimmed(part.tone, place)]
    found = np.zeros(product.shape, bool)
    for place in glass:
        if any(abs(place.tone - one.tone) < _SAME for one in told):
            found[box][place.box.slices] |= place.mask
    return found if told else None


def _places(evidence: Evidence, product: Mask, limits: Tolerances) -> Iterator[_Place]:
    """What lies between the edges and lines of a product (h, w), whatever its tone and tint."""
    area = int(np.count_nonzero(product))
    even = (evidence.step < limits.step) & (evidence.thin < limits.thin)
    labels, stats = components(shrunk(np.asarray(product & even), _SIDES_PX), 4)
    for label in np.flatnonzero(stats[:, cv2.CC_STAT_AREA] > _SMALL_PX):
        x, y, width, height, pixels = stats[label]
        at = Region(y, x, y + height, x + width)
        here = at.slices
        mask = labels[here] == label
        tone = _varies(evidence, here, mask) if pixels > _SURFACE_PART * area else None
        tint = median(evidence.tint[here][mask])
        middle = median(evidence.tone[here][mask]) if tone is None else tone
        yield _Place(at, mask, middle, tint, pixels / area, tone is not None)


def _varies(evidence: Evidence, here: tuple[slice, slice], mask: Mask) -> float | None:
    """The tone of most of a place (h, w), if the backdrop's light varies over that and the place's tone does not."""
    height, width = mask.shape
    squares = max(1, width // _SQUARE_PX), max(1, height // _SQUARE_PX)
    weight = mask.astype(np.float32)

    def means(plane: Plane) -> Plane:
        return np.asarray(cv2.resize(plane * weight, squares, interpolation=cv2.INTER_AREA), np.float32)

    of = np.asarray(cv2.resize(weight, squares, interpolation=cv2.INTER_AREA), np.float32)
    whole = of > 0.5
    if np.count_nonzero(whole) < _LEAST_SQUARES:
        return None
    tone, bare = (means(plane[here])[whole] / of[whole] for plane in (evidence.tone, evidence.bare))
    order = np.argsort(tone)
    tone, bare = tone[order], bare[order]
    alike = most_alike(tone, _MOST_OF)
    tone, bare = tone[alike], bare[alike]
    (darkest, lightest), (low, high) = percentiles(tone, 5, 95), percentiles(bare, 5, 95)
    even = lightest - darkest
    if even > _EVEN * evidence.noise or high - low < max(_VARIES, _TIMES * even):
        return None
    return median(tone)


def _rimmed(tone: Plane, place: _Place) -> bool:
    """Whether a rim of the product borders a pane, and not the backdrop itself, as it would grey card."""
    around = np.ones((2 * _BORDER_PX + 1,) * 2, np.uint8)
    border = place.mask & ~shrunk(place.mask, 1)
    if not border.any():
        return False
    wide = place.box.grown(_BORDER_PX, *tone.shape)
    near, inside = np.ascontiguousarray(tone[wide.slices]), place.box.within(wide)
    darkest, brightest = cv2.erode(near, around)[inside][border], cv2.dilate(near, around)[inside][border]
    rim = (darkest < place.tone - _RIM) | (brightest > _HIGHLIGHT)
    return bool(np.mean(rim) > _RIMMED)
