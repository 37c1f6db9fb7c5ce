"""A panel as pale as the backdrop in a thin outline is asked about, also where a gap opens it to the backdrop around."""

from __future__ import annotations

import numpy as np
import pytest

from tests.core.test_area import SIZE, X, Y, photographed
from true_backdrop.core import pipeline
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.pale_openings import pale_openings
from true_backdrop.core.picture import Picture

FLAG = (np.abs(X - 360) < 130) & (np.abs(Y - 230) < 90)
PANEL = (X > 238) & (X < 340) & (np.abs(Y - 230) < 82)


def _evidence(product: np.ndarray, colour: np.ndarray, grain: float) -> Evidence:
    made = photographed(product.astype(float), np.broadcast_to(colour, (*SIZE, 3)), grain=grain)
    return pipeline.prepare(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG")).evidence


def _told(gap: int, tone: float, *, grain: float = 0.0, fading: float = 0.0, end: float = 0.0) -> float:
    """How much of the panel is told: of such a tone (log units), in an outline that is open at its left over so many pixels.

    It is darker by so much from top to bottom (`fading`), and in its lowest fifth (`end`).
    """
    outline = FLAG & ~PANEL & ~((X < 250) & (np.abs(Y - 230) < gap / 2))
    light = 0.72 - 0.10 * (X / 720 - 0.5) ** 2 - 0.08 * (Y / 480 - 0.4) ** 2
    pale = light * np.exp(tone + fading * (Y - 230) / 90 - end * np.clip((Y - 280) / 32, 0, 1))
    colour = np.where(PANEL[..., None], pale[..., None] * np.array([1.0, 0.99, 0.97]), np.array([0.4, 0.02, 0.05]))
    evidence = _evidence(outline | PANEL, colour, grain)
    return float(pale_openings(evidence, outline)[PANEL & (X > 260)].mean())


@pytest.mark.parametrize("gap", [0, 6, 12])
def test_a_panel_evenly_darker_than_the_backdrop_is_told(gap: int) -> None:
    assert _told(gap, -0.06) > 0.9


def test_what_is_wide_open_is_the_backdrops() -> None:
    assert _told(40, -0.06) == 0


@pytest.mark.parametrize("gap", [0, 12])
def test_an_opening_in_full_light_is_no_panel(gap: int) -> None:
    assert _told(gap, 0.0) == 0


def test_shadow_that_fades_behind_a_gap_is_no_panel() -> None:
    assert _told(12, -0.09, fading=0.06) == 0


@pytest.mark.parametrize(("tone", "fading", "told"), [(-0.2, 0.0, True), (-0.2, 0.06, False), (-0.06, 0.03, False)])
def test_a_darker_panel_is_even(tone: float, fading: float, told: bool) -> None:
    """Where a shadow lies over an opening it changes across that."""
    assert (_told(0, tone, fading=fading) > 0.9) is told


@pytest.mark.parametrize("end", [0.06, 0.15])
def test_a_panel_that_is_even_but_for_one_end_is_told(end: float) -> None:
    assert _told(0, -0.06, end=end) > 0.9
    assert _told(0, -0.06, end=end, fading=0.04) == 0
    assert _told(12, -0.06, end=end) == 0


def test_where_the_backdrop_shows_its_grain_a_panel_without_it_is_told() -> None:
    assert _told(0, -0.06, grain=0.02) > 0.9
    assert _told(0, 0.0, grain=0.02) > 0.9
    assert _told(12, -0.06, grain=0.02) == 0


def test_an_opening_that_shows_the_grain_is_none() -> None:
    assert not pale_openings(_evidence(FLAG & ~PANEL, np.array([0.4, 0.02, 0.05]), 0.02), FLAG & ~PANEL).any()


#: A symbol: a bar, and two more across it at both of its ends.
SIGN = ((np.abs(X - 360) < 4) & (np.abs(Y - 230) < 50)) | ((np.abs(np.abs(Y - 230) - 46) < 4) & (np.abs(X - 360) < 40))


def test_an_opening_as_thin_as_writing_is_told_however_light_it_is() -> None:
    light = 0.72 - 0.10 * (X / 720 - 0.5) ** 2 - 0.08 * (Y / 480 - 0.4) ** 2
    paper = light[..., None] * np.array([1.0, 0.99, 0.97])
    evidence = _evidence(FLAG, np.where(SIGN[..., None], paper, np.array([0.4, 0.02, 0.05])), 0.0)
    assert (pale_openings(evidence, FLAG & ~SIGN) == SIGN).all()
    bar = SIGN & (np.abs(Y - 230) < 40)
    assert not pale_openings(evidence, FLAG & ~bar).any()
    square = (np.abs(X - 360) < 40) & (np.abs(Y - 230) < 40)
    assert not pale_openings(evidence, FLAG & ~square).any()


@pytest.mark.parametrize(("lightest", "told"), [(-0.18, True), (-0.02, False)])
def test_a_stripe_that_is_nowhere_in_the_light_is_told_however_uneven_it_is(lightest: float, told: bool) -> None:
    """As a rail in a picture of a railway; a slot lets light through somewhere."""
    stripe = (np.abs(X - 360) < 8) & (np.abs(Y - 230) < 80)
    light = 0.72 - 0.10 * (X / 720 - 0.5) ** 2 - 0.08 * (Y / 480 - 0.4) ** 2
    pale = (light * np.exp(lightest - 0.3 * (Y - 150) / 160))[..., None] * np.array([1.0, 0.99, 0.97])
    evidence = _evidence(FLAG, np.where(stripe[..., None], pale, np.array([0.4, 0.02, 0.05])), 0.0)
    assert bool(pale_openings(evidence, FLAG & ~stripe)[stripe].mean() > 0.9) is told
    assert not pale_openings(evidence, FLAG & ~(stripe & (np.abs(Y - 230) < 40))).any()
