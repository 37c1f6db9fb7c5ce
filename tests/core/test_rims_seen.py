"""A rim that is nearly as the backdrop and ends in a line of its own along the outline belongs to the product."""

from __future__ import annotations

from dataclasses import replace

import cv2
import numpy as np
import pytest

from tests.core.test_area import SIZE, X, Y
from tests.core.test_rim_beyond import BOTTOM, LEFT, PANEL, RIGHT, RIM, WIDE, prepared_with
from true_backdrop.core import pipeline
from true_backdrop.core.cut.rims_seen import _joined, _Rim, rims_seen
from true_backdrop.core.cut.unrolled import Line
from true_backdrop.core.treatment import CutSettings

GREY = np.array([0.93, 0.93, 0.93])


def found(prepared: pipeline.Prepared, product: np.ndarray = PANEL) -> np.ndarray:
    mask = rims_seen(prepared.evidence, product)
    assert not (mask & product).any()
    return mask


def part_of(rim: np.ndarray, mask: np.ndarray) -> float:
    """How much of a rim (H, W) is in a mask (H, W), but for its ends; nothing else may be."""
    wider = cv2.dilate(rim.astype(np.uint8), np.ones((5, 5), np.uint8)) > 0
    assert np.count_nonzero(mask & ~wider) < 0.02 * np.count_nonzero(rim)
    return float(mask[rim & (X > LEFT + 14) & (X < RIGHT - 14)].mean())


@pytest.mark.parametrize(
    "rim",
    [GREY, (1.04, 1.04, 1.04), (0.75, 0.75, 0.74), (0.95, 0.90, 0.89)],
    ids=["darker", "brighter", "as dark as a shadow", "of a colour"],
)
def test_a_rim_that_ends_in_a_line_is_put_back(rim: tuple[float, float, float]) -> None:
    assert part_of(RIM, found(prepared_with(np.array(rim)))) > 0.85


def test_a_whole_product_has_it_without_being_asked() -> None:
    prepared = prepared_with(GREY)
    product = pipeline.propose_match(prepared, CutSettings()).product(prepared.busy)
    assert product[RIM & (X > LEFT + 14) & (X < RIGHT - 14)].mean() > 0.85


@pytest.mark.parametrize(
    "rim", [(1.0, 1.0, 1.0), (0.55, 0.55, 0.55), (0.80, 0.70, 0.66)], ids=["just as the backdrop", "too dark", "dark and tinted"]
)
def test_none_is_put_back_that_is_not_seen_or_may_be_light_that_the_product_throws(rim: tuple[float, float, float]) -> None:
    assert not found(prepared_with(np.array(rim))).any()


def test_a_narrow_rim_that_is_dark_may_be_a_contact_shadow() -> None:
    dark, below = np.array([0.7, 0.7, 0.7]), (X >= LEFT) & (X < RIGHT) & (Y >= BOTTOM)
    assert not found(prepared_with(dark, where=below & (Y < BOTTOM + 5))).any()
    broader = below & (Y < BOTTOM + 6)
    assert found(prepared_with(dark, where=broader))[broader].mean() > 0.9


def test_a_shadow_that_ends_beside_the_product_is_no_rim() -> None:
    shadow = 1 - 0.2 * cv2.GaussianBlur((PANEL | RIM).astype(float), (0, 0), 2.5)
    assert not found(prepared_with(shadow[..., None] * np.ones(3), shadow=shadow)).any()


def test_a_coarse_encoder_draws_lines_too_and_nothing_is_said() -> None:
    prepared = prepared_with(GREY)
    assert not rims_seen(replace(prepared.evidence, rounding=0.004), PANEL).any()


BELOW = (Y >= BOTTOM) & (Y < BOTTOM + WIDE)
#: So noisy (in parts of the light) that a step of 4 percent is not seen over some fifteen pixels.
NOISY = 0.035
LONG, SHORT = BELOW & (X >= LEFT) & (X < LEFT + 120), BELOW & (X >= RIGHT - 70) & (X < RIGHT - 40)


def test_a_short_line_tells_a_rim_only_beside_a_long_one() -> None:
    assert not found(prepared_with(GREY, where=SHORT)).any()
    both = found(prepared_with(GREY, where=LONG | SHORT))
    assert both[SHORT].mean() > 0.6
    assert not both[BELOW & (X > LEFT + 140) & (X < RIGHT - 90)].any()


def test_a_short_one_that_is_far_darker_is_another_thing() -> None:
    line = Line(np.arange(20), np.full(20, 7.0))
    light, grey, dark = (_Rim(line, 7.0, tone, 0.01) for tone in (-0.05, -0.2, -0.6))
    assert grey.is_like(light)
    assert not dark.is_like(light)


def test_a_line_in_short_pieces_is_one_if_they_are_just_alike() -> None:
    other = BELOW & (X >= LEFT + 40) & (X < LEFT + 70)
    both = found(prepared_with(GREY, where=SHORT | other))
    assert min(both[SHORT].mean(), both[other].mean()) > 0.6
    assert not both[BELOW & (X > LEFT + 90) & (X < RIGHT - 90)].any()
    line = Line(np.arange(20), np.full(20, 7.0))
    rim = _Rim(line, 7.0, -0.3, 0.01)
    assert rim.is_just_like(_Rim(line, 7.8, -0.27, 0.02))
    assert not any(rim.is_just_like(_Rim(line, *other)) for other in ((8.5, -0.3, 0.01), (7.0, -0.2, 0.01), (7.0, -0.3, 0.06)))


