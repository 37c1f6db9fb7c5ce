"""What a cut must not be called clean for: a shadow at the foot, and product that is nearly as the paper."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from tests.core.test_area import SIZE, X, Y, _disc, photographed
from tests.scenes import Scene
from true_backdrop.core import pipeline
from true_backdrop.core.cut.verdict import Judgement, Verdict
from true_backdrop.core.picture import Picture
from true_backdrop.core.treatment import CutSettings

PURPLE, STEEL = np.array([0.10, 0.05, 0.28]), 0.71 * np.exp(-0.5) * np.array([1.0, 0.99, 0.97])
OVAL = (((X - 360) / 170) ** 2 + ((Y - 342) / 30) ** 2 < 1).astype(float)


def judged(made: Scene) -> tuple[Judgement, np.ndarray]:
    frame, backdrop = Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG")
    decision, found = pipeline.cut_frame(frame, backdrop, CutSettings())
    return decision.judgement, found.alpha


def asks(judgement: Judgement, words: str) -> bool:
    return judgement.verdict is Verdict.LOOK_AGAIN and any(words in reason for reason in judgement.reasons)


SHADOW = "as neutral as a shadow and without an edge in it"


@pytest.mark.parametrize("sigma", [1.0, 1.5, 2.0])
@pytest.mark.parametrize("depth", [0.25, 0.5, 0.8])
def test_the_hard_shadow_of_a_coloured_ball_is_left_out_or_asked_about(sigma: float, depth: float) -> None:
    """A bare lamp draws it as sharply as a lens draws a plate."""
    shadow = np.exp(-depth * cv2.GaussianBlur(OVAL, (0, 0), sigma))
    made = photographed(_disc(360, 220, 120), np.broadcast_to(PURPLE, (*SIZE, 3)), shadow=shadow, noise=0.003)
    judgement, alpha = judged(made)
    left = np.count_nonzero((alpha > 0.02) & (made.alpha < 0.01)) / np.count_nonzero(made.alpha > 0.99)
    assert left < 0.01 or asks(judgement, SHADOW)


def test_where_the_grain_is_missing_a_grey_foot_is_no_shadow() -> None:
    ball = _disc(360, 220, 120)
    both = np.where(ball[..., None] > 0.5, PURPLE, STEEL)
    judgement, alpha = judged(photographed(np.maximum(ball, OVAL), both, grain=0.02, noise=0.002))
    assert alpha[OVAL > 0.99].mean() > 0.99
    assert not asks(judgement, SHADOW)
    assert asks(judged(photographed(np.maximum(ball, OVAL), both, noise=0.002))[0], SHADOW)


def test_a_grey_product_is_not_asked_about_for_being_grey() -> None:
    judgement, _ = judged(photographed(_disc(360, 240, 120), np.broadcast_to(STEEL, (*SIZE, 3)), noise=0.004))
    assert not asks(judgement, SHADOW)
