"""Narrow gaps between legs, tines and teeth, which the backdrop is seen in though the lens lends them the product's colour."""

from __future__ import annotations

import cv2
import numpy as np

from true_backdrop.core.arrays import Mask, Plane
from true_backdrop.core.cut.bare import lacks_grain, ring_around
from true_backdrop.core.cut.components import components, counted, each
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.masks import median, percentiles
from true_backdrop.core.cut.slits import on_a_slope

#: A cleft has so many pixels at least, and is from its middle to its edge so wide at most (pixels).
_LEAST_PX, _WIDEST_PX = 12, 5
#: It is as light as the backdrop in full light or nearby, or between the two, and as neutral, up to so much (log units) and so
#: many times the noise.
_TONE, _TINT, _TINT_NOISE = 0.03, 0.03, 2.0
#: The lens spreads so much of the tint within so many pixels over it, up to so much.
_SPREAD, _SPREAD_PX, _MOST_SPREAD = 0.03, 4, 0.06
#: It begins so near to the backdrop (pixels; along an outline nothing nearer is looked at), and reaches so far in.
_MOUTH_PX, _BEGINS_PX, _DEEP_PX = 4, 6, 10
#: Its walls, from and to so many pixels beside it and so far from the backdrop, are such a part of what is there, and nearly all
#: of them (percent, share) so much unlike it.
_WALLS_PX, _BEYOND_PX, _MOSTLY, _FEW, _WHOLLY_UNLIKE, _UNLIKE, _WALLED = (3, 6), 8, 0.5, 10, 0.35, 0.3, 0.92
#: Where more than a fifth (percent) of that is so thin (log units) there are strands, and between these strands.py decides.
_REST, _STRANDS = 80, 0.5


def clefts(evidence: Evidence, inside: Mask, backdrop: Mask, expected: Plane) -> Mask:
    """What of the `inside` (H, W) is a narrow gap with the light of the `backdrop` (H, W) between walls wholly unlike it.

    No pixel of it is free of an edge, so neither steps nor thinness are asked; `expected` (H, W) is the tone of the backdrop
    nearby.
    """
    found = np.zeros_like(inside)
    lent = _SPREAD * cv2.dilate(evidence.tint, np.ones((2 * _SPREAD_PX + 1,) * 2, np.uint8))
    neutral = evidence.tint < np.minimum(lent, _MOST_SPREAD) + (_TINT + _TINT_NOISE * evidence.noise)
    off = _TONE + evidence.noise
    like = inside & neutral & (evidence.tone > np.minimum(expected, 0) - off) & (evidence.tone < np.maximum(expected, 0) + off)
    if not like.any():
        return found
    away = np.asarray(cv2.distanceTransform((~backdrop).astype(np.uint8), cv2.DIST_L2, 5), np.float32)
    like &= away > _MOUTH_PX
    labels, stats = components(like, 4)
    reaches_in, begins = (counted(labels, there, len(stats)) > 0 for there in (away > _DEEP_PX, away < _BEGINS_PX))
    narrow = reaches_in & begins & (stats[:, cv2.CC_STAT_AREA] >= _LEAST_PX)
    if not narrow.any():
        return found
    narrow &= counted(labels, cv2.distanceTransform(like.astype(np.uint8), cv2.DIST_L2, 5) > _WIDEST_PX, len(stats)) == 0
    for _, here, place in each(labels, stats, np.flatnonzero(narrow)):
        if (
            _is_walled(evidence, here, place, away)
            and not on_a_slope(evidence, here, place)
            and not lacks_grain(evidence, here, place)
        ):
            found[here] |= place
    return found


def _is_walled(evidence: Evidence, here: tuple[slice, slice], place: Mask, away: Plane) -> bool:
    """Whether what is beside a place (h, w) is mostly wall, and that wholly unlike it; it is `away` (H, W) from the backdrop."""
    around, ring = ring_around(evidence.shape, here, place, _WALLS_PX)
    walls = ring & (away[around] > _BEYOND_PX)
    if np.count_nonzero(walls) < _MOSTLY * np.count_nonzero(ring):
        return False
    if percentiles(evidence.thin[around][walls], _REST)[0] > _STRANDS:
        return False
    level = median(evidence.tone[here][place])
    unlike = np.maximum(np.abs(evidence.tone[around][walls] - level), evidence.tint[around][walls])
    return percentiles(unlike, _FEW)[0] > _WHOLLY_UNLIKE and float(np.mean(unlike > _UNLIKE)) > _WALLED
