"""Compositing and matting measures against their papers."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.ndimage import gaussian_filter1d

from true_backdrop.core.colour import linear_to_srgb, srgb_to_linear
from true_backdrop.core.finish.compose import lay_over
from true_backdrop.core.measures import matte_error


def _laid(colour: np.ndarray, alpha: np.ndarray, ground: np.ndarray) -> np.ndarray:
    out = np.zeros((*alpha.shape, 3), np.uint8)
    lay_over(colour.astype(np.float32), alpha.astype(np.float32), ground.astype(np.float32), out)
    return out


def test_laying_over_is_porter_and_duff() -> None:
    """Porter and Duff (1984), section 4: with an opaque ground, premultiplied cA + cB (1 - alphaA), alpha stays 1."""
    rng = np.random.default_rng(2)
    colour, alpha, ground = rng.random((50, 60, 3)), rng.random((50, 60)), rng.random((50, 60, 3))
    expected = 255 * linear_to_srgb(colour * alpha[..., None] + ground * (1 - alpha[..., None]))
    assert np.abs(_laid(colour, alpha, ground) - expected).max() < 0.6  # half a step of rounding, and the table's own


def test_laying_over_keeps_both_ends_exact() -> None:
    colour, ground = np.full((2, 2, 3), 0.3), np.full((2, 2, 3), 0.7)
    assert (_laid(colour, np.ones((2, 2)), ground) == round(255 * float(linear_to_srgb(np.array(0.3))))).all()
    assert (_laid(colour, np.zeros((2, 2)), ground) == round(255 * float(linear_to_srgb(np.array(0.7))))).all()


def test_a_hair_below_white_is_white_only_where_backdrop_is() -> None:
    nearly, white = np.full((1, 3, 3), _light_of(253)), np.ones((1, 1, 1))
    out = _laid(nearly, np.array([[0.3, 0.7, 1.0]]), white)
    assert out[0, 0].tolist() == [255, 255, 255]
    assert out[0, 2].tolist() == [253, 253, 253]
    shade = np.full((1, 3, 1), _light_of(250))
    assert (_laid(nearly, np.zeros((1, 3)), shade) == 250).all()


def _light_of(code: int) -> float:
    return float(srgb_to_linear(np.array(code / 255)))


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
