"""The outline runs where half of a pixel is covered, however soft the lens and whatever the contrast.

A symmetric lens leaves the half level of a straight edge where the edge is (common practice; the slanted-edge method of ISO 12233
rests on the same), and that of a disc of some fifty pixels within a hundredth of a pixel.
"""

from __future__ import annotations

import cv2
import numpy as np
import pytest
from skimage.measure import find_contours

from true_backdrop.core import pipeline
from true_backdrop.core.colour import encode_pixels
from true_backdrop.core.cut.halfway import MOST_PX, OUTSIDE_PX, at_halfway
from true_backdrop.core.cut.strands import FIRM_BAND
from true_backdrop.core.picture import Picture
from true_backdrop.core.treatment import CutSettings

SIZE, RADIUS = 160, 50.0
Y, X = np.mgrid[:SIZE, :SIZE]
#: Distance to the edge of the disc, positive inside.
EDGE = RADIUS - np.hypot(Y - 80.3, X - 79.6)
GAIN = (1.0, 1.0, 1.0)
LIT = np.ones((SIZE, SIZE), np.float32)

BRIGHT_ON_DARK = (0.5, 0.45, 0.4), (0.05, 0.05, 0.05)
DARK_ON_WHITE = (0.03, 0.03, 0.03), (0.8, 0.8, 0.8)
RED_ON_GREY = (0.45, 0.05, 0.05), (0.3, 0.3, 0.3)
PALE_ON_WHITE = (0.7, 0.68, 0.62), (0.8, 0.8, 0.8)


def cover(lens: float) -> np.ndarray:
    """How much of each pixel the disc covers (H, W), through a lens of some sigma."""
    sharp = cv2.resize((cv2.resize(EDGE, None, fx=4, fy=4) > 0).astype(np.float32), (SIZE, SIZE), interpolation=cv2.INTER_AREA)
    return cv2.GaussianBlur(sharp, (0, 0), lens)


def shown(colours: tuple, lens: float, noise: float = 0.005, shade: np.ndarray | float = 1.0) -> tuple[np.ndarray, np.ndarray]:
    """Frame and backdrop (H, W, 3) in linear light."""
    product, ground = (np.array(colour, np.float32) for colour in colours)
    a = cover(lens)[..., None]
    light = a * product + (1 - a) * ground * np.broadcast_to(shade, (SIZE, SIZE))[..., None]
    rng = np.random.default_rng(1)
    frame = light + noise * ground * rng.standard_normal(light.shape)
    return frame.astype(np.float32), np.broadcast_to(ground, light.shape).astype(np.float32)


def band() -> np.ndarray:
    return np.full((SIZE, SIZE), FIRM_BAND, np.float32)


def off_truth(signed: np.ndarray) -> np.ndarray:
    """How far inside of where it should run, just outside of the edge of the disc, an outline runs (pixels, all along it)."""
    lines = [line for line in find_contours(signed, 0.0) if len(line) > 100]
    return OUTSIDE_PX + np.concatenate([RADIUS - np.hypot(line[:, 0] - 80.3, line[:, 1] - 79.6) for line in lines])


@pytest.mark.parametrize("colours", [BRIGHT_ON_DARK, DARK_ON_WHITE, RED_ON_GREY, PALE_ON_WHITE])
@pytest.mark.parametrize("lens", [0.6, 1.0, 1.6])
@pytest.mark.parametrize("wrong", [-1.0, 0.0, 1.0])
def test_a_mask_that_ends_elsewhere_in_the_soft_edge_is_moved(colours: tuple, lens: float, wrong: float) -> None:
    """By a lens's sigma here; a mask cannot be so far off beside a sharp edge."""
    signed = (EDGE + wrong * lens).astype(np.float32)
    moved, _ = at_halfway(*shown(colours, lens), (LIT, GAIN), signed, band(), None, 0.005)
    assert np.abs(off_truth(moved)).mean() < 0.4
    assert np.abs(moved - signed).max() <= MOST_PX + OUTSIDE_PX


def test_the_band_is_as_wide_as_the_lens_made_the_edge() -> None:
    sharp, soft = (
        at_halfway(*shown(BRIGHT_ON_DARK, lens), (LIT, GAIN), EDGE.astype(np.float32), band(), None, 0.005)[1]
        for lens in (0.5, 1.4)
    )
    near = np.abs(EDGE) < 1
    assert np.median(sharp[near]) == pytest.approx(FIRM_BAND, abs=0.02)
    # A Gaussian's steepest slope is 1 / (sigma sqrt(2 pi)); the proxy's pixel and Sobel's mask soften it further.
    assert 1.3 < np.median(soft[near]) / FIRM_BAND < 1.5


def test_what_somebody_said_and_what_is_no_firm_edge_stay() -> None:
    signed = (EDGE + 1).astype(np.float32)
    wide = band()
    wide[:, :60] = 9.0
    wide[:, 60:80] = 0.8
    held = np.zeros((SIZE, SIZE), bool)
    held[:40] = True
    moved, _ = at_halfway(*shown(BRIGHT_ON_DARK, 1.2), (LIT, GAIN), signed, wide, held, 0.005)
    assert np.array_equal(moved[:, :80], signed[:, :80])
    assert np.array_equal(moved[held], signed[held])
    free = (np.abs(EDGE) < 1) & (X > 90) & (Y > 60)
    assert np.median((signed - moved)[free]) == pytest.approx(1 - OUTSIDE_PX, abs=0.3)


