"""What a cut must not be called clean for: a shadow at the foot, and product that is nearly as the paper."""

from __future__ import annotations

from dataclasses import replace

import cv2
import numpy as np
import pytest

from tests.core.test_area import SIZE, X, Y, _disc, photographed
from tests.scenes import Scene
from true_backdrop.core import pipeline
from true_backdrop.core.cut.decided import Decided
from true_backdrop.core.cut.outline_doubt import nearly_backdrop
from true_backdrop.core.cut.verdict import Judgement, Verdict
from true_backdrop.core.picture import Picture
from true_backdrop.core.treatment import CutSettings

PURPLE, STEEL = np.array([0.10, 0.05, 0.28]), 0.71 * np.exp(-0.5) * np.array([1.0, 0.99, 0.97])
OVAL = (((X - 360) / 170) ** 2 + ((Y - 342) / 30) ** 2 < 1).astype(float)


def judged(made: Scene) -> tuple[Judgement, np.ndarray]:
    frame, backdrop = Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG")
    decision, found = pipeline.cut_frame(frame, backdrop, CutSettings())
    return decision.judgement, found.alpha


def asks(judgement: Judgement, words: str) -> bool:
    return judgement.verdict is Verdict.LOOK_AGAIN and any(words in reason for reason in judgement.reasons)


SHADOW = "as neutral as a shadow and without an edge in it"


@pytest.mark.parametrize("sigma", [1.0, 1.5, 2.0])
@pytest.mark.parametrize("depth", [0.25, 0.5, 0.8])
def test_the_hard_shadow_of_a_coloured_ball_is_left_out_or_asked_about(sigma: float, depth: float) -> None:
    """A bare lamp draws it as sharply as a lens draws a plate."""
    shadow = np.exp(-depth * cv2.GaussianBlur(OVAL, (0, 0), sigma))
    made = photographed(_disc(360, 220, 120), np.broadcast_to(PURPLE, (*SIZE, 3)), shadow=shadow, noise=0.003)
    judgement, alpha = judged(made)
    left = np.count_nonzero((alpha > 0.02) & (made.alpha < 0.01)) / np.count_nonzero(made.alpha > 0.99)
    assert left < 0.01 or asks(judgement, SHADOW)


def test_where_the_grain_is_missing_a_grey_foot_is_no_shadow() -> None:
    ball = _disc(360, 220, 120)
    both = np.where(ball[..., None] > 0.5, PURPLE, STEEL)
    judgement, alpha = judged(photographed(np.maximum(ball, OVAL), both, grain=0.02, noise=0.002))
    assert alpha[OVAL > 0.99].mean() > 0.99
    assert not asks(judgement, SHADOW)
    assert asks(judged(photographed(np.maximum(ball, OVAL), both, noise=0.002))[0], SHADOW)


def test_a_grey_product_is_not_asked_about_for_being_grey() -> None:
    judgement, _ = judged(photographed(_disc(360, 240, 120), np.broadcast_to(STEEL, (*SIZE, 3)), noise=0.004))
    assert not asks(judgement, SHADOW)


NEARLY = "nearly as the backdrop"


def _capped(tone: float) -> tuple[np.ndarray, np.ndarray]:
    """An orange ball whose left third has such a tone against the paper (log units): its alpha and its surface."""
    pale = 0.72 * np.exp(tone) * np.array([1.0, 0.99, 0.97])
    return _disc(360, 240, 120), np.where((X < 320)[..., None], pale, np.array([0.62, 0.22, 0.04]))


@pytest.mark.parametrize(("unrest", "asked"), [(0.001, False), (0.008, True)])
def test_an_outline_that_gives_way_is_asked_about_where_the_product_is_nearly_as_the_backdrop(unrest: float, asked: bool) -> None:
    made, settings = photographed(*_capped(-0.16), noise=0.002), CutSettings()
    prepared = pipeline.prepare(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"))
    proposal = replace(pipeline.propose_match(prepared, settings), unrest=unrest)
    judgement = pipeline.decide_cut(prepared, settings, proposal).judgement
    assert asks(judgement, NEARLY) == asked
    if asked:
        assert [place.where for place in judgement.places if place.said == NEARLY] == ["left side"]


@pytest.mark.parametrize(("tone", "asked"), [(-0.03, True), (-0.12, False)])
def test_where_much_of_the_product_is_just_as_the_backdrop_it_need_not_give_way(tone: float, asked: bool) -> None:
    made = photographed(*_capped(tone), noise=0.002)
    prepared = pipeline.prepare(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"))
    whole = cv2.resize(made.alpha, prepared.evidence.shape[::-1], interpolation=cv2.INTER_AREA) > 0.5
    nowhere = np.zeros_like(whole)
    found, share = nearly_backdrop(prepared.evidence, Decided(whole, whole, whole, nowhere, 50, 0.0, prepared.busy, nowhere))
    assert bool(found) == asked
    assert (share > 0.1) == asked


def test_where_a_silhouette_tells_the_outline_it_is_not_asked_about() -> None:
    alpha, surface = _capped(-0.08)
    made = photographed(alpha, surface, noise=0.002)
    dark = photographed(alpha, np.full((*SIZE, 3), 0.004), noise=0.002, seed=2)
    frame, backdrop, silhouette, empty = (Picture(shot, "PNG") for shot in (made.frame, made.backdrop, dark.frame, dark.backdrop))
    prepared = pipeline.with_silhouette(pipeline.prepare(frame, backdrop), silhouette, pipeline.backdrop_proxy(empty))
    proposal = replace(pipeline.propose_match(prepared, CutSettings()), unrest=0.008)
    decision = pipeline.decide_cut(prepared, CutSettings(), proposal)
    assert decision.outline.product[alpha > 0.99].mean() > 0.99
    assert not asks(decision.judgement, NEARLY)


PART = "a stricter backdrop match would keep a part more"


def _beside_a_ball(colour: tuple[float, float, float], depth: float) -> Judgement:
    """A purple ball, and at its foot something that ends softly, so much darker than the paper and of such a colour."""
    foot = np.clip(1.6 - np.hypot((X - 360) / 170, (Y - 342) / 40), 0, 1)[..., None]
    made = photographed(_disc(360, 220, 120), np.broadcast_to(PURPLE, (*SIZE, 3)), noise=0.003)
    ball = made.alpha[..., None]
    lit = ball + (1 - ball) * np.exp((np.log(colour) - depth) * foot / 2.2)
    return judged(Scene(np.clip(made.frame * lit, 0, 255).round().astype(np.uint8), made.backdrop, made.alpha))[0]


@pytest.mark.parametrize("depth", [0.1, 0.3])
def test_what_only_a_stricter_match_keeps_is_asked_about_where_it_has_a_colour(depth: float) -> None:
    assert asks(_beside_a_ball((1.0, 0.7, 0.5), depth), PART)
    assert _beside_a_ball((1.0, 1.0, 1.0), depth).verdict is Verdict.CLEAN
    assert _beside_a_ball((1.0, 0.95, 0.9), depth).verdict is Verdict.CLEAN  # light that a product throws
