"""Registration against scikit-image's on the same pairs, and against known turns and sizes."""

from __future__ import annotations

import cv2
import numpy as np
import pytest
from scipy.ndimage import fourier_shift
from skimage import data
from skimage.registration import phase_cross_correlation
from skimage.transform import rotate, warp_polar

from true_backdrop.core.registration import Similarity, register


@pytest.fixture(scope="module")
def photograph() -> np.ndarray:
    """scikit-image's own test photograph, faded out to the rim, 256 x 256."""
    picture = cv2.resize(data.camera().astype(np.float32) / 255, (256, 256), interpolation=cv2.INTER_AREA)
    y, x = np.mgrid[-1:1:256j, -1:1:256j]
    return np.asarray(picture * np.clip(1.6 - 2 * np.hypot(x, y), 0, 1), np.float32)


def moved(picture: np.ndarray, by: Similarity) -> np.ndarray:
    return np.asarray(cv2.warpAffine(picture, by.matrix, picture.shape[::-1], flags=cv2.INTER_CUBIC), np.float32)


@pytest.mark.parametrize("shift", [(3.0, -2.0), (0.4, 0.7), (-9.3, 6.1)])
def test_shifts_as_scikit_image_finds_them(photograph: np.ndarray, shift: tuple[float, float]) -> None:
    # In the frequency domain a shift is exact, also by parts of a pixel.
    other = np.fft.ifft2(fourier_shift(np.fft.fft2(photograph), shift[::-1])).real.astype(np.float32)
    found, sure = register(photograph, other)
    theirs, _, _ = phase_cross_correlation(other, photograph, upsample_factor=100)
    x, y = found.moved(128, 128)  # the middle, where a trace of turn or size does not show
    assert (x - 128, y - 128) == pytest.approx((theirs[1], theirs[0]), abs=0.03)
    assert (x - 128, y - 128) == pytest.approx(shift, abs=0.03)
    assert sure > 0.99


def test_a_turn_as_scikit_image_finds_it(photograph: np.ndarray) -> None:
    """Its own example: a turn is a shift of the polar picture."""
    other = np.asarray(rotate(photograph, -7.0), np.float32)  # counter-clockwise is positive there
    found, _ = register(photograph, other)
    polar = [warp_polar(p, radius=110) for p in (photograph, other)]
    theirs, _, _ = phase_cross_correlation(polar[1], polar[0], upsample_factor=20, normalization=None)
    assert found.degrees == pytest.approx(theirs[0], abs=0.3)
    assert found.degrees == pytest.approx(7.0, abs=0.05)


@pytest.mark.parametrize(("degrees", "scale"), [(0.0, 1.06), (-5.0, 0.95), (9.0, 1.0)])
def test_turn_and_size_together(photograph: np.ndarray, degrees: float, scale: float) -> None:
    truth = Similarity.about((128, 128), degrees=degrees, scale=scale, shift=(4, -3))
    found, _ = register(photograph, moved(photograph, truth))
    assert found.degrees == pytest.approx(degrees, abs=0.05)
    assert found.scale == pytest.approx(scale, abs=0.001)


def test_other_brightness_and_contrast_do_not_matter(photograph: np.ndarray) -> None:
    truth = Similarity(right=2.5, down=1.5)
    found, sure = register(photograph, 0.6 * moved(photograph, truth) + 0.1)
    x, y = found.moved(128, 128)
    assert (x - 128, y - 128) == pytest.approx((2.5, 1.5), abs=0.03)
    assert sure > 0.99


def test_pictures_of_different_things_do_not_correlate(photograph: np.ndarray) -> None:
    noise = np.random.default_rng(1).random(photograph.shape).astype(np.float32)
    assert register(photograph, noise)[1] < 0.3


def test_a_similarity_at_another_size_moves_the_same_points() -> None:
    truth = Similarity.about((30, 40), degrees=12, scale=1.1, shift=(5, 6))
    x, y = truth.at(4.0).moved(4 * 10 + 1.5, 4 * 20 + 1.5)
    expected = truth.moved(10, 20)
    assert (x, y) == pytest.approx((4 * expected[0] + 1.5, 4 * expected[1] + 1.5))
    turned = truth.turned(10, truth.moved(7, 7))
    assert turned.moved(7, 7) == pytest.approx(truth.moved(7, 7))
    assert turned.degrees == pytest.approx(22)
