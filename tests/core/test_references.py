"""Building blocks of the cut against general-purpose libraries that compute the same, and against values known beforehand."""

from __future__ import annotations

import cv2
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays
from pymatting import estimate_alpha_cf, estimate_foreground_ml
from scipy.ndimage import gaussian_filter
from skimage.filters import sobel
from skimage.restoration import inpaint_biharmonic
from skimage.segmentation import watershed as sk_watershed

from true_backdrop.core.channels import channel_max, channel_mean, channel_min, doubled, halved, squared_length
from true_backdrop.core.colour import decode_pixels, encode_pixels
from true_backdrop.core.cut.align import FLOOR, align
from true_backdrop.core.cut.bounced_light import NONE_BOUNCED
from true_backdrop.core.cut.estimate import estimated_backdrop, is_plain
from true_backdrop.core.cut.evidence import gather
from true_backdrop.core.cut.shift import first_guess, moved, shift_of
from true_backdrop.core.cut.solve import LitBackdrop, solve_tile, unmix
from true_backdrop.core.cut.spread import spread
from true_backdrop.core.cut.watershed import watershed

SIZE = (160, 200)


def disc_at(y: float, x: float, radius: float, size: tuple[int, int] = SIZE, soft: float = 0.5) -> np.ndarray:
    """Coverage (H, W) of a disc: half on its circle, from all to nothing over twice `soft` pixels."""
    down, across = np.mgrid[: size[0], : size[1]]
    return np.asarray(np.clip((radius - np.hypot(down - y, across - x)) / (2 * soft) + 0.5, 0, 1), np.float32)


def paper(seed: int, size: tuple[int, int] = SIZE, grain: float = 0.02) -> np.ndarray:
    """Grey paper (H, W, 3) with structure of its own, in linear light."""
    rough = gaussian_filter(np.random.default_rng(seed).standard_normal(size), 1.0)
    return np.repeat(0.5 * (1 + grain * rough / rough.std())[..., None], 3, axis=2).astype(np.float32)


def noisy(picture: np.ndarray, sigma: float, seed: int) -> np.ndarray:
    """With noise of so much relative to the light."""
    noise = np.random.default_rng(seed).standard_normal(picture.shape)
    return np.asarray(np.clip(picture * (1 + sigma * noise), 0, 1), np.float32)


@given(arrays(np.float32, (6, 7, 3), elements=st.floats(0, 1, width=32)))
def test_passes_over_channels_are_numpys(pixels: np.ndarray) -> None:
    np.testing.assert_allclose(channel_mean(pixels), pixels.mean(axis=2), atol=1e-6)
    np.testing.assert_array_equal(channel_max(pixels), pixels.max(axis=2))
    np.testing.assert_array_equal(channel_min(pixels), pixels.min(axis=2))
    np.testing.assert_allclose(squared_length(pixels), (pixels**2).sum(axis=2), atol=1e-6)
    np.testing.assert_allclose(halved(pixels)[0, 0], pixels[:2, :2].mean(axis=(0, 1)), atol=1e-6)


@pytest.mark.parametrize("size", [(40, 60), (41, 61), (41, 60)])
def test_a_smooth_plane_comes_back_from_half_its_size(size: tuple[int, int]) -> None:
    y, x = np.mgrid[: size[0], : size[1]]
    plane = np.asarray(np.sin(x / 12) + np.cos(y / 9), np.float32)
    again = doubled(halved(plane), size)
    assert again.shape == size
    np.testing.assert_allclose(again[2:-3, 2:-3], plane[2:-3, 2:-3], atol=0.02)


