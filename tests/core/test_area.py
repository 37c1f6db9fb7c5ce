"""What light and grain say of a whole place: pale product without edges, white details, and what only looks like backdrop."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from tests.scenes import OVER, Scene, _encode
from true_backdrop.core import pipeline
from true_backdrop.core.cut.area import by_grain, by_light, off_the_backdrop
from true_backdrop.core.cut.verdict import Verdict
from true_backdrop.core.picture import Picture
from true_backdrop.core.treatment import CutSettings

SIZE = (480, 720)
Y, X = np.mgrid[0 : SIZE[0], 0 : SIZE[1]].astype(float)


def _disc(x: float, y: float, radius: float) -> np.ndarray:
    big = np.zeros((SIZE[0] * OVER, SIZE[1] * OVER), np.uint8)
    cv2.circle(big, (round(x * OVER), round(y * OVER)), round(radius * OVER), 255, -1)
    return np.asarray(big.reshape(SIZE[0], OVER, SIZE[1], OVER).mean(axis=(1, 3)) / 255)


def photographed(
    alpha: np.ndarray,
    product: np.ndarray,
    *,
    grain: float = 0.0,
    shadow: np.ndarray | None = None,
    seed: int = 1,
    noise: float = 0.006,
) -> Scene:
    """A product, alpha (H, W) and linear colour (H, W, 3), before uneven paper with grain of a relative strength, with noise."""
    rng = np.random.default_rng(seed)
    light = 0.72 - 0.10 * (X / 720 - 0.5) ** 2 - 0.08 * (Y / 480 - 0.4) ** 2
    texture = cv2.GaussianBlur(rng.standard_normal(SIZE), (0, 0), 1.5)
    paper = (light * (1 + grain * texture / texture.std()))[..., None] * np.array([1.0, 0.99, 0.97])
    lit = paper if shadow is None else paper * shadow[..., None]
    shot = alpha[..., None] * product + (1 - alpha[..., None]) * lit
    frame, empty = (_encode(_sharp(each) * (1 + rng.normal(0, noise, each.shape))) for each in (shot, paper))
    return Scene(frame, empty, _sharp(alpha))


def _sharp(plane: np.ndarray) -> np.ndarray:
    """As a lens draws it."""
    return np.asarray(cv2.GaussianBlur(plane, (0, 0), 0.6))


def cut(made: Scene) -> tuple[Verdict, np.ndarray]:
    decision, found = pipeline.cut_frame(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"), CutSettings())
    return decision.judgement.verdict, found.alpha


def cushion(grain: float, seed: int = 1) -> Scene:
    """A pale cushion that hardly differs from the paper: its outline has nearly no edge, its middle is a little lighter."""
    alpha = _disc(360, 230, 150)
    radius = np.hypot(X - 360, Y - 230) / 150
    tone = 1 + 0.045 * np.clip(1.15 - radius**2, 0, 1) - 0.02 * np.exp(-(((radius - 1) / 0.04) ** 2))
    light = 0.72 - 0.10 * (X / 720 - 0.5) ** 2 - 0.08 * (Y / 480 - 0.4) ** 2
    return photographed(alpha, (light * tone)[..., None] * np.array([1.0, 0.99, 0.97]), grain=grain, seed=seed)


@pytest.mark.parametrize(("grain", "part"), [(0.0, 0.3), (0.012, 0.93)])
@pytest.mark.parametrize("seed", [1, 2])
def test_a_pale_cushion_is_known_by_its_light_and_whole_by_the_grain_it_lacks(grain: float, part: float, seed: int) -> None:
    made = cushion(grain, seed)
    verdict, alpha = cut(made)
    assert alpha[made.alpha > 0.99].mean() > part
    assert (alpha[made.alpha < 0.01] > 0.02).mean() < 0.01
    assert verdict is Verdict.LOOK_AGAIN


def board(grain: float, seed: int, *, dot: bool) -> Scene:
    """A pale board that goes from 1 to 5 % lighter than the paper, with a black dot on it or without."""
    alpha = ((np.abs(X - 360) < 130) & (np.abs(Y - 230) < 110)).astype(float)
    light = 0.72 - 0.10 * (X / 720 - 0.5) ** 2 - 0.08 * (Y / 480 - 0.4) ** 2
    pale = (light * (1.01 + 0.04 * (X - 230) / 260))[..., None] * np.array([1.0, 0.99, 0.97])
    black = _disc(360, 230, 35)[..., None] * dot
    return photographed(alpha, (1 - black) * pale + black * 0.1, grain=grain, seed=seed)


@pytest.mark.parametrize("dot", [False, True])
@pytest.mark.parametrize("grain", [0.0, 0.012])
@pytest.mark.parametrize("seed", [1, 2])
def test_of_a_pale_board_with_a_black_dot_not_the_dot_alone_is_kept(dot: bool, grain: float, seed: int) -> None:
    made = board(grain, seed, dot=dot)
    verdict, alpha = cut(made)
    assert alpha[made.alpha > 0.99].mean() > 0.93
    assert (alpha[made.alpha < 0.01] > 0.02).mean() < 0.005
    assert verdict is Verdict.LOOK_AGAIN


def face(white: float) -> Scene:
    """A dark red disc with two round places in it, brighter than the paper by a factor."""
    places = np.maximum(_disc(310, 200, 34), _disc(410, 200, 34))
    paper = (0.72 - 0.10 * (X / 720 - 0.5) ** 2 - 0.08 * (Y / 480 - 0.4) ** 2)[..., None] * np.array([1.0, 0.99, 0.97])
    product = (1 - places[..., None]) * np.array([0.32, 0.05, 0.04]) + places[..., None] * paper * white
    return photographed(_disc(360, 230, 150), product)


@pytest.mark.parametrize("white", [1.04, 1.06])
def test_a_white_place_that_is_brighter_than_the_paper_is_no_hole(white: float) -> None:
    made = face(white)
    _, alpha = cut(made)
    assert alpha[made.alpha > 0.99].min() > 0.9


def test_a_hole_that_is_exactly_as_the_paper_is_one() -> None:
    holes = np.maximum(_disc(310, 200, 34), _disc(410, 200, 34))
    made = photographed(_disc(360, 230, 150) * (1 - holes), np.broadcast_to(np.array([0.32, 0.05, 0.04]), (*SIZE, 3)))
    verdict, alpha = cut(made)
    assert (alpha[made.alpha < 0.01] > 0.02).mean() < 0.002
    assert verdict is Verdict.CLEAN


def test_gaps_between_slender_bars_are_open() -> None:
    bars = (((X - 240) % 30 < 7) | ((Y - 120) % 30 < 7)).astype(float)
    inside = (X >= 240) & (X < 480) & (Y >= 120) & (Y < 360)
    rim = (X >= 228) & (X < 492) & (Y >= 108) & (Y < 372) & ~inside
    alpha = np.where(rim, 1.0, np.where(inside, bars, 0.0))
    made = photographed(alpha, np.broadcast_to(np.array([0.05, 0.06, 0.12]), (*SIZE, 3)))
    _, found = cut(made)
    deep = cv2.erode((made.alpha < 0.01).astype(np.uint8), np.ones((7, 7), np.uint8)) > 0
    assert (found[deep & inside] > 0.5).mean() < 0.02


def test_a_lost_part_that_leaves_its_edges_is_asked_about() -> None:
    """Hair nearly as grey as the backdrop, above a white body: whether it is cut or not, nobody may call that clean."""
    body, hair = _disc(360, 330, 90), _disc(360, 170, 95)
    light = 0.72 - 0.10 * (X / 720 - 0.5) ** 2 - 0.08 * (Y / 480 - 0.4) ** 2
    tone = np.where(hair > 0, 0.955, 1.0)[..., None] * light[..., None] * np.array([1.0, 0.99, 0.97])
    product = np.where((body > 0)[..., None], np.array([0.05, 0.1, 0.3]), tone)
    made = photographed(np.maximum(body, hair), product)
    verdict, alpha = cut(made)
    whole = alpha[made.alpha > 0.99].mean() > 0.98
    assert whole or verdict is Verdict.LOOK_AGAIN


def test_a_large_place_outweighs_what_a_pixel_says() -> None:
    rng = np.random.default_rng(3)
    tone = (0.004 * rng.standard_normal((120, 160))).astype(np.float32)
    tone[30:80, 30:80] += 0.02
    weight = by_light(off_the_backdrop(tone), tone)
    assert weight[35:75, 35:75].sum() > 10 * np.abs(weight[35:75, 35:75]).max()
    assert weight[:25].sum() < 0 and weight[90:].sum() < 0
    shadow = by_light(off_the_backdrop(tone - 0.2), tone - np.float32(0.2))
    assert shadow.max() <= 0.001  # what is as dark as a shadow weighs nothing


def test_grain_is_seen_around_each_pixel() -> None:
    made = cushion(0.012)
    evidence = pipeline.prepare(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG")).evidence
    weight = by_grain(evidence)
    assert weight is not None
    inside = cv2.resize(made.alpha, weight.shape[::-1], interpolation=cv2.INTER_AREA)
    assert weight[inside > 0.99].mean() > 0.01 and weight[inside < 0.01].mean() < -0.03
    plain = cushion(0.0)
    assert by_grain(pipeline.prepare(Picture(plain.frame, "PNG"), Picture(plain.backdrop, "PNG")).evidence) is None


def test_an_opening_that_a_shadow_falls_into_is_cut_or_asked_about() -> None:
    """A black block with a square opening that is lit at its top and dark at its foot, on a floor in the same shadow."""
    opening = ((np.abs(X - 360) < 40) & (np.abs(Y - 250) < 60)).astype(float)
    alpha = ((np.abs(X - 360) < 110) & (np.abs(Y - 240) < 120)) * (1 - opening)
    depth = np.clip((Y - 195) / 110, 0, 1)
    shadow = np.exp(-0.75 * depth * cv2.GaussianBlur(opening, (0, 0), 3) - 0.08 * np.exp(-(((Y - 360) / 30) ** 2)))
    made = photographed(alpha, np.broadcast_to(np.array([0.03, 0.03, 0.035]), (*SIZE, 3)), shadow=shadow)
    verdict, found = cut(made)
    assert (found[(made.alpha < 0.01) & (opening > 0)] > 0.5).mean() < 0.05 or verdict is Verdict.LOOK_AGAIN
