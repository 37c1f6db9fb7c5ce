"""Stripes in the backdrop's light that run out over an outline notch it; they go on inside, as the gaps of a comb do not."""

from __future__ import annotations

import cv2
import numpy as np

from true_backdrop.core.arrays import Mask
from true_backdrop.core.cut.components import all_of, components, hanging_together
from true_backdrop.core.cut.decided import Decided, Found
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.masks import disc
from true_backdrop.core.cut.places import named, places
from true_backdrop.core.picture import Region

#: A notch is no wider than twice this, and has so many pixels at least.
_HALF_WIDTH_PX, _LEAST_PX = 6, 6
#: So many notches, and such a part of all of them, go on inside before a person should look; so many are looked at.
_MANY, _PART, _MOST = 8, 0.5, 200
#: One goes on if so much of it, in parts of its area, lies within so many pixels and is of its colour up to so much (largest
#: channel, log units) and so many times the noise; and what is around is product unlike it in such a part by so much.
_GOES_ON, _INSIDE_PX, _SAME, _SAME_NOISE, _UNLIKE_PART, _UNLIKE, _AROUND_PX = 0.8, 10, 0.05, 3.0, 0.25, 0.15, 3
#: Darker than this (in steps of the relief) there is no colour.
_DARK = 4


def notched(evidence: Evidence, decided: Decided) -> Found:
    """Whether many notches along the outline go on inside as they are, so that they are stripes that were cut off there; where
    somebody said what the product is made of, strands may."""
    if not decided.unsaid:
        return [], 0.0
    product = decided.busy.of_proxy(decided.product)
    stripes = stripes_cut_off(decided.busy.evidence, product)
    if stripes is None:
        return [], 0.0
    at = places(decided.busy.on_proxy(stripes), decided.product, "notches")
    said = f"stripes in the backdrop's light end in notches along the outline, {named(at)}; is the product whole along its edge?"
    return [(said, at)], 0.2


def stripes_cut_off(evidence: Evidence, product: Mask) -> Mask | None:
    """The notches (H, W) in the outline of a product (H, W) that go on inside, if they are many and most of all; else None."""
    closed = cv2.morphologyEx(product.view(np.uint8), cv2.MORPH_CLOSE, disc(_HALF_WIDTH_PX))
    labels, stats = components((closed > 0) & ~product, 4)
    notches = np.flatnonzero(stats[:, cv2.CC_STAT_AREA] >= _LEAST_PX)[:_MOST]
    if len(notches) < _MANY:
        return None
    going_on = [label for label in notches if _goes_on(evidence, product, labels, stats[label], int(label))]
    if len(going_on) < max(_MANY, _PART * len(notches)):
        return None
    chosen = np.zeros(len(stats), bool)
    chosen[going_on] = True
    return all_of(labels, chosen)


def _goes_on(evidence: Evidence, product: Mask, labels: np.ndarray, stats: np.ndarray, label: int) -> bool:
    left, top, width, height, area = (int(value) for value in stats)
    box = Region(top, left, top + height, left + width).grown(_INSIDE_PX, *product.shape).slices
    notch, relief = labels[box] == label, np.maximum(evidence.relief[box].astype(np.float32), _DARK)
    own = np.median(relief[notch], axis=0)
    off = np.abs(np.log(relief / np.maximum(own, _DARK))).max(axis=2)
    around = cv2.dilate(notch.view(np.uint8), np.ones((2 * _AROUND_PX + 1,) * 2, np.uint8)) > 0
    if np.mean(off[around] > _UNLIKE) < _UNLIKE_PART:
        return False
    same = (off < _SAME + _SAME_NOISE * evidence.noise) & (product[box] | notch)
    inside = hanging_together(same, notch, 4) & product[box]
    return bool(np.count_nonzero(inside) > _GOES_ON * area)
