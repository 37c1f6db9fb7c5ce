"""Openings of a pattern: all of a grille's are found, however many and however deep in shadow; its pale studs are not."""

from __future__ import annotations

from dataclasses import replace

import cv2
import numpy as np
import pytest

from tests.core.test_area import SIZE, X, Y, cut, photographed
from tests.scenes import Scene
from true_backdrop.core.cut.openings import Place, _many_lit, of_a_pattern

PURPLE = np.array([0.42, 0.12, 0.36])
PITCH, LEFT, TOP, ACROSS, DOWN = 26, 190, 90, 14, 12


def _openings() -> np.ndarray:
    """The 168 openings of a grille, each 14 pixels wide, as coverage (H, W)."""
    inside = (X >= LEFT) & (X < LEFT + ACROSS * PITCH) & (Y >= TOP) & (Y < TOP + DOWN * PITCH)
    return (inside & ((X - LEFT) % PITCH >= 12) & ((Y - TOP) % PITCH >= 12)).astype(float)


def _grille(depth: float, seed: int = 1) -> tuple[Scene, np.ndarray]:
    """A purple grille before paper without grain, in a shadow that falls on it from below, so deep at its foot (log units)."""
    body = ((X >= LEFT) & (X < LEFT + ACROSS * PITCH + 12) & (Y >= TOP) & (Y < TOP + DOWN * PITCH + 12)).astype(float)
    deeper = np.clip((Y - TOP) / (DOWN * PITCH), 0, 1) ** 2 * np.exp(-(((X - 380) / 170) ** 2))
    shadow = cv2.GaussianBlur(np.exp(-depth * deeper * (Y < TOP + DOWN * PITCH + 20)), (0, 0), 12)
    holes = _openings()
    made = photographed(body * (1 - holes), np.broadcast_to(PURPLE, (*SIZE, 3)), shadow=shadow, seed=seed, grain=0.0)
    return made, holes


@pytest.mark.parametrize("depth", [0.3, 0.9])
def test_all_openings_of_a_grille_are_found_in_light_and_in_shadow(depth: float) -> None:
    made, holes = _grille(depth)
    _, alpha = cut(made)
    count, labels = cv2.connectedComponents((holes > 0.5).astype(np.uint8), connectivity=4)
    assert count - 1 == ACROSS * DOWN
    kept = [
        label
        for label in range(1, count)
        if alpha[cv2.erode((labels == label).astype(np.uint8), np.ones((7, 7))) > 0].mean() > 0.1
    ]
    assert not kept
    assert alpha[made.alpha > 0.99].mean() > 0.99


def _place(
    label: int,
    column: int,
    row: int,
    tone: float,
    *,
    area: int = 150,
    tint: float = 0.01,
    uneven: float = 0.004,
    unlike: float = 0.0,
    lacks: bool = False,
    thin: float = 0.0,
    colour: float = 0.0,
) -> Place:
    return Place(label, area, (20.0 * column, 20.0 * row), tone, tint, uneven, unlike, lacks=lacks, thin=thin, colour=colour)


ROW = [_place(n, n, 0, -0.05 * n) for n in range(1, 5)]


def test_openings_vouch_for_the_next_one_and_that_for_the_one_after_it() -> None:
    following = [_place(10 + n, 4 + n, 0, -0.2 - 0.05 * n) for n in range(1, 4)]
    assert [one.label for one in of_a_pattern(following, ROW, 0.003)] == [11, 12, 13]


@pytest.mark.parametrize(
    "other",
    [
        _place(9, 5, 0, -0.6),
        _place(9, 5, 0, 0.08),
        _place(9, 5, 0, -0.2, tint=0.08),
        _place(9, 5, 0, -0.2, area=900),
        _place(9, 5, 0, -0.2, uneven=0.05),
        _place(9, 40, 0, -0.2),
    ],
    ids=["far darker", "brighter", "tinted", "larger", "uneven", "far away"],
)
def test_they_do_not_vouch_for_a_place_that_is_not_as_they_are(other: Place) -> None:
    assert not of_a_pattern([other], ROW, 0.003)


@pytest.mark.parametrize(("tone", "told"), [(-0.205, True), (-0.235, False)])
def test_what_lacks_the_grain_by_chance_is_an_opening_only_where_it_has_just_the_light_of_those_beside_it(
    tone: float, told: bool
) -> None:
    beside = [_place(n, n, 0, -0.2) for n in range(1, 5)]
    assert bool(of_a_pattern([_place(9, 5, 0, tone, unlike=0.5, lacks=True)], beside, 0.003)) is told
    assert of_a_pattern([_place(9, 5, 0, tone, unlike=0.5)], beside, 0.003)


@pytest.mark.parametrize(("unlike", "told"), [(0.9, True), (0.1, False)])
def test_a_small_opening_may_have_some_of_the_colour_around_it(unlike: float, told: bool) -> None:
    assert bool(of_a_pattern([_place(9, 5, 0, -0.2, tint=0.035, unlike=unlike)], ROW, 0.003)) is told


