"""What inside a product is just as the backdrop: because it is, or because something of the product happens to be."""

from __future__ import annotations

from dataclasses import replace

import cv2
import numpy as np
import pytest

from tests.core.test_area import SIZE, X, Y, photographed
from true_backdrop.core import pipeline
from true_backdrop.core.cut.bare import Bare
from true_backdrop.core.cut.hue import BackdropHue
from true_backdrop.core.cut.papered import papered
from true_backdrop.core.picture import Picture

BODY = (np.abs(X - 360) < 150) & (Y >= 100) & (Y < 400)
PANEL = (np.abs(X - 360) < 50) & (Y >= 200) & (Y < 300)
#: Beside the panel, open to it along a third of its border.
BESIDE = (np.abs(X - 360) < 50) & (Y >= 300) & (Y < 330)
INNER = cv2.erode(PANEL.astype(np.uint8), np.ones((5, 5), np.uint8)) > 0


def _opened(monkeypatch: pytest.MonkeyPatch, tone: np.ndarray, nearby: float, *, beside: float = -0.9) -> float:
    """How much is taken for backdrop of a panel of some tone (H, W) in a dark body, on paper without grain, with such a tone of the
    backdrop nearby and of what is `beside` the panel (log units)."""
    made = photographed(BODY.astype(float), np.broadcast_to((0.2, 0.2, 0.2), (*SIZE, 3)))
    of = pipeline.prepare(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG")).evidence
    light = np.where(PANEL, tone, np.where(BESIDE, beside, np.where(BODY, -0.9, 0.0))).astype(np.float32)
    evidence = replace(of, tone=light, tint=np.where(BODY & ~PANEL & ~BESIDE, 0.3, 0.001).astype(np.float32), noise=0.002)
    exactly = PANEL & (np.minimum(np.abs(light), np.abs(light - nearby)) < 0.012)
    nothing = np.zeros(SIZE, bool)
    expected = np.full(SIZE, nearby, np.float32)
    bare = Bare(nothing, PANEL, exactly, nothing)
    monkeypatch.setattr(BackdropHue, "is_another", lambda *_: False)  # of the planes only those that are asked are changed here
    found = papered(evidence, bare, BODY, expected, "auto", BackdropHue(evidence, ~BODY))
    return float(found[INNER].mean())


@pytest.mark.parametrize(("part", "opened"), [(0.15, True), (0.05, False)])
def test_what_is_exactly_lit_is_a_good_part_of_all_that_is_soft_there(
    monkeypatch: pytest.MonkeyPatch, part: float, opened: bool
) -> None:
    """The slit of an eye with its own shadow beside it is; a white face has such a spot somewhere."""
    across = (X - 311) / 100 - part  # the lit part, a dark line, and the rest
    tone = np.where(across < 0, 0.0, np.where(across < 0.12, -0.9, -0.05))
    assert (_opened(monkeypatch, tone, -0.1) > 0.3 * part) is opened


@pytest.mark.parametrize(("tone", "opened"), [(0.0, 0.5), (-0.06, 0.0)])
def test_and_it_is_as_light_as_the_backdrop_in_full_light_not_as_a_shadow_nearby(
    monkeypatch: pytest.MonkeyPatch, tone: float, opened: float
) -> None:
    """Grey print may be as dark as the shadow around the product."""
    half = np.where(X < 360, tone, tone - 0.02)
    assert _opened(monkeypatch, half, tone) == pytest.approx(opened, abs=0.05)


@pytest.mark.parametrize(
    ("darkest", "lightest", "beside", "opened"),
    [(-0.3, -0.01, -0.9, 1.0), (-0.36, -0.2, -0.9, 0.0), (-0.36, -0.2, -0.27, 1.0)],
)
def test_a_gap_in_shadow_is_lit_somewhere_or_opens_into_the_shadow(
    monkeypatch: pytest.MonkeyPatch, darkest: float, lightest: float, beside: float, opened: float
) -> None:
    """What has product all around and no light in it may be a grey panel."""
    tone = np.interp(X, (330, 400), (lightest, darkest))
    assert _opened(monkeypatch, tone, lightest, beside=beside) == pytest.approx(opened, abs=0.05)


@pytest.mark.parametrize(("darkest", "opened"), [(0.009, 0.0), (0.0, 1.0)])
def test_nothing_that_is_all_brighter_than_the_backdrop_in_full_light_is_it(
    monkeypatch: pytest.MonkeyPatch, darkest: float, opened: float
) -> None:
    """White print may be; product takes light from what is behind it."""
    tone = np.interp(X, (330, 340), (darkest, 0.009))
    assert _opened(monkeypatch, tone, -0.1) == pytest.approx(opened, abs=0.05)
