"""An opening ends where product begins: one that goes on as it is where it ends is a light stripe of the product."""

from __future__ import annotations

import numpy as np
import pytest

from tests.core.test_area import SIZE, X, Y, photographed
from tests.scenes import scene
from true_backdrop.core import pipeline
from true_backdrop.core.cut.masks import outside_of
from true_backdrop.core.cut.unparted import unparted
from true_backdrop.core.picture import Picture

FLAG = (np.abs(X - 360) < 150) & (np.abs(Y - 230) < 100)
STRIPE = (np.abs(X - 360) < 130) & (np.abs(Y - 230) < 14)
RED = np.array([0.4, 0.02, 0.05])


def _stripe(right: float, *, around: float = 0.0, beyond: float = 0.0) -> np.ndarray:
    """Which of a stripe's part left of `right` is a surface, where all of that was taken for an opening; around the stripe the
    flag is so wide (pixels) of the stripe's own colour, and the stripe's rest so much darker (log units)."""
    paper = (0.72 - 0.10 * (X / 720 - 0.5) ** 2 - 0.08 * (Y / 480 - 0.4) ** 2)[..., None] * np.array([1.0, 0.99, 0.97])
    pale = (np.abs(X - 360) < 130 + around) & (np.abs(Y - 230) < 14 + around)
    stripe = 0.99 * paper * np.exp(np.where(right > X, 0.0, -beyond))[..., None]
    made = photographed(FLAG.astype(float), np.where(pale[..., None], stripe, RED))
    evidence = pipeline.prepare(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG")).evidence
    opening = STRIPE & (right > X)
    found = unparted(evidence, FLAG & ~opening)
    assert not (found & ~opening).any()
    return np.asarray(found[opening])


@pytest.mark.parametrize("right", [300, 450])
def test_a_stripe_that_goes_on_is_the_products(right: float) -> None:
    assert _stripe(right).all()


def test_an_opening_is_parted_from_the_product_all_around() -> None:
    assert not _stripe(720).any()


def test_beside_an_opening_in_pale_product_there_is_nothing_to_go_by() -> None:
    assert not _stripe(450, around=30).any()


def test_what_goes_on_with_another_light_is_parted() -> None:
    assert not _stripe(450, beyond=0.2).any()


def test_a_dark_rim_that_was_drawn_into_an_opening_does_not_go_on() -> None:
    """Where it ends there is dark product on both sides, unlike the opening."""
    hole = (np.abs(X - 360) < 40) & (np.abs(Y - 230) < 30)
    made = photographed((FLAG & ~hole).astype(float), np.broadcast_to(RED, (*SIZE, 3)))
    evidence = pipeline.prepare(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG")).evidence
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
