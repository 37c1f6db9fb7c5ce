"""The flanks of glass: hardly lighter than the paper, uneven, and bounded by a faint line beside a strong reflection."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from tests.studio.process import LAYERS
from true_backdrop.core import pipeline
from true_backdrop.core.arrays import Mask
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.flanks import flanks, flanks_by_light
from true_backdrop.core.picture import Picture
from true_backdrop.core.treatment import CutSettings
from true_backdrop.studio.simulated.layers import Shutter, exposed, read_layer, read_plane

SIZE, NOISE = (120, 200), 0.002
Y, X = np.mgrid[0 : SIZE[0], 0 : SIZE[1]]
BODY, FLANK = X > 100, (X > 92) & (X <= 100) & (Y > 20) & (Y < 100)


def evidence(tone: float, uneven: float) -> Evidence:
    """Of one light and one unevenness (in its noise) everywhere."""
    plane, flat = np.full(SIZE, tone, np.float32), np.zeros(SIZE, np.float32)
    thin = np.full(SIZE, uneven * NOISE, np.float32)
    return Evidence(plane, flat, flat, thin, np.zeros((*SIZE, 3), np.uint8), flat, 0.0, NOISE, 1280)


def line_of(place: Mask) -> Mask:
    """Edges along its border, as wide as they are seen."""
    grown, shrunk = (how(place.astype(np.uint8), np.ones((7, 7), np.uint8)) for how in (cv2.dilate, cv2.erode))
    return np.asarray(grown > shrunk)


def taken(tone: float, uneven: float, *, edges: Mask | None = None, place: Mask = FLANK) -> float:
    line = line_of(place) if edges is None else edges
    found = flanks(evidence(tone, uneven), place, ~BODY & ~place, ~BODY, line)
    return float(found[place].mean())


def test_what_lies_between_product_and_a_line_is_taken_where_it_is_lighter_and_uneven() -> None:
    assert taken(0.03, 10) > 0.98


@pytest.mark.parametrize(("tone", "uneven"), [(0.0, 10), (-0.05, 10), (0.03, 3)])
def test_shadow_and_even_light_are_none(tone: float, uneven: float) -> None:
    assert taken(tone, uneven) == 0


def test_without_a_line_of_its_own_it_is_none() -> None:
    assert taken(0.03, 10, edges=np.zeros(SIZE, bool)) == 0


def test_a_spot_of_light_on_the_table_is_none() -> None:
    spot = np.asarray((X > 40) & (X < 52) & (Y > 50) & (Y < 62))
    assert taken(0.03, 10, place=spot) == 0


@pytest.mark.parametrize(
    ("tone", "reflection", "edge", "part"),
    [(0.04, 0.3, True, 0.5), (0.0, 0.3, True, 0), (0.04, 0.3, False, 0), (0.04, 0.0, True, 0)],
)
def test_light_beside_a_reflection_is_a_flank_where_an_edge_bounds_it(
    tone: float, reflection: float, edge: bool, part: float
) -> None:
    """From left to right: backdrop, an edge or none, a flank 16 pixels wide, a reflection, and the body."""
    plane = np.where(X > 100, reflection, np.where(X > 84, tone, 0.0)).astype(np.float32)
    flat = np.zeros(SIZE, np.float32)
    shown = Evidence(plane, flat, flat, flat, np.zeros((*SIZE, 3), np.uint8), flat, 0.0, NOISE, 1280)
    edges = (np.abs(X - 84) < 3) & edge
    found = flanks_by_light(shown, np.asarray(X <= 84), np.asarray(X > 100), 0.06, edges)
    assert not found[:, :85].any()
    assert found[:, 85:101].mean() >= part
    assert found.any() == (part > 0)


def test_a_carafe_keeps_its_flanks() -> None:
    """Path-traced glass: strong reflections run along its shoulders, while the outline itself is as light as the paper."""
    shutter, rng = Shutter(), np.random.default_rng(1)
    empty, frame = (
        Picture(exposed(*(read_layer(LAYERS / f"{name}_{light}.jxl") for light in ("front", "backdrop")), shutter, rng), "PNG")
        for name in ("front/empty", "front/HT-131")
    )
    alpha, truth = pipeline.cut_frame(frame, empty, CutSettings())[1].alpha, read_plane(LAYERS / "front" / "HT-131_alpha.jxl")
    assert np.count_nonzero((alpha < 0.9) & (truth > 0.99)) < 0.033 * np.count_nonzero(truth > 0.99)
    assert np.count_nonzero((alpha > 0.02) & (truth < 0.01)) < 0.005 * np.count_nonzero(truth > 0.99)
