"""Table that the outline runs around: gaps with a narrow mouth, soft shadows; and parts of the product that look like it."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from tests.core.test_area import SIZE, X, Y, _disc, cut, photographed
from tests.scenes import OVER, Scene
from true_backdrop.core import pipeline
from true_backdrop.core.cut import table
from true_backdrop.core.cut.closing import Closing
from true_backdrop.core.cut.tolerances import Tolerances
from true_backdrop.core.cut.verdict import Verdict
from true_backdrop.core.picture import Picture
from true_backdrop.core.treatment import CutSettings, Hands, Touch, TouchSettings

ORANGE, DARK = np.array([0.62, 0.22, 0.04]), np.array([0.06, 0.06, 0.09])


def _shape(*points: tuple[float, float]) -> np.ndarray:
    big = np.zeros((SIZE[0] * OVER, SIZE[1] * OVER), np.uint8)
    cv2.fillPoly(big, [np.round(np.array(points) * OVER).astype(np.int32)], 255)
    return np.asarray(big.reshape(SIZE[0], OVER, SIZE[1], OVER).mean(axis=(1, 3)) / 255)


def _legs(seed: int, inlay: float | None) -> tuple[Scene, np.ndarray]:
    """An orange toy whose two legs touch at the feet but for a slit, in a shadow of its own, and the gap between the legs.

    With an `inlay` the gap is a grey part of such a tone (log units against the paper) instead, and the feet are not apart.
    """
    body = _shape((230, 150), (490, 150), (490, 360), (230, 360))
    gap = _shape((343, 296), (377, 296), (368, 346), (365, 349), (365, 362), (357, 362), (357, 349), (352, 346))
    shadow = np.exp(-0.65 * np.exp(-(((X - 360) / 170) ** 2) - np.clip((Y - 300) / 60, -9, 9) ** 2 * (Y > 300)) * (Y > 200))
    shadow = cv2.GaussianBlur(shadow, (0, 0), 9)
    if inlay is None:
        return photographed(body * (1 - gap), np.broadcast_to(ORANGE, (*SIZE, 3)), shadow=shadow, seed=seed), gap
    grey = 0.7 * np.exp(inlay) * np.array([1.0, 0.99, 0.97])
    return photographed(body, np.where(gap[..., None] > 0.5, grey, ORANGE), seed=seed), gap


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_a_gap_in_shadow_with_a_slit_for_a_mouth_is_backdrop(seed: int) -> None:
    made, gap = _legs(seed, None)
    _, alpha = cut(made)
    assert alpha[cv2.erode(gap, np.ones((7, 7))) > 0.99].mean() < 0.05
    assert alpha[made.alpha > 0.99].mean() > 0.99


@pytest.mark.parametrize("tone", [-0.65, -0.3])
def test_a_grey_part_that_ends_with_an_edge_of_its_own_is_product(tone: float) -> None:
    made, gap = _legs(1, tone)
    _, alpha = cut(made)
    assert alpha[gap > 0.99].mean() > 0.97


def _ball(depth: float, *, on_plate: bool = False) -> Scene:
    """A purple ball, hardly any noise, over a shadow whose edge has a sigma of 3.5 pixels; or on a plate as dark and neutral."""
    ball, oval = _disc(360, 220, 120), (((X - 360) / 170) ** 2 + ((Y - 342) / 30) ** 2 < 1).astype(float)
    purple = np.array([0.10, 0.05, 0.28])
    if not on_plate:
        dark = np.exp(-depth * cv2.GaussianBlur(oval, (0, 0), 3.5))
        return photographed(ball, np.broadcast_to(purple, (*SIZE, 3)), shadow=dark, noise=0.001)
    both = np.where(ball[..., None] > 0.5, purple, 0.7 * np.exp(-depth) * np.ones(3))
    return photographed(np.maximum(ball, oval), both, noise=0.001)


@pytest.mark.parametrize("depth", [0.5, 0.8])
def test_a_dark_shadow_that_ends_softly_is_no_product(depth: float) -> None:
    made = _ball(depth)
    _, alpha = cut(made)
    assert np.count_nonzero((alpha > 0.02) & (made.alpha < 0.01)) < 0.01 * np.count_nonzero(made.alpha > 0.99)
    assert alpha[made.alpha > 0.99].mean() > 0.995


def test_a_plate_as_dark_as_that_shadow_is_product_because_its_edge_is_sharp() -> None:
    made = _ball(0.8, on_plate=True)
    _, alpha = cut(made)
    assert alpha[made.alpha > 0.99].mean() > 0.99


def test_an_outline_along_a_shadow_is_asked_about(monkeypatch: pytest.MonkeyPatch) -> None:
    """Were the shadow left in, the outline would be as soft as it."""
    monkeypatch.setattr(table, "soft_shadows", lambda evidence, product, *_: np.zeros_like(product))
    made = _ball(0.5)
    prepared = pipeline.prepare(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"))
    settings = CutSettings()
    judgement = pipeline.decide_cut(prepared, settings, pipeline.propose_match(prepared, settings)).judgement
    assert any("as soft as a shadow" in reason for reason in judgement.reasons)


def _grey_set(seed: int, grain: float, *, rim: bool) -> Scene:
    """A dark board on grey paper with a rim eight pixels wide that is 5 % lighter than the paper; or the board's light on the table."""
    board, wider = ((np.abs(X - 360) < half) & (np.abs(Y - 230) < half) for half in (110, 118))
    light = 0.72 - 0.10 * (X / 720 - 0.5) ** 2 - 0.08 * (Y / 480 - 0.4) ** 2
    pale = 1.05 * light[..., None] * np.array([1.0, 0.99, 0.97])
    if rim:
        return photographed(wider.astype(float), np.where(board[..., None], DARK, pale), grain=grain, seed=seed)
    thrown = 1 + 0.05 * (wider & ~board)
    return photographed(board.astype(float), np.broadcast_to(DARK, (*SIZE, 3)), grain=grain, shadow=thrown, seed=seed)


