"""Which backdrop match to stand on: the middle of the stretch where the outline does not move."""

from __future__ import annotations

import itertools
from dataclasses import dataclass

import cv2
import numpy as np

from true_backdrop.core.arrays import Mask
from true_backdrop.core.cut.align import Aligned
from true_backdrop.core.cut.evidence import gather
from true_backdrop.core.cut.region import decide
from true_backdrop.core.picture import proxy_size
from true_backdrop.core.treatment import Material

#: Tried values. Between two of them the tolerances change by a factor of 1.32.
TRIED = tuple(range(0, 101, 10))
#: Long side of the pictures that the trials run on.
TRIAL_LONG_SIDE = 640
#: Less of the frame than this is no product.
SMALLEST_PART = 0.0008
#: A change of this part of the product's area is one that a person would see.
VISIBLE_PART = 0.006


@dataclass(frozen=True, slots=True)
class Trial:
    """At one backdrop match: leftover backdrop and lost product, as parts of the product's area."""

    match: int
    leftover: float
    lost: float


@dataclass(frozen=True, slots=True)
class Proposal:
    """The proposed match and how it compares with the other values.

    quiet_width  points of match over which the outline does not visibly move
    unrest       part of the product's area that changes from one tried value to the next, at the best place
    """

    match: int
    trials: tuple[Trial, ...]
    quiet_width: int
    unrest: float


def propose(aligned: Aligned, material: Material) -> Proposal:
    """Try eleven values on a small copy and stand where the mask changes least.

    As with maximally stable regions (Matas, Chum, Urban and Pajdla 2002): a true outline stays put over a
    range of thresholds; backdrop or product that leaks in does not.
    """
    small = _smaller(aligned)
    evidence = gather(small)
    masks = [decide(evidence, match, material) for match in TRIED]
    areas = np.array([float(m.sum()) for m in masks])
    smallest = SMALLEST_PART * masks[0].size
    if areas.max() < smallest:
        return Proposal(50, tuple(Trial(m, 0.0, 0.0) for m in TRIED), 0, 0.0)
    change = np.array([_apart(a, b) for a, b in itertools.pairwise(masks)])
    best, width = _quietest(change, areas, smallest)
    reference = masks[best]
    area = max(1.0, float(reference.sum()))
    trials = tuple(
        Trial(match, float((mask & ~reference).sum()) / area, float((reference & ~mask).sum()) / area)
        for match, mask in zip(TRIED, masks, strict=True)
    )
    return Proposal(TRIED[best], trials, width, float(change[max(0, best - 1) : best + 1].min()))


def _apart(a: Mask, b: Mask) -> float:
    return float((a ^ b).sum()) / max(1.0, float(min(a.sum(), b.sum())))


def _quietest(change: np.ndarray, areas: np.ndarray, smallest: float) -> tuple[int, int]:
    """Index of the value to stand on and the width of its quiet stretch in points of match."""
    neighbours = np.concatenate([[change[0]], (change[1:] + change[:-1]) / 2, [change[-1]]])
    middle = (len(areas) - 1) / 2
    # Away from the middle a value must be quieter to win; one that finds no product never does.
    cost = neighbours + 0.006 * np.abs(np.arange(len(areas)) - middle)
    cost[areas < smallest] = np.inf
    best = int(np.argmin(cost))
    low = high = best
    while low > 0 and change[low - 1] < VISIBLE_PART:
        low -= 1
    while high < len(change) and change[high] < VISIBLE_PART:
        high += 1
    return best, (high - low) * 10


def _smaller(aligned: Aligned) -> Aligned:
    height, width = proxy_size(aligned.frame.shape[0], aligned.frame.shape[1], TRIAL_LONG_SIDE)
    factor = height / aligned.frame.shape[0]
    ratio = np.asarray(cv2.resize(aligned.log_ratio, (width, height), interpolation=cv2.INTER_AREA), np.float32)
    return Aligned(
        aligned.frame, aligned.backdrop, ratio, aligned.gain, max(0.0015, aligned.noise * factor), aligned.clipped_backdrop
    )
