"""Where pale stripes end in a face as grey as the backdrop, the outline steps back between the others; that is asked about."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from tests.core.test_area import SIZE, X, Y, photographed
from tests.scenes import Scene
from true_backdrop.core import pipeline
from true_backdrop.core.cut.components import components
from true_backdrop.core.cut.decided import Decided
from true_backdrop.core.cut.stepped import stepped, steps_where_pale
from true_backdrop.core.cut.verdict import Verdict
from true_backdrop.core.picture import Picture
from true_backdrop.core.treatment import CutSettings

LEFT, RIGHT, TOP, BOTTOM = 180, 540, 105, 355
RED, WHITE = np.array([0.45, 0.03, 0.05]), np.array([0.95, 0.95, 0.92])
#: How wide the faces at its ends are, and the stripes of the flag (pixels).
FACE, STRIPE = 6, 25


def flag(*, stripes: bool = True, other: np.ndarray = WHITE) -> Scene:
    """A flag of red and other stripes, or of these alone; at both ends red has half its light, the other the backdrop's."""
    inside = (X >= LEFT) & (X < RIGHT) & (Y >= TOP) & (Y < BOTTOM)
    face = (X < LEFT + FACE) | (X >= RIGHT - FACE)
    red = (((Y - TOP) // STRIPE) % 2 == 0)[..., None] & stripes
    backdrop = 0.72 - 0.10 * (X / 720 - 0.5) ** 2 - 0.08 * (Y / 480 - 0.4) ** 2
    grey = np.where(red, 0.5 * RED, backdrop[..., None] * np.array([1.0, 0.99, 0.97]))
    return photographed(inside.astype(float), np.where(face[..., None], grey, np.where(red, RED, other)), noise=0.004)


def bitten(made: Scene) -> tuple[np.ndarray, pipeline.Prepared]:
    """Where steps are seen (H, W) if the faces of the white stripes are lost."""
    prepared = pipeline.prepare(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"))
    product = made.alpha > 0.5
    face = (X < LEFT + FACE) | (X >= RIGHT - FACE)
    product &= ~(face & (((Y - TOP) // STRIPE) % 2 == 1))
    busy = prepared.busy
    return busy.on_proxy(steps_where_pale(busy.evidence, busy.of_proxy(product))), prepared


def test_corners_are_seen_at_both_ends_of_each_stripe_that_was_cut_short() -> None:
    made = flag()
    found, _ = bitten(made)
    lost = (made.alpha > 0.5) & ((X < LEFT + FACE) | (X >= RIGHT - FACE)) & (((Y - TOP) // STRIPE) % 2 == 1)
    assert found.any()
    assert not (found & ~lost).any()
    for at in range(1, (BOTTOM - TOP) // STRIPE - 1, 2):
        top, bottom = TOP + at * STRIPE, TOP + (at + 1) * STRIPE
        for columns in (slice(LEFT, LEFT + FACE), slice(RIGHT - FACE, RIGHT)):
            assert found[top : top + 8, columns].any()
            assert found[bottom - 8 : bottom, columns].any()


def test_a_product_of_one_colour_may_be_notched_as_it_likes() -> None:
    """Only where the colour changes does an outline that steps back say that something is lost."""
    found, _ = bitten(flag(stripes=False))
    assert not found.any()


@pytest.mark.parametrize("other", [(0.48, 0.58, 0.85), (0.35, 0.35, 0.34)], ids=["blue", "grey"])
def test_stripes_of_a_colour_or_much_darker_may_end_before_the_others(other: tuple[float, float, float]) -> None:
    """Their ends would hardly be as light as the backdrop."""
    found, _ = bitten(flag(other=np.array(other)))
    assert not found.any()


def test_where_the_outline_is_straight_no_colour_makes_a_step() -> None:
    made = flag()
    prepared = pipeline.prepare(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"))
    assert not steps_where_pale(prepared.evidence, made.alpha > 0.5).any()
    assert not steps_where_pale(prepared.evidence, np.zeros(SIZE, bool)).any()


def test_a_corner_or_two_are_not_asked_about_and_nor_is_what_somebody_has_seen_to(monkeypatch: pytest.MonkeyPatch) -> None:
    """They have touched it, or named strands; between those, or where much is open, an outline has corners by nature."""
    found, prepared = bitten(flag())
    product = (X > LEFT) & (X < RIGHT)
    decided = Decided(product, product, product, product, 50, 0.0, prepared.busy, product)
    asked = []
    labels, _ = components(prepared.busy.of_proxy(found), 4)
    for many in (2, 3):
        monkeypatch.setattr("true_backdrop.core.cut.stepped.steps_where_pale", lambda *_, n=many: (labels > 0) & (labels <= n))
        asked.append(bool(stepped(prepared.evidence, decided)[0]))
        for settled in (replace(decided, clear=True), replace(decided, at_match=~product)):
            assert stepped(prepared.evidence, settled) == ([], 0.0)
        between = prepared.busy.on_proxy((labels > 0) & (labels <= many))
        assert stepped(prepared.evidence, replace(decided, open=between, unsaid=False)) == ([], 0.0)
        assert bool(stepped(prepared.evidence, replace(decided, open=between))[0]) is (many > 2)
        assert stepped(prepared.evidence, replace(decided, open=between | product)) == ([], 0.0)
    assert asked == [False, True]


def test_a_flag_that_lost_the_ends_of_its_white_stripes_is_asked_about() -> None:
    made = flag()
    decision, cut = pipeline.cut_frame(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"), CutSettings())
    assert np.mean(cut.alpha[made.alpha > 0.99] < 0.9) > 0.01
    assert decision.judgement.verdict is Verdict.LOOK_AGAIN
    assert any("steps back where the product turns pale" in reason for reason in decision.judgement.reasons)
    assert decision.judgement.places
