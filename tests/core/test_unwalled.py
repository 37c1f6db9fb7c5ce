"""A lit place that only an edge parts from the shadow beside it is no opening: product ends there."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from tests.core.test_area import X, Y, photographed
from tests.core.test_rim_beyond import EMPTY, RED
from true_backdrop.core import pipeline
from true_backdrop.core.cut.unwalled import unwalled
from true_backdrop.core.picture import Picture
from true_backdrop.core.treatment import CutSettings

BODY = (X >= 200) & (X < 460) & (Y >= 80) & (Y < 360)
#: A corner of the body, which is open to the right and below.
CORNER = (X >= 360) & (X < 460) & (Y >= 270) & (Y < 360)
#: Light that is left in the shadow beside and below it.
SHADOW = 1 - 0.6 * cv2.GaussianBlur(((X >= 250) & (X < 600) & (Y >= 230) & (Y < 420)).astype(float), (0, 0), 12)
WIRE = ((X >= 457) & (X < 460) & (Y >= 270) & (Y < 360)) | (CORNER & (Y >= 357))


def prepared(corner: float, wire: np.ndarray | None = None, shadow: np.ndarray = SHADOW) -> pipeline.Prepared:
    """A red body with such a part of the backdrop's light in its corner, and a dark wire (H, W)."""
    dark = np.zeros(X.shape, bool) if wire is None else wire
    colour = np.where(dark[..., None], 0.02, np.where(CORNER[..., None], corner * EMPTY, RED))
    made = photographed(BODY.astype(float), colour, noise=0.004, shadow=shadow)
    return pipeline.prepare(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"))


#: What of the corner a lens leaves of its own light.
LIT = (X >= 364) & (X < 456) & (Y >= 274) & (Y < 356)


def found(of: pipeline.Prepared, place: np.ndarray = LIT, *, blind: bool = False) -> np.ndarray:
    seen = of.busy.on_proxy(of.busy.closing.seen)
    mask = unwalled(of.evidence, place, ~BODY, np.zeros_like(seen) if blind else seen)
    assert not (mask & ~place).any()
    return mask


INNER = (X >= 366) & (X < 454) & (Y >= 276) & (Y < 354)


def test_a_lit_place_that_an_edge_parts_from_a_shadow_is_a_surface() -> None:
    assert (found(prepared(0.9)) == LIT).all()


def test_the_whole_decision_keeps_it() -> None:
    of = prepared(0.9)
    product = pipeline.propose_match(of, CutSettings()).product(of.busy)
    assert product[INNER].mean() > 0.98


def test_an_opening_with_product_around_it_stays_one() -> None:
    assert not found(prepared(0.9), (X >= 366) & (X < 446) & (Y >= 276) & (Y < 346)).any()
    wired = (X >= 364) & (X < 457) & (Y >= 274) & (Y < 357)
    assert found(prepared(0.9), wired).any()
    assert not found(prepared(0.9, WIRE), wired).any()


@pytest.mark.parametrize("corner", [0.4, 0.3], ids=["as dark as the shadow", "darker"])
def test_what_is_no_lighter_than_the_shadow_beside_it_may_be_in_it(corner: float) -> None:
    assert not found(prepared(corner)).any()


def test_where_no_edge_is_seen_nothing_is_said() -> None:
    assert not found(prepared(0.9), blind=True).any()


def test_beside_the_bare_backdrop_nothing_is_said() -> None:
    assert not found(prepared(0.97, shadow=np.ones_like(SHADOW))).any()
