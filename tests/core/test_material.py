"""What a product seems to be made of, told on drawn products of each kind."""

from __future__ import annotations

import numpy as np
import pytest

from tests.core.test_among_strands import head
from tests.core.test_shaded_holes import arch
from tests.core.test_strands import brush
from tests.scenes import Scene, scene
from true_backdrop.core import pipeline
from true_backdrop.core.cut.material import seems_made_of
from true_backdrop.core.picture import Picture
from true_backdrop.core.treatment import CutSettings


def seems(made: Scene) -> str | None:
    prepared = pipeline.prepare(Picture(made.frame, "PNG"), Picture(made.backdrop, "PNG"))
    settings = CutSettings()
    decision = pipeline.decide_cut(prepared, settings, pipeline.propose_match(prepared, settings))
    return seems_made_of(prepared.evidence, decision.outline)


def _pane(grain: float) -> Scene:
    return arch(lambda x, y: np.ones_like(x), grain=grain, pane=0.35)


@pytest.mark.parametrize(
    ("made", "material"),
    [
        (scene("disc"), "solid"),
        (scene("ring", (0.4, 0.05, 0.04)), "solid"),
        (scene("box", (0.30, 0.31, 0.30)), "solid"),
        (scene("disc", (0.66, 0.655, 0.64)), "pale"),
        (scene("box", (0.70, 0.69, 0.67)), "pale"),
        (head(), "strands"),
        (brush(), "strands"),
        (_pane(0.012), "clear"),
        (_pane(0.0), "clear"),
        (scene("nothing"), None),
    ],
)
def test_each_kind_is_told(made: Scene, material: str | None) -> None:
    assert seems(made) == material
