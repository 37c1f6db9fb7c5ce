"""A rim in the backdrop's light was left outside: where it ends, a faint line runs along beside the outline; that is asked about."""

from __future__ import annotations

from dataclasses import replace

import cv2
import numpy as np
import pytest

from tests.core.test_area import SIZE, X, Y, photographed
from true_backdrop.core import pipeline
from true_backdrop.core.cut.decided import Decided
from true_backdrop.core.cut.rim_beyond import WORTH_A_LOOK, farther_line, line_beside, line_of, rim_beyond
from true_backdrop.core.cut.unrolled import is_second
from true_backdrop.core.picture import Picture

LEFT, RIGHT, TOP, BOTTOM = 180, 540, 105, 355
PANEL = (X >= LEFT) & (X < RIGHT) & (Y >= TOP) & (Y < BOTTOM)
#: How wide the rim below it is (pixels), and where.
WIDE = 7
RIM = (X >= LEFT) & (X < RIGHT) & (Y >= BOTTOM) & (Y < BOTTOM + WIDE)
EMPTY = (0.72 - 0.10 * (X / 720 - 0.5) ** 2 - 0.08 * (Y / 480 - 0.4) ** 2)[..., None] * np.array([1.0, 0.99, 0.97])
RED = np.array([0.45, 0.03, 0.05])


