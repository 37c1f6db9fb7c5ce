"""Small tools on masks and values, against NumPy's own."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from true_backdrop.core.cut.masks import median, percentiles


@given(
    arrays(np.float32, st.integers(1, 60), elements=st.floats(-4, 4, width=32)),
    st.lists(st.floats(0, 100), min_size=1, max_size=4),
)
def test_percentiles_are_numpys(values: np.ndarray, percents: list[float]) -> None:
    np.testing.assert_allclose(percentiles(values, *percents), np.percentile(values, percents), atol=1e-5)


@pytest.mark.parametrize("size", [2999, 3001])
def test_percentiles_of_many_values_are_the_same(size: int) -> None:
    values = np.random.default_rng(size).standard_normal(size).astype(np.float32)
    np.testing.assert_allclose(percentiles(values, 5, 50, 95), np.percentile(values, (5, 50, 95)), atol=1e-6)


def test_median_is_the_upper_one() -> None:
    assert median(np.array([3.0, 1.0, 2.0, 4.0])) == 3
