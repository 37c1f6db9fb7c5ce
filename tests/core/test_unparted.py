"""An opening ends where product begins: one that goes on as it is where it ends is a light stripe of the product."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from tests.core.test_area import SIZE, X, Y, _sharp
from tests.scenes import _encode, scene
from true_backdrop.core import pipeline
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.masks import outside_of
from true_backdrop.core.cut.unparted import unparted
from true_backdrop.core.picture import Picture

FLAG = (np.abs(X - 360) < 150) & (np.abs(Y - 230) < 100)
STRIPE = (np.abs(X - 360) < 130) & (np.abs(Y - 230) < 14)
RED = np.array([0.4, 0.02, 0.05])


#: The lamps fall off from the left to the right, by so much over the frame (log units).
FALL_OFF = 0.2


def _photographed(product: np.ndarray, colour: np.ndarray, grain: float = 0.0) -> Evidence:
    """A product (H, W) of a linear colour (H, W, 3) before such paper."""
    rng = np.random.default_rng(1)
    texture = cv2.GaussianBlur(rng.standard_normal(SIZE), (0, 0), 1.5)
    light = 0.7 * np.exp(FALL_OFF * (360 - X) / 720) * (1 + grain * texture / texture.std())
    paper = light[..., None] * np.array([1.0, 0.99, 0.97])
    shot = np.where(product[..., None], colour, paper)
    frame, empty = (_encode(_sharp(each) * (1 + rng.normal(0, 0.006, each.shape))) for each in (shot, paper))
    return pipeline.prepare(Picture(frame, "PNG"), Picture(empty, "PNG")).evidence


def _stripe(right: float, *, around: float = 0.0, beyond: float = 0.0, grain: float = 0.0, own_light: bool = True) -> np.ndarray:
    """Which of a stripe's part left of `right` is a surface, where all of that was taken for an opening; around the stripe the
    flag is so wide (pixels) of the stripe's own colour, and the stripe's rest so much darker (log units). Its light is even, or
    falls off as the backdrop's does."""
    pale = (np.abs(X - 360) < 130 + around) & (np.abs(Y - 230) < 14 + around)
    light = 0.7 * np.exp(np.where(right > X, 0.0, -beyond) + (0.0 if own_light else FALL_OFF) * (360 - X) / 720)
    colour = np.where(pale[..., None], light[..., None] * np.array([1.0, 0.99, 0.97]), RED)
    opening = STRIPE & (right > X)
    found = unparted(_photographed(FLAG, colour, grain), FLAG & ~opening)
    assert not (found & ~opening).any()
    return np.asarray(found[opening])


@pytest.mark.parametrize("right", [320, 450])
def test_a_stripe_that_goes_on_is_the_products(right: float) -> None:
    assert _stripe(right).all()


def test_a_stripe_whose_light_falls_off_as_the_backdrops_may_be_an_opening_with_a_shadow_in_it() -> None:
    assert not _stripe(450, own_light=False).any()


def test_an_opening_is_parted_from_the_product_all_around() -> None:
    assert not _stripe(720).any()


def test_beside_an_opening_in_pale_product_there_is_nothing_to_go_by() -> None:
    assert not _stripe(450, around=30).any()


@pytest.mark.parametrize(("beyond", "goes_on"), [(0.2, False), (0.085, False), (-0.03, True), (-0.09, False)])
def test_what_goes_on_has_the_openings_light_and_is_no_shadow_in_it(beyond: float, goes_on: bool) -> None:
    assert _stripe(450, beyond=beyond).any() == goes_on


def test_where_the_backdrop_shows_its_grain_that_has_told() -> None:
    assert not _stripe(450, grain=0.02).any()


def test_a_dark_rim_that_was_drawn_into_an_opening_does_not_go_on() -> None:
    """Where it ends there is dark product on both sides, unlike the opening."""
    hole = (np.abs(X - 360) < 40) & (np.abs(Y - 230) < 30)
    evidence = _photographed(FLAG & ~hole, np.broadcast_to(RED, (*SIZE, 3)))
    wider = (np.abs(X - 363) < 48) & (np.abs(Y - 230) < 30)
    assert not unparted(evidence, FLAG & ~wider).any()


def test_what_is_found_so_is_product_when_a_cut_is_decided(monkeypatch: pytest.MonkeyPatch) -> None:
    made = scene("ring")
    prepared = pipeline.prepare(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"))
    hole = np.hypot(*np.mgrid[-240:240, -360:360]) < 40
    assert not pipeline.product_at(prepared, 50, "auto")[hole].any()
    monkeypatch.setattr("true_backdrop.core.cut.region.unparted", lambda _, product: ~product & ~outside_of(product))
    assert pipeline.product_at(prepared, 50, "auto")[hole].all()
    assert not pipeline.product_at(prepared, 50, "strands")[hole].any()
