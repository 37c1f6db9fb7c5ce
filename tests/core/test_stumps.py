"""A limb that ends where no edge is seen is asked about; one with an end of its own is not."""

from __future__ import annotations

import cv2
import numpy as np

from tests.core.test_area import X, Y, photographed
from tests.core.test_as_lit import PAPER
from tests.core.test_outline_doubt import asks, judged
from tests.scenes import Scene

WORDS = "ends where no edge is seen"


def _arm(fades: bool) -> Scene:
    """A white body with an arm to its right, which goes over into the paper's own light on its way, or ends before that."""
    body = (np.abs(X - 260) < 100) & (np.abs(Y - 240) < 140)
    arm = (X >= 350) & ((560 if fades else 440) > X) & (np.abs(Y - 240) < 16)
    alpha = cv2.GaussianBlur((body | arm).astype(np.float32), (0, 0), 0.8)
    tone = 0.3 * np.clip(1 - np.clip(X - 360, 0, 999) / 100, 0 if fades else 0.2, 1)
    colour = PAPER * np.exp(tone)[..., None] * np.array([1.0, 0.999, 0.998])
    return photographed(alpha, colour.astype(np.float32), noise=0.004)


def test_an_arm_that_goes_over_into_the_papers_light_is_asked_about() -> None:
    judgement, alpha = judged(_arm(fades=True))
    far = (X > 480) & (X < 550) & (np.abs(Y - 240) < 12)
    assert alpha[far].mean() < 0.1  # nothing is to be seen of it
    assert asks(judgement, WORDS)


def test_an_arm_that_ends_before_is_not() -> None:
    judgement, alpha = judged(_arm(fades=False))
    assert alpha[(X > 360) & (X < 430) & (np.abs(Y - 240) < 12)].mean() > 0.95
    assert not asks(judgement, WORDS)
