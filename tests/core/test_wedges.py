"""Table beside a round foot, and backdrop in full light inside a product that stands in shadow."""

from __future__ import annotations

from dataclasses import replace

import cv2
import numpy as np
import pytest

from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.grain import along_rim
from true_backdrop.core.cut.hole_criteria import HoleCriteria
from true_backdrop.core.cut.holes import holes
from true_backdrop.core.cut.pockets import wedges
from true_backdrop.core.cut.tolerances import Tolerances

Y, X = np.mgrid[:240, :320].astype(np.float32)
#: A ball of radius 80 on a table at row 200: as it is, and as it is cut when what lies beside its foot is taken with it.
BALL = np.hypot(X - 160, Y - 120) < 80
BESIDE = (Y > 176) & (Y < 200) & (np.abs(X - 160) < 64) & ~BALL


def evidence_of(tone: np.ndarray, *, grain: float = 0.0, tint: float = 0.0) -> Evidence:
    """Evidence (H, W) of a tone, with the steps that a lens of one pixel leaves, neutral outside of the ball."""
    rng = np.random.default_rng(7)
    bare = cv2.GaussianBlur(rng.normal(0, 1, tone.shape), (0, 0), 1.5).astype(np.float32) * grain
    soft = np.asarray(cv2.GaussianBlur(tone.astype(np.float32), (0, 0), 1.0), np.float32)
    across, down = (np.asarray(cv2.Sobel(soft, cv2.CV_32F, *axis, ksize=3, scale=1 / 8)) for axis in ((1, 0), (0, 1)))
    flat = np.zeros(soft.shape, np.float32)
    colour = np.where(BALL, np.float32(tint), np.float32(0))
    relief = np.zeros((*soft.shape, 3), np.uint8)
    structure = 0.9 if grain else 0.0
    step = np.hypot(across, down).astype(np.float32)
    return Evidence(soft, colour, step, flat, relief, bare, structure, 0.003, 1000, along_rim(soft, bare))


def limits_of(evidence: Evidence) -> Tolerances:
    return Tolerances.of(50, evidence.noise, evidence.long_side)


@pytest.mark.parametrize("depth", [-0.1, -0.3])
def test_table_between_a_round_foot_and_its_shadow_is_no_product(depth: float) -> None:
    """Its edge towards the product is a step, that towards the open table is soft."""
    table = depth * np.exp(-(((X - 160) / 60) ** 2))
    evidence = evidence_of(np.where(BALL, -0.9, table), tint=0.3)
    found = wedges(evidence, BALL | BESIDE, limits_of(evidence))
    assert found[BESIDE].mean() > 0.5
    assert found[BALL].mean() < 0.01


def test_product_whose_own_edge_is_firm_loses_nothing() -> None:
    """A white foot with a line above it: the step to the table is as firm as the line."""
    foot = (Y > 176) & BALL
    evidence = evidence_of(np.where(foot, -0.5, np.where(BALL, -0.9, 0.0)))
    assert not wedges(evidence, BALL, limits_of(evidence)).any()


def test_high_up_a_faint_part_of_a_product_is_left_alone() -> None:
    """There a pale part before a firm line is the same to look at."""
    beside = (Y > 40) & (Y < 64) & (np.abs(X - 160) < 64) & ~BALL
    evidence = evidence_of(np.where(BALL, -0.9, -0.1 * np.exp(-(((X - 160) / 60) ** 2))), tint=0.3)
    assert not wedges(evidence, BALL | beside, limits_of(evidence)).any()


@pytest.mark.parametrize(("grain", "opens"), [(0.02, True), (0.0, False)])
def test_backdrop_in_full_light_is_a_hole_whatever_shade_is_expected_there(grain: float, opens: bool) -> None:
    """Without grain it might as well be white product in that shade, and at a strict match it is not opened."""
    inside = np.hypot(X - 160, Y - 120) < 40
    evidence = evidence_of(np.where(BALL & ~inside, -0.9, 0.0), grain=grain, tint=0.034)
    limits = Tolerances.of(90, evidence.noise, evidence.long_side)
    shade = np.full(inside.shape, -0.3, np.float32)
    found = holes(HoleCriteria(evidence, limits, 0.01, shade, "solid"), inside, np.zeros_like(inside))
    assert (found[inside].mean() > 0.8) == opens


@pytest.mark.parametrize(("radius", "opens"), [(7, True), (20, False)])
def test_the_slope_of_its_edges_is_no_grain_of_a_small_opening(radius: int, opens: bool) -> None:
    """Where hardly any grain is seen on bare backdrop, the lens alone makes more of it all over a place that has no inside."""
    place = np.hypot(X - 160, Y - 120) < radius
    evidence = evidence_of(np.where(BALL & ~place, -0.9, np.where(place, -0.03, 0.0)))
    evidence = replace(evidence, thin=np.full(place.shape, 0.0085, np.float32))
    limits = Tolerances.of(50, evidence.noise, evidence.long_side)
    criteria = HoleCriteria(evidence, limits, 0.0027, np.full(place.shape, -0.06, np.float32), "auto")
    assert criteria.opens((slice(0, 240), slice(0, 320)), place) is opens
