"""The simulated studio's pictures, and the studio as a process."""

from __future__ import annotations

import socket
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np
import pytest

from true_backdrop.core.picture import Picture
from true_backdrop.studio.client import RemoteStudio
from true_backdrop.studio.errors import StudioError
from true_backdrop.studio.protocols import CameraSettings, LampSettings
from true_backdrop.studio.simulated.scene import Focus, Scenery, Table
from true_backdrop.studio.simulated.sensor import exposed

LAYERS = Path(__file__).parents[2] / "demo" / "layers"


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


class Process:
    """The simulated studio as a process that can be killed and started again on the same port."""

    def __init__(self) -> None:
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            self.port = probe.getsockname()[1]
        self._process: subprocess.Popen[bytes] | None = None

    def start(self) -> None:
        order = ["--layers", str(LAYERS), "--port", str(self.port), "--width", "900"]
        self._process = subprocess.Popen([sys.executable, "-m", "true_backdrop.studio.simulated.server", *order])
        deadline = time.monotonic() + 30
        while True:
            try:
                self.client().status()
                return
            except StudioError:
                assert time.monotonic() < deadline, "the simulated studio did not come up"
                time.sleep(0.1)

    def kill(self) -> None:
        assert self._process is not None
        self._process.kill()
        self._process.wait()

    def client(self) -> RemoteStudio:
        return RemoteStudio("127.0.0.1", self.port, patience_s=20)


@pytest.fixture
def process() -> Iterator[Process]:
    made = Process()
    made.start()
    yield made
    made.kill()
