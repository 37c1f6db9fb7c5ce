"""The product's own colour, that mixed pixels are unmixed with: of the right part of the product, and wherever it is asked for."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from true_backdrop.core.cut.own_colour import own_colour
from true_backdrop.core.cut.strands import FIRM_BAND, STRANDS_BAND

SIZE = (120, 160)
Y, X = np.mgrid[0 : SIZE[0], 0 : SIZE[1]].astype(float)
LIT, GAIN = np.ones(SIZE, np.float32), (1.0, 1.0, 1.0)
WHITE = np.full((*SIZE, 3), 0.8, np.float32)
#: Margin around the band that colour is asked for in.
AROUND = 2


def seen(product: np.ndarray, cover: np.ndarray, lens: float = 0.6, behind: np.ndarray = WHITE) -> np.ndarray:
    """(H, W, 3) linear light of a product of such colours and cover before a backdrop, through a lens of that sigma."""
    a = cover[..., None]
    return cv2.GaussianBlur((a * product + (1 - a) * behind).astype(np.float32), (0, 0), lens)


def colour_of(frame: np.ndarray, signed: np.ndarray, behind: np.ndarray = WHITE, band: float = FIRM_BAND) -> np.ndarray:
    return own_colour(frame, behind, (LIT, GAIN), signed.astype(np.float32), np.full(SIZE, band, np.float32))


def asked(signed: np.ndarray, band: float = FIRM_BAND) -> np.ndarray:
    return np.abs(signed) <= band + AROUND


@pytest.mark.parametrize(("tone", "behind"), [(0.05, 0.8), (0.5, 0.8), (0.6, 0.05), (0.2, 0.3)])
@pytest.mark.parametrize("lens", [0.5, 1.0])
def test_it_is_that_of_an_even_product(tone: float, behind: float, lens: float) -> None:
    """The outline is half a pixel outside of half cover, as it is where this is asked."""
    edge = 40.0 - np.hypot(X - 80, Y - 60)
    backdrop = np.full((*SIZE, 3), behind, np.float32)
    frame = seen(np.full((*SIZE, 3), tone), np.clip(edge + 0.5, 0, 1), lens, backdrop)
    found = colour_of(frame, edge + 0.5, backdrop)
    assert np.abs(found[asked(edge + 0.5)] - tone).max() < 0.12 * abs(tone - behind)
    assert not found[~asked(edge + 0.5)].any()


def test_a_stripe_colours_only_what_lies_straight_outside_of_it() -> None:
    """A dark stripe is most unlike white paper, a pale one meets the outline beside it."""
    stripes = np.where((X // 12) % 2 == 0, 0.03, 0.55)[..., None].repeat(3, axis=2)
    edge = Y - 59.5
    found = colour_of(seen(stripes, np.clip(edge + 0.5, 0, 1)), edge + 0.5)
    beside = asked(edge + 0.5) & (np.minimum(X % 12, 11 - X % 12) >= 2)  # two pixels from the next stripe
    # Straight inwards, whatever lies outwards; 0.06 is what the lens and three pixels of smoothing leave of the other stripe.
    assert np.abs(found - stripes)[beside].max() < 0.06


def test_a_pale_rim_keeps_its_colour_whatever_body_lies_behind_it() -> None:
    """A rim four pixels wide: its pixels are not taken for a mixture of the dark body and the paper."""
    edge = X - 79.5
    body = np.where(edge < 4, 0.6, 0.05)[..., None].repeat(3, axis=2)
    found = colour_of(seen(body, np.clip(edge + 0.5, 0, 1)), edge + 0.5)
    assert np.abs(found[(edge > -2) & (edge < 1)] - 0.6).max() < 0.05


def test_it_is_known_to_the_frames_very_edge() -> None:
    """A product that is cut off by the frame."""
    edge = np.minimum(30.0 - np.abs(X - 80), 90 - Y)
    found = colour_of(seen(np.full((*SIZE, 3), 0.1), np.clip(edge + 0.5, 0, 1)), edge + 0.5)
    assert found[0][asked(edge + 0.5)[0]] == pytest.approx(0.1, abs=0.05)


@pytest.mark.parametrize("width", [1, 2])
def test_a_thread_has_a_colour_although_nothing_of_it_is_inside_for_sure(width: int) -> None:
    edge = width / 2 - np.abs(X - 79.5 - width / 2)
    frame = seen(np.full((*SIZE, 3), 0.05), np.clip(edge + 0.5, 0, 1), 0.4)
    found = colour_of(frame, edge + 0.5)
    assert (found[np.abs(edge) < FIRM_BAND] > 0).all()
    assert found[np.abs(edge) < 1].mean() < 0.45  # of paper at 0.8; more of the thread than of that


def test_among_strands_it_is_that_of_what_lies_around() -> None:
    edge = np.broadcast_to(60.0 - Y, SIZE)
    strands = (edge > 0) | ((edge > -5) & (X % 4 < 2))
    found = colour_of(seen(np.full((*SIZE, 3), 0.1), strands.astype(float), 0.4), edge, band=STRANDS_BAND)
    near = np.abs(edge) < STRANDS_BAND
    assert found[near] == pytest.approx(0.1, abs=0.1)
