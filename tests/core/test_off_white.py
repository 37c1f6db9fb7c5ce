"""On a grey or coloured set what is as light and as neutral as the backdrop, in product that is not, is an opening."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from tests.core.test_area import SIZE, X, Y, _sharp
from tests.scenes import _encode, scene
from true_backdrop.core import pipeline
from true_backdrop.core.cut.bare import bare_pixels
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.hue import BackdropHue
from true_backdrop.core.cut.off_white import openings_off_white
from true_backdrop.core.cut.tolerances import Tolerances
from true_backdrop.core.picture import Picture

GREY, WHITE, BLUE = np.array([0.3, 0.3, 0.3]), np.array([0.75, 0.74, 0.72]), np.array([0.5, 0.65, 0.85])
FIGURE = (np.abs(X - 360) < 120) & (np.abs(Y - 240) < 140)
SHIRT = FIGURE & (Y < 150)
RED = np.array([0.4, 0.02, 0.05])


def _photographed(
    paper: np.ndarray, place: np.ndarray, light: np.ndarray, shirt: float, around: np.ndarray, grain: float, through: bool
) -> Evidence:
    rng = np.random.default_rng(1)
    texture = cv2.GaussianBlur(rng.standard_normal(SIZE), (0, 0), 1.5)
    empty = paper * (1 + grain * texture / texture.std())[..., None]
    product = np.where(SHIRT[..., None], shirt, around)
    seen = (empty if through else paper) * light
    shot = np.where(FIGURE[..., None], np.where(place[..., None], seen, product), empty)
    frame, backdrop = (_encode(_sharp(each) * (1 + rng.normal(0, 0.004, each.shape))) for each in (shot, empty))
    return pipeline.prepare(Picture(frame, "PNG"), Picture(backdrop, "PNG")).evidence


def _opens(
    paper: np.ndarray,
    *,
    shade: float = -0.1,
    falls: float = 0.0,
    tinted: float = 0.0,
    half: tuple[int, int] = (11, 40),
    shirt: float = 0.8,
    around: np.ndarray = RED,
    expected: float = -0.2,
    opened: int = 0,
    grain: float = 0.0,
    through: bool = True,
) -> bool:
    """Whether a place in a figure with a shirt of such a light opens, on such paper: darker than the backdrop by `shade`, and over
    its height by `falls` more (log units), with so much more red; of such half a width and height (pixels), from which the uppermost
    rows were opened already. The backdrop nearby is `expected` (log units), and its grain is seen in the place if one sees `through`."""
    place = (np.abs(X - 360) < half[0]) & (np.abs(Y - 280) < half[1])
    light = np.exp(shade + falls * (Y - 280) / (2 * half[1]))[..., None] * np.exp(np.array([tinted, 0, 0]))
    evidence = _photographed(paper, place, light, shirt, around, grain, through)
    inside = FIGURE & ~(place & (280 - half[1] + opened > Y))
    nearby = np.full(evidence.shape, expected, np.float32)
    soft = bare_pixels(evidence, Tolerances.of(50, evidence.noise, evidence.long_side), nearby).soft
    found = openings_off_white(evidence, soft, inside, nearby, BackdropHue(evidence, ~FIGURE))
    assert not (found & ~place).any()
    return bool(found.any())


@pytest.mark.parametrize("paper", [GREY, BLUE])
def test_an_opening_in_a_light_shadow_opens_on_grey_and_on_colour(paper: np.ndarray) -> None:
    assert _opens(paper)


def test_on_white_paper_it_may_be_print() -> None:
    assert not _opens(WHITE, shirt=0.9)


def test_dark_paper_may_be_white_that_was_lit_too_little_unless_some_product_is_brighter() -> None:
    assert not _opens(GREY, shirt=0.31)


@pytest.mark.parametrize("place", [{"shade": 0.06}, {"shade": -0.4}, {"falls": -0.2}, {"tinted": 0.07}])
def test_what_is_brighter_dark_uneven_or_tinted_may_be_product(place: dict[str, float]) -> None:
    assert not _opens(GREY, **place)


def test_what_is_nearly_as_the_backdrop_says_nothing_of_a_place_in_it() -> None:
    assert not _opens(GREY, around=np.array([0.27, 0.27, 0.24]))


def test_an_even_place_as_large_as_a_pane_and_darker_than_nearby_may_be_glass() -> None:
    assert _opens(GREY, half=(20, 40)) and not _opens(GREY, half=(20, 40), expected=0.0)


def test_the_rest_of_a_place_was_left_for_a_reason() -> None:
    assert not _opens(GREY, opened=15)


def test_a_slender_one_is_left_to_those_that_look_for_gaps() -> None:
    assert not _opens(GREY, half=(5, 40))


def test_where_grain_is_seen_it_has_told() -> None:
    assert not _opens(GREY, grain=0.02)


def test_what_lacks_even_a_faint_grain_is_product() -> None:
    assert _opens(GREY, half=(24, 60), grain=0.002) and not _opens(GREY, half=(24, 60), grain=0.002, through=False)


def test_what_is_of_another_hue_on_the_whole_is_product() -> None:
    assert not _opens(GREY, half=(20, 40), tinted=0.03)


def test_a_small_place_may_not_be_tinted_either() -> None:
    assert _opens(GREY, half=(6, 9)) and not _opens(GREY, half=(6, 9), tinted=0.06)


def test_what_is_found_so_is_backdrop_when_a_cut_is_decided(monkeypatch: pytest.MonkeyPatch) -> None:
    made = scene()
    prepared = pipeline.prepare(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"))
    body = made.alpha > 0.5
    assert pipeline.product_at(prepared, 50, "auto")[body].mean() > 0.9
    monkeypatch.setattr("true_backdrop.core.cut.region.openings_off_white", lambda _, __, inside, *___: inside)
    assert not pipeline.product_at(prepared, 50, "auto")[body].any()