def test_a_stripe_says_nothing_of_the_pale_one_beside_it() -> None:
    """Colour is read straight inwards."""
    stripes = np.where(np.sin(24 * np.arctan2(Y - 80.3, X - 79.6)) > 0, 1.0, 0.12)[..., None]
    a = cover(0.7)[..., None]
    frame = (a * stripes * 0.65 + (1 - a) * 0.8).repeat(3, axis=2).astype(np.float32)
    ground = np.full_like(frame, 0.8)
    moved, _ = at_halfway(frame, ground, (LIT, GAIN), EDGE.astype(np.float32), band(), None, 0.005)
    assert np.abs(off_truth(moved)).max() < 0.5


def test_a_pale_rim_of_a_dark_body_is_no_soft_edge() -> None:
    """It covers a quarter of the way to the body's colour, for four pixels; the edges beside it say how sharp the lens is."""
    body = np.where((EDGE < 4) & (X < 80), 0.61, 0.03)[..., None]
    a = cover(0.5)[..., None]
    frame = cv2.GaussianBlur((a * body + (1 - a) * 0.8).repeat(3, axis=2).astype(np.float32), (0, 0), 0.5)
    moved, _ = at_halfway(
        frame, np.full_like(frame, 0.8), (LIT, GAIN), (EDGE + OUTSIDE_PX).astype(np.float32), band(), None, 0.005
    )
    assert np.abs(off_truth(moved)).max() < 1.5  # of 2.5 that an edge as wide as the rim would be moved


@pytest.mark.parametrize("colours", [((0.5, 0.25, 0.45), (0.25, 0.32, 0.15)), BRIGHT_ON_DARK])
def test_bare_backdrop_that_a_mask_holds_is_left_out_beside_a_sharp_edge_too(colours: tuple) -> None:
    """Purple before green is told from so little cover that the mask ends more than two pixels outside of the edge."""
    signed = (EDGE + 2.4).astype(np.float32)
    moved, _ = at_halfway(*shown(colours, 0.5), (LIT, GAIN), signed, band(), None, 0.005)
    assert np.abs(off_truth(moved)).mean() < 0.7


@pytest.mark.parametrize("lighter", [-0.05, 0.05])
def test_a_rim_a_little_lighter_or_darker_than_the_backdrop_is_not_bare(lighter: float) -> None:
    """Each of its pixels is within noise of it, all of them together are not."""
    frame, ground = shown(DARK_ON_WHITE, 0.5, noise=0.02)
    rim = (EDGE < 0) & (EDGE > -3)
    frame[rim] *= 1 + lighter
    signed = (EDGE + 3).astype(np.float32)
    moved, _ = at_halfway(frame, ground, (LIT, GAIN), signed, band(), None, 0.02)
    assert np.abs(off_truth(moved) + 3).mean() < 1.2


def test_a_soft_shadow_outside_is_no_product() -> None:
    """Even where a part of it is not known: the outline cannot be farther off than the lens draws an edge."""
    shade = (1 - 0.5 * np.exp(-np.maximum(-EDGE, 0) / 6)).astype(np.float32)
    known = np.asarray(1 - (1 - shade) * 0.7, np.float32)
    moved, _ = at_halfway(*shown(DARK_ON_WHITE, 0.7, shade=shade), (known, GAIN), EDGE.astype(np.float32), band(), None, 0.005)
    assert off_truth(moved).min() > -0.6


def test_nothing_is_moved_where_nothing_can_be_told() -> None:
    signed, same = EDGE.astype(np.float32), ((0.8, 0.8, 0.8), (0.8, 0.8, 0.8))
    for frame, ground in (shown(same, 1.0), shown(PALE_ON_WHITE, 1.0, noise=0.4)):
        moved, wide = at_halfway(frame, ground, (LIT, GAIN), signed, band(), None, 0.4)
        assert np.array_equal(moved, signed)
        assert np.array_equal(wide, band())


@pytest.mark.parametrize("colours", [BRIGHT_ON_DARK, RED_ON_GREY, DARK_ON_WHITE])
def test_a_cut_of_a_soft_edge_is_as_soft(colours: tuple) -> None:
    """All of the cut, where frame and proxy are of one size. Bright on dark the mask alone ends three pixels outside."""
    frame, ground = shown(colours, 1.5, noise=0.01)
    pixels = (encode_pixels(np.clip(np.pad(light, ((80, 80), (80, 80), (0, 0)), mode="edge"), 0, 1)) for light in (frame, ground))
    _, found = pipeline.cut_frame(*(Picture(each, "PNG") for each in pixels), CutSettings())
    truth = np.pad(cover(1.5), 80)
    assert 1e4 * np.mean((found.alpha - truth) ** 2) < 10
    assert float((found.alpha - truth)[np.abs(truth - 0.5) < 0.45].mean()) == pytest.approx(0, abs=0.2)
