"""Slits in a product, so narrow that all of them lies at an edge, through which the backdrop is seen in full light."""

from __future__ import annotations

import cv2
import numpy as np

from true_backdrop.core.arrays import Mask
from true_backdrop.core.cut.bare import is_all_around, lit_all_over, ring_around
from true_backdrop.core.cut.components import components, counted, each
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.grain import shows_grain

#: Of a slit so many pixels at least have the backdrop's light, and from its middle to its edge it is so wide at most (pixels).
_SLIT_PX, _WIDEST_PX = 8, 3.0


def slits(evidence: Evidence, lit: Mask) -> Mask:
    """Of places (H, W) that have the light of the backdrop those between parts of a body that are wholly unlike it.

    Of a slit some pixels wide all lies at an edge. Highlights pass through that light, and do not stay at it.
    """
    found = np.zeros_like(lit)
    labels, stats = components(lit, 8)
    narrow = stats[:, cv2.CC_STAT_AREA] >= _SLIT_PX
    narrow[0] = False
    if not narrow.any():
        return found
    narrow &= counted(labels, cv2.distanceTransform(lit.astype(np.uint8), cv2.DIST_L2, 5) > _WIDEST_PX, len(stats)) == 0
    for _, here, place in each(labels, stats, np.flatnonzero(narrow)):
        if not lit_all_over(evidence.tone[here][place], evidence.tint[here][place], evidence.noise):
            continue
        around, ring = ring_around(evidence.shape, here, place)
        off = np.maximum(np.abs(evidence.tone[around][ring]), evidence.tint[around][ring])
        if not is_all_around(off) or on_a_slope(evidence, here, place):
            continue
        if shows_grain(evidence.tone[here], evidence.bare[here], place, evidence.grain, likely=True) is not False:
            found[here] |= place
    return found


#: So near (pixels), and over such a part of what is there, it is lighter or darker on a slope, by this and twice the noise.
_SLOPE_PX, _SLOPE_PART, _SLOPE = 2, 0.15, 0.03


def on_a_slope(evidence: Evidence, here: tuple[slice, slice], place: Mask) -> bool:
    """Whether it is lighter on one side of a place (h, w) and darker on the other: the edge of a white detail."""
    box, ring = ring_around(evidence.shape, here, place, (0, _SLOPE_PX))
    tone, least = evidence.tone[box][ring], _SLOPE + 2 * evidence.noise
    return min(float(np.mean(tone > least)), float(np.mean(tone < -least))) > _SLOPE_PART
