"""Is it glass? Where the backdrop's own grain is seen through a product, and where it might be but has none."""

from __future__ import annotations

import cv2
import numpy as np

from true_backdrop.core.arrays import Mask
from true_backdrop.core.cut.components import components
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.fall_off import seen_by_fall_off
from true_backdrop.core.cut.grain import compared
from true_backdrop.core.cut.masks import MIXED_PX, disc, eroded, median, shrunk
from true_backdrop.core.cut.tolerances import Tolerances

#: The grain must be seen so plainly on bare backdrop for anything to be told.
_PLAIN = 0.7
#: So much of it, against bare backdrop, is seen through glass, and explains so much of the structure of the place.
_THROUGH, _EXPLAINED = 0.6, 0.4
#: Glass before paper leaves at least so much of its light (log units).
_DARKEST = -1.0
#: A place is as large as this at least, in parts of the long side squared: in a smaller one chance does it.
_LARGE = 0.0006
#: A smaller place, of so many pixels at least, is glass if it is so near to the light of one that was told (log units).
_SMALL_PX, _SAME = 40, 0.02
#: Match at which a place counts as free of edges and lines of its own.
_MATCH = 40


def seen_through(evidence: Evidence, product: Mask) -> Mask | None:
    """Places (H, W) inside a product that show the backdrop's grain: glass, or a gap in deep shadow; None when nowhere.

    Glass dims the grain's light but not its relative pattern, as a shadow does. Each place between the edges and lines of
    the product is asked as a whole, whatever its tone, so that chance has no choice among pixels. Where there is no grain to see
    the fall-off of the backdrop's light may tell (fall_off.py).
    """
    plain = evidence.grain
    if not product.any():
        return None
    if evidence.structure < _PLAIN or plain is None:
        return seen_by_fall_off(evidence, product)
    left, top, across, down = cv2.boundingRect(product.astype(np.uint8))
    box = slice(top, top + down), slice(left, left + across)
    limits = Tolerances.of(_MATCH, evidence.noise, evidence.long_side)
    tone, bare = np.ascontiguousarray(evidence.tone[box]), np.ascontiguousarray(evidence.bare[box])
    even = (evidence.step[box] < limits.step) & (evidence.thin[box] < limits.thin) & (tone > _DARKEST)
    inner = shrunk(np.asarray(product[box] & even), MIXED_PX // 2)
    labels, stats = components(inner, 4)
    found = np.zeros(product.shape, bool)
    glass: list[float] = []
    for label in 1 + np.argsort(-stats[1:, cv2.CC_STAT_AREA]):
        x, y, width, height, area = stats[label]
        if area < _SMALL_PX:
            break
        here = slice(y, y + height), slice(x, x + width)
        place = labels[here] == label
        light = median(tone[here][place])
        large = area >= _LARGE * evidence.long_side**2
        shown = compared(tone[here], bare[here], place) if large else None
        told = shown and shown.again > _THROUGH * plain.again and shown.explained > _EXPLAINED * plain.explained
        if told:
            glass.append(light)
        if told or (not large and any(abs(light - one) < _SAME for one in glass)):
            found[box][here] |= place
    return cv2.dilate(found.astype(np.uint8), disc(MIXED_PX)) > 0 if found.any() else None


#: Without grain: glass as usual leaves so much light (log units), is as even as the noise, and is a good part of the product.
_USUAL_GLASS, _EVEN, _GOOD_PART = (-0.4, -0.03), 1.5, 0.05


def might_be_glass(evidence: Evidence, product: Mask) -> Mask | None:
    """Large places (H, W) in a product that are as neutral, even and light as glass before paper; None when nowhere.

    Pale card is the same. Where the backdrop has grain that tells them apart, and nothing is asked here.
    """
    area = int(np.count_nonzero(product))
    if evidence.structure >= _PLAIN or area == 0:
        return None
    left, top, across, down = cv2.boundingRect(product.astype(np.uint8))
    box = slice(top, top + down), slice(left, left + across)
    limits = Tolerances.of(_MATCH, evidence.noise, evidence.long_side)
    tone = evidence.tone[box]
    even = (evidence.step[box] < limits.step) & (evidence.tint[box] < limits.tint)
    inner = eroded(np.asarray(product[box] & even & (tone > _USUAL_GLASS[0]) & (tone < _USUAL_GLASS[1])), MIXED_PX)
    labels, stats = components(inner, 4)
    found = np.zeros(product.shape, bool)
    for label in range(1, len(stats)):
        if stats[label, cv2.CC_STAT_AREA] < _GOOD_PART * area:
            continue
        place = labels == label
        values = tone[place]
        if median(np.abs(values - median(values))) < _EVEN * evidence.noise:
            found[box] |= place
    return found if found.any() else None