@settings(max_examples=25, deadline=None)
@given(st.tuples(*[st.floats(0.6, 1.6)] * 3), st.integers(0, 1000))
def test_each_channels_exposure_is_found_whatever_stands_before_the_backdrop(gain: tuple[float, ...], seed: int) -> None:
    empty = paper(seed)
    with_product = empty * np.array(gain, np.float32) * (1 - 0.8 * disc_at(80, 100, 55)[..., None])
    found = align(noisy(with_product, 0.005, seed), empty)
    assert found.gain == pytest.approx(gain, rel=0.01)
    assert found.drift_ev == pytest.approx(np.log2(np.mean(gain)), abs=0.02)
    bare = disc_at(80, 100, 60) == 0
    assert np.abs(np.median(found.log_ratio[bare], axis=0)).max() < 0.004


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_the_exposure_of_dark_paper_is_found_through_noise_and_eight_bit_steps(seed: int) -> None:
    empty = 0.06 * paper(seed)
    light = empty * np.float32(1.03) * (1 - 0.8 * disc_at(80, 100, 55)[..., None])
    frames = [decode_pixels(encode_pixels(noisy(one, 0.1, seed + at))) for at, one in enumerate((light, empty))]
    assert align(*frames).gain == pytest.approx((1.03,) * 3, rel=0.015)


@pytest.mark.parametrize("shift", [(6, -4), (-2, 8)])
def test_a_shift_is_found_beside_a_higher_peak_that_lies_farther_off(shift: tuple[int, int]) -> None:
    """Half of the picture, that moved much farther, as when a product's edges are alike in both."""
    rng = np.random.default_rng(2)
    rough, other = (gaussian_filter(rng.standard_normal((240, 320)), 1.5).astype(np.float32) for _ in range(2))
    near, far = (np.roll(plane, by[::-1], axis=(0, 1)) for plane, by in ((rough, shift), (other, (120, 60))))
    highest, _ = cv2.phaseCorrelate(rough + 2 * other, near + 2 * far)
    assert np.hypot(*highest) > 50
    assert first_guess(near + 2 * far, rough + 2 * other, 20) == pytest.approx(shift, abs=2)
    assert first_guess(far, rough, 20) == (0, 0)
    assert abs(first_guess(near[:6], rough[:6], 20)[1]) < 6  # a picture that is lower than what is looked for


@pytest.mark.parametrize("sigma", [0.005, 0.01, 0.03])
def test_noise_is_measured_as_it_was_made(sigma: float) -> None:
    """Of the ratio: that of both frames."""
    empty = paper(3)
    found = align(noisy(empty, sigma, 1), noisy(empty, sigma, 2))
    assert found.noise == pytest.approx(np.sqrt(2) * sigma * 0.5 / (0.5 + FLOOR), rel=0.1)


def test_blown_out_backdrop_is_measured() -> None:
    empty = paper(4, grain=0)
    empty[:40] = 1.0
    assert align(empty, empty).clipped_backdrop == pytest.approx(0.25, abs=0.01)


@pytest.mark.parametrize("shift", [(0.0, 0.0), (0.4, -0.3), (1.5, 0.8), (-2.2, 3.1)])
def test_a_camera_that_was_touched_is_found_by_the_papers_own_structure(shift: tuple[float, float]) -> None:
    empty = paper(5, (300, 400), 0.04)
    after = moved(empty, shift)
    product = disc_at(150, 200, 70, (300, 400))[..., None]
    free = disc_at(150, 200, 80, (300, 400)) == 0
    found = shift_of(noisy(after * (1 - 0.7 * product), 0.005, 1), noisy(empty, 0.005, 2), free)
    assert found == pytest.approx(shift, abs=0.05)


def test_plain_paper_tells_no_shift() -> None:
    flat = np.full((*SIZE, 3), 0.5, np.float32)
    assert shift_of(flat, flat, np.ones(SIZE, bool)) is None


def test_what_is_continued_is_as_smooth_as_scikit_images_filling() -> None:
    """A slope of light with a hole in it: both fill it with the slope, ours where it is dense with what is there."""
    y, x = np.mgrid[: SIZE[0], : SIZE[1]]
    light = np.asarray(0.2 * np.sin(x / 90) - 0.15 * (y / SIZE[0]) ** 2, np.float32)
    hole = disc_at(80, 100, 20) > 0
    ours = spread(np.where(hole, np.float32(9), light), (~hole).astype(np.float32))
    theirs = inpaint_biharmonic(light, hole)
    off, span = np.abs(ours - light)[hole], float(np.ptp(light))
    assert off.mean() < 0.06 * span
    assert np.abs(ours - theirs)[hole].mean() < 0.06 * span
    assert np.abs(ours - light)[disc_at(80, 100, 30) == 0].mean() < 0.02 * span


