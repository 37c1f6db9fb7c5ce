"""The simulated studio as a process of its own."""

from __future__ import annotations

import contextlib
import shutil
import socket
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

from true_backdrop.studio.client import RemoteStudio
from true_backdrop.studio.errors import StudioError

LAYERS = Path(__file__).parents[2] / "demo" / "layers"


@contextlib.contextmanager
def running() -> Iterator[Process]:
    """A started one, killed at the end."""
    made = Process()
    made.start()
    try:
        yield made
    finally:
        made.kill()
        made.clear()


class Process:
    """The simulated studio as a process that can be killed and started again on the same port."""

    def __init__(self) -> None:
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            self.port = probe.getsockname()[1]
        self._process: subprocess.Popen[bytes] | None = None
        self._card = tempfile.mkdtemp(prefix="true-backdrop-test-card-")

    def start(self) -> None:
        order = ["--layers", str(LAYERS), "--port", str(self.port), "--width", "900", "--card", self._card, "--seed", "1"]
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

    def clear(self) -> None:
        shutil.rmtree(self._card)

    def client(self) -> RemoteStudio:
        return RemoteStudio("127.0.0.1", self.port, patience_s=20)
