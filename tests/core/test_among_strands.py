"""A face behind hair: between strands the backdrop goes, and the face stays, its skin, the white of its eyes and all."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from tests.scenes import OVER, Scene, _encode
from true_backdrop.core import pipeline
from true_backdrop.core.cut.between import off_line, opened, unreached
from true_backdrop.core.cut.tolerances import Tolerances
from true_backdrop.core.picture import Picture
from true_backdrop.core.treatment import CutSettings

SIZE = (480, 720)
BARE, HAIR, SKIN, WHITE = 0.75, (0.06, 0.045, 0.04), (0.62, 0.44, 0.36), (0.74, 0.74, 0.74)
HEAD, EYES = ((360, 250), 95), (((305, 205), 17), ((415, 205), 17))


def _averaged(big: np.ndarray) -> np.ndarray:
    return np.asarray(big.reshape(SIZE[0], OVER, SIZE[1], OVER).mean(axis=(1, 3)) / 255)


def _discs(*discs: tuple[tuple[int, int], int]) -> np.ndarray:
    big = np.zeros((SIZE[0] * OVER, SIZE[1] * OVER), np.uint8)
    for (x, y), radius in discs:
        cv2.circle(big, (x * OVER, y * OVER), radius * OVER, 255, -1)
    return _averaged(big)


def _hair(seed: int) -> np.ndarray:
    """600 strands, 0.9 pixels wide, that grow out of the upper three quarters of the head."""
    rng = np.random.default_rng(seed)
    big = np.zeros((SIZE[0] * OVER, SIZE[1] * OVER), np.uint8)
    (x, y), radius = HEAD
    for angle in rng.uniform(-2.4, 2.4, 600):
        way = angle + rng.normal(0, 0.3)
        root = x + (radius - 4) * np.sin(angle), y - (radius - 4) * np.cos(angle)
        length = rng.uniform(15, 55)
        tip = root[0] + length * np.sin(way), root[1] - length * np.cos(way)
        cv2.line(big, *(tuple(int(v * OVER) for v in point) for point in (root, tip)), 255, round(0.9 * OVER))
    return _averaged(big)


def head(skin: tuple[float, float, float] = SKIN, white: tuple[float, float, float] = WHITE, seed: int = 3) -> Scene:
    face, eyes, pupils, hair = _discs(HEAD), _discs(*EYES), _discs(*((at, 6) for at, _ in EYES)), _hair(seed)
    light = np.full((*SIZE, 3), BARE)
    for cover, colour in ((hair, HAIR), (face, skin), (eyes, white), (pupils, HAIR)):
        light = light + cover[..., None] * (np.array(colour) - light)
    rng = np.random.default_rng(seed)
    bare = np.full((*SIZE, 3), BARE)
    frame, empty = (_encode(each * (1 + rng.normal(0, 0.004, each.shape))) for each in (light, bare))
    return Scene(frame, empty, 1 - (1 - face) * (1 - hair))


def cut(made: Scene) -> np.ndarray:
    return pipeline.cut_frame(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"), CutSettings())[1].alpha


@pytest.mark.parametrize("skin", [SKIN, (0.42, 0.42, 0.44), (0.2, 0.45, 0.6)])
def test_a_face_behind_hair_stays_and_the_backdrop_in_the_hair_goes(skin: tuple[float, float, float]) -> None:
    made = head(skin)
    alpha = cut(made)
    face = _discs((HEAD[0], HEAD[1] - 1)) == 1
    assert (alpha[face] < 0.9).mean() < 0.01
    hair = (made.alpha < 0.02) & (_discs((HEAD[0], HEAD[1] + 30)) == 1)
    assert hair.sum() > 1000
    assert alpha[hair].mean() < 0.06


@pytest.mark.parametrize("seed", [1, 2])
def test_the_white_of_an_eye_stays_though_it_is_the_backdrop_s_own_colour(seed: int) -> None:
    alpha = cut(head(seed=seed))
    assert (alpha[_discs(*EYES) == 1] < 0.9).mean() < 0.02


def _decided(made: Scene) -> tuple[pipeline.Prepared, np.ndarray, np.ndarray]:
    prepared = pipeline.prepare(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"))
    shade = np.zeros(prepared.evidence.shape, np.float32)
    return prepared, _discs((HEAD[0], HEAD[1] + 40)) == 1, shade


def test_a_mixture_of_hair_and_backdrop_lies_on_their_line_and_skin_does_not() -> None:
    made = head()
    prepared, _, shade = _decided(made)
    off = off_line(prepared.evidence, shade)
    mixed = (made.alpha > 0.3) & (made.alpha < 0.7) & (_discs((HEAD[0], HEAD[1] + 12)) == 0)
    assert np.median(off[mixed]) < 0.03
    rim = (_discs((HEAD[0], HEAD[1] - 2)) == 1) & (_discs((HEAD[0], HEAD[1] - 4)) == 0)
    rim[HEAD[0][1] :] = False  # below there is hardly any hair
    assert np.median(off[rim]) > 0.08


def test_what_is_open_hangs_together_with_the_outside() -> None:
    made = head()
    prepared, product, shade = _decided(made)
    evidence = prepared.evidence
    limits = Tolerances.of(50, evidence.noise, evidence.long_side)
    without = opened(evidence, limits, product, shade, np.zeros_like(product))
    eyes = _discs(*((at, r - 3) for at, r in EYES)) - _discs(*((at, 11) for at, _ in EYES)) == 1
    assert without[eyes].all()
    hair = (_discs((HEAD[0], HEAD[1] + 30)) == 1) & (cv2.dilate(made.alpha, np.ones((3, 3))) == 0)
    hair[HEAD[0][1] - 60 :] = False
    assert hair.sum() > 50
    assert without[hair].mean() < 0.1


def test_what_was_not_reached_is_white_product_if_it_is_broad() -> None:
    """A disc as light as the backdrop inside of a dark one: 14 pixels wide it is found, 5 pixels wide it may be a gap."""
    found = []
    for radius in (7, 2):
        dark, light = _discs(((360, 240), 60)), _discs(((360, 240), radius))
        shot = BARE + (dark - light)[..., None] * (np.array(HAIR) - BARE)
        rng = np.random.default_rng(1)
        frame, empty = (_encode(each * (1 + rng.normal(0, 0.004, each.shape))) for each in (shot, np.full((*SIZE, 3), BARE)))
        evidence = pipeline.prepare(Picture(frame, "PNG"), Picture(empty, "PNG")).evidence
        found.append(int(unreached(evidence, dark > 0.5, dark > 0.5, np.zeros(SIZE, np.float32)).sum()))
    assert found[0] > 80
    assert found[1] == 0


@pytest.mark.parametrize(("from_the_rim", "kept"), [(30, True), (4, False)])
def test_a_light_place_that_ends_where_the_mask_does_is_a_gap_between_tips(from_the_rim: int, kept: bool) -> None:
    dark, light = _discs(((360, 240), 60)), _discs(((360, 180 + from_the_rim), 7))
    shot = BARE + np.clip(dark - light, 0, 1)[..., None] * (np.array(HAIR) - BARE)
    rng = np.random.default_rng(1)
    frame, empty = (_encode(each * (1 + rng.normal(0, 0.004, each.shape))) for each in (shot, np.full((*SIZE, 3), BARE)))
    evidence = pipeline.prepare(Picture(frame, "PNG"), Picture(empty, "PNG")).evidence
    assert bool(unreached(evidence, dark > 0.5, dark > 0.5, np.zeros(SIZE, np.float32)).any()) is kept


@pytest.mark.parametrize(
    ("expected", "opens"),
    [(0.0, True), (-0.2, True), (-0.5, False), (0.2, False)],
    ids=["as bright as around", "between the shadow and the light", "far lighter than the shadow", "darker than around"],
)
def test_a_gap_may_be_lighter_than_the_shadow_around(expected: float, opens: bool) -> None:
    """Gaps of five pixels in full light between dark bars of three; what is around is said to be brighter or darker."""
    shot = np.full((*SIZE, 3), BARE)
    for x in range(300, 420, 8):
        shot[180:300, x : x + 3] = HAIR
    rng = np.random.default_rng(1)
    frame, empty = (_encode(each * (1 + rng.normal(0, 0.004, each.shape))) for each in (shot, np.full((*SIZE, 3), BARE)))
    evidence = pipeline.prepare(Picture(frame, "PNG"), Picture(empty, "PNG")).evidence
    product = np.zeros(SIZE, bool)
    product[180:300, 300:420] = True
    limits = Tolerances.of(50, evidence.noise, evidence.long_side)
    left = opened(evidence, limits, product, np.full(SIZE, expected, np.float32))
    middle = np.zeros(SIZE, bool)
    for x in range(300, 412, 8):
        middle[190:290, x + 5] = True
    assert left[middle].mean() == pytest.approx(0.0 if opens else 1.0, abs=0.05)


@pytest.mark.parametrize("depth", [0.35, 0.5])
def test_the_backdrop_between_strands_goes_where_it_lies_in_their_shadow_too(depth: float) -> None:
    """A green ball with hair all around, in a shadow that is deepest below the hair."""
    ball, hair = _discs(HEAD), _hair(5)
    green = np.array([0.10, 0.22, 0.06])
    shade = np.exp(-depth * cv2.GaussianBlur(_discs((HEAD[0], HEAD[1] + 45)), (0, 0), 18))[..., None]
    bare = np.full((*SIZE, 3), BARE)
    light = bare * shade
    for cover in (hair, ball):
        light = light + cover[..., None] * (green - light)
    rng = np.random.default_rng(1)
    frame, empty = (_encode(each * (1 + rng.normal(0, 0.004, each.shape))) for each in (light, bare))
    made = Scene(frame, empty, 1 - (1 - ball) * (1 - hair))
    alpha = cut(made)
    shaded = (made.alpha < 0.02) & (_discs((HEAD[0], HEAD[1] + 30)) == 1) & (shade[..., 0] < np.exp(-0.5 * depth))
    assert shaded.sum() > 1000
    assert alpha[shaded].mean() < 0.15
    assert alpha[ball == 1].mean() > 0.99