def prepared_with(
    rim: np.ndarray,
    *,
    shadow: np.ndarray | None = None,
    beside: np.ndarray | None = None,
    where: np.ndarray = RIM,
    noise: float = 0.004,
) -> pipeline.Prepared:
    """A red panel over a rim with such a part (3,) of the backdrop's light, in a shadow, with a black part (H, W) beside it."""
    there = np.zeros(SIZE, bool) if beside is None else beside
    colour = np.where(PANEL[..., None], RED, np.where(there[..., None], 0.02, rim * EMPTY))
    made = photographed((PANEL | where | there).astype(float), colour, noise=noise, shadow=shadow)
    return pipeline.prepare(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"))


def line(prepared: pipeline.Prepared, product: np.ndarray = PANEL) -> tuple[np.ndarray, float]:
    found, length = line_beside(prepared.evidence, product)
    assert not (found & ~product).any()
    return found, length


@pytest.mark.parametrize(
    "rim", [(0.95, 0.95, 0.95), (1.04, 1.04, 1.04), (1.02, 0.97, 1.0)], ids=["darker", "brighter", "of a colour"]
)
def test_the_edge_of_a_lost_rim_is_a_line_along_the_outline(rim: tuple[float, float, float]) -> None:
    found, length = line(prepared_with(np.array(rim)))
    assert length > WORTH_A_LOOK
    assert not found[: BOTTOM - 2].any()
    assert found[BOTTOM - 2 : BOTTOM, LEFT + 20 : RIGHT - 20].any(axis=0).mean() > 0.9
    assert length == pytest.approx((RIGHT - LEFT) / (2 * (RIGHT - LEFT + BOTTOM - TOP)), rel=0.15)


def test_no_line_is_seen_beside_a_whole_product_or_where_a_rim_is_just_as_the_backdrop() -> None:
    assert line(prepared_with(np.array([0.95, 0.95, 0.95])), PANEL | RIM)[1] < WORTH_A_LOOK / 2
    assert line(prepared_with(np.ones(3)))[1] < WORTH_A_LOOK / 2
    assert line(prepared_with(np.ones(3)), np.zeros(SIZE, bool)) == (pytest.approx(np.zeros(SIZE)), 0.0)


@pytest.mark.parametrize(("wide", "seen"), [(2, False), (7, True), (16, False)])
def test_a_line_is_neither_the_outlines_own_edge_nor_far_away(wide: int, seen: bool) -> None:
    below = Y - BOTTOM
    where = (X >= LEFT) & (X < RIGHT) & (below >= 0) & (below < wide)
    assert (line(prepared_with(np.array([0.95, 0.95, 0.95]), where=where))[1] > WORTH_A_LOOK) is seen


@pytest.mark.parametrize(("wide", "seen"), [(16, True), (40, False)])
def test_in_a_picture_of_half_the_size_a_line_is_seen_farther_away(wide: int, seen: bool) -> None:
    below = Y - BOTTOM
    where = (X >= LEFT) & (X < RIGHT) & (below >= 0) & (below < wide)
    of = prepared_with(np.array([0.95, 0.95, 0.95]), where=where)
    found, length = farther_line(of.evidence, PANEL)
    assert (length > WORTH_A_LOOK) is seen
    assert found[BOTTOM - 2 : BOTTOM, LEFT + 20 : RIGHT - 20].any(axis=0).mean() > 0.9 or not seen
    assert farther_line(of.evidence, PANEL | where)[1] < WORTH_A_LOOK / 2


def test_noise_makes_no_lines() -> None:
    assert line(prepared_with(np.ones(3), noise=0.25))[1] < WORTH_A_LOOK / 2


def test_a_second_edge_is_fainter_than_the_first_and_apart_from_it() -> None:
    """The outline may lie inside of the product's edge; and that edge fades out over some pixels."""
    strength = np.array([[9, 6, 2, 1, 4, 1], [2, 1, 3, 8, 4, 2], [9, 8, 6, 7, 3, 1]], np.float32)
    assert np.argwhere(is_second(strength)).tolist() == [[0, 4]]


@pytest.mark.parametrize(("softness", "seen"), [(0.0, True), (2.5, False)], ids=["sharp", "soft"])
def test_the_end_of_a_shadow_along_the_outline_is_no_line_unless_it_is_sharp(softness: float, seen: bool) -> None:
    strip = ((X >= LEFT) & (X < RIGHT) & (Y >= BOTTOM - 20) & (Y < BOTTOM + 9)).astype(float)
    shadow = 1 - 0.3 * (cv2.GaussianBlur(strip, (0, 0), softness) if softness else strip)
    dark = prepared_with(shadow[..., None] * np.ones(3), shadow=shadow)
    assert (line(dark)[1] > WORTH_A_LOOK) is seen


def test_what_is_beyond_a_narrow_gap_is_another_part() -> None:
    """Its far edge is no line beside this outline, and nor is its near one."""
    bar = (X >= LEFT) & (X < RIGHT) & (Y >= BOTTOM + 5) & (Y < BOTTOM + 11)
    prepared = prepared_with(np.ones(3), beside=bar)
    assert line(prepared, PANEL | bar)[1] < WORTH_A_LOOK / 2
    assert line(prepared, PANEL)[1] > WORTH_A_LOOK  # were it lost


def test_the_outlines_own_edge_is_no_line_however_dark_the_product_is() -> None:
    made = photographed(PANEL.astype(float), np.full((*SIZE, 3), 0.003), noise=0.004)
    prepared = pipeline.prepare(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"))
    for by in (0, 1, 3):
        inside = cv2.erode(PANEL.astype(np.uint8), np.ones((2 * by + 1,) * 2, np.uint8)) > 0
        assert line(prepared, inside)[1] < WORTH_A_LOOK / 2


@pytest.mark.parametrize(("wide", "until"), [(WIDE, LEFT + 36), (16, LEFT + 110)])
def test_a_line_is_asked_about_unless_it_is_short_or_somebody_has_seen_to_it(wide: int, until: int) -> None:
    below = Y - BOTTOM
    rim = (X >= LEFT) & (X < RIGHT) & (below >= 0) & (below < wide)
    prepared = prepared_with(np.array([0.95, 0.95, 0.95]), where=rim)
    decided = Decided(PANEL, PANEL, PANEL, PANEL, 50, 0.0, prepared.busy, PANEL)
    (((said, places),), doubt) = rim_beyond(decided, line_of(decided))
    assert "a line runs along beside the outline" in said and places and doubt > 0
    assert all(place.top < BOTTOM / SIZE[0] < place.bottom for place in places)
    few = prepared_with(np.array([0.95, 0.95, 0.95]), where=rim & (until > X))
    in_few = replace(decided, busy=few.busy)
    assert rim_beyond(in_few, line_of(in_few)) == ([], 0.0)
    for settled in (replace(decided, clear=True), replace(decided, product=PANEL | rim)):
        assert rim_beyond(settled, line_of(settled)) == ([], 0.0)
