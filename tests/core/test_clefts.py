"""Narrow gaps between teeth are open, however strongly the lens colours them; stripes along or inside of a body stay."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from tests.core.test_area import SIZE, X, Y
from true_backdrop.core.arrays import Mask
from true_backdrop.core.cut.clefts import clefts
from true_backdrop.core.cut.evidence import Evidence

#: The body, and from where to where its teeth reach.
LEFT, RIGHT, TOP, BOTTOM, TIPS = 260, 485, 140, 260, 320
BODY = (X >= LEFT) & (X < RIGHT) & (Y >= TOP) & (Y < TIPS)
NOISE = 0.01


def _between_teeth(gap: int, from_y: int = BOTTOM) -> Mask:
    """Where gaps of some pixels are between teeth, or stripes of a body."""
    return np.asarray(BODY & (from_y <= Y) & ((X - LEFT) % 30 + gap >= 30))


def _found(
    product: Mask, *, stripes: Mask | None = None, tone: float = 0.0, tint: float = 2.0, expected: float = 0.0, thin: float = 0.0
) -> Mask:
    """What is found in a product as light as the backdrop and of some tint, with stripes of a tone that have none.

    The lens draws it as wide as in the proxy of a sharp frame, so that a gap of six pixels has a tint in its middle too.
    """
    rng = np.random.default_rng(1)
    stripes = np.zeros_like(product) if stripes is None else stripes
    tints = cv2.GaussianBlur((product & ~stripes).astype(np.float32) * np.float32(tint), (0, 0), 1.4)
    spread = 0.02 * cv2.GaussianBlur(product.astype(np.float32) * np.float32(tint), (0, 0), 4)
    tones = cv2.GaussianBlur(np.where(stripes, np.float32(tone), np.float32(0)), (0, 0), 1.0)
    tones += np.where(product, 0, np.float32(expected)) + rng.normal(0, NOISE, SIZE).astype(np.float32)
    flat = np.zeros(SIZE, np.float32)
    evidence = Evidence(
        tones, tints + spread, flat, flat + np.float32(thin), np.zeros((*SIZE, 3), np.uint8), flat, 0.0, NOISE, 720
    )
    backdrop = cv2.erode((~BODY).astype(np.uint8), np.ones((5, 5))) > 0
    return clefts(evidence, ~backdrop, backdrop, np.full(SIZE, expected, np.float32))


@pytest.mark.parametrize("gap", [6, 8, 10])
@pytest.mark.parametrize("expected", [0.0, -0.3])
def test_gaps_between_teeth_that_the_lens_lends_their_colour_are_found(gap: int, expected: float) -> None:
    gaps = _between_teeth(gap)
    found = _found(BODY & ~gaps, expected=expected)
    middle = cv2.erode(gaps.astype(np.uint8), np.ones((1, 5))) > 0
    assert found[middle & (Y < TIPS - 6) & (Y > BOTTOM + 4)].mean() > 0.9
    assert not found[~gaps].any()


def test_what_is_wider_is_for_others_to_tell() -> None:
    gaps = _between_teeth(16)
    assert not _found(BODY & ~gaps).any()


@pytest.mark.parametrize("tone", [0.12, -0.12])
def test_stripes_that_are_lighter_or_darker_than_the_backdrop_stay(tone: float) -> None:
    assert not _found(BODY, stripes=_between_teeth(8), tone=tone).any()


def test_stripes_that_begin_inside_of_the_body_stay() -> None:
    inside = _between_teeth(8, TOP + 20) & (Y < TIPS - 20)
    assert not _found(BODY, stripes=inside).any()


def test_a_stripe_along_the_outline_stays() -> None:
    along = BODY & (Y >= TIPS - 11) & (Y < TIPS - 3)
    assert not _found(BODY, stripes=along).any()


def test_between_teeth_that_are_hardly_unlike_the_backdrop_nothing_is_told() -> None:
    assert not _found(BODY & ~_between_teeth(8), tint=0.25).any()


def test_between_strands_nothing_is_told() -> None:
    assert not _found(BODY & ~_between_teeth(8), thin=0.7).any()
