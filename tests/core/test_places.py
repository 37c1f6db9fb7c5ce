"""Verdicts name places, and what may be backdrop inside a product is told."""

from __future__ import annotations

from dataclasses import replace

import cv2
import numpy as np
import pytest

from tests.scenes import Scene, _encode, scene
from true_backdrop.core import pipeline
from true_backdrop.core.cut.closing import Closing
from true_backdrop.core.cut.doubt import BESIDE_WORTH_A_LOOK, lost_beside, product_like
from true_backdrop.core.cut.places import named, places
from true_backdrop.core.cut.verdict import Verdict
from true_backdrop.core.picture import Picture
from true_backdrop.core.treatment import CutSettings


def decide(made: Scene, **settings: object) -> pipeline.Decision:
    return pipeline.cut_frame(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"), CutSettings(**settings))[0]


@pytest.mark.parametrize(
    ("spot", "words"),
    [
        ((20, 20), "top left"),
        ((20, 100), "at the top"),
        ((20, 180), "top right"),
        ((100, 20), "left side"),
        ((100, 100), "in the middle"),
        ((180, 180), "bottom right"),
    ],
)
def test_a_place_is_named_against_the_product(spot: tuple[int, int], words: str) -> None:
    product = np.zeros((300, 400), bool)
    product[50:250, 100:300] = True
    mask = np.zeros_like(product)
    mask[50 + spot[0] : 56 + spot[0], 100 + spot[1] : 106 + spot[1]] = True
    found = places(mask, product, "something")
    assert [place.where for place in found] == [words]
    box = found[0]
    assert box.left < (103 + spot[1]) / 400 < box.right and box.top < (53 + spot[0]) / 300 < box.bottom


def test_the_largest_places_come_first_and_crumbs_are_left_out() -> None:
    product = np.ones((300, 400), bool)
    mask = np.zeros_like(product)
    for left, size in ((20, 20), (150, 12), (300, 3)):
        mask[20 : 20 + size, left : left + size] = True
    found = places(mask, product, "x")
    assert len(found) == 2 and found[0].left < found[1].left
    assert named(found) == "top left and at the top"
    assert places(np.zeros_like(mask), product, "x") == ()
    assert named(()) == "in the picture"


def soft_footed(colour: tuple[float, float, float]) -> Scene:
    """A box whose lower side is so far out of focus that it is no steeper than a shadow."""
    rng = np.random.default_rng(9)
    y, x = np.mgrid[:480, :720].astype(float)
    across = np.clip((100 - np.abs(x - 360)) + 0.5, 0, 1)
    alpha = across * np.clip(y - 140.5, 0, 1) / (1 + np.exp((y - 330) / 5))
    bare = np.full((480, 720, 3), 0.6)
    light = alpha[..., None] * np.array(colour) + (1 - alpha[..., None]) * bare
    frame, empty = (_encode(each * (1 + rng.normal(0, 0.004, each.shape))) for each in (light, bare))
    return Scene(frame, empty, alpha)


@pytest.mark.parametrize(("colour", "asked"), [((0.75, 0.4, 0.29), False), ((0.66, 0.6, 0.55), True)])
def test_a_soft_edge_of_another_colour_is_an_edge_and_one_of_nearly_the_same_is_asked_about(
    colour: tuple[float, float, float], asked: bool
) -> None:
    reasons = decide(soft_footed(colour)).judgement.reasons
    assert any("edge" in reason for reason in reasons) == asked


def test_a_pale_part_that_was_lost_leaves_its_outline_beside_the_product() -> None:
    made = scene("box", (0.05, 0.18, 0.25), shadow=0.0)
    third = (np.arange(720) >= 420)[None] & (made.alpha > 0)
    frame = made.frame.copy()
    frame[third] = np.clip(made.backdrop[third].astype(int) - 20, 0, 255)
    for lost in (True, False):
        shown = frame if lost else np.where(third[..., None], made.backdrop, frame)
        prepared = pipeline.prepare(Picture(shown, "PNG"), Picture(made.backdrop, "PNG"))
        mask, much = product_like(prepared.evidence, (made.alpha > 0.5) & ~third, Closing(prepared.evidence))
        assert (much > BESIDE_WORTH_A_LOOK) == lost
        assert not lost or np.flatnonzero(mask.any(axis=0)).min() > 420


def _with_a_line(soft_px: float, tint: tuple[float, float, float] = (1, 1, 1)) -> tuple[pipeline.Prepared, np.ndarray]:
    """A box and beside it a dark line of some softness; and the box (H, W)."""
    made = scene("box", (0.05, 0.18, 0.25), centre=(0.4, 0.5), shadow=0.0)
    line = np.zeros((480, 720), np.float32)
    cv2.line(line, (480, 300), (540, 300), 1.0, 8)
    blurred = cv2.GaussianBlur(line, (0, 0), soft_px)
    dim = np.exp(-0.7 * (blurred / blurred.max())[..., None] * np.array(tint))
    frame = np.clip(made.frame * dim ** (1 / 2.2), 0, 255).astype(np.uint8)
    return pipeline.prepare(Picture(frame, "PNG"), Picture(made.backdrop, "PNG")), made.alpha > 0.5


@pytest.mark.parametrize(("soft_px", "asked"), [(5.0, False), (2.0, False), (0.6, True)])
def test_the_shadow_of_something_narrow_is_not_asked_about_and_a_line_is(soft_px: float, asked: bool) -> None:
    """Both are as thin as what is left of a pale part; a shadow ends more softly than a lens draws."""
    prepared, product = _with_a_line(soft_px)
    assert (product_like(prepared.evidence, product, Closing(prepared.evidence))[1] > BESIDE_WORTH_A_LOOK) == asked


def test_a_line_as_soft_as_a_narrow_shadow_that_has_a_colour_is_asked_about(monkeypatch: pytest.MonkeyPatch) -> None:
    """Without the way its edge ends, compared with that of the product, so is the shadow."""
    for tint, asked in (((1, 1, 1), False), ((1, 0.7, 0.55), True)):
        prepared, product = _with_a_line(2.0, tint)
        assert (product_like(prepared.evidence, product, Closing(prepared.evidence))[1] > BESIDE_WORTH_A_LOOK) == asked
    prepared, product = _with_a_line(2.0)
    monkeypatch.setattr("true_backdrop.core.cut.streaks._LESS_SHARP", 0.0)
    assert product_like(prepared.evidence, product, Closing(prepared.evidence))[1] > BESIDE_WORTH_A_LOOK


@pytest.mark.parametrize(("soft_px", "lost"), [(2.5, False), (0.6, True)])
def test_edges_of_a_narrow_shadow_belong_to_it(soft_px: float, lost: bool) -> None:
    prepared, product = _with_a_line(soft_px)
    closing, evidence = Closing(prepared.evidence), prepared.evidence
    found = lost_beside(evidence, closing, product)
    line = np.zeros_like(product)
    line[290:311, 470:550] = True
    assert (found & line).any() == lost


def test_lost_product_is_a_place_at_the_value_that_loses_it() -> None:
    made = scene("box", (0.70, 0.69, 0.68))
    decision = decide(made, match=10)
    assert decision.judgement.verdict is not Verdict.CLEAN
    assert decision.judgement.places or decision.judgement.verdict is Verdict.REDO


def test_touching_the_edge_is_a_place_at_the_edge() -> None:
    decision = decide(scene("box", centre=(0.95, 0.5)))
    assert decision.judgement.verdict is Verdict.REDO
    assert decision.judgement.places[0].right == pytest.approx(1.0, abs=0.03)


def papered_scene(filled: bool, through: tuple[float, float, float] = (1.0, 1.0, 1.0)) -> Scene:
    """A dark bar frame round paper with grain, seen through a pane or not; `filled`: the middle is card without that grain."""
    rng = np.random.default_rng(5)
    grain = cv2.GaussianBlur(rng.normal(0, 1, (480, 720)).astype(np.float32), (0, 0), 2.2)
    bare = (0.75 * (1 + 0.012 * grain / grain.std()))[..., None] * np.ones(3)
    alpha = np.zeros((480, 720))
    alpha[140:340, 260:460] = 1
    inside = np.zeros_like(alpha, bool)
    inside[180:300, 300:420] = True
    light = np.where(alpha[..., None] > 0, 0.08, bare)
    light = np.where(inside[..., None], (0.75 if filled else bare) * np.array(through), light)
    frame, empty = (_encode(each + rng.normal(0, 0.004, each.shape)) for each in (light, bare))
    return Scene(frame, empty, np.where(inside & ~filled, 0, alpha))


def test_paper_inside_a_product_that_is_cut_whole_is_told_and_white_card_is_not() -> None:
    from true_backdrop.core.cut.doubt import backdrop_like

    whole = np.zeros((480, 720), bool)
    whole[140:340, 260:460] = True
    for filled in (False, True):
        made = papered_scene(filled)
        prepared = pipeline.prepare(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"))
        found = backdrop_like(prepared.evidence, whole)
        assert found.by_grain
        # The less of the paper is seen again, the more must look like it before anybody is asked.
        faintly, not_at_all = replace(prepared.evidence, grain=None), replace(prepared.evidence, grain=None, structure=0.0)
        assert found.least < backdrop_like(faintly, whole).least < backdrop_like(not_at_all, whole).least
        assert (found.places[185:295, 305:415].mean() > 0.5) == (not filled)


@pytest.mark.parametrize("filled", [True, False])
def test_a_pane_is_told_from_grey_card_by_the_paper_seen_through_it(filled: bool) -> None:
    """Both are as dark and as even; nobody said that there is glass."""
    made = papered_scene(filled, (0.55, 0.58, 0.6))
    decision, found = pipeline.cut_frame(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"), CutSettings())
    middle = found.alpha[195:285, 315:405]
    named = [place.said for place in decision.judgement.places]
    if filled:
        assert np.median(middle) == 1
        assert "taken for glass" not in named
        return
    assert np.median(middle) == pytest.approx(0.45, abs=0.05)
    assert named == ["taken for glass"]
    assert decision.judgement.verdict is Verdict.LOOK_AGAIN
    assert found.alpha[150:170, 270:450].min() > 0.95  # the frame round it stays solid
    solid = pipeline.cut_frame(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"), CutSettings(material="solid"))[1]
    assert np.median(solid.alpha[195:285, 315:405]) == 1


def test_before_plain_paper_an_even_grey_place_is_asked_about() -> None:
    """Without grain a pane and grey card are the same picture; nobody may be told that it is clean."""
    made = scene("ring", shadow=0.0)
    height, width = made.alpha.shape
    y, x = np.mgrid[0:height, 0:width]
    pane = (made.alpha < 0.01) & (np.hypot(x - width / 2, y - height / 2) < height * 0.1)
    dimmed = np.where(pane[..., None], made.frame * 0.85, made.frame)
    grey = replace(made, frame=np.round(dimmed).astype(np.uint8))
    assert [place.said for place in decide(grey).judgement.places] == ["pale card or glass"]
    assert decide(grey, material="solid").judgement.verdict is Verdict.CLEAN
    assert decide(made).judgement.verdict is Verdict.CLEAN
