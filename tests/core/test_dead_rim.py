"""Dead lines at a picture's rim are no product; product that goes on to the rim is."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from tests.core.test_area import _disc, cut, photographed
from tests.scenes import Scene
from true_backdrop.core import pipeline
from true_backdrop.core.colour import encode_pixels
from true_backdrop.core.cut.verdict import Verdict
from true_backdrop.core.dead_rim import without_dead_rim
from true_backdrop.core.picture import Picture
from true_backdrop.core.treatment import CutSettings

ORANGE = np.array([0.62, 0.22, 0.04])


def _ball(x: float = 360) -> Scene:
    return photographed(_disc(x, 220, 110), np.broadcast_to(ORANGE, (480, 720, 3)))


@pytest.mark.parametrize("level", [0.0, 0.5])
@pytest.mark.parametrize("which", ["frame", "backdrop"])
def test_a_dark_line_at_the_rim_of_either_picture_is_no_product(level: float, which: str) -> None:
    made = _ball()
    pixels = (made.frame if which == "frame" else made.backdrop).copy()
    pixels[:, :2] = pixels[:, :2] * level
    pixels[-1] = pixels[-1] * level
    changed = replace(made, **{which: pixels})
    verdict, alpha = cut(changed)
    assert alpha[:, :4].max() == alpha[-4:].max() == 0
    assert verdict is Verdict.CLEAN
    assert alpha[made.alpha > 0.99].mean() > 0.995


def test_product_that_is_cut_off_by_the_rim_is_said_to_touch_it() -> None:
    verdict, alpha = cut(_ball(60))
    assert alpha[180:260, 0].min() > 0.9
    assert verdict is Verdict.REDO


def test_what_has_no_dead_lines_stays_as_it_is() -> None:
    light = np.random.default_rng(1).uniform(0.5, 0.52, (60, 80, 3)).astype(np.float32)
    product = light.copy()
    product[20:, :30] = 0.1  # goes on to the left and to the lower rim
    frame, backdrop = without_dead_rim(product, light)
    assert frame is product and backdrop is light


def test_dead_lines_take_the_light_of_the_line_farther_in() -> None:
    light = np.full((60, 80, 3), 0.5, np.float32)
    light += np.arange(60, dtype=np.float32)[:, None, None] * 0.001
    dead = light.copy()
    dead[:2], dead[:, -3:] = 0.0, 0.9
    frame, _ = without_dead_rim(dead, light)
    assert np.array_equal(frame, np.clip(light, light[2, 0, 0], None))


def test_of_a_small_product_that_is_looked_at_closely_near_the_rim_it_is_no_product_either() -> None:
    height, width = 1200, 1800
    y, x = np.mgrid[:height, :width]
    paper = np.full((height, width, 3), 0.6) * (1 - 0.1 * (x / width - 0.5) ** 2)[..., None]
    ball = np.clip(70.5 - np.hypot(x - 110, y - 500), 0, 1)[..., None]
    rng = np.random.default_rng(1)
    frame, empty = (
        encode_pixels(np.clip(light * (1 + rng.normal(0, 0.004, light.shape)), 0, 1).astype(np.float32))
        for light in (ball * ORANGE + (1 - ball) * paper, paper)
    )
    frame[:, :3] = 0
    pictures = Picture(frame, "PNG"), Picture(empty, "PNG")
    assert pipeline.prepare(*pictures).close is not None
    decision, found = pipeline.cut_frame(*pictures, CutSettings())
    assert found.alpha[:, :6].max() == 0
    assert decision.judgement.verdict is Verdict.CLEAN
    assert found.alpha[ball[..., 0] == 1].mean() > 0.995
