"""Noise of single pixels against that of the proxy: measured where it is known, and no opacity is made of it."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from true_backdrop.core import pipeline
from true_backdrop.core.colour import decode_pixels, encode_pixels
from true_backdrop.core.cut.pixel_noise import at_scale, pixel_noise
from true_backdrop.core.picture import Picture
from true_backdrop.core.treatment import CutSettings, FramingBox

SIZE = (1200, 1800)
LIGHT = 0.2


def shot(light: np.ndarray, noise: float, seed: int) -> Picture:
    """A frame of some light (H, W, 3) whose pixels have each their own noise, relative to the light of a bare backdrop."""
    rng = np.random.default_rng(seed)
    noisy = light + noise * LIGHT * rng.standard_normal(light.shape)
    return Picture(encode_pixels(np.clip(noisy, 0, 1).astype(np.float32)), "PNG")


def empty() -> np.ndarray:
    return np.full((*SIZE, 3), LIGHT)


def disc(colour: tuple[float, float, float]) -> tuple[np.ndarray, np.ndarray]:
    """The light of a disc before the empty set (H, W, 3), and how much of each pixel it covers (H, W)."""
    big = np.zeros((SIZE[0] * 2, SIZE[1] * 2), np.uint8)
    cv2.circle(big, (1800, 1200), 700, 255, -1, cv2.LINE_AA)
    alpha = cv2.resize(big, SIZE[::-1], interpolation=cv2.INTER_AREA) / 255
    return alpha[..., None] * np.array(colour) + (1 - alpha[..., None]) * LIGHT, alpha


def immerkaer(plane: np.ndarray) -> float:
    """Standard deviation of white noise in a plane (H, W), after Immerkaer, Fast noise variance estimation (1996)."""
    mask = np.array([[1, -2, 1], [-2, 4, -2], [1, -2, 1]], np.float64)
    found = cv2.filter2D(plane.astype(np.float64), -1, mask)[1:-1, 1:-1]
    return float(np.sqrt(np.pi / 2) / 6 * np.abs(found).mean())


@pytest.mark.parametrize("noise", [0.01, 0.03, 0.08])
def test_it_is_measured_as_it_was_made(noise: float) -> None:
    light, _ = disc((0.4, 0.05, 0.02))
    frame, backdrop = shot(light, noise, 1), shot(empty(), noise, 2)
    found = pipeline.prepare(frame, backdrop).aligned
    assert found.pixel_noise == pytest.approx(np.sqrt(2) * noise, rel=0.12)
    # Against a published estimator, on a corner of the frame that is bare.
    corner = decode_pixels(np.ascontiguousarray(frame.pixels[:300, :300]))[..., 1]
    assert found.pixel_noise == pytest.approx(np.sqrt(2) * immerkaer(corner) / LIGHT, rel=0.12)
    # A proxy pixel is a mean over 3 of them, and has less.
    assert found.noise < 0.75 * found.pixel_noise


def test_it_is_measured_inside_the_framing_box_alone() -> None:
    """Beside the set there is gravel."""
    light = empty()
    gravel = np.random.default_rng(3).uniform(0.02, 0.6, (SIZE[0], 500, 1))
    light[:, :500] = gravel
    cv2.circle(light, (1150, 600), 250, (0.4, 0.05, 0.02), -1)
    frame, backdrop = shot(light, 0.02, 1), shot(empty(), 0.02, 2)
    inside = pipeline.prepare(frame, backdrop, box=FramingBox(left=0.3, top=0.02, right=0.98, bottom=0.98)).aligned
    assert inside.pixel_noise == pytest.approx(np.sqrt(2) * 0.02, rel=0.15)


def test_between_two_sizes_it_follows_both() -> None:
    # White noise: the mean of 5 x 5 pixels has a fifth of it.
    assert at_scale(0.01, 0.05, 5, 1) == pytest.approx(0.01)
    assert at_scale(0.01, 0.05, 5, 2) == pytest.approx(0.02)
    assert at_scale(0.01, 0.05, 5, 5) == pytest.approx(0.05)
    # Smaller than the proxy and larger than the frame, where it is not known, and where there is no more of it.
    assert at_scale(0.01, 0.05, 5, 0.5) == 0.01
    assert at_scale(0.01, 0.05, 5, 9) == pytest.approx(0.05)
    assert at_scale(0.01, 0.0, 5, 3) == 0.01
    assert at_scale(0.01, 0.05, 1, 1) == 0.01


def test_noise_takes_nothing_from_the_inside_of_an_outline() -> None:
    """Half as dark again as the paper: a pixel's noise is a good part of that."""
    light, alpha = disc((0.13, 0.12, 0.11))
    _, found = pipeline.cut_frame(shot(light, 0.06, 1), shot(empty(), 0.06, 2), CutSettings())
    inside = (alpha == 1) & (cv2.distanceTransform((alpha == 1).astype(np.uint8), cv2.DIST_L2, 5) < 8)
    assert (found.alpha[inside] < 0.9).mean() < 0.005


@pytest.mark.parametrize("noise", [0.04, 0.07, 0.1])
def test_noise_around_a_product_makes_no_opacity(noise: float) -> None:
    """Single pixels of a dark set are many times as noisy as its proxy."""
    light, alpha = disc((0.45, 0.12, 0.03))
    _, found = pipeline.cut_frame(shot(light, noise, 1), shot(empty(), noise, 2), CutSettings())
    near, around = (cv2.dilate((alpha > 0).astype(np.uint8), np.ones((size, size), np.uint8)) > 0 for size in (5, 15))
    assert (found.alpha[around & ~near] > 0.02).mean() < 0.004
    deep = cv2.erode((alpha == 1).astype(np.uint8), np.ones((9, 9), np.uint8)) > 0
    assert found.alpha[deep].min() > 0.9


def test_a_picture_without_noise_has_none() -> None:
    light, _ = disc((0.4, 0.05, 0.02))
    prepared = pipeline.prepare(shot(light, 0, 1), shot(empty(), 0, 2))
    assert pixel_noise(shot(light, 0, 1), prepared.aligned) == prepared.aligned.noise == 0.002
