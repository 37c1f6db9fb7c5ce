"""A white label from side to side of a bottle is no opening: its mean hue is another one than the backdrop has anywhere."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from tests.scenes import Scene, _encode
from true_backdrop.core import pipeline
from true_backdrop.core.cut.hue import BackdropHue
from true_backdrop.core.picture import Picture
from true_backdrop.core.treatment import CutSettings

SIZE = (480, 720)
PAPER, WHITE, GREEN = 0.72 * np.array([1.0, 1.0, 1.01]), 0.71 * np.array([1.0, 1.0, 0.97]), np.array([0.06, 0.3, 0.2])


def _box(left: int, top: int, right: int, bottom: int) -> np.ndarray:
    cover = np.zeros(SIZE)
    cover[top:bottom, left:right] = 1
    return cover


def _bottle(*, label: bool, noise: float = 0.02) -> tuple[Scene, np.ndarray]:
    """Round, so that its sides are in shade, with a label or an opening of that size through which the paper is seen."""
    body, place = _box(270, 90, 450, 420), _box(270, 200, 450, 310) if label else _box(290, 200, 430, 310)
    x = np.arange(SIZE[1])[None, :]
    shade = np.clip(1 - 0.5 * np.abs((x - 360) / 90) ** 3, 0.4, 1)[..., None] * np.ones((*SIZE, 1))
    inside = WHITE * shade if label else PAPER
    colour = np.where(place[..., None] > 0, inside, GREEN * shade)
    light = np.where(body[..., None] > 0, colour, PAPER)
    rng, bare = np.random.default_rng(3), np.broadcast_to(PAPER, light.shape)
    frame, empty = (
        _encode(cv2.GaussianBlur(each, (0, 0), 0.7) * (1 + rng.normal(0, noise, each.shape))) for each in (light, bare)
    )
    return Scene(frame, empty, body if label else body - place), place


@pytest.mark.parametrize("label", [True, False])
def test_a_white_label_stays_and_an_opening_goes(label: bool) -> None:
    made, place = _bottle(label=label)
    _, found = pipeline.cut_frame(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"), CutSettings())
    middle = found.alpha[cv2.erode(place, np.ones((15, 15))) > 0].mean()
    assert (middle > 0.99) if label else (middle < 0.02)


@pytest.mark.parametrize("label", [True, False])
def test_the_mean_of_a_place_tells_its_hue_through_the_noise(label: bool) -> None:
    made, place = _bottle(label=label)
    evidence = pipeline.prepare(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG")).evidence
    assert evidence.shape == SIZE
    everywhere = (slice(None), slice(None))
    hue = BackdropHue(evidence, cv2.dilate(made.alpha + place, np.ones((5, 5))) == 0)
    assert hue.is_another(everywhere, cv2.erode(place, np.ones((15, 15))) > 0) == label
    assert not hue.is_another(everywhere, _box(20, 20, 60, 60) > 0)
    assert not BackdropHue(evidence, np.zeros(SIZE, bool)).is_another(everywhere, place > 0)
