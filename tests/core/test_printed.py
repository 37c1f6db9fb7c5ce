"""What floats in an opening is print on a pale face, and the face is no opening."""

from __future__ import annotations

import numpy as np
import pytest

from tests.core.test_area import X, Y, photographed
from tests.core.test_rim_beyond import EMPTY, RED
from true_backdrop.core import pipeline
from true_backdrop.core.colour import encode_pixels
from true_backdrop.core.cut.pale_openings import pale_openings
from true_backdrop.core.cut.printed import printed
from true_backdrop.core.picture import Picture
from true_backdrop.core.treatment import CutSettings

BODY = (X >= 200) & (X < 460) & (Y >= 80) & (Y < 360)
FACE = (X >= 225) & (X < 435) & (Y >= 160) & (Y < 335)


def _dots(many: int) -> np.ndarray:
    return np.logical_or.reduce([np.hypot(X - 270 - 55 * i, Y - 240) < 14 for i in range(many)])


def prepared(
    print_: np.ndarray, colour: tuple[float, float, float] = (0.03, 0.03, 0.03), light: float | np.ndarray = 0.965
) -> pipeline.Prepared:
    """A red frame around what has such a part of the backdrop's light, with such print (H, W) on it."""
    face = np.where(print_[..., None], np.array(colour), light * EMPTY)
    made = photographed(BODY.astype(float), np.where(FACE[..., None], face, RED), noise=0.004)
    return pipeline.prepare(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"))


def found(print_: np.ndarray, colour: tuple[float, float, float] = (0.03, 0.03, 0.03)) -> np.ndarray:
    return printed(prepared(print_, colour).evidence, FACE & ~print_)


@pytest.mark.parametrize("colour", [(0.03, 0.03, 0.03), (0.72, 0.66, 0.25)], ids=["dark", "of a colour"])
def test_a_face_with_print_is_no_opening(colour: tuple[float, float, float]) -> None:
    print_ = _dots(3)
    assert (found(print_, colour) == (FACE & ~print_)).all()


def test_the_whole_decision_keeps_it() -> None:
    of = prepared(_dots(3))
    assert pipeline.propose_match(of, CutSettings()).product(of.busy)[FACE].mean() > 0.99


def test_one_ball_in_a_ring_and_an_empty_opening_say_nothing() -> None:
    assert not found(_dots(1)).any()
    assert not found(_dots(0)).any()
    of = prepared(_dots(1))
    assert pipeline.propose_match(of, CutSettings()).product(of.busy)[FACE & ~_dots(2)].mean() < 0.06


@pytest.mark.parametrize(("balls", "dimmed", "asked"), [(1, 0.1, True), (0, 0.1, False), (1, 0.0, False)])
def test_one_is_asked_about_where_the_light_around_it_is_not_just_the_backdrops(balls: int, dimmed: float, asked: bool) -> None:
    light = (1 - dimmed - 0.7 * dimmed * (Y - 250) / 90)[..., None]
    of = prepared(_dots(balls), light=light)
    assert pale_openings(of.evidence, (BODY & ~FACE) | _dots(balls))[FACE & ~_dots(2)].any() == asked


@pytest.mark.parametrize("balls", [1, 0])
def test_before_dark_paper_what_floats_is_brighter(balls: int) -> None:
    """As the glowing end of a cigarette on a dark sign."""
    face = np.where(_dots(balls)[..., None], 1.8, (0.9 - 0.07 * (Y - 250) / 90)[..., None])
    light = np.where(BODY[..., None], np.where(FACE[..., None], face, RED), 1.0)
    grain = 1 + np.random.default_rng(1).normal(0, 0.004, (2, *EMPTY.shape))
    frame, paper = (encode_pixels((0.15 * EMPTY * each).astype(np.float32)) for each in (light * grain[0], grain[1]))
    evidence = pipeline.prepare(Picture(frame, "PNG"), Picture(paper, "PNG")).evidence
    assert pale_openings(evidence, (BODY & ~FACE) | _dots(balls))[FACE & ~_dots(2)].any() == bool(balls)


def test_what_lies_on_the_table_within_a_loop_is_no_print() -> None:
    """As two earrings within a necklace do: there it is just as light as beside it."""
    of = prepared(_dots(2), light=1.0)
    assert not printed(of.evidence, FACE & ~_dots(2)).any()
    assert pipeline.propose_match(of, CutSettings()).product(of.busy)[FACE & ~_dots(3)].mean() < 0.06


def test_between_strands_loose_ends_float() -> None:
    of = prepared(_dots(3))
    assert pipeline.propose_match(of, CutSettings(material="strands")).product(of.busy)[FACE & ~_dots(3)].mean() < 0.1


def test_spokes_hold_what_they_meet() -> None:
    spokes = (np.abs(Y - 240) < 3) & FACE
    assert not found(_dots(3) | spokes).any()


def test_what_is_hardly_off_the_backdrop_is_no_print() -> None:
    assert not found(_dots(3), (0.6, 0.6, 0.58)).any()


def test_grains_are_no_print() -> None:
    grains = _dots(3) & (np.abs(Y - 240) < 2) & ((X - 270) % 55 < 4)
    assert 0 < np.count_nonzero(grains) < 3 * 20
    assert not found(grains).any()
