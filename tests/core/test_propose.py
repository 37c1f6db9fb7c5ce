"""Which match is proposed, for products of which each value keeps a part that is written down here."""

from collections.abc import Callable
from typing import cast

import numpy as np
import pytest

from true_backdrop.core.arrays import Mask
from true_backdrop.core.cut.propose import QUIET, TRIED_FIRST, propose
from true_backdrop.core.cut.region import Busy
from true_backdrop.core.treatment import Material

SIZE = 100
BODY = (30, 30, 70, 70)


class Pretended:
    """A busy part that is the whole of its proxy, and gives at each match the boxes (top, left, bottom, right) it is told."""

    shape = (SIZE, SIZE)

    def __init__(self, boxes: Callable[[int], list[tuple[int, int, int, int]]]) -> None:
        self.boxes = boxes
        self.asked: list[float] = []
        self.evidence = self  # of which only the shape is asked

    def decide(self, match: float, material: Material) -> Mask:
        self.asked.append(match)
        product = np.zeros(self.shape, bool)
        for top, left, bottom, right in self.boxes(round(match)):
            product[top:bottom, left:right] = True
        return product

    def completed(self, product: Mask, *_: object) -> Mask:
        return product

    def on_proxy(self, product: Mask) -> Mask:
        return product


def proposed(boxes: Callable[[int], list[tuple[int, int, int, int]]]) -> tuple[int, list[float], Mask, float]:
    busy = Pretended(boxes)
    found = propose(cast(Busy, busy), "auto")
    return found.match, busy.asked, found.product(cast(Busy, busy)), found.unrest


def test_an_outline_that_stays_put_is_settled_with_three_values() -> None:
    match, asked, product, unrest = proposed(lambda match: [BODY])
    assert (match, tuple(asked), unrest) == (50, TRIED_FIRST, 0)
    assert np.count_nonzero(product) == 1600


def test_the_empty_set_stands_in_the_middle() -> None:
    match, _, product, unrest = proposed(lambda match: [])
    assert (match, unrest) == (50, 0)
    assert not product.any()


@pytest.mark.parametrize(("loses", "to"), [(lambda m: m < 60, 60), (lambda m: m > 40, 40)])
def test_the_proposal_leaves_the_side_where_more_and_more_is_lost(loses: Callable[[int], bool], to: int) -> None:
    """On one side of a value an arm shrinks with every step; on the other all stays put."""
    match, _, product, unrest = proposed(lambda m: [BODY, (45, 70, 55, 90 - (abs(m - to) // 2 if loses(m) else 0))])
    assert (match >= to) if to > 50 else (match <= to)
    assert unrest < QUIET
    assert product[50, 89]


def test_a_value_at_which_chance_loses_a_part_is_left_out() -> None:
    """The values to both sides keep a foot that the middle one loses; its quiet neighbours would not tell."""
    foot = (70, 40, 75, 46)

    def boxes(match: int) -> list[tuple[int, int, int, int]]:
        return [BODY, (45, 70, 47, 70 + match // 10)] + ([] if match == 50 else [foot])

    match, asked, product, _ = proposed(boxes)
    assert match in (40, 60)
    assert {40, 60} <= set(asked)
    assert product[72, 42]
    surveyed = propose(cast(Busy, Pretended(boxes)), "auto", survey=True)
    assert (surveyed.match, surveyed.left_out) == (match, {50})
    assert len(surveyed.trials) == 11


def test_a_part_that_goes_for_good_is_no_chance() -> None:
    """From one value on it is lost: that value is like its stricter neighbour, and may be right."""
    foot = (70, 40, 75, 46)
    match, _, product, _ = proposed(lambda m: [BODY] + ([foot] if m < 45 else []))
    assert match == 50
    assert not product[72, 42]


def test_a_strict_value_that_reaches_the_rim_is_not_proposed() -> None:
    """Above the middle, light on the table is left over as far as the frame's rim, and stays put there."""

    def boxes(match: int) -> list[tuple[int, int, int, int]]:
        return [BODY, (70, 30, SIZE, 70)] if match > 55 else [BODY, (45, 70, 55, 70 + match // 2)]

    match, _, product, _ = proposed(boxes)
    assert match <= 55
    assert not product[-1].any()
