"""Where an outline gives way unseen between two pieces of one line the bite is filled; what is seen to be a notch is none."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from tests.scenes import _encode
from true_backdrop.core import pipeline
from true_backdrop.core.cut.closing import Closing
from true_backdrop.core.cut.continued import as_backdrop, continued
from true_backdrop.core.picture import Picture

SIZE = (480, 720)
BARE, DARK = 0.62, 0.12
Y, X = np.mgrid[: SIZE[0], : SIZE[1]]
#: A bottle with straight sides, and a label of the backdrop's own light that goes from side to side.
BOTTLE = (np.abs(X - 360) < 90) & (Y >= 120) & (Y < 400)
LABEL = BOTTLE & (Y >= 220) & (Y < 290)
#: What the outline may give way by in the label, on the right: 7 pixels deep, and wavy.
BITE = LABEL & (442 + 2 * np.sin(Y / 6) < X) & (Y > 222) & (Y < 288)


def _after(light: np.ndarray, product: np.ndarray, noise: float = 0.004) -> np.ndarray:
    """What is product of such a frame (H, W, 3; linear) once an outline around some `product` is continued."""
    rng, lens = np.random.default_rng(2), cv2.GaussianBlur(light.astype(np.float32), (0, 0), 0.8)
    frame, bare = (_encode(each * (1 + rng.normal(0, noise, each.shape))) for each in (lens, np.full(light.shape, BARE)))
    evidence = pipeline.prepare(Picture(frame, "PNG"), Picture(bare, "PNG")).evidence
    return continued(product, evidence, Closing(evidence).strength)


def _light(*parts: tuple[np.ndarray, float | tuple[float, float, float]]) -> np.ndarray:
    light = np.full((*SIZE, 3), BARE)
    for where, value in parts:
        light[where] = value
    return light


def test_a_label_as_light_as_the_backdrop_is_whole_again() -> None:
    whole = _after(_light((BOTTLE, DARK), (LABEL, BARE)), BOTTLE & ~BITE)
    assert BITE.sum() > 300
    assert whole[BITE].mean() > 0.97
    assert not whole[~BOTTLE].any()


def test_a_round_product_is_filled_along_its_curve() -> None:
    disc = np.hypot(X - 360, Y - 240) < 150
    label = disc & (np.abs(Y - 240) < 30)
    bite = label & (X > 500) & (np.abs(Y - 240) < 28)
    whole = _after(_light((disc, DARK), (label, BARE)), disc & ~bite)
    assert whole[bite].mean() > 0.9
    assert np.hypot(X - 360, Y - 240)[whole].max() < 152


def test_a_notch_whose_walls_are_seen_stays_open() -> None:
    notched = BOTTLE & ~BITE
    assert np.array_equal(_after(_light((notched, DARK)), notched), notched)


def test_a_notch_in_a_colour_as_light_as_the_backdrop_stays_open() -> None:
    """Its walls do not show in the tone, which is the mean of the channels' log ratios, but they do in the colour."""
    notched = BOTTLE & ~BITE
    yellow = np.array([1.15, 1.0, 0.65])
    yellow *= BARE / np.cbrt(yellow.prod())
    light = _light((BOTTLE, DARK), (LABEL & ~BITE, tuple(yellow)), (BITE, BARE))
    assert np.array_equal(_after(light, notched), notched)


@pytest.mark.parametrize("shadow", [0.45, 0.7])
def test_the_arch_of_a_sole_in_a_shadow_as_dark_as_itself_is_not_filled(shadow: float) -> None:
    """Heel and ball stand on one line, and nothing is seen of where the sole ends and the shadow between them begins."""
    sole = (np.abs(X - 360) < 150) & (Y >= 250) & (Y < 300)
    arch = (np.abs(X - 380) < 40) & (Y >= 292) & (Y < 300)
    assert np.array_equal(_after(_light((sole, BARE * shadow)), sole & ~arch), sole & ~arch)


@pytest.mark.parametrize(("tone", "expected", "fills"), [(0.01, -0.05, True), (-0.3, -0.05, False), (0.2, 0.0, False)])
def test_a_bite_is_as_light_as_the_backdrop_would_be(tone: float, expected: float, fills: bool) -> None:
    there = np.zeros((20, 30), bool)
    there[5:15, 10:20] = True
    level, tint = np.ones((20, 30), np.float32), np.zeros((20, 30), np.float32)
    assert as_backdrop(tone * level, tint, expected * level, there) is fills


def test_two_legs_that_end_on_one_line_are_not_joined() -> None:
    legs = (Y >= 120) & (Y < 400) & ((np.abs(X - 300) < 20) | (np.abs(X - 420) < 20) | ((np.abs(X - 360) < 80) & (Y < 160)))
    assert np.array_equal(_after(_light((legs, DARK)), legs), legs)


def test_a_bite_beside_an_outline_that_is_not_seen_itself_is_left() -> None:
    """Nothing tells where the sides run: all of it is as light as the backdrop."""
    bitten = BOTTLE & ~BITE
    assert np.array_equal(_after(_light(), bitten), bitten)
