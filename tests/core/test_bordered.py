"""Places chosen by the line along which they end: shadow ends softly, a handle out of focus less so."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from true_backdrop.core.cut.bordered import bounded, gone_into, part_of
from true_backdrop.core.cut.closing import Closing
from true_backdrop.core.cut.evidence import Evidence

SIZE = (120, 200)
Y, X = np.mgrid[0 : SIZE[0], 0 : SIZE[1]].astype(np.float32)
BAR = (np.abs(Y - 60) < 8).astype(np.float32)


def slopes(sigma: float) -> tuple[np.ndarray, np.ndarray]:
    """Of a bar 15 pixels wide and half a log unit darker than what is around, drawn so softly (pixels)."""
    tone = np.asarray(-0.5 * cv2.GaussianBlur(BAR, (0, 0), sigma), np.float32)
    flat = np.zeros(SIZE, np.float32)
    return Closing(Evidence(tone, flat, flat, flat, np.zeros((*SIZE, 3), np.uint8), flat, 0.0, 0.002, 900)).slopes


def gone(sigma: float, bare: np.ndarray | None = None) -> bool:
    place = BAR > 0
    return bool(gone_into(place, ~place if bare is None else bare, *slopes(sigma)).any())


@pytest.mark.parametrize("sigma", [0.8, 1.5, 2.0])
def test_backdrop_does_not_go_on_into_a_bar_that_a_lens_drew(sigma: float) -> None:
    assert not gone(sigma)


@pytest.mark.parametrize("sigma", [6.0, 9.0])
def test_it_goes_on_into_a_shadow(sigma: float) -> None:
    assert gone(sigma)


def test_a_line_of_a_few_pixels_says_nothing() -> None:
    assert not gone(6.0, bare=(Y < 51) & (X > 100) & (X < 104))


@pytest.mark.parametrize(
    ("seen", "least", "most", "found"), [(1.0, 0.4, 1, True), (0.2, 0.4, 1, False), (0.2, 0, 0.5, True), (1.0, 0, 0.5, False)]
)
def test_a_place_is_chosen_by_how_much_of_its_line_is_seen(seen: float, least: float, most: float, found: bool) -> None:
    place = (np.abs(Y - 60) < 20) & (np.abs(X - 100) < 30)
    edges = place & (seen * 60 > X - 70)
    assert bounded(place, ~place, edges, 11, least=least, most=most).any() == found


def test_what_is_too_narrow_or_too_small_is_none() -> None:
    thin = np.abs(Y - 60) < 3
    assert not bounded(thin, ~thin, thin, 11).any()
    small = (np.abs(Y - 60) < 8) & (np.abs(X - 60) < 8)
    assert bounded(small, ~small, small, 11).any()
    assert not bounded(small, ~small, small, 11, large=400).any()


def test_part_of_counts_for_each_label() -> None:
    labels = np.array([[0, 1, 1], [2, 2, 2]])
    of, there = np.ones((2, 3), bool), np.array([[False, True, False], [True, True, True]])
    np.testing.assert_allclose(part_of(labels, of, there, 3), [0, 0.5, 1])
