"""Pale product that was left outside has a faint hue of its own: the white rim of a blade, a pale roof, a collar.

Its tone and tint pass for backdrop in a light shadow, pixel by pixel. But white material hardly ever has just the backdrop's hue,
and the mean of some pixels says so. The light that a product throws beside itself has the product's hue; only another one counts.
"""

from __future__ import annotations

from collections.abc import Callable

import cv2
import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.arrays import EncodedRGB, Mask
from true_backdrop.core.cut.components import all_of, components, counted
from true_backdrop.core.cut.evidence import RELIEF_STEPS, Evidence

#: Means are taken over squares of so many pixels, of which so much is free (of bare backdrop: nearly all) of product and of
#: what the lens mixes with it, up to so many pixels away; the product's own hue nearby over so many.
_MEAN_PX, _FREE, _ALL, _MIXED_PX, _NEARBY_PX = 7, 0.25, 0.9, 2, 63
#: So near to the product (pixels) such a part is looked for; and so far from it the backdrop's hue, in light so near to full (log
#: units). At every so many pixels each way so many at least say what that is, and nearly all of them (percent) how far off.
_REACH_PX, _AWAY_PX, _LIT, _EVERY, _ENOUGH, _NEARLY_ALL = 24, 16, 0.1, 3, 60, 99
#: A hue is another one from so many times that on, and so much at least (log units); in a shadow there is less light and more
#: noise, and so many times more for each log unit of its depth. Only so deep a one is looked into (log units).
_TIMES, _LEAST, _IN_SHADOW, _DEEPEST, _BRIGHTEST = 1.5, 0.012, 3.0, -0.17, 0.1
#: From pixel to pixel noise changes colour 1.4 times as much as light where each channel has its own. On the proxy of a large
#: file it is 1.0 times and more, of a JPEG file of quality 85 as well; of one that is hardly larger 0.6 times at most (measured).
#: What changes light the most is an edge and no noise: all but so much (percent).
_COARSE, _NO_EDGE = 0.8, 97
#: What is this far from neutral (log units) has a hue to throw.
_HAS_A_HUE = 0.1
#: So large a place (parts of the product's area, and pixels) is worth a look: measured on composites, docs/cut.md.
_WORTH_A_LOOK, _LEAST_PX = 0.0003, 18
#: A part that one of these matches has more is told by its hue where it is so much of it. Stricter ones come first; by chance a
#: looser one now and then keeps what all others lose. Of 70 composites with such a place 21 had such a part at looser ones
#: (30 and 15), product for nine tenths and more in all of these.
_MATCHES, _TOLD = (70, 85, 30), 0.04
#: Darker than this, of the backdrop, there is no hue.
_DARK = 0.02


def parts_of_another_hue(evidence: Evidence, product: Mask, at_match: Callable[[int], Mask]) -> Mask:
    """What (H, W) another match has more of a product (H, W) and such a hue tells to be a part of it.

    `at_match` decides the product (H, W) at a backdrop match; it is asked only where there is such a hue. Of what was saved
    coarsely nothing is told: an encoder rounds colour more than light.
    """
    parts = np.zeros_like(product)
    if evidence.rounding > 0:
        return parts
    found = of_another_hue(evidence, product)
    for match in _MATCHES:
        left = found & ~parts
        if not left.any():
            break
        labels, stats = components((at_match(match) & ~product).astype(np.uint8), 4)
        told = counted(labels, left, len(stats)) > _TOLD * stats[:, cv2.CC_STAT_AREA]
        parts |= all_of(labels, told)
    return parts


