"""Streaks of shadow end less sharply than the product, all around, and are small beside it."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from tests.core.test_area import SIZE, X, Y, photographed
from tests.core.test_soft_shadows import HANGING, PIECE, RED, SLAB, SOFTLY, _taken
from true_backdrop.core import pipeline
from true_backdrop.core.cut.closing import Closing
from true_backdrop.core.cut.streaks import less_sharp, streaks
from true_backdrop.core.picture import Picture

EDGES = np.linspace(0.8, 1.2, 101, dtype=np.float32)


@pytest.mark.parametrize(
    ("along", "shadows"),
    [
        ((0.6, 0.7, 0.8, 0.9), True),
        ((0.88, 0.88, 0.9, 0.9), False),
        ((0.5, 0.6, 0.7, 0.95), True),
        ((0.6, 0.7, 0.8, 1.0, 1.05), False),
    ],
    ids=["soft all around", "nearly as sharp", "a sharp corner", "sharp on one side"],
)
def test_a_shadow_is_soft_along_most_of_its_outline(along: tuple[float, ...], shadows: bool) -> None:
    assert less_sharp(np.repeat(np.array(along, np.float32), 25), EDGES) is shadows


def test_a_grey_handle_that_ends_softly_along_one_side_is_no_shadow() -> None:
    """As where it is round and lit from one side; the same without the sharp side is a streak."""
    lower = Y >= 285
    handle = np.where(HANGING & ~lower, 0.35, 0.35 * np.minimum(SOFTLY, 1) * lower)
    red = np.broadcast_to(RED, (*SIZE, 3))
    assert not _taken(SLAB, red, SLAB | HANGING, 1 - handle).any()
    assert _taken(SLAB, red, SLAB | HANGING, 1 - 0.35 * SOFTLY).any()


@pytest.mark.parametrize(("part", "found"), [(1.0, True), (0.1, False)], ids=["of a slab", "of a corner of it"])
def test_what_is_large_beside_the_product_is_no_streak(part: float, found: bool) -> None:
    """A wing of a banknote with soft lines on it was taken for one."""
    shadow = 1 - 0.4 * cv2.GaussianBlur(PIECE.astype(float), (0, 0), 3)
    made = photographed(SLAB.astype(float), np.broadcast_to(RED, (*SIZE, 3)), shadow=shadow)
    evidence = pipeline.prepare(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG")).evidence
    product = SLAB & (230 + part * 260 > X)
    assert streaks(evidence, Closing(evidence), PIECE, product)[PIECE].mean() == found
