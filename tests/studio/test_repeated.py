"""Takes of a scene that nobody touched differ by the sensor's noise alone, and so little do their cuts."""

from __future__ import annotations

from datetime import UTC, datetime

import numpy as np
import pytest

from tests.studio.process import LAYERS
from true_backdrop.core import codec, pipeline
from true_backdrop.core.treatment import CutSettings, Material
from true_backdrop.studio.protocols import CameraSettings, LampSettings
from true_backdrop.studio.simulated.scene import Focus, Scenery, Table
from true_backdrop.studio.simulated.sensor import exposed, file_of

#: Rows and columns of a small camera: of so coarse a picture less is told.
SIZE = (600, 900)
TAKES = 12
_WHEN = datetime(2026, 1, 1, tzinfo=UTC)


@pytest.fixture(scope="module")
def scenery() -> Scenery:
    return Scenery(LAYERS, SIZE)


@pytest.mark.parametrize("seed", [1, 11])
@pytest.mark.parametrize(
    ("code", "angle", "material"), [("HT-215", "turned", "pale"), ("HT-215", "above", "pale"), ("HT-204", "front", "solid")]
)
def test_chance_changes_no_decision(scenery: Scenery, code: str, angle: str, material: Material, seed: int) -> None:
    camera, rng = CameraSettings(), np.random.default_rng(seed)
    focus = Focus(camera.f_number, camera.focus_mm)
    filled, bare = (
        scenery.gathered(table, focus, LampSettings(), 0.0) for table in (Table(code, angle=angle), Table(angle=angle))
    )
    matches, areas = set(), []
    for _ in range(TAKES):
        files = [file_of(exposed(light, camera, rng), camera, 100, _WHEN) for light in (filled, bare)]
        frame, empty = (codec.decode(file, "take.jpg") for file in files)
        prepared = pipeline.prepare(frame, empty)
        settings = CutSettings(material=material)
        decision = pipeline.decide_cut(prepared, settings, pipeline.propose_match(prepared, settings))
        assert decision.judgement.verdict.value == "clean", decision.judgement.reasons
        matches.add(decision.match)
        areas.append(np.count_nonzero(decision.outline.product))
    # Where two values give nearly the same outline, chance may choose between them.
    assert len(matches) == 1 or np.ptp(areas) < 0.008 * np.mean(areas)
    assert np.ptp(areas) < 0.01 * np.mean(areas)
