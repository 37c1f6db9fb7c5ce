"""The whole way at the table with all processes: live view from device to page, and a take from the card to its square."""

from __future__ import annotations

import json
import queue
import statistics
import threading
import time
from collections import defaultdict
from collections.abc import Callable, Iterator
from typing import Any

import httpx2 as httpx
from websockets.sync.client import connect

from bench.program import Running, running
from true_backdrop.studio.client import RemoteStudio
from true_backdrop.web.routers.studio import MADE_AT

WIDTH = 6000
TAKES = 24
LIVE_S = 8.0
CODES = ("HT-204", "HT-215", "HT-619", "HT-402")
AIM_S = 1.5


class PreparedCamera(RemoteStudio):
    """A camera that has its pictures on the card when the shutter is pressed: exposing is the camera's own time."""

    def __init__(self, studio: RemoteStudio) -> None:
        super().__init__(*studio._address, patience_s=120)
        self.ready: list[str] = []
        self.parts: dict[str, list[float]] = defaultdict(list)

    def release(self) -> str:
        return self.ready.pop(0)

    def waiting(self) -> list[str]:
        return []

    def fetch(self, file_name: str) -> Any:
        return _timed(self.parts["download from the device"], lambda: super(PreparedCamera, self).fetch(file_name))


def _timed(into: list[float], work: Callable[[], Any]) -> Any:
    began = time.perf_counter()
    result = work()
    into.append(time.perf_counter() - began)
    return result


def _p95(values: list[float]) -> float:
    return sorted(values)[min(len(values) - 1, int(0.95 * len(values)))]


def live_view(program: Running, shot: int) -> tuple[float, list[float]]:
    """Pictures a second, and seconds from the device's making each to its arrival at a page that reads placement, too."""
    ages: list[float] = []
    with connect(program.address.replace("http", "ws") + "/api/studio/live", origin=program.address) as line:
        line.send(json.dumps({"client": "bench", "shot": shot}))
        line.recv()
        began = time.monotonic()
        while time.monotonic() - began < LIVE_S:
            message = line.recv()
            if isinstance(message, bytes):
                ages.append(time.time() - MADE_AT.unpack_from(message)[0])
    return len(ages) / LIVE_S, ages


class Page:
    """What a page does: it listens, and fetches what has changed."""

    def __init__(self, program: Running, shoot: int) -> None:
        self.http = httpx.Client(base_url=program.address, timeout=60)
        self._heard: queue.Queue[str] = queue.Queue()
        threading.Thread(target=self._listen, args=(shoot,), daemon=True).start()

    def _listen(self, shoot: int) -> None:
        try:
            with self.http.stream("GET", f"/api/shoots/{shoot}/events") as stream:
                for line in stream.iter_lines():
                    if line.startswith("data:"):
                        self._heard.put(line)
        except httpx.HTTPError:
            pass  # the program ends

    def wait_for_square(self, shot: int, before: str | None) -> str:
        while True:
            self._heard.get(timeout=60)
            cut = self.http.get(f"/api/shots/{shot}/at-table").json()["shot"]["cut"]
            if cut and cut["square"] and cut["square"] != before and cut["current"]:
                assert self.http.get(cut["square"]).status_code == 200
                return str(cut["square"])


def _shots(page: httpx.Client, shoot: int) -> Iterator[tuple[str, int]]:
    for shot in page.get(f"/api/shoots/{shoot}/shots").json():
        yield shot["code"], shot["id"]


def takes(program: Running, page: Page, shots: dict[str, int]) -> tuple[list[float], dict[str, list[float]]]:
    """Seconds from the finished exposure to the square at the page, take by take, and of the parts in the web process."""
    camera = PreparedCamera(program.studio)
    desk = program.app.state.studio
    desk._remote = camera
    for code in (None, *CODES):
        program.studio.hands({"table": {"code": code, "angle": "front"}})
        for _ in range(1 if code is None else TAKES // len(CODES)):
            camera.ready.append(program.studio.release())
    first = next(iter(shots.values()))
    page.http.post(f"/api/shots/{first}/release", json={"client": "bench", "kind": "backdrop"}).raise_for_status()
    whole, squares = [], dict[int, str]()
    for code in CODES:
        for turn in range(TAKES // len(CODES)):
            shot = shots[code]
            began = time.perf_counter()
            _timed(
                camera.parts["answer to the shutter"],
                lambda shot=shot: page.http.post(f"/api/shots/{shot}/release", json={"client": "bench"}).raise_for_status(),
            )
            squares[shot] = page.wait_for_square(shot, squares.get(shot))
            if turn or code != CODES[0]:  # the very first one warms the workers
                whole.append(time.perf_counter() - began)
            time.sleep(0.3)
    return whole, camera.parts


def table() -> list[str]:
    with running(WIDTH) as program:
        http = httpx.Client(base_url=program.address, timeout=60)
        shoot = http.post("/api/shoots", json={"name": "bench", "angles": ["front"]}).json()["id"]
        http.post(f"/api/shoots/{shoot}/products", json={"text": "\n".join(CODES)})
        shots = dict(_shots(http, shoot))
        program.studio.hands({"table": {"code": CODES[0], "angle": "front"}})
        rate, ages = live_view(program, shots[CODES[0]])
        page = Page(program, shoot)
        whole, parts = takes(program, page, shots)
    rows = [
        ("live view, 960 px: pictures a second at the page", f"{rate:.0f}", "12"),
        (
            f"live view: from the device's making to the page, 95th percentile (median {1000 * statistics.median(ages):.0f} ms)",
            f"{1000 * _p95(ages):.0f} ms",
            "150 ms",
        ),
        ("take: download from the device, median", f"{1000 * statistics.median(parts['download from the device']):.0f} ms", ""),
        (
            "take: whole answer to the shutter (download, check, store, rows), median",
            f"{1000 * statistics.median(parts['answer to the shutter']):.0f} ms",
            "",
        ),
        (
            f"take: from the card to its finished square at the page, 95th percentile (median {1000 * statistics.median(whole):.0f} ms)",
            f"{1000 * _p95(whole):.0f} ms",
            f"{1000 * AIM_S:.0f} ms",
        ),
    ]
    return [
        "## At the table, all processes on two cores, 24-megapixel takes",
        "",
        "| what | measured | aim |",
        "|---|---|---|",
        *(f"| {' | '.join(row)} |" for row in rows),
        "",
        f"{len(whole)} takes. The camera's exposure is not in it; the page is a client that listens, asks and fetches as a browser does, but draws nothing.",
    ]
