"""Which backdrop match to stand on: the middle of the stretch where the outline does not move."""

from __future__ import annotations

import itertools
from collections.abc import Iterable, Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from true_backdrop.core.arrays import Mask
from true_backdrop.core.cut.region import Busy
from true_backdrop.core.treatment import Material

#: Values tried first; those that are tried where these leave it open; and the step to either side of the best, tried last.
TRIED_FIRST = (30, 50, 70)
TRIED_NEXT = (10, 90)
#: Values that the chart of a set stands on as well: above the middle backdrop is left over in leaps.
SURVEYED = (10, 80, 95)
FINER = 10
#: A change for ten points of match below which nothing moves: there is nothing finer to be found there.
QUIET = 0.008
#: Less of the frame than this is no product.
SMALLEST_PART = 0.0008
#: What each point of match away from the middle costs.
_ASIDE = 0.0006
#: A product that only comes near the rim touches it with no more pixels.
_AT_RIM_PX = 2
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
    packed       the product at the proposed match in the busy part, completed, as bits
    restless     what changes at the quietest neighbour of it, in the busy part, as bits
    tried        what was decided at every value that was tried, from loose to strict, in the same way
    left_out     values at which chance took or added a part, so that they say nothing of their neighbours
    aside        what else was decided, to complete the product, in the same way
    """

    match: int
    trials: tuple[Trial, ...]
    quiet_width: int
    unrest: float
    packed: NDArray[np.uint8]
    restless: NDArray[np.uint8]
    tried: tuple[tuple[int, NDArray[np.uint8]], ...] = ()
    left_out: frozenset[int] = frozenset()
    aside: tuple[tuple[int, NDArray[np.uint8]], ...] = ()

    def moving(self, busy: Busy) -> Mask:
        """Where (H, W) on the proxy the outline moves between neighbouring values."""
        return self._on_proxy(self.restless, busy)

    def _on_proxy(self, packed: NDArray[np.uint8], busy: Busy) -> Mask:
        return busy.on_proxy(_unpacked(packed, busy))

    def product(self, busy: Busy) -> Mask:
        """The product (H, W) on the proxy at the proposed match: what `Busy.decide` and `Busy.completed` give for it."""
        return self._on_proxy(self.packed, busy)

    def decided(self, busy: Busy, match: float) -> Mask | None:
        """What `Busy.decide` gave at a value, in the busy part; None where that was not asked."""
        return next((_unpacked(packed, busy) for value, packed in (*self.tried, *self.aside) if value == match), None)

    @property
    def _steady(self) -> list[tuple[int, NDArray[np.uint8]]]:
        return [(value, packed) for value, packed in self.tried if value not in self.left_out]

    def stricter(self, busy: Busy, match: int) -> Mask | None:
        """The product (H, W) on the proxy at the strictest of the first values, where that is above `match`."""
        tried = [packed for value, packed in self._steady if match < value <= TRIED_FIRST[-1]]
        return self._on_proxy(tried[-1], busy) if tried else None

    def strictest(self, busy: Busy, match: int) -> Mask | None:
        """The product (H, W) on the proxy at the strictest value tried, where that is above `match` and all of the first ones."""
        tried = [packed for value, packed in self._steady if value > max(match, TRIED_FIRST[-1])]
        return self._on_proxy(tried[-1], busy) if tried else None

    def looser(self, busy: Busy, match: int) -> Mask | None:
        """The product (H, W) on the proxy at the next of the first values below `match`, if there is one.

        One that is stricter than all of these was chosen because the strictest of them changes little: that tells nothing.
        """
        tried = [packed for value, packed in self._steady if value in TRIED_FIRST and value < min(match, TRIED_FIRST[-1])]
        return self._on_proxy(tried[-1], busy) if tried else None

    def taken(self, busy: Busy, match: int) -> Mask | None:
        """What (H, W) on the proxy the strictest of the first values takes of the product at one in the middle or above, though a
        stricter match keeps more otherwise; None where that was not tried."""
        masks = {value: packed for value, packed in self._steady if value == match or match < value <= TRIED_FIRST[-1]}
        if match < TRIED_FIRST[1] or match not in masks or len(masks) == 1:
            return None
        return self._on_proxy(masks[match] & ~masks[max(masks)], busy)

    def anchors(self, busy: Busy, match: int, material: Material) -> dict[int, Mask]:
        """The product (H, W) on the proxy by backdrop match: where it was tried, at `match`, and near both ends."""
        found = {tried: self._on_proxy(packed, busy) for tried, packed in self.tried}
        for other in (match, *SURVEYED):
            if other not in found:
                found[other] = busy.on_proxy(busy.decide(other, material))
        return found


def propose(busy: Busy, material: Material, *, survey: bool = False) -> Proposal:
    """Try values and stand where the mask changes least.

    As with maximally stable regions (Matas, Chum, Urban and Pajdla 2002): a true outline stays put over a
    range of thresholds; backdrop or product that leaks in does not. `survey` tries the
    whole range for the sake of a chart; the proposal is the same.
    """
    masks: dict[int, Mask] = {}
    at_rim: dict[int, bool] = {}

    def try_all(matches: Iterable[int], chosen: int | None = None) -> _Course:
        for match in matches:
            if match not in masks:
                masks[match] = busy.decide(match, material)
                at_rim[match] = _reaches_rim(busy.on_proxy(masks[match]))
        return _Course(masks, SMALLEST_PART * busy.shape[0] * busy.shape[1], at_rim, chosen)

    course = try_all(TRIED_FIRST)
    course = try_all(course.beside_odd_ones)
    if not course.settled:
        course = try_all(TRIED_NEXT)
        course = try_all(course.beside_odd_ones)
    if course.found and course.unrest > QUIET:
        course = try_all((course.quietest - FINER, course.quietest + FINER))
    chosen, unrest, beside = course.quietest, course.unrest, course.quieter_neighbour
    if survey:
        course = try_all(range(0, 101, FINER), chosen)
    packed, aside = tuple((match, np.packbits(mask)) for match, mask in sorted(masks.items())), dict[int, Mask]()

    def at_match(match: int) -> Mask:
        if match in masks:
            return masks[match]
        if match not in aside:
            aside[match] = busy.decide(match, material)
        return aside[match]

    if not course.found:
        nothing = np.packbits(np.zeros_like(masks[50]))
        product = np.packbits(busy.completed(masks[50], material, at_match))
        return Proposal(50, tuple(Trial(m, 0.0, 0.0) for m in sorted(masks)), 0, 0.0, product, nothing, packed)
    reference = masks[chosen]
    area = max(1.0, float(np.count_nonzero(reference)))
    trials = tuple(
        Trial(match, np.count_nonzero(masks[match] & ~reference) / area, np.count_nonzero(reference & ~masks[match]) / area)
        for match in sorted(masks)
    )
    moving = np.packbits(masks[beside] ^ reference)
    quiet, left_out = course.quiet_about(chosen), frozenset(course.left_out)
    product = np.packbits(busy.completed(reference, material, at_match))
    beyond = tuple((match, np.packbits(mask)) for match, mask in aside.items())
    return Proposal(chosen, trials, quiet, unrest, product, moving, packed, left_out, beyond)


def _unpacked(packed: NDArray[np.uint8], busy: Busy) -> Mask:
    height, width = busy.evidence.shape
    return np.unpackbits(packed, count=height * width).reshape(height, width).view(bool)


class _Course:
    """How the mask changes along the tried values, without those that are the odd one out by chance; `chosen` is none of them."""

    def __init__(self, masks: dict[int, Mask], smallest: float, at_rim: dict[int, bool], chosen: int | None) -> None:
        self.left_out = _odd_ones(masks) - {chosen}
        self.tried = [match for match in sorted(masks) if match not in self.left_out]
        areas = np.array([np.count_nonzero(masks[match]) for match in self.tried])
        self.found = bool(areas.max() >= smallest)
        # Change for each ten points of match.
        self._change = np.array([10 * _apart(masks[a], masks[b]) / (b - a) for a, b in itertools.pairwise(self.tried)])
        beside = np.concatenate([self._change[:1], (self._change[1:] + self._change[:-1]) / 2, self._change[-1:]])
        # Away from the middle a value must be quieter to win; one that finds no product never does, and nor does a strict one at
        # which shadow or light on the table is left over as far as the frame's rim, where in the middle nothing is.
        cost = beside + _ASIDE * np.abs(np.array(self.tried) - 50)
        cost[areas < smallest] = np.inf
        middle = min(self.tried, key=lambda match: abs(match - 50))
        if not at_rim[middle] and areas[self.tried.index(middle)] >= smallest:
            cost[[at_rim[match] and match > middle for match in self.tried]] = np.inf
        self._best = int(np.argmin(cost)) if self.found else len(self.tried) // 2
        self._cost = cost

    @property
    def beside_odd_ones(self) -> tuple[int, ...]:
        """Values that have to stand in for those left out."""
        return tuple(match + step for match in sorted(self.left_out) for step in (-FINER, FINER))

    @property
    def quietest(self) -> int:
        return self.tried[self._best]

    @property
    def settled(self) -> bool:
        """Whether no value outside of those tried could be chosen, and nothing finer is to be found.

        The middle costs less than its distance alone costs any value that was not tried.
        """
        if not self.found or self.quietest != 50 or self.unrest > QUIET:
            return False
        return bool(self._cost[self._best] < _ASIDE * abs(TRIED_FIRST[0] - 50))

    @property
    def quieter_neighbour(self) -> int:
        """The tried value beside the quietest one to which less changes."""
        low, high = max(0, self._best - 1), min(len(self._change) - 1, self._best)
        best = low if self._change[low] <= self._change[high] else high
        return self.tried[best] if best < self._best else self.tried[min(best + 1, len(self.tried) - 1)]

    @property
    def unrest(self) -> float:
        return float(self._change[max(0, self._best - 1) : self._best + 1].min())

    def quiet_about(self, match: int) -> int:
        """Points of match around a value over which the outline does not visibly move."""
        low = high = self.tried.index(match)
        while low > 0 and self._change[low - 1] < VISIBLE_PART:
            low -= 1
        while high < len(self._change) and self._change[high] < VISIBLE_PART:
            high += 1
        return self.tried[high] - self.tried[low]


def _odd_ones(masks: dict[int, Mask]) -> set[int]:
    """Values at which something visible is as at neither neighbour, while these are more like one another: the oddest first."""
    kept, left_out = sorted(masks), set[int]()
    while odd := {match: part for match, part in _oddness(masks, kept) if part > VISIBLE_PART}:
        worst = max(odd, key=odd.__getitem__)
        kept.remove(worst)
        left_out.add(worst)
    return left_out


def _oddness(masks: dict[int, Mask], kept: list[int]) -> Iterator[tuple[int, float]]:
    """For each value between two that is the odd one of the three: the part of the product's area at which it alone differs."""
    for before, match, after in zip(kept, kept[1:], kept[2:], strict=False):
        there, here, other = (masks[value] for value in (before, match, after))
        apart, aside, beyond = _apart(there, other), _apart(there, here), _apart(here, other)
        if apart < min(aside, beyond):
            yield match, (aside + beyond - apart) / 2


def _reaches_rim(product: Mask) -> bool:
    """Whether a product (H, W) touches the rim of the frame with more than some pixels."""
    return max(int(np.count_nonzero(line)) for line in (product[0], product[-1], product[:, 0], product[:, -1])) > _AT_RIM_PX


def _apart(a: Mask, b: Mask) -> float:
    return float(np.count_nonzero(a ^ b) / max(1, min(int(np.count_nonzero(a)), int(np.count_nonzero(b)))))
