"""Good shots of the simulated studio are called clean: an ordinary, a pale and a clear product, from three angles."""

from __future__ import annotations

from collections.abc import Callable

import pytest

from true_backdrop.core import pipeline
from true_backdrop.core.picture import Picture
from true_backdrop.core.treatment import CutSettings, Material
from true_backdrop.studio.simulated.scene import Table

Take = Callable[..., Picture]


@pytest.mark.parametrize("angle", ["front", "turned", "above"])
@pytest.mark.parametrize(("code", "material"), [("HT-204", "solid"), ("HT-215", "pale"), ("HT-101", "clear")])
def test_a_good_shot_is_called_clean(photographed: Take, code: str, material: Material, angle: str) -> None:
    frame, empty = photographed(Table(code, angle=angle)), photographed(Table(angle=angle))
    decision, _ = pipeline.cut_frame(frame, empty, CutSettings(material=material))
    assert decision.judgement.verdict.value == "clean", decision.judgement.reasons
