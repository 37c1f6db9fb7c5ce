"""The simulated studio's pictures, and the studio as a process."""

from __future__ import annotations

from collections.abc import Callable, Iterator

import numpy as np
import pytest

from tests.studio.process import LAYERS, Process, running
from true_backdrop.core.picture import Picture
from true_backdrop.studio.protocols import CameraSettings, LampSettings
from true_backdrop.studio.simulated.scene import Focus, Scenery, Table
from true_backdrop.studio.simulated.sensor import exposed


@pytest.fixture(scope="session")
def photographed() -> Callable[..., Picture]:
    """A picture (640 x 960) of a table, at some settings."""
    scenery, rng = Scenery(LAYERS, (640, 960)), np.random.default_rng(4)

    def take(
        table: Table, camera: CameraSettings | None = None, lamps: LampSettings | None = None, warmth: float = 0.0
    ) -> Picture:
        camera = camera or CameraSettings()
        light = scenery.gathered(table, Focus(camera.f_number, camera.focus_mm), lamps or LampSettings(), warmth)
        return Picture(exposed(light, camera, rng), "JPEG")

    return take


@pytest.fixture
def process() -> Iterator[Process]:
    with running() as made:
        yield made
