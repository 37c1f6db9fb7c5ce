"""Compositing and matting measures against their papers."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.ndimage import gaussian_filter1d

from true_backdrop.core.finish.compose import over
from true_backdrop.core.measures import matte_error


def test_over_is_porter_and_duff() -> None:
    """Porter and Duff (1984), section 4: with an opaque ground, premultiplied cA + cB (1 - alphaA), alpha stays 1."""
    rng = np.random.default_rng(2)
    colour, alpha, ground = rng.random((5, 6, 3)), rng.random((5, 6)), rng.random((5, 6, 3))
    premultiplied = colour * alpha[..., None]
    expected = premultiplied + ground * (1 - alpha[..., None])
    got = over(colour.astype(np.float32), alpha.astype(np.float32), ground.astype(np.float32))
    assert np.allclose(got, expected, atol=1e-6)


def test_over_keeps_both_ends_exact() -> None:
    colour = np.full((2, 2, 3), 0.3, np.float32)
    assert np.array_equal(over(colour, np.ones((2, 2), np.float32), np.ones((2, 2), np.float32)), colour)
    assert (over(colour, np.zeros((2, 2), np.float32), np.ones((2, 2), np.float32)) == 1.0).all()


def test_measures_on_a_worked_example() -> None:
    """Four pixels off by 0.5, 0.25, 0 and 1 in a 10 x 10 matte: the sums can be added up on paper."""
    truth = np.zeros((10, 10), np.float32)
    matte = truth.copy()
    matte[2, 2], matte[4, 4], matte[6, 6] = 0.5, 0.25, 1.0
    error = matte_error(matte, truth)
    assert error.sad == pytest.approx(1.75 / 1000)
    assert error.mse == pytest.approx((0.25 + 0.0625 + 1.0) / 100)


def test_gradient_error_against_scipys_derivative_filters() -> None:
    """Rhemann et al. (2009), section 4: squared difference of gradient lengths, first-order Gaussian derivatives."""
    rng = np.random.default_rng(4)
    matte, truth = np.zeros((80, 80), np.float32), np.zeros((80, 80), np.float32)
    for plane in (matte, truth):  # away from the rim, so that its treatment does not matter
        plane[20:60, 20:60] = rng.random((40, 40))
        plane[:] = gaussian_filter1d(gaussian_filter1d(plane, 2, 0), 2, 1)

    def length(a: np.ndarray) -> np.ndarray:
        across = gaussian_filter1d(gaussian_filter1d(a.astype(float), 1.4, 1, order=1), 1.4, 0)
        down = gaussian_filter1d(gaussian_filter1d(a.astype(float), 1.4, 0, order=1), 1.4, 1)
        return np.hypot(across, down)

    t = np.arange(-20, 21)
    bell = np.exp(-(t**2) / (2 * 1.4**2))
    bell /= bell.sum()
    slope = -t * bell / 1.4**2
    norm = np.sqrt((np.outer(bell, slope) ** 2).sum())  # the published filters have unit energy
    expected = (((length(matte) - length(truth)) / norm) ** 2).sum() / 1000
    assert matte_error(matte, truth).gradient == pytest.approx(expected, rel=0.03)
    assert matte_error(truth, truth).gradient == 0


def test_measures_refuse_different_sizes() -> None:
    with pytest.raises(ValueError, match="truth is"):
        matte_error(np.zeros((2, 2), np.float32), np.zeros((3, 3), np.float32))
