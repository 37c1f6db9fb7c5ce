"""Limbs of a product that end where no edge is seen: where a handle has the backdrop's own light, the rest of it may be lost."""

from __future__ import annotations

import cv2
import numpy as np

from true_backdrop.core.cut.components import components
from true_backdrop.core.cut.decided import Decided, Found
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.masks import outline_of
from true_backdrop.core.cut.outline_doubt import of_another_colour
from true_backdrop.core.cut.places import named, places
from true_backdrop.core.picture import Region

#: An end is so long at least (pixels), and at most in parts of the long side.
_LEAST_PX, _MOST = 8, 0.06
#: Within so many times its length there is so much product at most, in parts of its length squared: of a strip that begins there
#: 1.5 and less, beside a straight outline 3.5.
_WITHIN, _OF_A_STRIP = 1.5, 2.3
#: Along so much of its sides, up to that far away, an edge is seen.
_SIDES_SEEN = 0.6


def stumps(evidence: Evidence, decided: Decided) -> Found:
    """Whether a limb is cut off straight across, where no edge is seen, while its sides are seen."""
    product = decided.product
    if decided.clear or not product.any():
        return [], 0.0
    left, top, across, down = cv2.boundingRect(product.astype(np.uint8))
    box = Region(top, left, top + down, left + across).grown(2, *product.shape).slices
    inside, hinted = product[box], decided.hinted[box]
    ring = outline_of(inside)
    unseen = ring & outline_of(decided.at_match[box]) & ~hinted & ~of_another_colour(evidence.tint[box])
    found = np.zeros_like(product)
    labels, stats = components(unseen, 8)
    for label in np.flatnonzero(stats[:, cv2.CC_STAT_AREA] >= _LEAST_PX):
        x, y, width, height, _ = (int(value) for value in stats[label])
        length = float(np.hypot(width, height))
        if label == 0 or length > _MOST * evidence.long_side:
            continue
        reach = _WITHIN * length
        part = Region(y, x, y + height, x + width).grown(int(reach), *inside.shape).slices
        rows, columns = np.ogrid[part]
        around = np.hypot(rows - y - height / 2, columns - x - width / 2) < reach
        if np.count_nonzero(inside[part] & around) > _OF_A_STRIP * length * length:
            continue
        sides = ring[part] & around & (labels[part] != label)
        if sides.any() and hinted[part][sides].mean() > _SIDES_SEEN:
            found[box] |= labels == label
    if not found.any():
        return [], 0.0
    at = places(found, product, "ends where no edge is seen")
    return [(f"a part of the product ends where no edge is seen, {named(at)}; does it go on there?", at)], 0.1
