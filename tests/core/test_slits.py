"""Slits in a body that show the backdrop, and thin white details that only pass through its light."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from tests.core.test_area import SIZE, _disc, cut, photographed
from tests.core.test_table import DARK, ORANGE, _shape
from tests.scenes import Scene


def _toy(widths: tuple[float, float], *, seed: int) -> tuple[Scene, np.ndarray]:
    """An orange disc with a slit, so many pixels wide at its ends, all in full light."""
    upper, lower = (width / 2 for width in widths)
    slit = _shape((360 - upper, 200), (360 + upper, 200), (360 + lower, 270), (360 - lower, 270))
    made = photographed(_disc(360, 240, 150) * (1 - slit), np.broadcast_to(ORANGE, (*SIZE, 3)), noise=0.02, seed=seed)
    return made, slit


@pytest.mark.parametrize("widths", [(3, 8), (4, 7), (4, 9)])
@pytest.mark.parametrize("seed", [1, 2, 3])
def test_a_slit_shows_the_backdrop(widths: tuple[float, float], seed: int) -> None:
    made, slit = _toy(widths, seed=seed)
    _, alpha = cut(made)
    assert alpha[slit > 0.99].mean() < 0.35
    assert alpha[made.alpha > 0.99].mean() > 0.995


@pytest.mark.parametrize("lighter", [0.08, 0.15, 0.3])
@pytest.mark.parametrize("body", [DARK, np.array([0.02, 0.02, 0.02])])
def test_thin_white_lines_on_a_dark_body_stay(lighter: float, body: np.ndarray) -> None:
    """Their edges have the light of the paper, along straight lines even the same all along."""
    lines = np.zeros(SIZE)
    for x in range(270, 450, 20):
        lines[160:320, x : x + 5] = 1
    white = 0.71 * np.exp(lighter) * np.array([1.0, 0.99, 0.97])
    soft = cv2.GaussianBlur(lines, (0, 0), 0.5)[..., None]
    made = photographed(_disc(360, 240, 150), soft * white + (1 - soft) * body, noise=0.004)
    _, alpha = cut(made)
    assert (alpha[(made.alpha > 0.99)] < 0.9).mean() < 0.002