def of_another_hue(evidence: Evidence, product: Mask) -> Mask:
    """Where (H, W) beside a product (H, W) light has a hue that neither the backdrop nor what the product throws has."""
    found = np.zeros_like(product)
    away = cv2.distanceTransform((~product).astype(np.uint8), cv2.DIST_L2, 5)
    tone = cv2.blur(evidence.tone, (5, 5))
    light = _Light(evidence.relief, away > _MIXED_PX, _MEAN_PX)
    lit = (away > _AWAY_PX) & (light.part > _ALL) & (np.abs(tone) < _LIT)
    bare = light.hue(lit, _EVERY)
    beside = (away > _MIXED_PX) & (away < _REACH_PX) & (light.part > _FREE) & (tone > _DEEPEST) & (tone < _BRIGHTEST)
    if not beside.any() or bare.shape[1] < _ENOUGH:
        return found
    middle = np.asarray(np.median(bare, axis=1, keepdims=True), np.float32)
    usual = float(np.percentile(np.abs(bare - middle).max(axis=0), _NEARLY_ALL))
    least = max(_LEAST, _TIMES * usual) * (1 + _IN_SHADOW * np.clip(-tone[beside], 0, 1))
    hue = light.hue(beside) - middle
    # Without what is towards the product's own it is no farther off as the crow flies: mostly that answers it.
    maybe = np.sqrt((hue * hue).sum(axis=0)) > least
    if np.count_nonzero(maybe) < _LEAST_PX or _is_coarse(evidence.relief[::_EVERY], lit[::_EVERY]):
        return found
    beside[beside] = maybe
    off = _beyond(hue[:, maybe], _Light(evidence.relief, product, _NEARBY_PX).hue(beside))
    found[beside] = off > least[maybe]
    labels, stats = components(cv2.morphologyEx(found.astype(np.uint8), cv2.MORPH_OPEN, np.ones((3, 3), np.uint8)), 8)
    large = stats[:, cv2.CC_STAT_AREA] >= max(_LEAST_PX, _WORTH_A_LOOK * float(np.count_nonzero(product)))
    return all_of(labels, large)


def _is_coarse(relief: EncodedRGB, bare: Mask) -> bool:
    """Whether colour is coarser than light in what is `bare` (h, w) of a relief (h, w, 3), as a JPEG file has it: then it spreads
    over an edge by whole blocks of its pixels."""
    both = bare[:, 1:] & bare[:, :-1]
    ahead, behind = (np.log(np.maximum(side[both], 1).astype(np.float32)) for side in (relief[:, 1:], relief[:, :-1]))
    change = ahead - behind
    level = change.mean(axis=1)
    usual = np.abs(level) <= np.percentile(np.abs(level), _NO_EDGE) if level.size else np.zeros(0, bool)
    return bool(usual.any() and np.std((change - level[:, None])[usual]) < _COARSE * np.std(level[usual]))


class _Light:
    """Means of a relief (H, W, 3) over squares around each pixel, of what counts in them (H, W); `part` (H, W) of it does."""

    def __init__(self, relief: EncodedRGB, counts: Mask, side: int) -> None:
        one = counts.astype(np.uint8)
        self.part = np.asarray(cv2.boxFilter(one, cv2.CV_32F, (side, side)), np.float32)
        self._light = np.asarray(cv2.boxFilter(cv2.copyTo(relief, one), cv2.CV_32F, (side, side)), np.float32)

    def hue(self, where: Mask, every: int = 1) -> NDArray[np.float32]:
        """The log of each channel less their mean, (3, n), `where` (H, W) it is asked: at every so many pixels each way."""
        grid = slice(None, None, every), slice(None, None, every)
        there, part = where[grid], np.maximum(self.part[grid][where[grid]], np.float32(1e-3))
        light = np.stack([self._light[(*grid, c)][there] for c in range(3)]) / part
        logs = np.log(np.maximum(light, np.float32(_DARK * RELIEF_STEPS)))
        return np.asarray(logs - logs.mean(axis=0), np.float32)


def _beyond(hue: NDArray[np.float32], products: NDArray[np.float32]) -> NDArray[np.float32]:
    """How far off (n,) a hue (3, n) is, but for what of it is towards the product's own (3, n)."""
    length = np.maximum(np.sqrt((products * products).sum(axis=0)), np.float32(1e-3))
    along = np.maximum((hue * products).sum(axis=0), 0) / length**2 * np.minimum(length / _HAS_A_HUE, 1)
    return np.asarray(np.abs(hue - along * products).max(axis=0), np.float32)
