"""The hue of a whole place against that of the backdrop around the product: a mean says what no pixel can in its noise."""

from __future__ import annotations

from functools import cached_property

import cv2
import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.arrays import Mask
from true_backdrop.core.cut.evidence import RELIEF_STEPS, Evidence

#: Means are taken over so many pixels each way, so far from the product.
_MEAN_PX, _AWAY_PX = 9, 6
#: Backdrop, shadows with what the product throws into them and all, is off its own hue by more only in so much of it (percent).
_MOST = 99
#: A place is of another hue if it is off by more than so many times that, and by so much (log units). Of 116 holes on sets of
#: many kinds none was off by more than 1.6 times (a white label by 3.6).
_TIMES, _LEAST = 2.5, 0.012
#: Every so many pixels a mean is taken. Fewer of them say nothing, and nor does a smaller place (pixels).
_GRID = slice(None, None, 4)
_ENOUGH, _LARGE = 40, 150
#: Darker than this, of the backdrop, there is no hue.
_DARK = 0.02


class BackdropHue:
    """The hue of what is `outside` (H, W) of a product; measured when first asked for."""

    def __init__(self, evidence: Evidence, outside: Mask) -> None:
        self._evidence = evidence
        self._outside = outside

    @cached_property
    def _measured(self) -> tuple[NDArray[np.float32], float] | None:
        """The log ratio of each channel to the backdrop frame less their mean, (3,), and how far off backdrop and shadows are.

        None where too little of them is seen.
        """
        away = cv2.erode(self._outside.astype(np.uint8), np.ones((2 * _AWAY_PX + 1,) * 2, np.uint8))[_GRID, _GRID] > 0
        if np.count_nonzero(away) < _ENOUGH:
            return None
        light = cv2.boxFilter(self._evidence.relief, cv2.CV_32F, (_MEAN_PX, _MEAN_PX))
        hues = _hue(np.asarray(light[_GRID, _GRID], np.float32)[away])
        middle = np.asarray(np.median(hues, axis=0), np.float32)
        return middle, float(np.percentile(np.abs(hues - middle).max(axis=1), _MOST))

    def is_another(self, here: tuple[slice, slice], place: Mask) -> bool:
        """Whether a place, a mask (h, w) of a box of the evidence, has a hue that backdrop has nowhere around."""
        if np.count_nonzero(place) < _LARGE or self._measured is None:
            return False
        middle, spread = self._measured
        mean = np.array(cv2.mean(self._evidence.relief[here], place.astype(np.uint8))[:3], np.float32)
        off = float(np.abs(_hue(mean) - middle).max())
        return off > max(_LEAST, _TIMES * spread)


def _hue(relief: NDArray[np.float32]) -> NDArray[np.float32]:
    light = np.log(np.maximum(relief / np.float32(RELIEF_STEPS), np.float32(_DARK)))
    return np.asarray(light - light.mean(axis=-1, keepdims=True), np.float32)
