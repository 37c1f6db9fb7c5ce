"""The program as processes of its own, and a page in a headless browser."""

from __future__ import annotations

import contextlib
import os
import socket
import subprocess
import sys
import time
import urllib.request
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect
from tools.chromium import chromium

from true_backdrop.settings import Settings

ROOT = Path(__file__).parents[2]
#: A page on a busy machine has so long to show what is expected of it (milliseconds).
expect.set_options(timeout=20_000)


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    with chromium() as browser:
        yield browser


@pytest.fixture
def studio_address() -> str:
    """Of a studio device; none unless a test brings one."""
    return ""


@pytest.fixture
def address(config: Settings, tmp_path: Path, studio_address: str) -> Iterator[str]:
    """The web server and one worker as processes of their own."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    environment = {
        **os.environ,
        "TRUE_BACKDROP_PORT": str(port),
        "TRUE_BACKDROP_FRONTEND": str(ROOT / "frontend" / "dist"),
        "TRUE_BACKDROP_STUDIO": studio_address,
    }
    processes = []
    for module in ("web.server", "jobs.worker"):
        with (tmp_path / f"{module}.log").open("wb") as log:
            processes.append(
                subprocess.Popen(
                    [sys.executable, "-m", f"true_backdrop.{module}"], env=environment, stdout=log, stderr=log, cwd=ROOT
                )
            )
    address = f"http://127.0.0.1:{port}"
    deadline = time.monotonic() + 40
    while True:
        with contextlib.suppress(OSError), urllib.request.urlopen(f"{address}/api/health", timeout=2):
            break
        if time.monotonic() > deadline:
            pytest.fail((tmp_path / "web.server.log").read_text())
        time.sleep(0.1)
    yield address
    for process in processes:
        process.terminate()
    for process in processes:
        with contextlib.suppress(subprocess.TimeoutExpired):
            process.wait(15)
        process.kill()


@pytest.fixture
def page(browser: Browser, address: str) -> Iterator[Page]:
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=address, accept_downloads=True)
    page = context.new_page()
    faults: list[str] = []
    page.on("pageerror", lambda fault: faults.append(str(fault)))
    page.on(
        "console",
        lambda message: (
            faults.append(message.text) if message.type == "error" and "Failed to load resource" not in message.text else None
        ),
    )
    yield page
    context.close()
    assert faults == []
