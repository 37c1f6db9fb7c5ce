"""An outline that steps back just where the product turns pale: its end, as light as the backdrop, may be lost there.

A flag's white stripe, or the white foot of a bottle, may end in a face that has the shadow's grey; the outline then runs along
the inner edge of that, and begins and ends with a corner where the colour beside it does. A product may be made so as well.
"""

from __future__ import annotations

import cv2
import numpy as np

from true_backdrop.core.arrays import Mask
from true_backdrop.core.cut.bare import ring_around
from true_backdrop.core.cut.components import components, each
from true_backdrop.core.cut.decided import Decided, Found
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.masks import median, near
from true_backdrop.core.cut.places import named, places
from true_backdrop.core.cut.small_signs import SURELY_STRANDS
from true_backdrop.core.picture import Region

#: So many corners are worth a look: of 940 right cuts that nothing else is asked about 5 have as many.
_MANY = 3
#: A corner is what a disc of such a radius (pixels) does not reach into; it has so many pixels at least, and such a part of the
#: product's area at most; so many are looked at.
_REACH_PX, _LEAST_PX, _LARGEST, _MOST = 12, 12, 0.05, 60
#: It is open along so many pixels at least, which lie on one line up to so many.
_OPEN_PX, _STRAIGHT_PX = 6, 2.5
#: From and to so many pixels inside of it the product is looked at: behind its middle, in parts of how long it is open, and
#: beyond its ends, in so many places each.
_INSIDE_PX, _MIDDLE, _ENDS, _PLACES = (1, 3), 0.3, 0.5, 4
#: Behind it the product is so near to the backdrop's light, and has so little tint; it is so near itself, and differs from it by
#: so much at most; beyond one of its ends the product differs by so much at least (log units, the largest channel).
_PALE, _COLOURLESS, _ALIKE, _UNLIKE = 0.75, 0.12, 0.45, 0.4
#: Darker than this (in steps of the relief) there is no colour.
_DARK = 4
#: So near to backdrop between strands (pixels) an outline has corners by nature.
_BETWEEN_PX = 12


def stepped(evidence: Evidence, decided: Decided) -> Found:
    """Whether the outline steps back in several places just where the product turns pale, and nobody has touched it."""
    if not decided.by_itself:
        return [], 0.0
    busy = decided.busy
    corners = busy.on_proxy(steps_where_pale(busy.evidence, busy.of_proxy(decided.product)))
    if decided.open is not None and _are_strands(decided, decided.open):
        corners &= ~near(decided.open, _BETWEEN_PX)
    if components(corners, 4)[0].max() < _MANY:
        return [], 0.0
    at = places(corners, decided.product, "steps back where it turns pale")
    return [(f"the outline steps back where the product turns pale, {named(at)}; is its end lost there?", at)], 0.1


def _are_strands(decided: Decided, between: Mask) -> bool:
    """Whether what is open `between` strands (H, W) is so for sure: somebody named them, or there is much of it."""
    return not decided.unsaid or bool(np.count_nonzero(between) >= SURELY_STRANDS * np.count_nonzero(decided.product))


def steps_where_pale(evidence: Evidence, product: Mask) -> Mask:
    """Corners (H, W) beside a product (H, W) in which its outline steps back where it turns pale."""
    found = np.zeros_like(product)
    left, top, width, height = cv2.boundingRect(product.view(np.uint8))
    if width == 0:
        return found
    box = Region(top, left, top + height, left + width).grown(_INSIDE_PX[1] + 1, *product.shape).slices
    evidence, product, inside = evidence.view(box), np.ascontiguousarray(product[box]), found[box]
    closed = _closed(product)
    rim = closed & (cv2.erode(closed.view(np.uint8), np.ones((3, 3), np.uint8)) == 0)
    labels, stats = components(closed & ~product, 4)
    areas = stats[:, cv2.CC_STAT_AREA]
    fits = np.flatnonzero((areas >= _LEAST_PX) & (areas < _LARGEST * np.count_nonzero(product)))
    for _, here, corner in each(labels, stats, fits[np.argsort(-areas[fits])][:_MOST]):
        if _is_pale_step(evidence, product, rim, here, corner):
            inside[here] |= corner
    return found


def _closed(product: Mask) -> Mask:
    """A product (h, w) and what no disc beside it reaches."""
    room = _REACH_PX + 1
    reached = ~near(np.pad(product, room), _REACH_PX)
    return np.asarray(~near(reached, _REACH_PX)[room:-room, room:-room])


def _is_pale_step(evidence: Evidence, product: Mask, rim: Mask, here: tuple[slice, slice], corner: Mask) -> bool:
    """Whether a corner, a mask (h, w) of a box, is one; `rim` (H, W) is where corners are open, beside a product (H, W)."""
    along = _along(corner & rim[here])
    if along is None:
        return False
    middle, direction, length = along
    around, ring = ring_around(product.shape, here, corner, _INSIDE_PX)
    y, x = np.nonzero(product[around] & ring)
    ahead = x + around[1].start - here[1].start - middle[0], y + around[0].start - here[0].start - middle[1]
    at = (ahead[0] * direction[0] + ahead[1] * direction[1]) / length
    behind, ends = np.abs(at) < _MIDDLE, (at < -_ENDS, at > _ENDS)
    if min(np.count_nonzero(there) for there in (behind, *ends)) < _PLACES:
        return False
    if abs(median(evidence.tone[around][y, x][behind])) > _PALE or median(evidence.tint[around][y, x][behind]) > _COLOURLESS:
        return False
    if abs(median(evidence.tone[here][corner])) > _PALE:
        return False
    beside, inside = (np.log(np.maximum(evidence.relief[box].astype(np.float32), _DARK)) for box in (around, here))
    pale, own = np.median(beside[y, x][behind], axis=0), np.median(inside[corner], axis=0)
    beyond = max(float(np.abs(np.median(beside[y, x][end], axis=0) - pale).max()) for end in ends)
    return beyond > _UNLIKE and float(np.abs(own - pale).max()) < _ALIKE


def _along(line: Mask) -> tuple[tuple[float, float], tuple[float, float], float] | None:
    """The middle (x, y) of the pixels of a mask, their direction, and how long they are; None where that is no line."""
    y, x = np.nonzero(line)
    if y.size < _OPEN_PX:
        return None
    points = np.stack([x, y], axis=1).astype(np.float64)
    direction = np.linalg.svd(points - points.mean(axis=0), full_matrices=False)[2][0]
    ahead, aside = points @ direction, (points - points.mean(axis=0)) @ (-direction[1], direction[0])
    first, last = float(ahead.min()), float(ahead.max())
    if np.abs(aside).max() > _STRAIGHT_PX:
        return None
    middle = points.mean(axis=0) + ((first + last) / 2 - ahead.mean()) * direction
    return (float(middle[0]), float(middle[1])), (float(direction[0]), float(direction[1])), last - first