def test_a_constant_is_continued_as_it_is() -> None:
    weight = np.zeros(SIZE, np.float32)
    weight[:20] = 1
    np.testing.assert_allclose(spread(np.full((*SIZE, 3), 0.3, np.float32), weight), 0.3, atol=1e-5)


@pytest.mark.parametrize("colour", [(0.1, 0.3, 0.5), (0.8, 0.2, 0.2)])
def test_the_outline_lies_where_scikit_images_watershed_puts_it(colour: tuple[float, float, float]) -> None:
    empty, coverage = paper(6), disc_at(80, 100, 45, soft=1.0)[..., None]
    frame = noisy(empty * (1 - coverage) + np.array(colour, np.float32) * coverage, 0.01, 3)
    evidence = gather(align(frame, empty))
    outside, inside = disc_at(80, 100, 60) == 0, disc_at(80, 100, 30) > 0
    ours = watershed(evidence, outside, inside)
    markers = np.where(outside, 1, np.where(inside, 2, 0))
    theirs = sk_watershed(sobel(evidence.relief.astype(float).mean(axis=2)), markers) == 2
    assert np.count_nonzero(ours ^ theirs) < 2 * np.pi * 45  # less than a pixel along it
    assert np.count_nonzero(ours) == pytest.approx(np.pi * 45**2, rel=0.03)


@pytest.mark.parametrize("part", [0.1, 0.3])
def test_a_guessed_backdrop_is_the_surface_that_the_product_hides(part: float) -> None:
    """As least squares through what is bare find it, which are told where the product is."""
    y, x = np.mgrid[-1 : 1 : SIZE[0] * 1j, -1 : 1 : SIZE[1] * 1j]
    light = np.asarray(0.5 * np.exp(-0.3 * x**2 - 0.2 * y + 0.1 * x * y), np.float32)
    empty = np.repeat(light[..., None], 3, axis=2)
    radius = float(np.sqrt(part * light.size / np.pi))
    frame = noisy(empty * (1 - 0.7 * disc_at(80, 100, radius)[..., None]), 0.01, 1)
    guess = estimated_backdrop(frame)
    assert is_plain(frame, guess)
    terms = np.stack([(x**i * y**j).ravel() for i in range(5) for j in range(5 - i)], axis=1)
    bare = (disc_at(80, 100, radius + 2) == 0).ravel()
    fitted = np.linalg.lstsq(terms[bare], np.log(frame[..., 1].ravel()[bare] + FLOOR), rcond=None)[0]
    reference = np.exp(terms @ fitted).reshape(SIZE) - FLOOR
    inside = disc_at(80, 100, radius) > 0
    assert np.abs(guess[..., 1] / light - 1)[inside].max() < 0.05
    assert np.abs(guess[..., 1] / reference - 1)[inside].mean() < 0.01


def test_a_rim_that_is_no_surface_is_no_plain_backdrop() -> None:
    cloth = np.repeat(np.kron(np.indices((20, 25)).sum(axis=0) % 2, np.ones((8, 8)))[..., None] * 0.5 + 0.2, 3, axis=2)
    frame = cloth.astype(np.float32)
    assert not is_plain(frame, estimated_backdrop(frame))


class Edge:
    """A straight soft edge between a product and its backdrop, each of one colour, as an outline knows it."""

    def __init__(self, soft: float = 1.5, noise: float = 0.0) -> None:
        self.size = (48, 64)
        distance = np.asarray(31.5 - np.arange(64, dtype=np.float32)[None] + np.zeros((48, 1), np.float32))
        t = np.clip(distance / (2 * soft) + 0.5, 0, 1)
        self.alpha = np.asarray(t, np.float32)
        self.pure = np.tile(np.array([0.6, 0.15, 0.1], np.float32), (*self.size, 1))
        self.behind = np.tile(np.array([0.4, 0.45, 0.5], np.float32), (*self.size, 1))
        mixed = self.alpha[..., None] * self.pure + (1 - self.alpha[..., None]) * self.behind
        self.shot = noisy(mixed, noise, 1)
        self.signed, self.band = np.ascontiguousarray(distance), np.full(self.size, 2.5, np.float32)
        self.place = np.array([1.0, 0.0, 1.0, 0.0])

    def solved(self, noise: float = 0.0) -> tuple[np.ndarray, np.ndarray]:
        alpha, colour = np.empty(self.size, np.float32), np.empty((*self.size, 3), np.float32)
        solve_tile(self.shot, self.lit(), self.signed, self.band, self.pure, self.place, noise, 0.5, alpha, colour)
        return alpha, colour

    def lit(self) -> LitBackdrop:
        """Without shadow or bounced light."""
        lit = np.ones(self.size, np.float32)
        return LitBackdrop(self.behind, self.place, lit, NONE_BOUNCED, self.place, (1.0, 1.0, 1.0))


