"""Openings in the shadow of what is around them; labels that are as dark, and openings darker than any shadow outside."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from tests.core.test_area import SIZE, X, Y, _disc, _sharp, cut
from tests.scenes import Scene, _encode

DARK = np.array([0.012, 0.012, 0.016])
GREY, GREEN, WHITE = np.array([0.2, 0.2, 0.2]), np.array([0.42, 0.75, 0.5]), np.array([0.72, 0.72, 0.71])
CENTRE, OUTER, INNER = (360, 220), 110, 62
HUB = np.hypot(X - CENTRE[0], Y - CENTRE[1])


def _before(paper: np.ndarray, alpha: np.ndarray, product: np.ndarray, shadow: np.ndarray, seed: int) -> Scene:
    """A product, alpha (H, W) and linear colour (3,) or (H, W, 3), before even paper without grain."""
    rng = np.random.default_rng(seed)
    empty = np.broadcast_to(paper, (*SIZE, 3)) * (1 - 0.1 * (X / 720 - 0.5) ** 2)[..., None]
    shot = alpha[..., None] * product + (1 - alpha[..., None]) * empty * shadow[..., None]
    frame, bare = (_encode(_sharp(each) * (1 + rng.normal(0, 0.006, each.shape))) for each in (shot, empty))
    return Scene(frame, bare, _sharp(alpha))


def _wheel(paper: np.ndarray, depth: float, outside: float, seed: int, product: np.ndarray = DARK) -> tuple[Scene, np.ndarray]:
    """A dark wheel whose opening lies in a shadow of some depth (log units), that is seen as deep outside or less, and the
    opening (H, W)."""
    within = depth * np.exp(-(((Y - 250) / 55) ** 2)) * (HUB < INNER + 20)
    beside = outside * np.exp(-(((X - 360) / 120) ** 2) - ((Y - 345) / 16) ** 2) * (HUB >= INNER + 20)
    shadow = np.exp(-cv2.GaussianBlur(within + beside, (0, 0), 5))
    opening = _disc(*CENTRE, INNER)
    return _before(paper, _disc(*CENTRE, OUTER) - opening, product, shadow, seed), opening


@pytest.mark.parametrize("paper", [GREY, GREEN], ids=["grey", "green"])
@pytest.mark.parametrize("depth", [0.3, 0.45])
def test_an_opening_is_found_in_a_shadow_as_deep_as_one_outside(paper: np.ndarray, depth: float) -> None:
    made, opening = _wheel(paper, depth, depth + 0.1, seed=1)
    _, alpha = cut(made)
    assert alpha[opening > 0.99].mean() < 0.02
    assert alpha[made.alpha > 0.99].mean() > 0.995


@pytest.mark.parametrize(("paper", "opened"), [((0.42, 0.75, 0.36), True), ((0.5, 0.75, 0.48), False)], ids=["strong", "weak"])
def test_before_light_paper_of_a_strong_colour_product_need_not_be_as_unlike(paper: tuple[float, ...], opened: bool) -> None:
    """A part of a wheel of three quarters of a log unit that has just such a colour in just such a shadow is rare."""
    made, opening = _wheel(np.array(paper), 0.4, 0.5, seed=1, product=np.array(paper) * np.exp([-0.9, -1.1, -1.2]))
    _, alpha = cut(made)
    assert (alpha[opening > 0.99].mean() < 0.1) == opened
    assert alpha[made.alpha > 0.99].mean() > 0.99


def test_where_no_shadow_outside_is_as_deep_nothing_is_told() -> None:
    made, opening = _wheel(GREY, 0.6, 0.1, seed=1)
    verdict, alpha = cut(made)
    assert alpha[opening > 0.99].mean() > 0.9
    assert verdict.value == "look_again"


def test_a_panel_in_product_that_is_not_wholly_unlike_it_stays() -> None:
    """As dark as the shadow outside and as uneven, in a brown plate that is not half a log unit off."""
    panel = (HUB < INNER)[..., None]
    uneven = np.exp(-0.27 + 0.08 * (Y - CENTRE[1]) / INNER)[..., None]
    plate = np.where(panel, uneven * GREY, np.exp(-0.73) * GREY * np.array([1.15, 0.96, 0.92]))
    shadow = np.exp(-0.6 * cv2.GaussianBlur(np.exp(-(((X - 360) / 120) ** 2) - ((Y - 345) / 16) ** 2), (0, 0), 5))
    made = _before(GREY, _disc(*CENTRE, OUTER), plate, shadow, seed=3)
    _, alpha = cut(made)
    assert alpha[made.alpha > 0.99].mean() > 0.99


@pytest.mark.parametrize("level", [0.5, 0.56])
def test_a_white_ring_on_a_dark_lid_before_white_paper_stays(level: float) -> None:
    """As dark as the lid's shadow is in its middle, and as uneven, as light is thrown on enamel; all around it is unlike it."""
    ring = ((HUB > 40) & (HUB < 70))[..., None]
    uneven = np.exp(0.2 * (Y - CENTRE[1]) / 70)[..., None]
    lid = np.where(ring, level * uneven * np.array([1.0, 1.0, 0.99]), np.array([0.05, 0.07, 0.1]))
    shadow = np.exp(-0.6 * cv2.GaussianBlur(np.exp(-(((X - 360) / 120) ** 2) - ((Y - 345) / 16) ** 2), (0, 0), 5))
    made = _before(WHITE, _disc(*CENTRE, OUTER), lid, shadow, seed=2)
    _, alpha = cut(made)
    assert alpha[made.alpha > 0.99].mean() > 0.99


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_a_label_that_grows_dark_towards_the_sides_stays(seed: int) -> None:
    """On a bottle before grey paper, as dark as the shadow beside it."""
    off = np.abs(X - 360) / 110
    label = ((Y > 180) & (Y < 320))[..., None]
    grey = (0.147 * np.clip(1 - 0.55 * off**3, 0.2, 1))[..., None] * np.ones(3)
    purple = np.array([0.055, 0.02, 0.045]) * np.clip(1 - 0.6 * off**2, 0.2, 1)[..., None]
    shadow = np.exp(-0.6 * np.exp(-(((X - 225) / 22) ** 2) - ((Y - 260) / 90) ** 2))
    body = ((np.abs(X - 360) < 110) & (Y > 70) & (Y < 410)).astype(float)
    made = _before(GREY, body, np.where(label, grey, purple), shadow, seed)
    _, alpha = cut(made)
    assert alpha[made.alpha > 0.99].mean() > 0.99
