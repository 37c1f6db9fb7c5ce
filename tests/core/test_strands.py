"""Bristles finer than a pixel: nobody says that there are any, and the backdrop between them goes. Wire and rope stay whole."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from tests.scenes import OVER, Scene, _encode, scene
from true_backdrop.core import pipeline
from true_backdrop.core.cut.colour_around import _covered
from true_backdrop.core.cut.lines_along import BetweenLines, Lines, Means
from true_backdrop.core.cut.solve import _let_light_in
from true_backdrop.core.cut.strands import FIRM_BAND, _fluffy, _fur
from true_backdrop.core.picture import Picture
from true_backdrop.core.treatment import CutSettings, Hands, Material, Touch, TouchSettings

SIZE = (480, 720)


def drawn(lines: list[tuple[tuple[float, float], tuple[float, float]]], width_px: float, colour: float, seed: int = 3) -> Scene:
    """Lines of one colour and width before an even backdrop with noise, on a stick of 24 pixels."""
    big = np.zeros((SIZE[0] * OVER, SIZE[1] * OVER), np.uint8)
    cv2.rectangle(big, (348 * OVER, 300 * OVER), (372 * OVER, 420 * OVER), 255, -1)
    for (x0, y0), (x1, y1) in lines:
        cv2.line(big, (int(x0 * OVER), int(y0 * OVER)), (int(x1 * OVER), int(y1 * OVER)), 255, max(1, round(width_px * OVER)))
    alpha = big.reshape(SIZE[0], OVER, SIZE[1], OVER).mean(axis=(1, 3)) / 255
    rng = np.random.default_rng(seed)
    bare = np.full((*SIZE, 3), 0.75)
    light = alpha[..., None] * colour + (1 - alpha[..., None]) * bare
    frame, empty = (_encode(each * (1 + rng.normal(0, 0.004, each.shape))) for each in (light, bare))
    return Scene(frame, empty, alpha)


def brush(colour: float = 0.04) -> Scene:
    """A tuft of 130 bristles, 0.8 pixels wide, that fan out over the upper half plane and beyond."""
    rng = np.random.default_rng(1)
    lines = []
    for angle in np.linspace(-1.9, 1.9, 130):
        length = rng.uniform(110, 170)
        root = 360 + 11 * np.sin(angle), 302.0
        bent = angle + rng.normal(0, 0.06)
        lines.append((root, (root[0] + length * np.sin(bent), root[1] - length * np.cos(bent))))
    return drawn(lines, 0.8, colour)


def cut(made: Scene, material: Material = "auto") -> np.ndarray:
    return pipeline.cut_frame(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"), CutSettings(material=material))[1].alpha


@pytest.mark.parametrize("colour", [0.04, 0.15])
def test_bristles_that_nobody_named_are_cut_with_the_backdrop_between_them(colour: float) -> None:
    made = brush(colour)
    alpha = cut(made)
    tuft = cv2.dilate((made.alpha > 0).astype(np.uint8), np.ones((3, 3), np.uint8)) > 0
    between = tuft & (made.alpha < 0.02)
    assert alpha[between].mean() < 0.05
    assert np.abs(alpha - made.alpha)[tuft].mean() < 0.07


def test_their_opacity_is_that_of_their_own_colour_and_not_of_a_mixture() -> None:
    """Where each covers a half of a pixel nothing there is as dark as they are; the roots are."""
    made = brush()
    alpha = cut(made)
    half = (made.alpha > 0.3) & (made.alpha < 0.6)
    assert half.sum() > 1000
    assert alpha[half].mean() == pytest.approx(made.alpha[half].mean(), abs=0.06)


def test_a_cage_of_wire_stays_whole() -> None:
    lines = [((x, 120.0), (x, 310.0)) for x in np.arange(300.0, 421.0, 20)]
    lines += [((300.0, y), (420.0, y)) for y in (120.0, 180.0, 240.0, 300.0)]
    made = drawn(lines, 5.0, 0.2)
    alpha = cut(made)
    inside = made.alpha > 0.995
    assert (alpha[inside] < 0.9).mean() < 0.01
    assert alpha[made.alpha == 0].mean() < 0.003


def test_what_covers_pixels_wholly_is_told_from_what_does_in_part() -> None:
    backdrop = np.full((40, 60, 3), 0.75, np.float32)
    frame = backdrop.copy()
    frame[:, :20] = 0.04  # a body
    frame[:, 30::3] = 0.45  # strands of half a pixel, three pixels apart
    covered = _covered(frame, backdrop, np.ones((40, 60), np.float32), (1.0, 1.0, 1.0))
    assert covered[:, 2:18].min() == 1
    assert covered[:, 32:58].max() == 0


def _covered_before_grey(frame: np.ndarray) -> np.ndarray:
    return _covered(
        frame.astype(np.float32), np.full(frame.shape, 0.5, np.float32), np.ones(frame.shape[:2], np.float32), (1, 1, 1)
    )


def test_shadow_beside_strands_is_not_of_their_colour_and_a_surface_beside_them_is_of_its_own() -> None:
    """Green roots before grey paper, and beside them a place that is half as far off it: of no colour, or lilac."""
    frame = np.full((40, 60, 3), 0.5)
    frame[:, :20] = 0.1, 0.2, 0.05
    shadow, lilac = frame.copy(), frame.copy()
    shadow[:, 20:36], lilac[:, 20:36] = 0.32, (0.36, 0.28, 0.4)
    assert _covered_before_grey(frame)[:, 2:18].min() == 1
    assert _covered_before_grey(shadow)[8:-8, 22:26].max() < 0.1
    assert _covered_before_grey(lilac)[8:-8, 24:26].min() == 1


@pytest.mark.parametrize(
    ("frame", "own", "left", "behind"),
    [
        ((0.7, 0.7, 0.7), 0.2, 0.5, 0.7),
        ((0.95, 0.95, 0.95), 0.2, 0.5, 0.824),
        ((0.3, 0.3, 0.3), 0.2, 0.5, 0.4),
        ((0.7, 0.7, 0.7), 0.75, 0.5, 0.4),
        ((0.7, 0.7, 0.7), 0.2, 1.0, 0.412),
    ],
    ids=["lit between strands", "lighter than the backdrop", "a mixture", "light strands", "where no shadow is"],
)
def test_between_strands_the_backdrop_may_be_as_light_as_without_a_shadow(
    frame: tuple[float, float, float], own: float, left: float, behind: float
) -> None:
    """Backdrop of 0.4 where so much of the light is said to be left."""
    light = _let_light_in(frame, (0.4, 0.4, 0.4), (own, own, own), left)
    assert light == pytest.approx((behind, behind, behind), abs=1e-3)


def test_what_glitters_is_no_less_pure_where_it_is_less_unlike_the_backdrop() -> None:
    """A fine chequer of light and dark gold, four pixels each, and the same of two greens that are both darker than the paper."""
    light = (np.add.outer(np.arange(40) // 4, np.arange(60) // 4) % 2 == 0)[..., None]
    gold = np.where(light, (0.9, 0.75, 0.55), (0.36, 0.33, 0.3))
    greens = np.where(light, (0.1, 0.2, 0.05), (0.36, 0.42, 0.34))
    inner = np.zeros((40, 60), bool)
    inner[9:31:4, 9:51:4] = inner[10:31:4, 10:51:4] = True  # the middles of the squares
    dark = inner & ~light[..., 0]
    assert _covered_before_grey(gold)[dark].min() == 1
    assert _covered_before_grey(greens)[dark].max() < 0.3


@pytest.mark.parametrize("light", [0.75, 0.9, 0.95])
def test_dark_stripes_across_a_pale_product_are_no_strands(light: float) -> None:
    """They cross the outline as bristles do; but what is between them is even, and not as light as the backdrop."""

    def stripes(x: np.ndarray, y: np.ndarray) -> np.ndarray:
        turn = np.arctan2(y - 0.5, (x - 0.5) * SIZE[1] / SIZE[0])
        return np.where(np.sin(40 * turn) > 0.6, 0.25, light)

    made = scene("ring", (0.79, 0.785, 0.77), shadow=0.0, surface=stripes)
    decision, found = pipeline.cut_frame(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"), CutSettings())
    along = np.abs(decision.outline.signed) < 2
    assert np.median(decision.outline.band[along]) < 1.5 * FIRM_BAND
    inside = made.alpha > 0.995
    assert (found.alpha[inside] < 0.9).mean() < 0.08


def test_a_touch_keeps_what_lies_between_strands() -> None:
    """Unsaid it is backdrop; somebody says that it is product, and so it is, under the brush and nowhere else."""
    made = brush()
    touch = Touch(kind="product", points=((0.5, 0.5), (0.5, 0.52)), width=0.025, reach=0.05)
    alphas = []
    for strokes in ((), (touch,)):
        hands = Hands(touches=TouchSettings(strokes=strokes))
        _, found = pipeline.cut_frame(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"), CutSettings(), hands=hands)
        alphas.append(found.alpha)
    under = (np.hypot(np.arange(SIZE[0])[:, None] - 245, np.arange(SIZE[1])[None] - 360) < 4) & (made.alpha < 0.1)
    assert under.sum() > 5
    assert alphas[0][under].mean() < 0.3
    assert alphas[1][under].mean() > 0.95
    far = np.abs(np.arange(SIZE[1])[None] - 360) > 60
    assert np.abs(alphas[1] - alphas[0])[np.broadcast_to(far, SIZE)].mean() < 0.01


@pytest.mark.parametrize(
    ("share", "fine", "backdrop", "grey", "told"),
    [
        (0.55, 0.05, 0.3, 0.1, 1.0),
        (0.19, 0.03, 0.27, 0.85, 1.0),
        (0.13, 0.34, 0.24, 0.03, 1.0),
        (0.21, 0.1, 0.78, 0.2, 1.0),
        (0.19, 0.01, 0.29, 0.07, 0.0),
        (0.05, 0.1, 0.3, 0.85, 0.0),
    ],
    ids=["brown fur", "short grey fur", "leaves", "a chain", "thin limbs of several colours", "a smooth grey body"],
)
def test_what_is_fluffy_all_round_is_told_from_limbs_of_several_colours(
    share: float, fine: float, backdrop: float, grey: float, told: float
) -> None:
    """Where one colour goes over into another along an arm, the tone changes along its outline as well."""
    plane, everywhere = np.ones((20, 30), np.float32), np.ones((20, 30), bool)
    half = (plane,) * 4
    lines = Lines(share * plane, 0.1 * plane, fine * plane, everywhere, *half, Means(plane, 1000))
    between = BetweenLines(plane, 0 * plane, 0 * plane, 0.7 * plane, 0 * plane, plane, (backdrop, grey))
    assert (_fluffy(lines) and _fur(lines, between)) == told


@pytest.mark.parametrize(("share", "run", "told"), [(0.2, 0.1, True), (0.1, 0.1, False), (0.2, 0.04, False)])
def test_a_firm_outline_is_not_fluffy(share: float, run: float, told: bool) -> None:
    plane = np.ones((20, 30), np.float32)
    lines = Lines(share * plane, run * plane, plane, plane > 0, *(plane,) * 4, Means(plane, 1000))
    assert _fluffy(lines) == told