@pytest.mark.parametrize("seed", [1, 2])
def test_a_pale_rim_is_told_from_light_on_the_table_by_the_grain_it_lacks(seed: int) -> None:
    made = _grey_set(seed, 0.015, rim=True)
    assert cut(made)[1][made.alpha > 0.99].mean() > 0.94
    thrown = _grey_set(seed, 0.015, rim=False)
    alpha = cut(thrown)[1]
    assert np.count_nonzero((alpha > 0.02) & (thrown.alpha < 0.01)) < 0.03 * np.count_nonzero(thrown.alpha > 0.99)


def _bottle(tone: float, *, shaded: bool) -> tuple[Scene, np.ndarray]:
    """A dark bottle with a place of such a tone (log units against the paper): a label, or an opening where shadow lies around."""
    body, place = _shape((240, 60), (480, 60), (480, 420), (240, 420)), _shape((300, 180), (420, 180), (420, 300), (300, 300))
    if not shaded:
        pale = 0.71 * np.exp(tone) * np.array([1.0, 0.99, 0.97])
        return photographed(body, np.where(place[..., None] > 0.5, pale, DARK)), place
    shadow = np.exp(tone * np.exp(-(((X - 360) / 200) ** 2) - ((Y - 300) / 200) ** 2))
    return photographed(body * (1 - place), np.broadcast_to(DARK, (*SIZE, 3)), shadow=shadow), place


@pytest.mark.parametrize("tone", [-0.08, -0.12])
def test_a_flat_pale_label_in_a_dark_body_is_no_hole(tone: float) -> None:
    made, label = _bottle(tone, shaded=False)
    assert cut(made)[1][label > 0.99].mean() > 0.98


def test_an_opening_in_a_shadow_that_lies_around_is_open_or_asked_about() -> None:
    for tone in (-0.3, -0.5, -0.7):
        made, place = _bottle(tone, shaded=True)
        verdict, alpha = cut(made)
        assert alpha[place > 0.99].mean() < 0.05 or verdict is Verdict.LOOK_AGAIN


