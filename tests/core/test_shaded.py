"""What edges enclose between two legs: shadow that ends softly, or a panel that ends sharply or has a tint."""

from __future__ import annotations

import numpy as np
import pytest

from tests.core.test_area import SIZE, X, Y, photographed
from tests.core.test_table import DARK, _shape
from true_backdrop.core import pipeline
from true_backdrop.core.cut.closing import Closing
from true_backdrop.core.cut.shaded import shadow_between
from true_backdrop.core.picture import Picture

BODY = np.maximum(
    _shape((240, 120), (480, 120), (480, 170), (240, 170)),
    np.maximum(_shape((240, 160), (320, 160), (320, 400), (240, 400)), _shape((400, 160), (480, 160), (480, 400), (400, 400))),
)
GAP = _shape((320, 170), (400, 170), (400, 330), (320, 330))
GREY, TINTED = np.array([1.0, 0.99, 0.97]), np.array([1.0, 0.8, 0.6])


def found(*, panel: np.ndarray | None, depth: float = 0.5, foot: int = 0) -> float:
    """How much of the gap between two legs is shadow, where it is one or where a panel as dark as that fills it.

    So wide (pixels) the sharp contact shadow of a foot reaches into its mouth.
    """
    if panel is None:
        shadow = np.exp(-depth / (1 + np.exp((Y - 330) / 10)) * (np.abs(X - 360) < 60))
        shadow *= np.where((np.abs(X - 320 - foot / 2) < foot / 2) & (Y >= 322) & (Y < 345), 0.6, 1.0)
        made = photographed(BODY, np.broadcast_to(DARK, (*SIZE, 3)), shadow=shadow, noise=0.004)
    else:
        surface = np.where(GAP[..., None] > 0.5, 0.71 * np.exp(-depth) * panel, DARK)
        made = photographed(np.maximum(BODY, GAP), surface, noise=0.004)
    evidence = pipeline.prepare(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG")).evidence
    product, gap = BODY > 0.5, GAP > 0.5
    told = shadow_between(evidence, gap, ~product, ~product & ~gap, Closing(evidence).soft)
    return float(told[gap].mean())


@pytest.mark.parametrize("depth", [0.25, 0.5, 0.8])
def test_a_shadow_between_two_legs_is_told_by_where_it_ends(depth: float) -> None:
    assert found(panel=None, depth=depth) == 1


@pytest.mark.parametrize("depth", [0.25, 0.5, 0.8])
@pytest.mark.parametrize("panel", [GREY, TINTED])
def test_a_panel_ends_sharply(panel: np.ndarray, depth: float) -> None:
    assert found(panel=panel, depth=depth) == 0


@pytest.mark.parametrize("foot", [12, 30])
def test_the_contact_shadow_of_a_foot_in_a_narrow_mouth_does_not_make_it_product(foot: int) -> None:
    assert found(panel=None, foot=foot) == 1
