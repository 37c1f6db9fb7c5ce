"""What tests at the table do again and again."""

from __future__ import annotations

import contextlib
from concurrent.futures import CancelledError

from fastapi.testclient import TestClient


def named(client: TestClient, shoot: int, code: str, angle: str) -> int:
    return next(s["id"] for s in client.get(f"/api/shoots/{shoot}/shots").json() if (s["code"], s["angle"]) == (code, angle))


def hands(client: TestClient, **table: object) -> None:
    assert client.post("/api/studio/hands", json={"table": table, "faults": {}}).status_code == 200


def release(client: TestClient, shot: int, kind: str = "product", who: str = "here"):
    return client.post(f"/api/shots/{shot}/release", json={"client": who, "kind": kind})


@contextlib.contextmanager
def live_view(client: TestClient):
    """The live view's line. The test client cancels what is still being read when it is left."""
    with contextlib.suppress(CancelledError), client.websocket_connect("ws://127.0.0.1:8470/api/studio/live") as live:
        yield live


def look(client: TestClient, shot: int) -> dict:
    """What a worker does with a fresh take, and what the page is told then."""
    from true_backdrop.jobs.shot_work import look_at_take

    look_at_take(shot)
    return client.get(f"/api/shots/{shot}/at-table").json()
