"""Of two places that are alike one was taken for an opening and one for product: that is asked about."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from tests.core.test_area import SIZE, X, Y, photographed
from tests.core.test_rim_beyond import EMPTY, PANEL, RED
from tests.scenes import scene
from true_backdrop.core import pipeline
from true_backdrop.core.cut.decided import Decided
from true_backdrop.core.cut.twins import twins, unlike_twins
from true_backdrop.core.cut.verdict import Verdict
from true_backdrop.core.picture import Picture
from true_backdrop.core.treatment import CutSettings

LEFT_EYE, RIGHT_EYE = (np.hypot(X - 290, Y - 220) < 30), (np.hypot(X - 430, Y - 220) < 30)


def _prepared(
    other: tuple[float, float, float] = (0.94, 0.94, 0.94), right: np.ndarray = RIGHT_EYE, left: np.ndarray = LEFT_EYE
) -> pipeline.Prepared:
    """A red panel with one eye in the backdrop's light, and another in such a part (3,) of it."""
    colour = np.where(left[..., None], EMPTY, np.where(right[..., None], np.array(other) * EMPTY, RED))
    made = photographed(PANEL.astype(float), colour)
    return pipeline.prepare(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"))


def _found(prepared: pipeline.Prepared, product: np.ndarray = PANEL & ~LEFT_EYE) -> np.ndarray:
    return unlike_twins(prepared.evidence, product)


def test_an_eye_that_was_opened_is_found_with_the_one_that_was_not() -> None:
    found = _found(_prepared())
    assert found[LEFT_EYE].mean() > 0.9 and found[RIGHT_EYE].mean() > 0.8
    assert not (found & ~LEFT_EYE & ~RIGHT_EYE).any()


def test_where_both_are_open_or_both_product_nothing_is() -> None:
    assert not _found(_prepared(), PANEL & ~LEFT_EYE & ~RIGHT_EYE).any()
    assert not _found(_prepared(), PANEL).any()


@pytest.mark.parametrize("other", [(0.8, 0.8, 0.8), (1.0, 0.9, 0.9)], ids=["darker", "tinted"])
def test_what_is_of_another_light_is_no_twin(other: tuple[float, float, float]) -> None:
    assert not _found(_prepared(other)).any()


@pytest.mark.parametrize(
    "right",
    [np.hypot(X - 430, Y - 220) < 14, np.hypot(X - 430, Y - 220) < 60, (np.abs(X - 360) < 150) & (np.abs(Y - 320) < 10)],
    ids=["smaller", "larger", "longer"],
)
def test_what_is_of_another_size_is_no_twin(right: np.ndarray) -> None:
    assert not _found(_prepared(right=right)).any()


def test_small_openings_are_not_asked_about() -> None:
    left, right = (np.hypot(X - x, Y - 220) < 12 for x in (290, 430))
    assert not _found(_prepared(right=right, left=left), PANEL & ~left).any()


def test_two_small_openings_with_two_like_places_beside_them_are_asked_about() -> None:
    """Four dots of a dial, each half of what a person should look at."""
    dots = [np.hypot(X - x, Y - y) < 11 for x, y in ((290, 180), (430, 180), (290, 270), (430, 270))]
    prepared = _prepared(right=dots[2] | dots[3], left=dots[0] | dots[1])
    assert 0.006 < np.count_nonzero(dots[0] | dots[1]) / np.count_nonzero(PANEL) < 0.012
    found = _found(prepared, PANEL & ~dots[0] & ~dots[1])
    assert all(found[dot].mean() > 0.5 for dot in dots)
    assert not _found(prepared, PANEL & ~dots[0]).any()


@pytest.mark.parametrize(("light", "found"), [(0.56, True), (0.35, False)])
def test_an_opening_in_deep_shadow_has_a_twin_as_dark(light: float, found: bool) -> None:
    colour = np.where(LEFT_EYE[..., None], 0.6 * EMPTY, np.where(RIGHT_EYE[..., None], light * EMPTY, RED))
    made = photographed(PANEL.astype(float), colour)
    prepared = pipeline.prepare(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"))
    assert _found(prepared).any() == found


def test_the_verdict_asks_about_it(monkeypatch: pytest.MonkeyPatch) -> None:
    made = scene()
    frames = Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG")
    assert pipeline.cut_frame(*frames, CutSettings())[0].judgement.verdict is Verdict.CLEAN
    monkeypatch.setattr("true_backdrop.core.cut.twins.unlike_twins", lambda _, product: product)
    judgement = pipeline.cut_frame(*frames, CutSettings())[0].judgement
    assert judgement.verdict is Verdict.LOOK_AGAIN and "alike" in judgement.reasons[0] and judgement.places


def test_it_is_asked_about_but_not_where_somebody_has_touched_or_the_product_is_clear() -> None:
    product = PANEL & ~LEFT_EYE
    decided = Decided(product, product, product, np.zeros(SIZE, bool), 50, 0.0, _prepared().busy, product)
    ((said, at),) = twins(decided)[0]
    assert "alike" in said and at
    assert twins(replace(decided, at_match=PANEL)) == ([], 0.0)
    assert twins(replace(decided, clear=True)) == ([], 0.0)
    assert twins(replace(decided, product=PANEL, at_match=PANEL)) == ([], 0.0)