LIT = [_place(n, n % 4, n // 4, 0.004 * (-1) ** n, area=20 + n % 3, tint=0.04, unlike=0.6) for n in range(9)]


def test_many_small_places_of_one_size_in_the_backdrops_light_vouch_for_each_other() -> None:
    assert len(_many_lit([*LIT, _place(20, 9, 9, 0.0, area=60, unlike=0.6)])) == 9
    assert not _many_lit(LIT[:7])


@pytest.mark.parametrize(
    "other", [{"tone": 0.05}, {"unlike": 0.2}, {"lacks": True}, {"thin": 0.3}], ids=["lighter", "pale", "lacks grain", "strands"]
)
def test_they_are_none_that_are_lighter_or_in_pale_product_or_lack_the_grain_or_lie_between_strands(
    other: dict[str, float],
) -> None:
    assert not _many_lit([replace(one, **other) for one in LIT])


def test_in_what_has_a_colour_they_are_however_thin_it_is() -> None:
    """Between the links of a gold chain what has no colour is open; between grey strands it may be a strand's own light."""
    assert len(_many_lit([replace(one, thin=0.3, colour=0.5) for one in LIT])) == 9
    assert not _many_lit([replace(one, thin=0.3, colour=0.2) for one in LIT])


CHAIN = [_place(n, 2 * n, 0, -0.01, area=100, unlike=0.6, colour=0.6) for n in range(8)]


@pytest.mark.parametrize(
    ("far", "told"),
    [
        (_place(20, 90, 0, -0.08, area=80, unlike=0.6, colour=0.6), True),
        (_place(20, 90, 0, -0.08, area=80, unlike=0.6, colour=0.2), False),
        (_place(20, 90, 0, -0.16, area=80, unlike=0.6, colour=0.6), False),
        (_place(20, 15, 0, -0.16, area=80, unlike=0.6, colour=0.6), True),
    ],
    ids=["in light shadow", "in product without colour", "in deep shadow", "in deep shadow nearby"],
)
def test_in_what_has_a_colour_many_vouch_for_one_far_away(far: Place, told: bool) -> None:
    assert bool(of_a_pattern([far], CHAIN, 0.003)) is told
    assert not of_a_pattern([replace(far, middle=(1800.0, 0.0))], CHAIN[:7], 0.003)


STRUNG = [_place(n, n % 4, n // 4, 0.004 * (-1) ** n, area=80 + n % 5, unlike=0.5, thin=0.4) for n in range(13)]


def test_regular_openings_between_strings_are_told_from_gaps_between_strands() -> None:
    uneven = [replace(one, area=34 + 9 * n) for n, one in enumerate(STRUNG)]
    assert len(_many_lit([*STRUNG, replace(STRUNG[0], area=33)])) == 13
    assert not _many_lit(STRUNG[:11])
    assert not _many_lit(uneven)
    assert not _many_lit([replace(one, area=25) for one in STRUNG])


def test_a_racket_is_open_between_its_strings() -> None:
    radius = np.hypot(X - 360, Y - 240)
    strings = ((X - 360) % 17 < 4) | ((Y - 240) % 17 < 4)
    ring = (radius > 150) & (radius < 172)
    cover = (ring | ((radius <= 150) & strings)).astype(float)
    made = photographed(cover, np.broadcast_to(PURPLE, (*SIZE, 3)), seed=4)
    _, alpha = cut(made)
    cells = cv2.erode((~strings & (radius < 125)).astype(np.uint8), np.ones((7, 7))) > 0
    assert alpha[cells].mean() < 0.1
    assert alpha[ring & (np.abs(radius - 161) < 7)].mean() > 0.95


@pytest.mark.parametrize("many", [True, False])
def test_many_openings_of_six_pixels_are_found_although_jpeg_spreads_colour_over_them(many: bool) -> None:
    pitch, across = 14, 12 if many else 2
    inside = (X >= 260) & (260 + across * pitch > X) & (Y >= 150) & (150 + across * pitch > Y)
    holes = (inside & ((X - 260) % pitch >= 8) & ((Y - 150) % pitch >= 8)).astype(float)
    body = ((np.abs(X - 348) < 110) & (np.abs(Y - 238) < 110)).astype(float)
    made = photographed(body * (1 - holes), np.broadcast_to(PURPLE, (*SIZE, 3)), seed=2, noise=0.002)
    frame, backdrop = (_as_jpeg(pixels) for pixels in (made.frame, made.backdrop))
    _, alpha = cut(replace(made, frame=frame, backdrop=backdrop))
    middles = cv2.erode((holes > 0.5).astype(np.uint8), np.ones((3, 3))) > 0
    assert bool(alpha[middles].mean() < 0.2) is many


def _as_jpeg(pixels: np.ndarray) -> np.ndarray:
    """Of quality 92, with colour at half the size."""
    packed = cv2.imencode(".jpg", pixels[..., ::-1], [cv2.IMWRITE_JPEG_QUALITY, 92])[1]
    return np.ascontiguousarray(cv2.imdecode(packed, cv2.IMREAD_COLOR)[..., ::-1])


def test_two_openings_are_no_pattern() -> None:
    assert not of_a_pattern([_place(9, 3, 0, -0.1)], ROW[:2], 0.003)


@pytest.mark.parametrize(("unlike", "told"), [(0.5, True), (0.1, False)])
def test_what_a_bar_leaves_of_a_cell_is_an_opening_where_the_product_is_plainly_unlike(unlike: float, told: bool) -> None:
    sliver = _place(9, 5, 0, -0.2, area=50, unlike=unlike)
    assert bool(of_a_pattern([sliver], ROW, 0.003)) is told
