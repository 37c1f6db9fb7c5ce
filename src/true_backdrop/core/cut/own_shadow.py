"""Openings that lie in the shadow of the product around them, deeper than what the shadows outside would be if they went on."""

from __future__ import annotations

from functools import cached_property

import cv2
import numpy as np

from true_backdrop.core.arrays import Mask, Plane
from true_backdrop.core.channels import doubled, halved
from true_backdrop.core.cut.bare import ring_around
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.masks import median, percentiles

#: Shadows are looked for so far around an opening, in parts of the long side, as means with such a sigma (pixels of half the
#: size). The opening is no darker than the darkest of these by more than so much (log units).
_AROUND, _SIGMA, _DEEPER = 0.1, 1.5, 0.05
#: From and to so many pixels beside it nearly all (percent) of the product is so much unlike it; before a light backdrop (log
#: brightness) twice as much, unless that has so strong a colour (log units), and if it has not so much of one nothing is told:
#: white parts of a product are just so.
_BESIDE_PX, _FEW, _WHOLLY_UNLIKE, _LIGHT, _BEFORE_LIGHT, _COLOURED, _STRONGLY = (4, 8), 20, 0.5, -0.8, 1.0, 0.3, 0.6
#: And nearly all of its border, up to so many pixels away, is an edge as steep as this (log units a pixel): a label grows dark
#: gradually towards the sides of a bottle. Of openings on composites it is 0.17 and more, of a drawn label 0.03.
_BORDER_PX, _EDGE = 4, 0.12


class ShadowsAround:
    """The shadows that are seen `outside` (H, W) of a product; looked for when first asked for.

    A shadow is as deep in an opening as it is close to the product that throws it, and its mean over a neighbourhood is not.
    """

    def __init__(self, evidence: Evidence, outside: Mask, box: tuple[slice, slice]) -> None:
        self._whole = evidence
        self._outside = outside
        self._box = box
        self._evidence = evidence.view(box)

    @cached_property
    def _deepest(self) -> Plane:
        """The darkest tone of the backdrop (h, w) near each pixel of the box, 0 where there is none."""
        seen = halved(self._outside.astype(np.float32))
        share = np.asarray(cv2.GaussianBlur(seen, (0, 0), _SIGMA), np.float32)
        tone = np.asarray(cv2.GaussianBlur(halved(self._whole.tone) * seen, (0, 0), _SIGMA), np.float32)
        mean = np.where(seen == 1, tone / np.maximum(share, np.float32(1e-3)), np.float32(0))
        around = np.ones((2 * round(_AROUND * self._whole.long_side / 2) + 1,) * 2, np.uint8)
        darkest = np.asarray(cv2.erode(np.minimum(mean, 0), around), np.float32)
        return doubled(darkest, self._outside.shape)[self._box]

    def off(self, here: tuple[slice, slice], place: Mask) -> float:
        """How much lighter (log units) than full light a place (h, w) of the box is, 0 where it is as dark as shadows near it;
        infinite where it is darker than these, what is beside it is not product wholly unlike it, or the backdrop is white."""
        evidence = self._evidence
        light = median(evidence.bare[here][place]) > _LIGHT
        if light and evidence.coloured < _COLOURED:
            return np.inf
        pale = light and evidence.coloured < _STRONGLY
        level = median(evidence.tone[here][place])
        if level < float(self._deepest[here][place].min()) - _DEEPER:
            return np.inf
        around, ring = ring_around(evidence.shape, here, place, _BESIDE_PX)
        unlike = np.maximum(np.abs(evidence.tone[around][ring] - level), evidence.tint[around][ring])
        unlike[self._outside[self._box][around][ring]] = 0
        if unlike.size == 0 or percentiles(unlike, _FEW)[0] < (_BEFORE_LIGHT if pale else _WHOLLY_UNLIKE):
            return np.inf
        close, border = ring_around(evidence.shape, here, place, (0, 1))
        steepest = cv2.dilate(evidence.step[close], np.ones((2 * _BORDER_PX + 1,) * 2, np.uint8))
        return max(level, 0.0) if percentiles(steepest[border], _FEW)[0] > _EDGE else np.inf
