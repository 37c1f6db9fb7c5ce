"""No usable backdrop: a proposal, honest about its doubt."""

from __future__ import annotations

import numpy as np
import pytest

from tests.scenes import _covered, _encode
from true_backdrop.core import pipeline
from true_backdrop.core.cut.verdict import PROPOSED, Verdict
from true_backdrop.core.errors import BackdropDoesNotFit
from true_backdrop.core.picture import Picture
from true_backdrop.core.treatment import CutSettings, Hands, Touch, TouchSettings

HEIGHT, WIDTH = 480, 720


def cloth(kind: str) -> np.ndarray:
    """A patterned cloth, (H, W, 3) linear light."""
    y, x = np.mgrid[0:HEIGHT, 0:WIDTH]
    if kind == "checks":
        on = ((y // 40 + x // 40) % 2)[..., None]
        return np.where(on, (0.55, 0.08, 0.07), (0.75, 0.73, 0.70))
    stripes = (np.sin(x / 9.0) > 0)[..., None]
    return np.where(stripes, (0.10, 0.22, 0.12), (0.45, 0.55, 0.40))


def frame_on(kind: str, shape: str, colour: tuple[float, float, float]) -> tuple[Picture, np.ndarray]:
    alpha = _covered(shape, HEIGHT, WIDTH, (0.5, 0.5))
    light = alpha[..., None] * np.array(colour) + (1 - alpha[..., None]) * cloth(kind)
    noise = np.random.default_rng(3).normal(0, 0.004, light.shape)
    return Picture(_encode(light + noise), "PNG"), alpha


@pytest.mark.parametrize("kind", ["checks", "stripes"])
@pytest.mark.parametrize(("shape", "colour"), [("disc", (0.1, 0.2, 0.6)), ("box", (0.7, 0.5, 0.05))])
def test_a_plate_on_a_patterned_cloth_is_proposed_and_in_doubt(kind: str, shape: str, colour: tuple[float, float, float]) -> None:
    frame, truth = frame_on(kind, shape, colour)
    decision, found = pipeline.cut_frame(frame, None, CutSettings())
    both, either = ((found.alpha > 0.5) & (truth > 0.5)).sum(), ((found.alpha > 0.5) | (truth > 0.5)).sum()
    assert both / either > 0.9
    assert decision.judgement.verdict is Verdict.LOOK_AGAIN
    assert PROPOSED in decision.judgement.reasons
    assert decision.judgement.doubt >= 0.5


def test_touches_change_a_proposal() -> None:
    frame, _ = frame_on("checks", "disc", (0.1, 0.2, 0.6))
    hands = Hands(touches=TouchSettings(strokes=(Touch(kind="product", points=((0.1, 0.1), (0.2, 0.1)), width=0.05, reach=0),)))
    _, found = pipeline.cut_frame(frame, None, CutSettings(), hands=hands)
    assert found.alpha[48, 108] == 1


def test_where_nothing_stands_out_it_is_said() -> None:
    with pytest.raises(BackdropDoesNotFit, match="stands out"):
        pipeline.cut_frame(Picture(_encode(cloth("checks")), "PNG"), None, CutSettings())
