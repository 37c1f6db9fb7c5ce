"""Holes that lie in a shadow of their own, and holes in full light beside the product's own dark."""

from __future__ import annotations

from collections.abc import Callable

import cv2
import numpy as np
import pytest

from tests.scenes import OVER, Scene, _encode
from true_backdrop.core import pipeline
from true_backdrop.core.cut.doubt import OPENING_IN_SHADOW, backdrop_like
from true_backdrop.core.cut.hole_criteria import _off
from true_backdrop.core.cut.holes import bare_grain
from true_backdrop.core.picture import Picture
from true_backdrop.core.treatment import CutSettings

SIZE = (480, 720)
#: The opening of an arch: left, top, right, bottom in pixels.
OPENING = (320, 240, 400, 360)
Light = Callable[[np.ndarray, np.ndarray], np.ndarray]


def _box(left: int, top: int, right: int, bottom: int) -> np.ndarray:
    big = np.zeros((SIZE[0] * OVER, SIZE[1] * OVER), np.uint8)
    cv2.rectangle(big, (left * OVER, top * OVER), (right * OVER - 1, bottom * OVER - 1), 255, -1)
    return np.asarray(big.reshape(SIZE[0], OVER, SIZE[1], OVER).mean(axis=(1, 3)) / 255)


def arch(light: Light, grain: float, pane: float = 0.0, seed: int = 2) -> Scene:
    """A brown arch on paper with grain of a relative strength, under light that is given by pixel; `pane` is glass in it."""
    rng = np.random.default_rng(seed)
    y, x = np.mgrid[0 : SIZE[0], 0 : SIZE[1]].astype(float)
    noise = cv2.GaussianBlur(rng.standard_normal(SIZE), (0, 0), 1.5)
    paper = 0.7 * (1 + grain * noise / noise.std())[..., None] * np.array([1.0, 0.99, 0.97])
    alpha = _box(260, 120, 460, 400) - _box(*OPENING)
    lit = paper * light(x, y)[..., None]
    through = pane * _box(*OPENING)[..., None]
    behind = lit * (1 - through) + through * 0.35
    shot = alpha[..., None] * np.array([0.2, 0.09, 0.05]) + (1 - alpha[..., None]) * behind
    frame, empty = (_encode(each * (1 + rng.normal(0, 0.008, each.shape))) for each in (shot, paper))
    return Scene(frame, empty, alpha)


