"""A program with a simulated studio, and a shoot of two products and two angles."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from fastapi.testclient import TestClient

from tests.studio.process import Process, running
from true_backdrop import settings as settings_module
from true_backdrop.settings import Settings
from true_backdrop.studio.protocols import CameraSettings, LampSettings


@pytest.fixture(scope="module")
def process() -> Iterator[Process]:
    with running() as made:
        yield made


@pytest.fixture
def client(config: Settings, process: Process, monkeypatch: pytest.MonkeyPatch) -> Iterator[TestClient]:
    from true_backdrop.web.app import create_app
    from true_backdrop.web.dependencies import blob_store

    monkeypatch.setenv("TRUE_BACKDROP_STUDIO", f"127.0.0.1:{process.port}")
    settings_module.settings.cache_clear()
    blob_store.cache_clear()
    studio = process.client()
    studio.set_camera(CameraSettings())
    studio.set_lamps(LampSettings())
    studio.hands({"table": {"code": None, "angle": "front", "turntable": 0.0}, "faults": {"card_files": None}})
    for name in studio.waiting():
        studio.forget(name)
    with TestClient(create_app(), base_url="http://127.0.0.1:8470") as client:
        yield client
    blob_store.cache_clear()


@pytest.fixture
def shoot(client: TestClient) -> int:
    shoot_id = client.post("/api/shoots", json={"name": "Table", "angles": ["front", "above"]}).json()["id"]
    client.post(f"/api/shoots/{shoot_id}/products", json={"text": "HT-204,Jug\nHT-215,Mug,pale"})
    return int(shoot_id)
