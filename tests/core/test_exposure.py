"""Exposure and depth of field, against each other and against well-known values."""

from __future__ import annotations

import itertools
import math

import pytest

from true_backdrop.core.exposure import (
    CIRCLE_OF_CONFUSION_MM,
    blur_mm,
    depth_of_field,
    exposure_value,
    focus_steps,
    hyperfocal_mm,
    light_gathered_ev,
)


@pytest.mark.parametrize(
    ("f_number", "seconds", "ev"),
    # The table of APEX exposure values for full stops (ANSI PH2.12-1961; from memory).
    [(1.0, 1.0, 0), (1.4, 1.0, 1), (8.0, 1 / 125, 13), (16.0, 1 / 125, 15), (5.6, 1 / 60, 11), (22.0, 1 / 500, 18)],
)
def test_exposure_values_of_full_stops(f_number: float, seconds: float, ev: int) -> None:
    assert exposure_value(f_number, seconds) == pytest.approx(ev, abs=0.15)  # marked numbers are rounded


def test_a_stop_is_a_stop_on_every_ring() -> None:
    base = light_gathered_ev(8, 1 / 100, 100)
    assert light_gathered_ev(8, 1 / 50, 100) == pytest.approx(base + 1)
    assert light_gathered_ev(8, 1 / 100, 200) == pytest.approx(base + 1)
    assert light_gathered_ev(8 / math.sqrt(2), 1 / 100, 100) == pytest.approx(base + 1)


def test_hyperfocal_distance_worked_by_hand() -> None:
    """50 mm, f/8, 0.03 mm: 2500 / 0.24 + 50 = 10,466.7 mm."""
    assert hyperfocal_mm(50, 8, 0.03) == pytest.approx(10466.67, abs=0.01)
    sharp = depth_of_field(50, 8, 10466.67, 0.03)
    assert sharp.near == pytest.approx(10466.67 / 2, rel=1e-4)
    assert sharp.far > 1e6


@pytest.mark.parametrize(("focal", "f_number", "distance"), [(50, 8, 1000), (107, 11, 1100), (100, 2.8, 450)])
def test_at_the_limits_the_blur_is_the_circle_of_confusion(focal: float, f_number: float, distance: float) -> None:
    """Two ways to the same end: the limits by formula, and the blur of the thin lens at these distances."""
    sharp = depth_of_field(focal, f_number, distance)
    for limit in (sharp.near, sharp.far):
        assert blur_mm(focal, f_number, distance, limit) == pytest.approx(CIRCLE_OF_CONFUSION_MM, rel=1e-6)
    assert blur_mm(focal, f_number, distance, distance) == 0


@pytest.mark.parametrize("overlap", [0.0, 0.3, 0.6])
def test_focus_steps_leave_no_gap(overlap: float) -> None:
    near, far = 900.0, 1300.0
    steps = focus_steps(107, 8, near, far, overlap=overlap)
    ranges = [depth_of_field(107, 8, step) for step in steps]
    assert ranges[0].near == pytest.approx(near, rel=1e-6)
    assert ranges[-1].far >= far > ranges[-2].far
    for before, after in itertools.pairwise(ranges):
        assert after.near == pytest.approx(before.far - overlap * before.depth, rel=1e-6)
    assert steps == sorted(steps)


def test_one_step_is_enough_where_all_is_sharp() -> None:
    assert len(focus_steps(35, 16, 2000, 3000)) == 1


def test_what_cannot_be_is_refused() -> None:
    with pytest.raises(ValueError, match="cannot be focused"):
        depth_of_field(100, 8, 90)
    with pytest.raises(ValueError, match="must be nearer"):
        focus_steps(100, 8, 1200, 1100)