def opening(made: Scene) -> float:
    """Mean opacity in the middle of the opening."""
    settings = CutSettings(material="solid")
    _, found = pipeline.cut_frame(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"), settings)
    left, top, right, bottom = OPENING
    return float(found.alpha[top + 6 : bottom - 6, left + 6 : right - 6].mean())


def _shade(x: np.ndarray, y: np.ndarray) -> np.ndarray:
    """Of the floor around, and deeper in the opening, from its top to its bottom."""
    around = 0.14 * np.exp(-(((x - 360) / 170) ** 2) - ((y - 390) / 120) ** 2)
    within = (x > OPENING[0] - 4) & (x < OPENING[2] + 4) & (y > OPENING[1] - 4) & (y < OPENING[3] + 4)
    deeper = 0.18 + 0.22 * np.clip((y - OPENING[1]) / (OPENING[3] - OPENING[1]), 0, 1)
    return np.exp(-np.where(within, deeper, around))


def test_the_grain_tells_a_hole_in_a_shadow_that_is_deeper_than_around() -> None:
    assert opening(arch(_shade, grain=0.012)) < 0.02


def test_a_pane_that_is_as_dark_all_over_is_no_hole() -> None:
    """It is of glass, takes a third of the light and dims the grain."""
    even: Light = lambda x, y: np.exp(-0.14 * np.exp(-(((x - 360) / 170) ** 2) - ((y - 390) / 120) ** 2))  # noqa: E731
    assert opening(arch(even, grain=0.012, pane=0.45)) > 0.95


#: Between two legs: left, top, right, bottom in pixels. It is narrower than what backdrop flows through.
GAP = (354, 200, 364, 400)


def legs(filled: bool, seed: int = 5) -> Scene:
    """A brown figure on paper with grain; between its legs paper in a shadow that deepens downwards, or card of that tone."""
    rng = np.random.default_rng(seed)
    y = np.mgrid[0 : SIZE[0], 0 : SIZE[1]][0].astype(float)
    noise = cv2.GaussianBlur(rng.standard_normal(SIZE), (0, 0), 1.5)
    paper = 0.7 * (1 + 0.012 * noise / noise.std())[..., None] * np.array([1.0, 0.99, 0.97])
    alpha, gap = _box(300, 120, 418, 400), _box(*GAP)
    deepening = np.exp(-0.5 / (1 + np.exp((280 - y) / 25)))[..., None]
    even = 0.7 * np.array([1.0, 0.99, 0.97])
    between = gap[..., None] * deepening * (even if filled else paper)
    solid = (alpha - gap)[..., None] * np.array([0.2, 0.09, 0.05])
    shot = solid + between + (1 - alpha[..., None]) * paper
    frame, empty = (_encode(each * (1 + rng.normal(0, 0.008, each.shape))) for each in (shot, paper))
    return Scene(frame, empty, alpha - (0 if filled else gap))


@pytest.mark.parametrize("seed", [5, 6, 7])
@pytest.mark.parametrize("filled", [False, True])
def test_a_narrow_gap_in_a_steep_shadow_is_told_by_its_grain(filled: bool, seed: int) -> None:
    made = legs(filled, seed)
    _, found = pipeline.cut_frame(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"), CutSettings())
    left, top, right, bottom = GAP
    middle = found.alpha[top + 20 : bottom - 20, left + 4 : right - 4]
    assert (np.median(middle) > 0.95) if filled else (middle.mean() < 0.05)


@pytest.mark.parametrize(("painted", "opens"), [(None, True), (1.03, False), (0.96, False)])
def test_an_enclosed_slit_without_grain_is_a_hole_if_it_is_exactly_as_the_backdrop(painted: float | None, opens: bool) -> None:
    """It is narrower than what backdrop flows through; paint that is a little lighter or darker than the paper is product."""
    rng = np.random.default_rng(3)
    x = np.mgrid[0 : SIZE[0], 0 : SIZE[1]][1].astype(float)
    paper = (0.7 - 0.05 * (x / SIZE[1] - 0.4) ** 2)[..., None] * np.array([1.0, 0.99, 0.97])
    alpha, slit = _box(260, 120, 460, 400), _box(300, 240, 420, 250)
    inside = paper if painted is None else 0.7 * painted * np.array([1.0, 0.99, 0.97])
    solid = (alpha - slit)[..., None] * np.array([0.1, 0.25, 0.6])
    shot = solid + slit[..., None] * inside + (1 - alpha[..., None]) * paper
    frame, empty = (_encode(each * (1 + rng.normal(0, 0.006, each.shape))) for each in (shot, paper))
    made = Scene(frame, empty, alpha - (slit if painted is None else 0))
    _, found = pipeline.cut_frame(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"), CutSettings())
    middle = float(np.median(found.alpha[244:246, 310:410]))
    assert (middle < 0.05) if opens else (middle > 0.95)


@pytest.mark.parametrize("seed", [1, 2])
@pytest.mark.parametrize("depth", [0.5, 0.36])
def test_a_hole_in_full_light_goes_although_all_around_is_dark(depth: float, seed: int) -> None:
    """Without grain, and in the product's own deep shadow beside its lower half; a large one in a lighter one as well."""

    def light(x: np.ndarray, y: np.ndarray) -> np.ndarray:
        within = (x > OPENING[0] - 4) & (x < OPENING[2] + 4) & (y > OPENING[1] - 4) & (y < OPENING[3] + 4)
        away = np.maximum(np.maximum(260 - x, x - 460), y - 400)
        deep = depth * np.exp(-((np.maximum(away, 0) / 35) ** 2)) / (1 + np.exp((220 - y) / 12))
        return np.exp(-np.where(within, 0.05, deep))

    assert opening(arch(light, grain=0.0, seed=seed)) < 0.02


@pytest.mark.parametrize("tint", [0.035, 0.0])
def test_an_opening_whose_shadow_goes_over_into_the_product_is_parted_from_it_by_its_tint(tint: float) -> None:
    """Through a lilac set square, without grain: from full light above into a shadow as deep as the rounded rim below is dark. Of a
    grey one an edge is missing, which is asked about."""
    rng = np.random.default_rng(4)
    y, x = np.mgrid[0 : SIZE[0], 0 : SIZE[1]].astype(float)
    paper = np.full((*SIZE, 3), 0.7) * np.array([1.0, 0.99, 0.97])
    body, place = _box(160, 90, 560, 440)[..., None], _box(300, 180, 420, 340)[..., None]
    lilac = np.array([1 + tint, 1 - tint, 1 + tint]) * np.exp(np.interp(y, (336, 372), (-0.42, -0.6)))[..., None]
    within = np.exp(np.interp(y, (220, 340), (0.0, -0.42)))[..., None]
    around = np.exp(-0.25 * np.exp(-(((x - 360) / 300) ** 2) - ((y - 400) / 160) ** 2))[..., None]
    shot = paper * np.where(place > 0.5, within, body * lilac + (1 - body) * around)
    frame, empty = (_encode(each * (1 + rng.normal(0, 0.004, each.shape))) for each in (shot, paper))
    decision, found = pipeline.cut_frame(Picture(frame, "PNG"), Picture(empty, "PNG"), CutSettings())
    seen = float(found.alpha[190:330, 310:410].mean())
    assert (seen < 0.05) if tint else decision.judgement.verdict.value != "clean"


@pytest.mark.parametrize(
    ("px", "around", "off"), [(1200, -0.23, 0.04), (900, -0.23, 0.19), (900, -0.27, 0.04), (1200, -0.15, 0.11)]
)
def test_where_all_around_is_dark_a_place_is_held_against_full_light(px: int, around: float, off: float) -> None:
    """A small one only where that is darker: white of an eye, which by chance is as light as the backdrop, is small."""
    tone, expected = np.full(px, -0.04, np.float32), np.full(px, around, np.float32)
    assert _off(tone, expected, 1000) == pytest.approx(off, abs=1e-6)


def test_the_grain_of_bare_backdrop_is_not_taken_from_the_slope_of_a_shadow() -> None:
    """On a slope that is steeper than the noise no pixel is darker or brighter than all around it."""
    grains = []
    for slope in (0.0, 0.012):
        light: Light = lambda x, y, slope=slope: np.exp(-slope * np.clip(x - 500, 0, None))  # noqa: E731
        made = arch(light, grain=0.0)
        evidence = pipeline.prepare(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG")).evidence
        outside = np.zeros(SIZE, bool)
        outside[20:460, 480:700] = True
        grains.append(bare_grain(evidence, outside))
    assert grains[1] == pytest.approx(grains[0], rel=0.1)


@pytest.mark.parametrize("slots", [1, 3])
def test_several_small_openings_in_a_shadow_are_asked_about_together(slots: int) -> None:
    """Between the bars of a brown body that was cut whole, on paper without grain; each is half of what one alone must be."""
    rng = np.random.default_rng(4)
    y, x = np.mgrid[0 : SIZE[0], 0 : SIZE[1]].astype(float)
    paper = np.full((*SIZE, 3), 0.7) * np.array([1.0, 0.99, 0.97])
    body = _box(260, 120, 460, 400)
    alpha = body - sum(_box(300 + 50 * k, 300, 318 + 50 * k, 324) for k in range(slots))
    shade = np.exp(-0.24 * np.exp(-(((x - 360) / 240) ** 2) - ((y - 330) / 160) ** 2))
    shot = alpha[..., None] * np.array([0.2, 0.09, 0.05]) + (1 - alpha[..., None]) * paper * shade[..., None]
    frame, empty = (_encode(each * (1 + rng.normal(0, 0.004, each.shape))) for each in (shot, paper))
    evidence = pipeline.prepare(Picture(frame, "PNG"), Picture(empty, "PNG")).evidence
    share = np.count_nonzero(backdrop_like(evidence, body > 0.5).openings) / np.count_nonzero(body)
    assert (share > OPENING_IN_SHADOW) == (slots > 1)
    assert 0.6 < share * np.count_nonzero(body) / (slots * 18 * 24) <= 1


@pytest.mark.parametrize(("around", "asked"), [(0.24, True), (0.0, False)])
def test_an_opening_in_a_dark_body_before_dark_paper_is_asked_about_where_a_shadow_lies_around(
    around: float, asked: bool
) -> None:
    """The body is hardly darker than the paper, as between the legs of a toy; without a shadow around it is a part of that."""
    rng = np.random.default_rng(4)
    y, x = np.mgrid[0 : SIZE[0], 0 : SIZE[1]].astype(float)
    paper = np.full((*SIZE, 3), 0.05) * np.array([1.0, 0.99, 0.97])
    body, place = _box(260, 120, 460, 400), _box(330, 320, 390, 380)
    alpha = body - place
    shade = np.exp(-around * np.exp(-(((x - 360) / 240) ** 2) - ((y - 330) / 160) ** 2))
    shade[place > 0.5] = np.exp(-0.24)
    shot = alpha[..., None] * np.array([0.03, 0.024, 0.034]) + (1 - alpha[..., None]) * paper * shade[..., None]
    frame, empty = (_encode(each * (1 + rng.normal(0, 0.006, each.shape))) for each in (shot, paper))
    evidence = pipeline.prepare(Picture(frame, "PNG"), Picture(empty, "PNG")).evidence
    openings = backdrop_like(evidence, body > 0.5).openings
    assert bool(np.count_nonzero(openings) > OPENING_IN_SHADOW * np.count_nonzero(body)) is asked


@pytest.mark.parametrize(
    ("tint", "tone", "asked"), [(0.0, -0.16, True), (0.06, -0.16, False), (0.0, -0.9, False), (0.0, -0.04, False)]
)
def test_a_place_without_colour_in_a_coloured_body_is_asked_about_and_a_lilac_black_or_pale_one_is_not(
    tint: float, tone: float, asked: bool
) -> None:
    """It lies in shadow, while nothing nearby does: between the wheels of a tram, or a grey panel. In the light it would be open."""
    rng = np.random.default_rng(4)
    paper = np.full((*SIZE, 3), 0.7) * np.array([1.0, 0.99, 0.97])
    body, place = _box(260, 120, 460, 400), _box(300, 300, 380, 340)
    alpha, grey = body - place, np.array([1 + tint, 1 - tint, 1 + tint]) * np.exp(tone)
    shot = alpha[..., None] * np.array([0.3, 0.09, 0.05]) + (1 - alpha[..., None]) * paper
    shot = np.where(place[..., None] > 0.5, paper * grey, shot)
    frame, empty = (_encode(each * (1 + rng.normal(0, 0.004, each.shape))) for each in (shot, paper))
    evidence = pipeline.prepare(Picture(frame, "PNG"), Picture(empty, "PNG")).evidence
    openings = backdrop_like(evidence, body > 0.5).openings
    assert bool(np.count_nonzero(openings) > OPENING_IN_SHADOW * np.count_nonzero(body)) is asked


@pytest.mark.parametrize(("lightest", "darkest", "asked"), [(-0.05, -0.6, True), (-0.15, -0.7, True), (-0.4, -0.9, False)])
def test_an_opening_in_a_dark_body_goes_from_nearly_full_light_into_a_shadow(
    lightest: float, darkest: float, asked: bool
) -> None:
    """What a cable goes round, on a table in the shadow of a headset; what is nowhere light may be a part of that."""
    rng = np.random.default_rng(4)
    x = np.mgrid[0 : SIZE[0], 0 : SIZE[1]][1].astype(float)
    paper = np.full((*SIZE, 3), 0.7) * np.array([1.0, 0.99, 0.97])
    body, place = _box(260, 120, 460, 400), _box(290, 290, 430, 350)
    within = paper * np.exp(np.interp(x, (290, 430), (lightest, darkest)))[..., None]
    shot = body[..., None] * np.array([0.03, 0.029, 0.03]) + (1 - body[..., None]) * paper
    shot = np.where(place[..., None] > 0.5, within, shot)
    frame, empty = (_encode(each * (1 + rng.normal(0, 0.004, each.shape))) for each in (shot, paper))
    evidence = pipeline.prepare(Picture(frame, "PNG"), Picture(empty, "PNG")).evidence
    openings = backdrop_like(evidence, body > 0.5).openings
    assert bool(np.count_nonzero(openings) > OPENING_IN_SHADOW * np.count_nonzero(body)) is asked
