"""Where product meets table: pockets of shadow, light that is thrown on the table, and the band of unknown opacity there."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from tests.scenes import scene
from true_backdrop.core import pipeline
from true_backdrop.core.cut.outline import CONTACT_BAND, FIRM_BAND
from true_backdrop.core.cut.pockets import pockets
from true_backdrop.core.picture import Picture
from true_backdrop.core.treatment import CutSettings

Y, X = np.mgrid[:80, :120]
RED = (0.70, 0.12, 0.10)


def corner(gap: int) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Backdrop on the left; a place 12 x 30 that looks like it and opens towards it over some rows, product all round."""
    outside = X < 40
    place = (X >= 40) & (X < 52) & (Y >= 24) & (Y < 54)
    seen = (Y >= 22) & (Y < 56) & (X >= 38) & (X < 54) & ~place
    seen[(np.abs(Y - 38.5) < gap / 2) & (X < 40)] = False
    return outside, outside | place, seen


def test_a_place_that_opens_wide_into_the_backdrop_is_a_pocket() -> None:
    outside, alike, seen = corner(gap=30)
    found = pockets(outside, alike, seen, 1000)
    assert found[38, 46] and not found[:, :40].any() and not found[:, 60:].any()


def test_the_inside_of_a_pale_product_with_a_gap_in_its_outline_is_none() -> None:
    assert not pockets(*corner(gap=3), 1000).any()


def test_a_large_place_is_no_pocket_however_it_opens() -> None:
    outside, alike, seen = corner(gap=30)
    assert not pockets(outside, alike, seen, 600).any()


@pytest.mark.parametrize("bright", [0.05, 0.09])
def test_light_thrown_on_the_table_is_not_product(bright: float) -> None:
    """A product makes the paper beside it brighter, softly and most where it stands."""

    def glow(x: np.ndarray, y: np.ndarray) -> np.ndarray:
        return 1 + bright * np.exp(-(((x - 0.34) / 0.08) ** 2 + ((y - 0.68) / 0.1) ** 2))

    off = []
    for made in (scene("box", RED, shadow=0.0), scene("box", RED, shadow=0.0, on_table=glow)):
        decision, found = pipeline.cut_frame(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"), CutSettings())
        assert decision.judgement.verdict.value == "clean"
        off.append(float(np.mean((found.alpha - made.alpha) ** 2)))
    assert off[1] < 1.05 * off[0]


#: The box of a scene ends there, in parts of the height; its sides in parts of the width.
BOTTOM, SIDES = 0.72, (0.353, 0.647)


def contact(x: np.ndarray, y: np.ndarray) -> np.ndarray:
    """Shadow that is deep under the box and gone within some pixels."""
    below = np.clip(y - BOTTOM, 0, None) * 480
    return 1 - 0.85 * np.exp(-below / 4.0) * ((x > SIDES[0]) & (x < SIDES[1]) & (y > BOTTOM))


def test_the_unknown_band_is_narrow_under_a_product_and_as_usual_elsewhere() -> None:
    made = scene("box", (0.30, 0.10, 0.08), shadow=0.0, on_table=contact)
    prepared = pipeline.prepare(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"))
    outline = pipeline.outline_at(prepared, 50, "auto")
    middle = outline.shape[1] // 2
    top, *_, bottom = np.flatnonzero(np.abs(outline.signed[:, middle]) < 1)
    assert outline.band[bottom, middle] == pytest.approx(CONTACT_BAND, abs=0.1)
    assert outline.band[top, middle] == pytest.approx(FIRM_BAND, abs=0.1)


def test_of_a_deep_contact_shadow_nothing_is_left_on_the_product() -> None:
    made = scene("box", (0.30, 0.10, 0.08), shadow=0.0, on_table=contact)
    _, found = pipeline.cut_frame(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"), CutSettings())
    under = slice(round(BOTTOM * 480) + 3, round(BOTTOM * 480) + 40), slice(260, 460)
    assert found.alpha[under].max() < 0.02
    assert float(np.mean((found.alpha - made.alpha) ** 2)) < 4e-4


def test_the_surface_of_a_rope_is_not_open_as_strands_are() -> None:
    """Grooves across a tinted ring change its light along the outline, as bristles would; nowhere is backdrop between them."""
    made = scene("ring", (0.62, 0.40, 0.09), surface=lambda x, y: 0.55 + 0.45 * np.sin(95 * np.arctan2(y - 0.5, 1.5 * (x - 0.5))))
    _, found = pipeline.cut_frame(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"), CutSettings())
    inside = cv2.erode((made.alpha > 0.999).astype(np.uint8), np.ones((7, 7), np.uint8)) > 0
    assert (found.alpha[inside] < 0.97).mean() < 0.01
