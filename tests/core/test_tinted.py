"""Parts of a product that pass for its shadow are told by their colour; the colour that a product throws on the table is not one."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from tests.core.test_area import SIZE, X, Y
from true_backdrop.core.arrays import Mask, Plane
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.tinted import tinted_parts

BODY = (X > 260) & (X < 460) & (Y > 120) & (Y < 300)
#: A strip below the body, as its bevel, that was taken for shadow.
STRIP = (X > 270) & (X < 450) & (Y >= 300) & (Y < 318)
#: How far a pixel is below the body.
BELOW = np.where((X > 262) & (X < 458) & (Y >= 300), Y - 300, 1e3)


def _told(tint: np.ndarray, *, product: Mask = BODY, noise: float = 0.004) -> Mask:
    """What is told of some tint (H, W) as a lens draws it, with noise."""
    rng = np.random.default_rng(1)
    drawn = cv2.GaussianBlur(tint.astype(np.float32), (0, 0), 1.0)
    plane: Plane = drawn + np.abs(rng.normal(0, noise, SIZE)).astype(np.float32)
    flat = np.zeros(SIZE, np.float32)
    relief = np.zeros((*SIZE, 3), np.uint8)
    return tinted_parts(Evidence(flat, plane, flat, flat, relief, flat, 0.0, noise, 720), product)


@pytest.mark.parametrize("tint", [0.12, 0.25])
@pytest.mark.parametrize("thrown", [0.0, 0.03])
def test_a_strip_is_told_beside_a_table_with_less_colour(tint: float, thrown: float) -> None:
    table = thrown * np.exp(-BELOW / 40)
    found = _told(np.where(BODY, 0.8, np.where(STRIP, tint, table)))
    inner = cv2.erode(STRIP.astype(np.uint8), np.ones((5, 5))) > 0
    assert found[inner].mean() > 0.97
    assert np.count_nonzero(found & ~STRIP & ~BODY) < 0.08 * np.count_nonzero(STRIP)


@pytest.mark.parametrize(("tint", "told"), [(0.25, True), (0.14, False)])
def test_a_plain_colour_may_be_paler_on_a_rounded_edge(tint: float, told: bool) -> None:
    """Towards one side, a fifth of the border, the colour of a broad part fades over a hundred pixels."""
    part = (X > 270) & (X < 450) & (Y >= 300) & (Y < 354)
    found = _told(np.where(BODY, 0.8, np.where(part, tint * np.clip((450 - X) / 100, 0, 1), 0)))
    inner = cv2.erode((part & (X < 370)).astype(np.uint8), np.ones((5, 5))) > 0
    assert bool(found[inner].mean() > 0.97) is told


def test_a_strip_is_told_from_colour_that_is_thrown_on_all_around_it() -> None:
    """With the least tint both are one place that ends softly; with more of it the strip is left."""
    table = 0.08 * np.clip(1 - (BELOW - 18) / 30, 0, 1)
    found = _told(np.where(BODY, 0.8, np.where(STRIP, 0.3, table)))
    assert found[cv2.erode(STRIP.astype(np.uint8), np.ones((5, 5))) > 0].mean() > 0.97
    assert np.count_nonzero(found & ~STRIP & ~BODY) < 0.1 * np.count_nonzero(STRIP)


@pytest.mark.parametrize("most", [0.15, 0.4])
@pytest.mark.parametrize("fades", [8, 15, 40])
def test_colour_thrown_on_the_table_fades_and_stays_table(most: float, fades: float) -> None:
    found = _told(np.where(BODY, 0.8, most * np.exp(-BELOW / fades)))
    assert np.count_nonzero(found) == 0


def test_thrown_colour_that_is_even_and_then_fades_within_a_shadow_s_edge_stays_table() -> None:
    assert np.count_nonzero(_told(np.where(BODY, 0.8, 0.2 * np.clip(1 - (BELOW - 16) / 24, 0, 1)))) == 0


def test_thrown_colour_that_ends_where_the_table_does_stays_table() -> None:
    """It has faded to what is hardly a tint there, and ends as sharply as an edge."""
    assert np.count_nonzero(_told(np.where(BODY, 0.8, np.where(BELOW < 24, 0.062 + 0.25 * np.exp(-BELOW / 3), 0)))) == 0


def test_a_strip_with_twice_the_colour_that_is_thrown_beside_it_is_not_told() -> None:
    table = 0.1 * np.clip(1 - (BELOW - 30) / 60, 0, 1)
    assert np.count_nonzero(_told(np.where(BODY, 0.8, np.where(STRIP, 0.2, table)))) == 0


def test_a_gap_between_two_legs_that_is_full_of_thrown_colour_stays_open() -> None:
    gap = (X > 345) & (X < 375) & (Y > 220) & (Y < 300)
    found = _told(np.where(BODY & ~gap, 0.8, np.where(gap, 0.2, 0.0)), product=BODY & ~gap)
    assert np.count_nonzero(found) == 0


def test_what_is_away_from_the_product_is_none_of_its_parts() -> None:
    card = (X > 300) & (X < 420) & (Y > 330) & (Y < 350)
    assert np.count_nonzero(_told(np.where(BODY, 0.8, np.where(card, 0.3, 0.0)))) == 0


def test_blotches_of_the_table_that_come_up_to_the_product_are_none_of_its_parts() -> None:
    blotches = np.hypot((X - 260) % 24 - 12, (Y - 300) % 24 - 7) < 8
    assert np.count_nonzero(_told(np.where(BODY, 0.8, np.where(blotches, 0.15, 0.0)))) == 0


def test_beside_a_table_as_tinted_nothing_is_told() -> None:
    """As on cloth of a hue of its own."""
    assert np.count_nonzero(_told(np.where(BODY, 0.8, np.where(STRIP, 0.12, 0.08)))) == 0