def test_opacity_of_a_soft_edge_is_the_projection() -> None:
    edge = Edge()
    alpha, _ = edge.solved()
    assert np.abs(alpha - edge.alpha).max() < 0.06
    assert (alpha[:, :28] == 1).all()
    assert (alpha[:, 36:] == 0).all()


@pytest.mark.parametrize("noise", [0.005, 0.01, 0.02])
def test_opacity_is_as_uncertain_as_noise_makes_it(noise: float) -> None:
    """By the propagation of errors through the projection, and a little for what is taken for noise near all and nothing."""
    edge = Edge(noise=noise)
    alpha, _ = edge.solved(noise)
    light = edge.alpha[..., None] * edge.pure + (1 - edge.alpha[..., None]) * edge.behind
    across = edge.pure - edge.behind
    expected = np.sqrt(((noise * light * across) ** 2).sum(axis=2)) / (across**2).sum(axis=2)
    between = (edge.alpha > 0) & (edge.alpha < 1)
    assert np.sqrt(np.mean((alpha - edge.alpha)[between] ** 2)) < expected.max() + 0.025


@pytest.mark.parametrize("grain", [0.1, 0.3])
def test_before_rough_paper_opacity_is_nearer_to_the_truth_than_closed_form_mattings(grain: float) -> None:
    """Which does not know the backdrop, but a trimap (Levin, Lischinski and Weiss 2008); on even colours it is the better one."""
    edge = Edge(noise=0.01)
    edge.behind *= paper(1, edge.size, grain) / np.float32(0.5)
    share = edge.alpha[..., None]
    edge.shot = noisy(share * edge.pure + (1 - share) * edge.behind, 0.01, 2)
    alpha, _ = edge.solved(0.01)
    trimap = np.where(edge.signed > 3, 1.0, np.where(edge.signed < -3, 0.0, 0.5))
    theirs = estimate_alpha_cf(edge.shot.astype(float), trimap)
    ours_off, theirs_off = (float(np.mean((a - edge.alpha) ** 2)) for a in (alpha, theirs))
    assert ours_off < theirs_off


def test_colour_on_the_edge_is_the_products_own() -> None:
    """No backdrop in it; multi-level foreground estimation (Germer et al. 2020) is further off with the same opacity."""
    edge = Edge(noise=0.01)
    colour = np.empty((*edge.size, 3), np.float32)
    unmix(edge.shot, edge.lit(), edge.pure, edge.place, edge.alpha, colour)
    on_edge = (edge.alpha > 0.05) & (edge.alpha < 0.95)
    theirs = estimate_foreground_ml(edge.shot.astype(float), edge.alpha.astype(float))
    ours_off, theirs_off = (float(np.abs(c - edge.pure)[on_edge].mean()) for c in (colour, theirs))
    assert ours_off < 0.02
    assert ours_off <= theirs_off
    assert (colour[edge.alpha == 0] == 0).all()
    np.testing.assert_array_equal(colour[edge.alpha == 1], edge.shot[edge.alpha == 1])


def test_everything_is_exact_on_paper_that_is_one_colour() -> None:
    """The ratio of a frame to itself is 1, its tint, step and thin detail nothing."""
    flat = np.full((*SIZE, 3), 0.4, np.float32)
    evidence = gather(align(flat, flat))
    for plane in (evidence.tone, evidence.tint, evidence.step):
        assert np.abs(plane).max() < 1e-5
    assert evidence.thin.max() < 1e-3
    assert cv2.minMaxLoc(evidence.relief.max(axis=2))[1] == cv2.minMaxLoc(evidence.relief.min(axis=2))[1]
