"""A handle as light as the backdrop on its way from light to dark is one again; what ends by itself, or is not seen, stays open."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from tests.scenes import _encode
from true_backdrop.core import pipeline
from true_backdrop.core.cut.bridged import bridged
from true_backdrop.core.cut.closing import Closing
from true_backdrop.core.cut.limbs import _limb, blunt_ends
from true_backdrop.core.picture import Picture

SIZE = (480, 720)
BARE = 0.4
Y, X = np.mgrid[: SIZE[0], : SIZE[1]]
CUP = (np.abs(X - 250) < 110) & (np.abs(Y - 240) < 170)
FROM_MIDDLE, ANGLE = np.hypot(X - 360, Y - 240), np.degrees(np.arctan2(Y - 240, X - 360))
#: The handle of the cup, 26 pixels wide; and its part where it is as light as the backdrop or hardly off it.
HANDLE = (np.abs(FROM_MIDDLE - 85) < 13) & (X >= 360)
MISSING = HANDLE & (np.abs(ANGLE) < 35)


def _after(light: np.ndarray, product: np.ndarray) -> np.ndarray:
    """What is product of such a frame (H, W; linear) once the limbs of some `product` go on."""
    rng, lens = np.random.default_rng(3), cv2.GaussianBlur(light, (0, 0), 0.8)
    grey = (np.repeat(plane[..., None], 3, axis=2) for plane in (lens, np.full(SIZE, BARE)))
    frame, bare = (_encode(each * (1 + rng.normal(0, 0.004, each.shape))) for each in grey)
    evidence = pipeline.prepare(Picture(frame, "PNG"), Picture(bare, "PNG")).evidence
    return bridged(product, evidence, Closing(evidence).strength)


def _cup(handle: np.ndarray | float) -> np.ndarray:
    return np.where(CUP, 0.8, np.where(HANDLE, handle, BARE))


@pytest.mark.parametrize("slope", [0.5, 0.8])
def test_a_handle_goes_on_where_it_has_the_backdrops_own_light(slope: float) -> None:
    """Lighter than the backdrop above and darker below: in its middle nothing is seen of it, and little beside that."""
    whole = _after(_cup(BARE * np.exp(-slope * ANGLE / 90)), (CUP | HANDLE) & ~MISSING)
    assert whole[cv2.erode(MISSING.astype(np.uint8), np.ones((5, 5))) > 0].mean() > 0.99
    around = cv2.dilate((CUP | HANDLE).astype(np.uint8), np.ones((7, 7))) > 0
    assert not whole[~around].any()


def test_a_straight_arm_goes_on_as_well() -> None:
    arm = (X >= 355) & (X < 660) & (np.abs(Y - 240) < 12)
    gap = arm & (np.abs(X - 500) < 60)
    light = np.where(CUP, 0.8, np.where(arm, BARE * np.exp(-0.0045 * (X - 500)), BARE))
    whole = _after(light, (CUP | arm) & ~gap)
    assert whole[cv2.erode(gap.astype(np.uint8), np.ones((5, 5))) > 0].mean() > 0.99
    assert not whole[~(cv2.dilate((CUP | arm).astype(np.uint8), np.ones((7, 7))) > 0)].any()


def test_what_ends_by_itself_stays_open() -> None:
    """The ends of a dark clasp are seen."""
    open_there = np.where(CUP, 0.8, np.where(HANDLE & ~MISSING, 0.15, BARE))
    product = (CUP | HANDLE) & ~MISSING
    assert np.array_equal(_after(open_there, product), product)


def test_where_no_edge_is_seen_between_two_ends_they_are_two() -> None:
    """Both go over into the backdrop's light, and behind that is nothing."""
    fading = BARE * np.exp(-1.2 * np.clip(np.abs(ANGLE) - 35, 0, 55) / 55)
    product = (CUP | HANDLE) & ~MISSING
    assert np.array_equal(_after(_cup(fading), product), product)


@pytest.mark.parametrize("coloured", [MISSING, HANDLE & ~MISSING], ids=["piece", "limbs"])
def test_a_piece_or_limbs_in_a_colour_of_their_own_are_not_what_was_lost(coloured: np.ndarray) -> None:
    """What parts them from the backdrop is seen; then that the piece was left out was no lack of light."""
    rng, product = np.random.default_rng(3), (CUP | HANDLE) & ~MISSING
    light = np.repeat(_cup(BARE * np.exp(-0.5 * ANGLE / 90))[..., None], 3, axis=2)
    light[coloured] *= np.array([1.3, 1.0, 1 / 1.3])
    frame, bare = (_encode(each * (1 + rng.normal(0, 0.004, each.shape))) for each in (light, np.full(light.shape, BARE)))
    evidence = pipeline.prepare(Picture(frame, "PNG"), Picture(bare, "PNG")).evidence
    assert np.array_equal(bridged(product, evidence, Closing(evidence).strength), product)


def test_a_handle_that_was_cut_off_close_to_the_cup_goes_on_to_it() -> None:
    gap = HANDLE & (ANGLE < -62)
    whole = _after(_cup(BARE * np.exp(0.012 * (np.minimum(ANGLE, -40) + 70))), (CUP | HANDLE) & ~gap)
    assert whole[cv2.erode(gap.astype(np.uint8), np.ones((5, 5))) > 0].mean() > 0.9


def _outline(mask: np.ndarray) -> np.ndarray:
    outlines, _ = cv2.findContours(mask.astype(np.uint8), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    return np.ascontiguousarray(outlines[0][:, 0], np.int64)


def test_the_blunt_ends_of_a_strip_are_two_and_a_disc_has_none() -> None:
    strip = (np.abs(X - 300) < 150) & (np.abs(Y - 200) < 10)
    outline = _outline(strip)
    ends = blunt_ends(outline, 40)
    middles = sorted(float(outline[np.arange(start, start + way + 1) % len(outline)][:, 0].mean()) for start, way in ends)
    assert middles == pytest.approx([151, 449], abs=3)
    assert not blunt_ends(_outline(np.hypot(X - 300, Y - 200) < 90), 40)
    assert not blunt_ends(outline, 10)


def test_a_dot_is_no_limb() -> None:
    """In pixels its outline has a blunt end or two, but what is behind them is too short."""
    strip = _outline((np.abs(X - 300) < 150) & (np.abs(Y - 200) < 10))
    assert [_limb(strip, *end) is not None for end in blunt_ends(strip, 40)] == [True, True]
    dots = [_outline(np.hypot((X - 300) / wide, Y - 200) < high) for high, wide in ((8, 1), (12, 1.2), (14, 1), (22, 1.4))]
    ends = [(dot, *end) for dot in dots for end in blunt_ends(dot, 40)]
    assert ends
    assert all(_limb(*end) is None for end in ends)
