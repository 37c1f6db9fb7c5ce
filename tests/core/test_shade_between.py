"""The light that is left between strands: read off what has none of their colour, and not off what is dark for another reason."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from true_backdrop.core.cut.shade_between import shade_between

SIZE = (160, 240)
Y, X = np.mgrid[0 : SIZE[0], 0 : SIZE[1]].astype(np.float32)
BEHIND, GAIN, NOISE = np.full((*SIZE, 3), 0.7, np.float32), (1.0, 0.97, 1.03), 0.01
GREEN, GREY = np.array([0.15, 0.32, 0.09]), np.array([0.2, 0.2, 0.2])
#: Strands lie in the middle of the picture; the mask of the product runs around them all.
AMONG = (np.abs(Y - 80) < 40) & (np.abs(X - 120) < 80)
#: What is left of the light: a shadow that is deepest at the foot of the strands, of which nothing is seen outside.
LEFT = (1 - 0.45 * np.exp(-(((Y - 105) / 22) ** 2) - ((X - 120) / 60) ** 2)).astype(np.float32)


def _strands() -> np.ndarray:
    """One in three columns and in five rows, through a lens: cover (H, W)."""
    cover = (AMONG & ((X % 6 < 2) | (Y % 10 < 2))).astype(np.float32)
    return np.asarray(cv2.GaussianBlur(cover, (0, 0), 0.7), np.float32)


def _read(
    colour: np.ndarray,
    cover: np.ndarray | None = None,
    left: np.ndarray = LEFT,
    around: float = 0.97,
    band: float = 32.0,
    noise: float = NOISE,
) -> np.ndarray | None:
    """What is read off strands of a colour in such a light, where it is held to be as it is seen `around`."""
    cover = _strands() if cover is None else cover
    light = cover[..., None] * colour + (1 - cover[..., None]) * left[..., None] * BEHIND * np.array(GAIN)
    rng = np.random.default_rng(2)
    frame = (light * (1 + rng.normal(0, noise, light.shape))).astype(np.float32)
    signed = (np.minimum(40 - np.abs(Y - 80), 80 - np.abs(X - 120)) - 20).astype(np.float32)
    own = np.broadcast_to(colour, frame.shape).astype(np.float32)
    seen = np.full(SIZE, around, np.float32)
    return shade_between(frame, BEHIND, (seen, GAIN), signed, np.full(SIZE, band, np.float32), own, ~AMONG, noise)


@pytest.mark.parametrize("noise", [0.002, 0.01, 0.03])
def test_it_is_read_off_the_backdrop_between_coloured_strands(noise: float) -> None:
    found = _read(GREEN, noise=noise)
    assert found is not None
    inner = cv2.erode(AMONG.astype(np.uint8), np.ones((11, 11))) > 0
    assert LEFT[inner].min() < 0.6
    assert np.abs(np.log(found / LEFT))[inner].mean() < 0.05
    assert np.abs(np.log(found / LEFT))[inner].max() < 0.2


def test_where_strands_touch_the_table_it_is_far_darker_than_just_beside() -> None:
    touching = (1 - 0.3 * np.exp(-(((Y - 88) / 5) ** 2))).astype(np.float32)
    found = _read(GREEN, _strands() * (np.abs(Y - 88) > 8), touching)
    assert found is not None
    below = (Y == 88) & (np.abs(X - 120) < 60)
    assert found[below].mean() < 0.8


def test_grey_strands_could_be_shadow_themselves_and_nothing_is_read_off() -> None:
    assert _read(GREY) is None


def test_an_edge_that_is_firm_has_nothing_between() -> None:
    assert _read(GREEN, band=1.6) is None


def test_outside_where_the_shadow_is_seen_it_stays_as_it_was() -> None:
    found = _read(GREEN)
    assert found is not None
    seen = cv2.dilate(AMONG.astype(np.uint8), np.ones((13, 13))) == 0
    assert (found[seen] == np.float32(0.97)).all()


def test_what_is_read_off_in_one_place_says_nothing_of_one_beside_what_is_seen() -> None:
    """Only in the middle there is anything between strands."""
    middle = (np.abs(Y - 80) < 12) & (np.abs(X - 120) < 30)
    found = _read(
        GREEN, np.where(middle | ~AMONG, _strands(), np.float32(1)), np.where(middle, np.float32(0.6), np.float32(0.97))
    )
    assert found is not None
    assert found[(np.abs(Y - 80) < 8) & (np.abs(X - 120) < 25)].mean() < 0.65
    assert found[AMONG & (Y < 45)].mean() > 0.85


def test_black_strands_that_cover_pixels_in_part_are_no_shadow() -> None:
    """They have no colour either; but light between them is nearby."""
    cover = _strands()
    black = AMONG & (X % 6 == 4)
    cover = np.where(black, np.float32(0.3), cover)
    found = _read(np.where(black[..., None], 0.01, GREEN), cover, np.ones(SIZE, np.float32), around=1.0)
    inner = cv2.erode(AMONG.astype(np.uint8), np.ones((11, 11))) > 0
    assert found is not None
    assert found[inner].mean() > 0.95


def test_what_is_black_is_no_shadow() -> None:
    """A black bead among green strands: deeper than a shadow between strands is."""
    bead = np.hypot(X - 120, Y - 80) < 9
    cover = np.where(bead, np.float32(1), _strands())
    colour = np.where(bead[..., None], 0.02, GREEN)
    found = _read(colour, cover, np.ones(SIZE, np.float32), around=1.0)
    assert found is not None
    assert found[bead].min() > 0.85