def test_a_line_goes_on_where_it_is_too_faint_to_be_seen_by_itself() -> None:
    faint = BELOW & (X >= LEFT + 120) & (X < LEFT + 260)
    rim = np.where(LONG[..., None], 0.94, 0.96) * np.ones(3)
    assert not found(prepared_with(rim, where=faint, noise=NOISY)).any()
    both = found(prepared_with(rim, where=LONG | faint, noise=NOISY))
    assert both[faint & (X < LEFT + 245)].mean() > 0.85
    assert not both[BELOW & (X > LEFT + 290)].any()


@pytest.mark.parametrize(("sigma", "depth"), [(4, 0.2), (8, 0.3)])
def test_on_the_slope_of_a_shadow_none_goes_on(sigma: int, depth: float) -> None:
    beside = (X > LEFT + 135) & (X < RIGHT + 40) & (Y > BOTTOM - 60) & (BOTTOM + sigma + 6 > Y)
    shadow = 1 - depth * cv2.GaussianBlur(beside.astype(float), (0, 0), sigma)
    mask = found(prepared_with(np.array([0.94, 0.94, 0.94]), where=LONG, shadow=shadow))
    assert mask[LONG].mean() > 0.9
    assert not mask[BELOW & (X > LEFT + 150)].any()


def test_far_from_a_line_that_is_seen_none_goes_on() -> None:
    far = BELOW & (X >= RIGHT - 100)
    rim = np.where(LONG[..., None], 0.94, 0.96) * np.ones(3)
    assert not found(prepared_with(rim, where=LONG | far, noise=NOISY))[far].any()


def test_where_a_rim_passes_through_the_backdrops_light_it_goes_on() -> None:
    gap = BELOW & (X >= 330) & (X < 370)
    assert found(prepared_with(GREY, where=RIM & ~gap))[gap].mean() > 0.85


def test_a_line_at_another_distance_is_another_thing() -> None:
    wide = (Y >= BOTTOM) & (Y < BOTTOM + WIDE + 4) & (X >= RIGHT - 70) & (X < RIGHT - 40)
    both = found(prepared_with(GREY, where=LONG | wide))
    assert both[LONG & (X > LEFT + 14) & (X < LEFT + 106)].mean() > 0.85
    assert not both[wide].any()


def test_pieces_of_a_closed_outline_are_joined_over_short_gaps_also_where_its_points_begin() -> None:
    out = np.full(400, np.nan)
    out[10:60], out[80:120], out[380:] = 5, 7, 5
    (piece, *others) = _joined(out, 64)
    assert not others
    assert piece.tolist() == [*range(380, 400), *range(120)]
    assert out[:10].tolist() == [5] * 10
    assert 5 < out[60] < out[79] < 7
    out = np.full(400, np.nan)
    out[100:150], out[250:300] = 4, 6
    assert [(piece[0], piece[-1]) for piece in _joined(out, 64)] == [(100, 149), (250, 299)]
    assert [piece.size for piece in _joined(np.full(200, 3.0), 64)] == [200]
    assert _joined(np.full(200, np.nan), 64) == []


def test_one_line_on_a_short_outline_does_not_go_on_all_around_it() -> None:
    out = np.full(100, np.nan)
    out[10:60] = 5
    assert [piece.tolist() for piece in _joined(out, 64)] == [[*range(10, 60)]]
    out = np.full(100, np.nan)
    out[:30] = out[80:] = 5
    assert [piece.tolist() for piece in _joined(out, 64)] == [[*range(80, 100), *range(30)]]


def test_without_a_product_there_is_no_rim() -> None:
    assert not found(prepared_with(GREY), np.zeros(SIZE, bool)).any()


def test_a_line_beyond_bare_backdrop_is_no_end_of_a_rim() -> None:
    """A crease of the paper runs along beside a box; what is between the two is just as the backdrop."""
    crease = (X >= LEFT) & (X < RIGHT) & (Y >= BOTTOM + 7) & (Y < BOTTOM + 9)
    prepared = prepared_with(np.array([0.9, 0.9, 0.9]), where=crease)
    assert not found(prepared).any()


def test_what_changes_along_its_line_is_no_rim() -> None:
    """Ends of bristles lie on a line as well."""
    bristles = np.where(((X % 10) < 5)[..., None], 0.6, 0.95) * np.ones(3)
    assert not found(prepared_with(bristles)).any()


def test_the_edge_of_another_part_ends_no_rim() -> None:
    """In a gap between two parts there is a shadow, as steady as a rim, and the fainter edge beyond it is that of the other."""
    across = (X >= LEFT) & (X < RIGHT)
    gap, bar = across & (Y >= BOTTOM) & (Y < BOTTOM + 8), across & (Y >= BOTTOM + 8) & (Y < BOTTOM + 30)
    prepared = prepared_with(np.array([0.85, 0.85, 0.85]), where=gap, beside=bar)
    assert not found(prepared, PANEL | bar).any()