def test_a_white_stripe_that_crosses_the_papers_lightness_stays_whole() -> None:
    """As where lamps fall off behind an even white: for some pixels the two are alike."""
    flag, stripe = _shape((200, 100), (520, 100), (520, 380), (200, 380)), _shape((215, 225), (505, 225), (505, 250), (215, 250))
    light = 0.72 - 0.10 * (X / 720 - 0.5) ** 2 - 0.08 * (Y / 480 - 0.4) ** 2
    white = (light * (1 + 0.0006 * (X - 350)))[..., None] * np.array([1.0, 0.99, 0.97])
    made = photographed(flag, np.where(stripe[..., None] > 0.5, white, np.array([0.4, 0.02, 0.05])), noise=0.004)
    assert cut(made)[1][stripe > 0.99].mean() > 0.98


def test_what_may_be_a_pale_part_is_asked_about_until_a_touch_says_that_it_is_product() -> None:
    made, label = _bottle(-0.03, shaded=False)
    frame, backdrop = Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG")
    decision, _ = pipeline.cut_frame(frame, backdrop, CutSettings())
    assert any("a pale part would look the same" in reason for reason in decision.judgement.reasons)
    stroke = Touch(kind="product", points=((0.5, 0.5),), width=0.3, reach=0.0)
    decision, found = pipeline.cut_frame(frame, backdrop, CutSettings(), hands=Hands(touches=TouchSettings(strokes=(stroke,))))
    assert found.alpha[label > 0.99].mean() > 0.98
    assert not any("a pale part would look the same" in reason for reason in decision.judgement.reasons)


PALE_PART = "a pale part would look the same"


@pytest.mark.parametrize("tone", [-0.011, -0.02])
def test_an_even_place_hardly_darker_than_the_paper_is_kept_or_asked_about(tone: float) -> None:
    """An opening in full light is just as light as the paper, and one in a shadow is uneven."""
    made, label = _bottle(tone, shaded=False)
    decision, found = pipeline.cut_frame(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"), CutSettings())
    kept = found.alpha[label > 0.99].mean() > 0.98
    assert kept or any(PALE_PART in reason for reason in decision.judgement.reasons)


def test_an_opening_in_full_light_is_not_asked_about() -> None:
    made, place = _bottle(0.0, shaded=True)
    decision, found = pipeline.cut_frame(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"), CutSettings())
    assert found.alpha[place > 0.99].mean() < 0.02
    assert decision.judgement.verdict is Verdict.CLEAN, decision.judgement.reasons


def test_the_end_of_a_shadow_goes_where_its_middle_has_gone(monkeypatch: pytest.MonkeyPatch) -> None:
    """What hung together with the product only over a soft shadow is a streak of shadow apart from it; a part as sharp as the
    product, beside it, is none."""
    slab = (np.abs(X - 360) < 130) & (Y >= 140) & (Y < 300)
    shadow = (X > 400) & (X < 580) & (Y >= 285) & (Y < 305) & ~slab
    knob = (X > 130) & (X < 165) & (Y >= 285) & (Y < 305)
    colour = np.where(knob[..., None], 0.35, ORANGE)
    light = 1 - 0.5 * cv2.GaussianBlur(shadow.astype(float), (0, 0), 4)
    made = photographed((slab | knob).astype(float), colour, shadow=light)
    evidence = pipeline.prepare(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG")).evidence
    limits, whole = Tolerances.of(50, evidence.noise, evidence.long_side), (slice(0, SIZE[0]), slice(0, SIZE[1]))
    monkeypatch.setattr(table, "soft_shadows", lambda *_: shadow & (X < 545))
    none = np.zeros(SIZE, bool)
    found = table.without_table(evidence, slab | knob | shadow, none, none, Closing(evidence), whole, limits, "auto")
    assert found[slab].mean() > 0.98 and found[knob].mean() > 0.8
    assert not found[shadow & (X > 495)].any()
