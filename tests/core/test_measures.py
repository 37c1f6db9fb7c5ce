"""The matte measures of Rhemann et al. (2009) on pictures small enough to be worked by hand."""

from __future__ import annotations

import numpy as np
import pytest
from skimage.measure import label

from true_backdrop.core.measures import _connectedness, matte_error


def test_equal_mattes_have_no_error() -> None:
    matte = np.random.default_rng(1).uniform(0, 1, (20, 30)).astype(np.float32)
    found = matte_error(matte, matte.copy())
    assert (found.mse, found.sad, found.gradient, found.connectivity) == (0, 0, 0, 0)


def test_a_spot_apart_is_a_connectivity_error_and_the_same_spot_beside_the_product_is_none() -> None:
    """Section 4 there: what hangs together with the largest region that both have in full is connected."""
    truth = np.zeros((20, 20), np.float32)
    truth[5:12, 5:12] = 1
    apart, beside = truth.copy(), truth.copy()
    apart[16, 16] = 0.4
    beside[12, 8] = 0.1  # a gap below 0.15 does not count
    assert matte_error(apart, truth).connectivity == pytest.approx(0.4 / 1000, rel=1e-5)
    assert matte_error(beside, truth).connectivity == 0
    assert matte_error(apart, truth).sad == pytest.approx(0.4 / 1000, rel=1e-5)


def test_connectedness_against_regions_by_scikit_image() -> None:
    y, x = np.mgrid[0:60, 0:80]
    one, other = (
        sum(h * np.exp(-((y - cy) ** 2 + (x - cx) ** 2) / (2 * s**2)) for cy, cx, s, h in hills).astype(np.float32)
        for hills in (((20, 20, 9, 1.0), (40, 60, 6, 0.8)), ((22, 22, 8, 0.9), (41, 58, 7, 0.95)))
    )
    reached = np.zeros(one.shape)
    for step in range(1, 11):
        regions = label(np.minimum(one, other) >= step / 10 - 1e-6, connectivity=1)
        sizes = np.bincount(regions.ravel())[1:]
        if not sizes.size:
            break
        assert (sizes == sizes.max()).sum() == 1  # or which is the largest would be anybody's choice
        reached[regions == 1 + int(np.argmax(sizes))] = step / 10
    gap = np.maximum(one - reached, 0)
    np.testing.assert_allclose(_connectedness(one, other), 1 - gap * (gap >= 0.15 - 1e-6), atol=1e-5)
