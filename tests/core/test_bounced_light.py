"""Light that a coloured product throws on the set: read off the bare backdrop, and no part of the product.

The scene is made by the model of image formation itself: I = a F + (1 - a) s B, with s of each channel known.
"""

from __future__ import annotations

import cv2
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from true_backdrop.core import pipeline
from true_backdrop.core.cut.align import align
from true_backdrop.core.cut.bounced_light import NONE_BOUNCED, bounced_light, hue_of, lit_by
from true_backdrop.core.picture import Picture, Region
from true_backdrop.core.treatment import CutSettings

SIZE = 480, 720
WHOLE = Region(0, 0, *SIZE)
RED = np.array([0.45, 0.06, 0.04], np.float32)


def covered(size: tuple[int, int], lens: float) -> np.ndarray:
    """A disc, drawn by a lens that is so soft (sigma in pixels), (h, w)."""
    disc = cv2.circle(np.zeros(size, np.uint8), (size[1] // 2, size[0] // 2), size[0] // 4, 1, -1, cv2.LINE_AA)
    return cv2.GaussianBlur(disc.astype(np.float32), (0, 0), lens)


def light_around(alpha: np.ndarray, colour: np.ndarray, strength: float = 0.5) -> np.ndarray:
    """Light that reaches the set beside a product (h, w, 3): less of it near by, and of its colour's channel more is left."""
    depth = strength * np.clip(cv2.GaussianBlur(alpha, (0, 0), 0.06 * alpha.shape[0]) * 1.6, 0, 1)
    return 1 - depth[..., None] * (1 - 0.35 * colour / colour.max())


def photographed(
    colour: np.ndarray, noise: float = 0.004, size: tuple[int, int] = SIZE, lens: float = 0.7
) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
    """Frame and empty set in linear light (h, w, 3), the true alpha (h, w) and the light that reaches the set."""
    rng = np.random.default_rng(5)
    alpha = covered(size, lens)
    light = light_around(alpha, colour)
    bare = np.full((*size, 3), 0.62, np.float32)
    frame = alpha[..., None] * colour + (1 - alpha[..., None]) * light * bare
    noisy = [plane * (1 + noise * rng.standard_normal(plane.shape)) for plane in (frame, bare)]
    return noisy[0].astype(np.float32), noisy[1].astype(np.float32), alpha, light


def test_it_is_the_light_of_each_channel_over_that_of_all() -> None:
    frame, bare, alpha, light = photographed(RED)
    found = bounced_light(align(frame, bare).hue, alpha < 0.002, WHOLE)
    own = cv2.resize(np.log(light).astype(np.float32), found.shape[1::-1], interpolation=cv2.INTER_AREA)
    own -= own.mean(axis=2, keepdims=True)
    bare_parts = cv2.resize((alpha < 0.002).astype(np.float32), found.shape[1::-1], interpolation=cv2.INTER_AREA)
    beside = bare_parts > 0.99
    assert np.abs(own[beside]).max() > 0.05
    assert np.abs(np.log(found) - own)[beside].max() < 0.02


def test_under_the_product_it_goes_on() -> None:
    frame, bare, alpha, _ = photographed(RED)
    found = np.log(bounced_light(align(frame, bare).hue, alpha < 0.002, WHOLE))
    under = cv2.resize(alpha, found.shape[1::-1], interpolation=cv2.INTER_AREA) > 0.99
    assert (found[under][:, 0] > 0.02).all()
    assert np.abs(found).max() < 0.3


def test_where_no_colour_is_thrown_there_is_none() -> None:
    flat = np.full((*SIZE, 3), 0.5, np.float32)
    assert bounced_light(align(flat, flat).hue, np.ones(SIZE, bool), WHOLE) is NONE_BOUNCED
    assert bounced_light(hue_of(np.zeros((*SIZE, 3), np.float32)), np.zeros(SIZE, bool), WHOLE) is NONE_BOUNCED


def test_a_grey_shadow_throws_no_colour() -> None:
    frame, bare, alpha, _ = photographed(np.full(3, 0.12, np.float32), noise=0.001)
    assert np.abs(np.log(bounced_light(align(frame, bare).hue, alpha < 0.002, WHOLE))).max() < 0.01


@given(st.integers(9, 61), st.integers(9, 61), st.data())
@settings(max_examples=40, deadline=None)
def test_a_part_is_lit_as_the_whole_is(height: int, width: int, data: st.DataObject) -> None:
    """But for the last few pixels, where a part cannot look farther."""
    rng = np.random.default_rng(height * width)
    backdrop = rng.uniform(0.2, 0.8, (height, width, 3)).astype(np.float32)
    bounced = rng.uniform(0.9, 1.1, (height // 2 // 2, width // 2 // 2, 3)).astype(np.float32)
    top, left = data.draw(st.integers(0, height - 5)), data.draw(st.integers(0, width - 5))
    part = Region(top, left, data.draw(st.integers(top + 1, height)), data.draw(st.integers(left + 1, width)))
    whole, found = lit_by(backdrop, bounced, Region(0, 0, height, width)), lit_by(backdrop, bounced, part)
    assert found.shape == (part.height, part.width, 3)
    ratio = found / backdrop[part.slices]
    assert (ratio > 0.89).all()
    assert (ratio < 1.11).all()
    inner = slice(6, max(6, part.height - 6)), slice(6, max(6, part.width - 6))
    np.testing.assert_allclose(found[inner], whole[part.slices][inner], rtol=1e-5)


def encoded(light: np.ndarray) -> np.ndarray:
    value = np.where(light <= 0.0031308, 12.92 * light, 1.055 * np.power(np.maximum(light, 1e-6), 1 / 2.4) - 0.055)
    return np.clip(value * 255 + 0.5, 0, 255).astype(np.uint8)


@pytest.mark.parametrize("colour", [RED, np.array([0.05, 0.3, 0.08], np.float32)])
def test_hardly_a_rim_of_the_products_colour_is_left_around_it(colour: np.ndarray, monkeypatch: pytest.MonkeyPatch) -> None:
    """Three to five pixels outside of its edge nothing is covered, however much of its colour lies on the paper there."""
    frame, bare, alpha, _ = photographed(colour, size=(1200, 1800), lens=1.2)
    away = cv2.distanceTransform((alpha < 0.5).astype(np.uint8), cv2.DIST_L2, 5)
    around = (away > 3) & (away < 5) & (alpha < 0.005)

    def left_over() -> tuple[float, float]:
        """Mean opacity around the product, and how much of that is dirty."""
        _, cut = pipeline.cut_frame(Picture(encoded(frame), "PNG"), Picture(encoded(bare), "PNG"), CutSettings())
        assert np.abs(cut.alpha - alpha).mean() < 0.001
        return float(cut.alpha[around].mean()), float((cut.alpha[around] > 0.02).mean())

    with_it = left_over()
    monkeypatch.setattr("true_backdrop.core.cut.outline.bounced_light", lambda hue, bare, part: NONE_BOUNCED)
    without = left_over()
    assert without[0] > 0.03
    assert with_it[0] < 0.4 * without[0]
    assert with_it[1] < 0.5 * without[1]
