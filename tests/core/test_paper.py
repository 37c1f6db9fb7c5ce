"""White product and white backdrop that are equally bright and equally neutral: the paper's grain tells them apart."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from true_backdrop.core import pipeline
from true_backdrop.core.cut.paper import (
    lacks_paper,
    moments_along_rim,
    seen_again,
    shows_paper,
    structure_along_rim,
    with_grain,
    without_grain,
)
from true_backdrop.core.cut.papered import paper_within
from true_backdrop.core.cut.pockets import paper_beside
from true_backdrop.core.picture import Picture
from true_backdrop.core.treatment import CutSettings

HEIGHT, WIDTH = 480, 720
Y, X = np.mgrid[:HEIGHT, :WIDTH]


def disc(y: float, x: float, radius: float) -> np.ndarray:
    """Coverage of a disc, soft over a pixel."""
    return np.clip(radius - np.hypot(Y - y, X - x) + 0.5, 0, 1)


def shot(light: np.ndarray, seed: int) -> np.ndarray:
    """sRGB with noise; the transfer is drawn as a table here (IEC 61966-2-1), not computed by the code under test."""
    noisy = light + np.random.default_rng(seed).normal(0, 0.004, light.shape)
    steps = np.arange(256) / 255
    linear = np.where(steps <= 0.04045, steps / 12.92, ((steps + 0.055) / 1.055) ** 2.4)
    return np.searchsorted((linear[1:] + linear[:-1]) / 2, np.clip(noisy, 0, 1)).astype(np.uint8)


class WhiteOnWhite:
    """A dark ring on grained paper; what its middle shows is paper (`hole`) or white product of the paper's own tone."""

    def __init__(self, *, hole: bool, grain: float = 0.01) -> None:
        rough = cv2.GaussianBlur(np.random.default_rng(7).standard_normal((HEIGHT, WIDTH)), (0, 0), 1.6)
        paper = 0.75 * (1 + grain * rough / rough.std())
        ring, middle = disc(240, 360, 130), disc(240, 360, 80)
        dark = np.where(hole, ring * (1 - middle), ring)
        light = paper * (1 - ring) + ring * 0.12 * (1 - middle) + ring * middle * (paper if hole else 0.75)
        self.alpha = dark
        self.frame, self.backdrop = (shot(np.repeat(p[..., None], 3, 2), seed) for p, seed in ((light, 1), (paper, 2)))

    def cut(self) -> tuple[pipeline.Decision, np.ndarray]:
        decision, found = pipeline.cut_frame(Picture(self.frame, "PNG"), Picture(self.backdrop, "PNG"), CutSettings())
        return decision, found.alpha


@pytest.mark.parametrize("hole", [True, False])
def test_a_white_middle_is_a_hole_only_where_the_papers_grain_is_in_it(hole: bool) -> None:
    made = WhiteOnWhite(hole=hole)
    assert np.mean((made.cut()[1] - made.alpha) ** 2) < 1e-3


