"""Where product meets table: pockets of shadow, light thrown on the table, the band there, and what is asked about it."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from tests.scenes import scene
from true_backdrop.core import pipeline
from true_backdrop.core.cut.band import CONTACT_BAND
from true_backdrop.core.cut.doubt import backdrop_like
from true_backdrop.core.cut.evidence import Evidence
from true_backdrop.core.cut.pockets import pockets
from true_backdrop.core.cut.propose import propose
from true_backdrop.core.cut.strands import FIRM_BAND
from true_backdrop.core.picture import Picture
from true_backdrop.core.treatment import CutSettings

Y, X = np.mgrid[:80, :120]
RED = (0.70, 0.12, 0.10)


def corner(gap: int, long_side: int = 1000, product: float = -0.1) -> tuple[Evidence, np.ndarray, np.ndarray, np.ndarray]:
    """Backdrop on the left; a place 12 x 30 that looks like it and opens towards it over some rows, product all round."""
    outside = X < 40
    place = (X >= 40) & (X < 52) & (Y >= 24) & (Y < 54)
    seen = (Y >= 22) & (Y < 56) & (X >= 38) & (X < 54) & ~place
    seen[(np.abs(Y - 38.5) < gap / 2) & (X < 40)] = False
    tone, flat = np.where(outside | place, 0, product).astype(np.float32), np.zeros(outside.shape, np.float32)
    relief = np.zeros((*outside.shape, 3), np.uint8)
    return Evidence(tone, flat, flat, flat, relief, flat, 0.0, 0.002, long_side), outside, outside | place, seen


def test_a_place_that_opens_wide_into_the_backdrop_is_a_pocket() -> None:
    found = pockets(*corner(gap=30))
    assert found[38, 46] and not found[:, :40].any() and not found[:, 60:].any()


def test_the_inside_of_a_pale_product_with_a_gap_in_its_outline_is_none() -> None:
    assert not pockets(*corner(gap=3)).any()


def test_a_large_place_is_no_pocket_in_pale_product_however_it_opens() -> None:
    assert not pockets(*corner(gap=30, long_side=600)).any()
    assert pockets(*corner(gap=30, long_side=600, product=-0.6)).any()
    assert not pockets(*corner(gap=30, long_side=380, product=-0.6)).any()


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


class Courses:
    """Decisions that are told: a box, and from some match on light on the table as far as the frame's rim."""

    def __init__(self, spills_from: int) -> None:
        self.shape, self.spills_from = (80, 120), spills_from

    def decide(self, match: float, _material: str) -> np.ndarray:
        """Quiet only where it spills."""
        product = (np.abs(X - 60) < 20) & (np.abs(Y - 40) < 20)
        if match >= self.spills_from:
            return product | (Y > 55)
        return product & (25 + match / 3 > Y)

    def completed(self, product: np.ndarray, *_: object) -> np.ndarray:
        return product

    def on_proxy(self, product: np.ndarray) -> np.ndarray:
        return product


def test_a_value_at_which_light_on_the_table_is_left_as_far_as_the_rim_is_not_proposed() -> None:
    spilt = propose(Courses(spills_from=70), "auto")  # type: ignore[arg-type]
    assert spilt.match < 70
    assert {trial.match for trial in spilt.trials} >= {30, 50, 70, 90}


@pytest.mark.parametrize("spills_from", [0, 50])
def test_a_product_that_reaches_the_rim_is_proposed_as_it_is(spills_from: int) -> None:
    """It is not eaten until it keeps away from the rim; the verdict says to shoot it again."""
    assert propose(Courses(spills_from), "auto").match >= 50  # type: ignore[arg-type]


def deep_shade(inside: float) -> tuple[Evidence, np.ndarray]:
    """A neutral product of a tone that stands in deep shadow of another one, on paper with grain."""
    rng = np.random.default_rng(3)
    product = (np.abs(X - 60) < 20) & (np.abs(Y - 40) < 20)
    tone = np.where(product, inside, -0.7).astype(np.float32)
    flat = np.zeros_like(tone)
    bare = cv2.GaussianBlur(rng.normal(0, 0.02, tone.shape), (0, 0), 1.5).astype(np.float32)
    return Evidence(tone, flat, flat, flat, np.zeros((*tone.shape, 3), np.uint8), bare, 0.9, 0.002, 120), product


@pytest.mark.parametrize(("inside", "told"), [(-0.6, False), (-0.69, True)])
def test_in_deep_shadow_only_what_is_as_dark_as_the_shadow_is_asked_about(inside: float, told: bool) -> None:
    evidence, product = deep_shade(inside)
    found = backdrop_like(evidence, product)
    assert found.by_grain and found.places.any() == told
