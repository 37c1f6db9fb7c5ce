"""Openings in the shadow of what is around them; labels that are as dark, and openings darker than any shadow outside."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from tests.core.test_area import SIZE, X, Y, _disc, cut, photographed
from tests.scenes import Scene

DARK = np.array([0.012, 0.012, 0.016])
CENTRE, OUTER, INNER = (360, 220), 110, 62


def _wheel(depth: float, outside: float, seed: int) -> tuple[Scene, np.ndarray]:
    """A dark wheel whose opening lies in a shadow of some depth (log units), that is seen as deep outside or less, and the
    opening (H, W)."""
    hub = np.hypot(X - CENTRE[0], Y - CENTRE[1])
    within = depth * np.exp(-(((Y - 250) / 55) ** 2)) * (hub < INNER + 20)
    beside = outside * np.exp(-(((X - 360) / 120) ** 2) - ((Y - 345) / 16) ** 2) * (hub >= INNER + 20)
    shadow = np.exp(-cv2.GaussianBlur(within + beside, (0, 0), 5))
    opening = _disc(*CENTRE, INNER)
    made = photographed(_disc(*CENTRE, OUTER) - opening, np.broadcast_to(DARK, (*SIZE, 3)), shadow=shadow, seed=seed)
    return made, opening


@pytest.mark.parametrize("depth", [0.3, 0.45])
@pytest.mark.parametrize("seed", [1, 2])
def test_an_opening_is_found_in_a_shadow_as_deep_as_one_outside(depth: float, seed: int) -> None:
    made, opening = _wheel(depth, depth + 0.1, seed)
    _, alpha = cut(made)
    assert alpha[opening > 0.99].mean() < 0.02
    assert alpha[made.alpha > 0.99].mean() > 0.995


def _bottle(seed: int) -> Scene:
    """A purple bottle with a white label that grows dark towards its sides, as dark as the shadow beside it."""
    body = ((np.abs(X - 360) < 110) & (Y > 70) & (Y < 410)).astype(float)
    off = np.abs(X - 360) / 110
    label = ((Y > 180) & (Y < 320))[..., None]
    white = (0.53 * np.clip(1 - 0.55 * off**3, 0.2, 1))[..., None] * np.array([1.0, 0.99, 0.97])
    purple = np.array([0.2, 0.13, 0.16]) * np.clip(1 - 0.6 * off**2, 0.2, 1)[..., None]
    shadow = np.exp(-0.6 * np.exp(-(((X - 225) / 22) ** 2) - ((Y - 260) / 90) ** 2))
    return photographed(body, np.where(label, white, purple), shadow=shadow, seed=seed)


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_a_label_that_grows_dark_towards_the_sides_stays(seed: int) -> None:
    made = _bottle(seed)
    _, alpha = cut(made)
    assert alpha[made.alpha > 0.99].mean() > 0.99