@pytest.mark.parametrize("hole", [True, False])
def test_so_it_is_where_the_grain_is_hardly_above_the_noise(hole: bool) -> None:
    made = WhiteOnWhite(hole=hole, grain=0.002)
    assert pipeline.prepare(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG")).evidence.grain is None
    assert np.mean((made.cut()[1] - made.alpha) ** 2) < 1e-3


def planes(made: WhiteOnWhite) -> tuple[np.ndarray, np.ndarray]:
    prepared = pipeline.prepare(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"))
    return prepared.evidence.tone, prepared.evidence.bare


def test_the_grain_is_seen_again_in_the_hole_and_not_in_white_product() -> None:
    middle = disc(240, 360, 70) > 0.5
    for hole, low, high in ((True, 0.7, 1.3), (False, -0.3, 0.3)):
        tone, bare = planes(WhiteOnWhite(hole=hole))
        whole = structure_along_rim(moments_along_rim(tone, bare))
        found = seen_again(tone, bare, middle)
        assert found is not None and low < found / whole < high


def test_without_grain_nothing_is_said() -> None:
    tone, bare = planes(WhiteOnWhite(hole=True, grain=0.0))
    assert structure_along_rim(moments_along_rim(tone, bare)) < 0.3
    assert seen_again(tone, bare, disc(240, 360, 4) > 0.5) is None


def test_white_product_beside_what_was_found_is_found_too() -> None:
    """Half of the ring's surroundings are white product: the paper's grain is missing there, and only there."""
    rough = cv2.GaussianBlur(np.random.default_rng(7).standard_normal((HEIGHT, WIDTH)), (0, 0), 1.6)
    bare = np.log(0.75 * (1 + 0.01 * rough / rough.std())).astype(np.float32)
    noise = np.random.default_rng(3).normal(0, 0.002, bare.shape).astype(np.float32)
    product = disc(240, 360, 60) > 0.5
    white = (disc(240, 430, 90) > 0.5) & ~product
    tone = np.where(white, np.log(0.75) - bare, noise).astype(np.float32)
    found = without_grain(tone, bare, 0.95, ~product)
    assert (found & white).sum() > 0.6 * white.sum()
    assert (found & ~white & ~product).sum() < 0.06 * white.sum()
    assert not without_grain(noise, bare, 0.95, ~product).any()


def grained(plainly: float, seed: int = 7) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Log brightness of a backdrop frame, of a take of the same paper, and of a take of something else, in noise.

    `plainly` is the variance of the paper's grain over that of the noise of one frame; all are as smooth as evidence is.
    """
    rng = np.random.default_rng(seed)

    def smooth(sigma: float) -> np.ndarray:
        plane = cv2.GaussianBlur(rng.standard_normal((HEIGHT, WIDTH)), (0, 0), sigma)
        return np.asarray(plane / plane.std(), np.float32)

    paper = 0.004 * np.sqrt(plainly) * smooth(1.5)
    bare, take, other = (paper * shown + 0.004 * smooth(0.9) for shown in (1, 1, 0))
    return bare.astype(np.float32), (take - bare).astype(np.float32), (other - bare).astype(np.float32)


@pytest.mark.parametrize(("plainly", "radius"), [(4.0, 20), (1.0, 45)])
def test_the_fainter_the_grain_the_larger_a_place_must_be_to_show_it(plainly: float, radius: int) -> None:
    bare, paper, other = grained(plainly)
    structure, place = plainly / (plainly + 1), disc(240, 360, radius) > 0.5
    assert shows_paper(paper, bare, place, structure)
    assert not shows_paper(other, bare, place, structure)
    assert not shows_paper(paper, bare, disc(240, 360, 5) > 0.5, structure)


@pytest.mark.parametrize(("plainly", "radius"), [(4.0, 25), (1.0, 70)])
def test_the_fainter_the_grain_the_larger_a_place_must_be_to_lack_it(plainly: float, radius: int) -> None:
    structure = plainly / (plainly + 1)
    place, small = disc(240, 360, radius) > 0.5, disc(240, 360, 6) > 0.5
    told = 0
    for seed in range(20):
        bare, paper, other = grained(plainly, seed)
        told += lacks_paper(other, bare, place, structure)
        assert not lacks_paper(paper, bare, place, structure)
        assert not lacks_paper(other, bare, small, structure)
        assert not lacks_paper(other, bare, place, 0.2)
    assert told >= 18


def test_a_surface_of_its_own_structure_is_hardly_ever_taken_for_paper() -> None:
    wrong = 0
    for seed in range(40):
        bare, _, other = grained(1.0, seed)
        wrong += shows_paper(other, bare, disc(240, 360, 45) > 0.5, 0.5)
    assert wrong == 0


def test_no_grain_proves_nothing() -> None:
    bare, paper, _ = grained(0.2)
    assert not shows_paper(paper, bare, disc(240, 360, 100) > 0.5, 0.2)


def test_a_contact_shadows_slope_does_not_hide_the_grain() -> None:
    """It is many times the grain and goes up and down beside a product; what is around it is paper all the same."""
    rng = np.random.default_rng(11)
    bare = np.asarray(cv2.GaussianBlur(rng.normal(0, 1, (160, 240)), (0, 0), 1.5), np.float32) * np.float32(0.012)
    y, x = np.mgrid[:160, :240]
    product = (y < 70) & (np.abs(x - 120) < 60)
    shadow = -0.2 * np.exp(-np.clip(y - 70, 0, None) / 30) * (1 + 0.5 * np.sin(y / 2.0)) * (np.abs(x - 120) < 60)
    tone = np.where(product, -1.5, shadow).astype(np.float32)
    noisy = tone + np.asarray(rng.normal(0, 0.001, tone.shape), np.float32)
    assert not without_grain(noisy, bare, 0.95, ~product).any()


def test_where_the_backdrop_frame_has_no_grain_itself_none_is_missed() -> None:
    """In the dark half of a set a file's steps are the same in both frames, and look like grain; in the lit half there are none."""
    rng = np.random.default_rng(3)
    pattern = cv2.GaussianBlur(rng.standard_normal((HEIGHT, WIDTH)), (0, 0), 1.6)
    dark = (X < 300) * (pattern / pattern.std()) * 0.004
    bare, again = ((dark + rng.normal(0, 0.0004, dark.shape)).astype(np.float32) for _ in range(2))
    product = disc(240, 420, 60) > 0.5
    assert not without_grain((again - bare).astype(np.float32), bare, 0.9, ~product).any()


@pytest.mark.parametrize(("colour", "table"), [((1.0, 1.0, 1.0), True), ((1.0, 0.62, 0.5), False)])
def test_what_shows_the_papers_grain_is_table_only_if_it_is_as_neutral(colour: tuple[float, ...], table: bool) -> None:
    """Shading of a coloured body can follow that of the paper."""
    rough = cv2.GaussianBlur(np.random.default_rng(7).standard_normal((HEIGHT, WIDTH)), (0, 0), 1.6)
    paper = 0.75 * (1 + 0.01 * rough / rough.std())[..., None] * np.ones(3)
    place = cv2.GaussianBlur(disc(240, 360, 110), (0, 0), 6)[..., None]
    lit = paper * (1 + place * (0.75 * np.array(colour) - 1))
    frame, backdrop = (Picture(shot(light, seed), "PNG") for light, seed in ((lit, 1), (paper, 2)))
    evidence = pipeline.prepare(frame, backdrop).evidence
    product = disc(240, 360, 100) > 0.5
    found = paper_beside(evidence, product, np.zeros_like(product))
    assert found[disc(240, 360, 80) > 0.5].mean() == pytest.approx(float(table), abs=0.1)


def _with_line(plainly: float, height: float) -> tuple[np.ndarray, np.ndarray]:
    """Log brightness of a frame against its backdrop frame, and of that: noise alone but for the line of a floor across both."""
    bare, _, other = grained(plainly)
    line = (height * np.exp(-(((np.mgrid[: bare.shape[0], : bare.shape[1]][0] - bare.shape[0] * 0.6) / 3.0) ** 2))).astype(
        np.float32
    )
    return np.asarray(other - bare, np.float32), np.asarray(bare + line, np.float32)


@pytest.mark.parametrize("height", [0.0, 0.05])
def test_the_line_of_a_floor_is_no_grain(height: float) -> None:
    """It is in both frames, and says nothing of a place that it does not cross."""
    tone, bare = _with_line(1.0, height)
    assert structure_along_rim(moments_along_rim(tone, bare)) < 0.2


@pytest.mark.parametrize(("brighter", "table"), [(0.1, True), (0.5, False)])
def test_table_is_hardly_brighter_than_without_the_product(brighter: float, table: bool) -> None:
    """Light that a product throws on it adds a little; what is half a log unit brighter is the product itself."""
    rough = cv2.GaussianBlur(np.random.default_rng(7).standard_normal((HEIGHT, WIDTH)), (0, 0), 1.6)
    paper = 0.4 * (1 + 0.01 * rough / rough.std())
    thrown = 1 + (np.exp(brighter) - 1) * cv2.GaussianBlur(disc(240, 360, 120), (0, 0), 16)
    frame, empty = (shot(np.repeat(light[..., None], 3, 2), seed) for light, seed in ((paper * thrown, 1), (paper, 2)))
    evidence = pipeline.prepare(Picture(frame, "PNG"), Picture(empty, "PNG")).evidence
    product = disc(240, 360, 80) > 0.5
    found = paper_beside(evidence, product, np.zeros_like(product))
    assert found[product].mean() == pytest.approx(float(table), abs=0.1)


def test_an_opening_in_white_product_is_found_by_the_grain_in_it() -> None:
    """Both are as light as the paper, and no edge is between them; only one of them is paper."""
    rough = cv2.GaussianBlur(np.random.default_rng(7).standard_normal((HEIGHT, WIDTH)), (0, 0), 1.6)
    bare = np.log(0.75 * (1 + 0.01 * rough / rough.std())).astype(np.float32)
    noise = np.random.default_rng(3).normal(0, 0.002, bare.shape).astype(np.float32)
    product, opening = disc(240, 360, 120) > 0.5, disc(240, 420, 36) > 0.5
    tone = np.where(product & ~opening, np.log(0.75) - bare, noise).astype(np.float32)
    found = with_grain(tone, bare, 0.95, product)
    assert (found & opening).sum() > 0.6 * opening.sum()
    assert (found & ~opening).sum() < 0.1 * opening.sum()
    assert not with_grain(np.where(product, np.log(0.75) - bare, noise).astype(np.float32), bare, 0.95, product).any()


@pytest.mark.parametrize(("through", "paper"), [(1.0, True), (0.9, False)])
def test_what_shows_grain_in_a_product_is_an_opening_unless_it_is_as_dark_as_glass(through: float, paper: bool) -> None:
    """A white cup of the paper's own light, and what is seen of the paper behind its handle, or through a window in it."""
    rough = cv2.GaussianBlur(np.random.default_rng(1).standard_normal((HEIGHT, WIDTH)), (0, 0), 1.6)
    sheet = 0.72 * (1 + 0.008 * rough / rough.std())
    cup, opening = disc(240, 360, 120), disc(240, 420, 36)
    light = 0.72 * cup * (1 - opening) + through * sheet * cup * opening + sheet * (1 - cup)
    frame, empty = (Picture(shot(np.repeat(each[..., None], 3, 2), n), "PNG") for each, n in ((light, 1), (sheet, 2)))
    evidence = pipeline.prepare(frame, empty).evidence
    found = paper_within(evidence, cup > 0.5, np.zeros(evidence.shape, np.float32))
    assert (found[opening > 0.99].mean() > 0.9) == paper
    assert found[(cup > 0.5) & (disc(240, 420, 48) < 0.01)].mean() < 0.01
