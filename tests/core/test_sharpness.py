"""Whether the backdrop is sharper in one of two pictures: strengths that were put in, whatever the noise."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.ndimage import gaussian_filter

from true_backdrop.core.cut.align import align
from true_backdrop.core.sharpness import sharpness_against

SIZE = (240, 320)
NOTHING = np.zeros(SIZE, bool)


def pair(strength: float, noise: float, soften: float = 0.0) -> float | None:
    """What is said of a take in which the paper's detail is so many times as strong as in the backdrop frame, or softened."""
    rng = np.random.default_rng(1)
    detail = gaussian_filter(rng.standard_normal(SIZE), 0.8)
    detail *= 0.02 / detail.std()
    of_take = gaussian_filter(detail, soften) if soften else strength * detail
    frames = (0.5 * np.exp(d[..., None] + noise * rng.standard_normal((*SIZE, 3))) for d in (of_take, detail))
    take, empty = (np.asarray(frame, np.float32) for frame in frames)
    return sharpness_against(align(take, empty), NOTHING)


@pytest.mark.parametrize("noise", [0.0, 0.01])
@pytest.mark.parametrize("strength", [0.7, 1.0, 1.3])
def test_the_strength_of_detail_is_told_free_of_noise(strength: float, noise: float) -> None:
    found = pair(strength, noise)
    assert found is not None
    assert found == pytest.approx(np.log(strength), abs=0.08)


def test_a_take_out_of_focus_is_softer() -> None:
    found = pair(1, 0.003, soften=1.0)
    assert found is not None
    assert found < -0.3


def test_paper_without_detail_tells_nothing() -> None:
    rng = np.random.default_rng(2)
    take, empty = (np.asarray(0.5 * (1 + 0.01 * rng.standard_normal((*SIZE, 3))), np.float32) for _ in range(2))
    assert sharpness_against(align(take, empty), NOTHING) is None


def test_where_product_is_nothing_is_asked() -> None:
    rng = np.random.default_rng(3)
    empty = np.asarray(0.5 * np.exp(0.02 * rng.standard_normal((*SIZE, 1)) * np.ones(3)), np.float32)
    assert sharpness_against(align(empty, empty), ~NOTHING) is None
