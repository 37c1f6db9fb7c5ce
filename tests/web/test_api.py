"""The API through its client."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Iterator

import numpy as np
import pytest
from fastapi.testclient import TestClient
from PIL import Image

from tests.scenes import jpeg, scene
from true_backdrop.settings import Settings


@pytest.fixture
def client(config: Settings) -> Iterator[TestClient]:
    from true_backdrop.web.app import create_app
    from true_backdrop.web.dependencies import blob_store

    blob_store.cache_clear()
    with TestClient(create_app(), base_url="http://127.0.0.1:8470") as client:
        yield client
    blob_store.cache_clear()


@pytest.fixture
def shoot(client: TestClient) -> int:
    made = scene()
    shoot_id = client.post("/api/shoots", json={"name": "Test", "angles": ["front"]}).json()["id"]
    client.post(f"/api/shoots/{shoot_id}/products", json={"text": "HT-1,Mug\nHT-2,Jug"})
    for name, pixels in (("HT-1_front.jpg", made.frame), ("backdrop.jpg", made.backdrop), ("HT-2_front.jpg", scene("box").frame)):
        assert send(client, shoot_id, name, jpeg(pixels)).status_code == 201
    return int(shoot_id)


def send(client: TestClient, shoot_id: int, name: str, data: bytes):
    return client.post(f"/api/shoots/{shoot_id}/frames", files={"file": (name, data)}, data={"kind": "auto"})


def run_all(client: TestClient, shoot_id: int, outlets: tuple[str, ...] | list[str] = ("kiosk-nine", "pennywharf")) -> None:
    """Start a run and do its work here, as a worker would."""
    from true_backdrop.catalog.database import transaction
    from true_backdrop.catalog.runs import waiting_items
    from true_backdrop.jobs.shot_work import _backdrop, work_on_item
    from true_backdrop.settings import settings

    _backdrop.cache_clear()
    answer = client.post(f"/api/shoots/{shoot_id}/runs", json={"outlets": list(outlets)})
    assert answer.status_code == 201, answer.text
    with transaction(settings().database_url.get_secret_value()) as session:
        items = waiting_items(session, answer.json()["id"])
    for item in items:
        work_on_item(item)


def test_the_whole_slice(client: TestClient, shoot: int) -> None:
    """Frames in, run, sheet, delivery, archive: and the pixels in the archive are what the outlet demands."""
    run_all(client, shoot)
    told = client.get(f"/api/shoots/{shoot}").json()
    assert told["run"]["state"] == "done" and told["run"]["done"] == 2
    assert told["counts"] | {"ready": 0} == {
        "shots": 2,
        "with_frame": 2,
        "cut": 2,
        "clean": 2,
        "look_again": 0,
        "redo": 0,
        "ready": 0,
    }
    sheet = client.get(f"/api/shoots/{shoot}/sheets/pennywharf").json()
    assert [row["state"] for row in sheet["rows"]] == ["ready", "ready"]
    sent = client.post(f"/api/shoots/{shoot}/deliveries/pennywharf", json={"shot_ids": [row["shot_id"] for row in sheet["rows"]]})
    assert sent.status_code == 201
    archive = client.get(f"/api/deliveries/{sent.json()['id']}/zip")
    with zipfile.ZipFile(io.BytesIO(archive.content)) as opened:
        assert sorted(opened.namelist()) == ["HT-1_front.jpg", "HT-2_front.jpg", "report.csv"]
        data = opened.read("HT-1_front.jpg")
    assert len(data) <= 153_600
    pixels = np.asarray(Image.open(io.BytesIO(data)))
    assert pixels.shape == (2000, 2000, 3)
    assert (pixels[:20] == 255).all() and (pixels[:, -20:] == 255).all()
    assert "HT-2_front.jpg" in client.get(f"/api/deliveries/{sent.json()['id']}/report").text


def test_running_again_makes_nothing_twice(client: TestClient, shoot: int) -> None:
    run_all(client, shoot)
    before = client.get(f"/api/shoots/{shoot}/sheets/kiosk-nine").json()
    run_all(client, shoot)
    assert client.get(f"/api/shoots/{shoot}/sheets/kiosk-nine").json() == before


def test_a_changed_setting_makes_results_outdated_and_taking_it_back_makes_them_hold(client: TestClient, shoot: int) -> None:
    run_all(client, shoot)
    shot = client.get(f"/api/shoots/{shoot}/shots").json()[0]["id"]
    client.put(f"/api/shots/{shot}/treatment", json={"cut": {"match": 60, "material": "auto"}})
    states = [row["state"] for row in client.get(f"/api/shoots/{shoot}/sheets/kiosk-nine").json()["rows"]]
    assert states == ["outdated", "ready"]
    client.post(f"/api/shots/{shot}/take-back", json={"revision": 0})
    assert [row["state"] for row in client.get(f"/api/shoots/{shoot}/sheets/kiosk-nine").json()["rows"]] == ["ready", "ready"]


@pytest.mark.parametrize("view", ["frame", "matte", "white", "loud", "difference"])
def test_looks_follow_the_control(client: TestClient, shoot: int, view: str) -> None:
    shot = client.get(f"/api/shoots/{shoot}/shots").json()[0]["id"]
    whole = client.get(f"/api/shots/{shot}/look", params={"view": view, "match": 45, "width": 400})
    assert whole.status_code == 200
    assert Image.open(io.BytesIO(whole.content)).size == (400, 267)
    close = client.get(
        f"/api/shots/{shot}/look-close", params={"view": view, "match": 45, "top": 40, "left": 60, "width": 200, "height": 100}
    )
    assert Image.open(io.BytesIO(close.content)).size == (200, 100)
    assert client.get(f"/api/shots/{shot}/cut", params={"match": 45}).json()["match"] == 45


def test_finish_can_be_measured_and_read_at_a_point(client: TestClient, shoot: int) -> None:
    shot = client.get(f"/api/shoots/{shoot}/shots").json()[0]["id"]
    measured = client.get(f"/api/shots/{shot}/measure", params={"outlet": "kiosk-nine"}).json()
    assert measured["coverage"] == pytest.approx(0.85, abs=0.02) and measured["colour_moved"] < 1
    assert client.get(f"/api/shots/{shot}/point", params={"outlet": "kiosk-nine", "x": 0.01, "y": 0.01}).json() == {
        "red": 255,
        "green": 255,
        "blue": 255,
        "white": True,
    }
    assert client.get(f"/api/shots/{shot}/square", params={"outlet": "kiosk-nine", "mark": "not_white"}).status_code == 200


def test_refused_files_are_named_and_the_rest_goes_on(client: TestClient, shoot: int) -> None:
    refused = send(client, shoot, "HT-2_front.psd", b"8BPS....")
    assert refused.status_code == 422
    assert refused.headers["content-type"] == "application/problem+json"
    assert "HT-2_front.psd" in refused.json()["detail"]
    cut_short = send(client, shoot, "HT-2_front.jpg", jpeg(scene().frame)[:5000])
    assert cut_short.status_code == 422 and "damaged" in cut_short.json()["detail"]
    assert send(client, shoot, "other.jpg", jpeg(scene(seed=11).frame)).status_code == 201


def test_frames_are_matched_by_hand(client: TestClient, shoot: int) -> None:
    shots = client.get(f"/api/shoots/{shoot}/shots").json()
    frame = send(client, shoot, "odd name.jpg", jpeg(scene(seed=12).frame)).json()["frame"]
    assert [f["id"] for f in client.get(f"/api/shoots/{shoot}").json()["waiting"]] == [frame["id"]]
    client.put(f"/api/frames/{frame['id']}", json={"kind": "product", "shot_id": shots[1]["id"]})
    detail = client.get(f"/api/shots/{shots[1]['id']}").json()
    assert detail["shot"]["frame"]["id"] == frame["id"] and len(detail["takes"]) == 2


def test_a_backdrop_of_another_size_is_said_on_the_shot(client: TestClient, shoot: int) -> None:
    send(client, shoot, "backdrop 2.jpg", jpeg(scene(size=(320, 480)).backdrop))
    run_all(client, shoot)
    cut = client.get(f"/api/shoots/{shoot}/shots").json()[0]["cut"]
    assert cut["verdict"] == "redo" and "720 x 480 px but the backdrop frame is 480 x 320" in cut["reasons"][0]
    assert client.get(f"/api/shoots/{shoot}/sheets/kiosk-nine").json()["rows"][0]["state"] == "redo"


@pytest.mark.parametrize(
    ("method", "path", "body", "status", "said"),
    [
        ("GET", "/api/shoots/99", None, 404, "no shoot 99"),
        ("GET", "/api/shots/99", None, 404, "no shot 99"),
        ("POST", "/api/shoots", {"name": ""}, 422, "name"),
        ("POST", "/api/shoots", {"name": "x", "angles": ["a", "A"]}, 422, "different names"),
        ("POST", "/api/runs/99/stop", None, 404, "no run 99"),
        ("POST", "/api/shoots/{shoot}/angles", {"name": "Front"}, 409, "already"),
        ("POST", "/api/shoots/{shoot}/runs", {"outlets": ["nowhere"]}, 404, "no outlet nowhere"),
        ("POST", "/api/shoots/{shoot}/deliveries/kiosk-nine", {"shot_ids": [1, 2]}, 409, "run the shoot first"),
        ("PUT", "/api/shoots/{shoot}/treatment", {"cut": {"match": 400}}, 422, "match"),
        (
            "POST",
            "/api/outlets",
            {"name": "pennywharf", "title": "X", "side_px": 500, "quality": 80},
            409,
            "another short name",
        ),
        (
            "POST",
            "/api/outlets",
            {"name": "mine", "title": "X", "side_px": 500, "quality": 80, "name_pattern": "{angle}"},
            422,
            "code",
        ),
        ("GET", "/api/pictures/" + "0" * 64, None, 410, "lost"),
        ("GET", "/api/pictures/..%2F..%2Fetc", None, 404, ""),
    ],
)
def test_mistakes_get_a_sentence(
    client: TestClient, shoot: int, method: str, path: str, body: object, status: int, said: str
) -> None:
    answer = client.request(method, path.replace("{shoot}", str(shoot)), json=body)
    assert answer.status_code == status, answer.text
    assert said in answer.json()["detail"]


def test_own_outlets_are_added_changed_and_removed_and_the_shipped_ones_stay(client: TestClient) -> None:
    spec = {"name": "mine", "title": "Mine", "side_px": 500, "quality": 80, "format": "jpeg"}
    shipped = ["pennywharf", "kiosk-nine", "larkfield-home"]

    def names() -> list[str]:
        return [outlet["name"] for outlet in client.get("/api/outlets").json()]

    assert client.post("/api/outlets", json=spec).status_code == 201
    assert names() == [*shipped, "mine"]
    assert client.post("/api/outlets", json=spec).status_code == 409
    assert client.put("/api/outlets/mine", json=spec | {"side_px": 800}).status_code == 200
    mine = client.get("/api/outlets").json()[-1]
    assert (mine["side_px"], mine["shipped"]) == (800, False)
    assert "stays mine" in client.put("/api/outlets/mine", json=spec | {"name": "yours"}).json()["detail"]
    assert "ships with the program" in client.delete("/api/outlets/pennywharf").json()["detail"]
    assert "no outlet" in client.put("/api/outlets/nowhere", json=spec).json()["detail"]
    assert client.delete("/api/outlets/mine").status_code == 204
    assert names() == shipped


def test_another_framing_finishes_again_without_cutting_again(
    client: TestClient, shoot: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    run_all(client, shoot)
    before = client.get(f"/api/shoots/{shoot}/shots").json()
    changed = client.put(f"/api/shoots/{shoot}/treatment", json={"frame": {"coverage": 0.6}})
    assert changed.status_code == 200, changed.text
    from true_backdrop.core import pipeline

    def never(*_: object, **__: object) -> None:
        raise AssertionError("cut again")

    monkeypatch.setattr(pipeline, "propose_match", never)
    monkeypatch.setattr(pipeline, "decide_cut", never)
    # Larkfield Home leaves coverage to the treatment, so its pictures are outdated; the cuts still hold.
    run_all(client, shoot, ["larkfield-home"])
    after = client.get(f"/api/shoots/{shoot}/shots").json()
    for old, new in zip(before, after, strict=True):
        assert new["cut"]["matte"] == old["cut"]["matte"]
        assert new["cut"]["square"] != old["cut"]["square"]
        assert new["problem"] is None
    assert client.get(f"/api/shoots/{shoot}").json()["counts"]["ready"]["larkfield-home"] == 2


def test_changing_an_outlet_makes_its_pictures_outdated(client: TestClient, shoot: int) -> None:
    spec = {"name": "mine", "title": "Mine", "side_px": 300, "quality": 80, "format": "jpeg"}
    client.post("/api/outlets", json=spec)
    run_all(client, shoot, ["mine"])
    sheet = client.get(f"/api/shoots/{shoot}/sheets/mine").json()
    assert [row["state"] for row in sheet["rows"]] == ["ready", "ready"]
    client.put("/api/outlets/mine", json=spec | {"side_px": 320})
    sheet = client.get(f"/api/shoots/{shoot}/sheets/mine").json()
    assert [row["state"] for row in sheet["rows"]] == ["outdated", "outdated"]
    client.delete("/api/outlets/mine")
    assert client.get(f"/api/shoots/{shoot}/sheets/mine").status_code == 404


class TestGuard:
    """Only this address, only this page."""

    def test_other_hosts_are_refused(self, client: TestClient) -> None:
        assert client.get("/api/shoots", headers={"host": "evil.example"}).status_code == 403

    def test_writes_from_other_origins_are_refused(self, client: TestClient) -> None:
        answer = client.post("/api/shoots", json={"name": "x"}, headers={"origin": "http://evil.example"})
        assert answer.status_code == 403
        assert client.post("/api/shoots", json={"name": "x"}, headers={"origin": "http://127.0.0.1:8470"}).status_code == 201

    def test_the_policy_is_strict(self, client: TestClient) -> None:
        policy = client.get("/api/shoots").headers["content-security-policy"]
        assert "default-src 'none'" in policy and "unsafe-eval" not in policy and "http" not in policy


def test_a_database_that_is_away_is_said(client: TestClient, config: Settings, monkeypatch: pytest.MonkeyPatch) -> None:
    from true_backdrop import settings as settings_module

    monkeypatch.setenv("TRUE_BACKDROP_DATABASE_URL", "postgresql+psycopg://nobody@127.0.0.1:1/nothing")
    settings_module.settings.cache_clear()
    answer = client.get("/api/shoots")
    assert answer.status_code == 503
    assert "nothing is lost" in answer.json()["detail"]
    monkeypatch.setenv("TRUE_BACKDROP_DATABASE_URL", config.database_url.get_secret_value())
    settings_module.settings.cache_clear()
    assert client.get("/api/shoots").status_code == 200
