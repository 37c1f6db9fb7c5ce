"""The table over the API: shutter, guides, backdrop frames, set-ups, and a studio that goes away."""

from __future__ import annotations

import time

import pytest
from fastapi.testclient import TestClient

from tests.web.table import hands, live_view, look, named, release


def test_a_take_is_cut_against_a_guess_until_the_empty_set_is_shot(client: TestClient, shoot: int) -> None:
    jug = named(client, shoot, "HT-204", "front")
    hands(client, code="HT-204")
    made = release(client, jug)
    assert made.status_code == 201, made.text
    assert made.json()["shot"]["takes"] == 1
    first = look(client, jug)["shot"]["cut"]
    assert first["estimated"] and first["square"] and first["verdict"] == "look_again"
    assert any("guessed" in reason for reason in first["reasons"])
    hands(client, code=None)
    assert release(client, jug, "backdrop").json()["frame"]["kind"] == "backdrop"
    again = look(client, jug)
    assert not again["shot"]["cut"]["estimated"] and again["shot"]["cut"]["current"]
    assert {found["what"]: found["state"] for found in again["shot"]["cut"]["freshness"]}["focus"] == "fits"
    assert again["backdrop"]["file_name"].startswith("TB_")


def test_each_angle_has_its_own_backdrop_frame(client: TestClient, shoot: int) -> None:
    for angle in ("front", "above"):
        hands(client, code=None, angle=angle)
        release(client, named(client, shoot, "HT-204", angle), "backdrop")
        hands(client, code="HT-204", angle=angle)
        release(client, named(client, shoot, "HT-204", angle))
    cuts = [look(client, named(client, shoot, "HT-204", angle))["shot"]["cut"] for angle in ("front", "above")]
    assert [cut["verdict"] for cut in cuts] == ["clean", "clean"]
    assert all(cut["current"] for cut in cuts)


def test_a_lamp_that_fails_is_named_at_the_table(client: TestClient, shoot: int) -> None:
    jug = named(client, shoot, "HT-204", "front")
    hands(client, code=None)
    release(client, jug, "backdrop")
    hands(client, code="HT-204")
    client.post("/api/studio/hands", json={"table": {}, "faults": {"front_lamp_lost": 0.6}})
    release(client, jug)
    found = {f["what"]: f for f in look(client, jug)["shot"]["cut"]["freshness"]}
    client.post("/api/studio/hands", json={"table": {}, "faults": {"front_lamp_lost": 0.0}})
    assert found["light"]["state"] == "shoot again" and "lamp" in found["light"]["said"]


def test_the_list_leads_in_either_order_and_skips(client: TestClient, shoot: int) -> None:
    def next_shot(order: str) -> tuple[str, str]:
        found = client.get(f"/api/shoots/{shoot}/next-shot", params={"order": order}).json()
        return found["code"], found["angle"]

    assert next_shot("product") == ("HT-204", "front")
    client.put(f"/api/shots/{named(client, shoot, 'HT-204', 'front')}/skip", json={"skipped": True})
    assert next_shot("product") == ("HT-204", "above")
    assert next_shot("angle") == ("HT-215", "front")


def test_a_guide_is_chosen_drawn_and_read(client: TestClient, shoot: int) -> None:
    jug = named(client, shoot, "HT-204", "front")
    hands(client, code=None, right=0, down=0, turn=0, size=1)
    release(client, jug, "backdrop")
    hands(client, code="HT-204")
    frame = release(client, jug).json()["frame"]["id"]
    guide = client.put(f"/api/shots/{jug}/guide", json={"frame_id": frame}).json()["guide"]
    assert client.get(guide["view"]).headers["content-type"] == "image/jpeg"
    assert client.get(guide["outline"]).content[:4] == b"\x89PNG"
    hands(client, right=0.04)
    with live_view(client) as live:
        live.send_json({"client": "here", "shot": jug})
        for _ in range(80):
            message = live.receive()
            if "text" in message and '"told":{' in message["text"] and '"way":"left"' in message["text"]:
                break
        else:
            pytest.fail("the live view never said how far off the product is")
    hands(client, right=0)


def test_one_window_holds_the_shutter(client: TestClient, shoot: int) -> None:
    jug = named(client, shoot, "HT-204", "front")
    assert release(client, jug, who="first").status_code == 201
    refused = release(client, jug, who="second")
    assert refused.status_code == 409 and "another window" in refused.json()["detail"]
    taken_over = client.post(f"/api/shots/{jug}/release", json={"client": "second", "take_over": True})
    assert taken_over.status_code == 201


def test_a_silhouette_puts_the_lamps_back(client: TestClient, shoot: int) -> None:
    jug = named(client, shoot, "HT-204", "front")
    hands(client, code="HT-204")
    frame = release(client, jug, "silhouette").json()["frame"]
    assert frame["kind"] == "silhouette" and frame["shot_id"] == jug
    assert client.get("/api/studio").json()["lamps"]["front"] == 1.0
    assert client.get(f"/api/shots/{jug}").json()["shot"]["takes"] == 0


def test_setups_are_saved_recalled_and_locked(client: TestClient) -> None:
    camera = client.get("/api/studio").json()["camera"]
    client.put("/api/studio/camera", json=camera | {"f_number": 16, "shutter_s": 1 / 60})
    saved = client.post("/api/setups", json={"name": "Small things"}).json()
    client.put("/api/studio/camera", json=camera)
    assert client.post(f"/api/setups/{saved['id']}/recall").json()["camera"]["f_number"] == 16
    client.put(f"/api/setups/{saved['id']}", json={"locked": True})
    refused = client.put(f"/api/setups/{saved['id']}", json={"renew": True})
    assert refused.status_code == 409 and "locked" in refused.json()["detail"]
    assert client.delete(f"/api/setups/{saved['id']}").status_code == 409
    assert client.post("/api/setups", json={"name": "Small things"}).status_code == 409
    client.put("/api/studio/camera", json=camera)


def test_white_balance_by_pointing_at_the_backdrop(client: TestClient) -> None:
    camera = client.get("/api/studio").json()["camera"]
    client.put("/api/studio/camera", json=camera | {"kelvin": 4300, "shutter_s": 1 / 200})
    with live_view(client) as live:
        while "bytes" not in live.receive():
            pass
        found = client.post("/api/studio/neutral", json={"x": 0.5, "y": 0.2})
    assert found.status_code == 200, found.text
    assert found.json()["camera"]["kelvin"] == pytest.approx(5200, abs=250)
    client.put("/api/studio/camera", json=camera)


def test_a_pulled_cable_and_a_full_card_are_said(client: TestClient, shoot: int) -> None:
    jug = named(client, shoot, "HT-204", "front")
    client.post("/api/studio/hands", json={"table": {}, "faults": {"card_files": 0}})
    full = release(client, jug)
    assert full.status_code == 507 and "card is full" in full.json()["detail"]
    client.post("/api/studio/hands", json={"table": {}, "faults": {"card_files": None, "unplugged_s": 0.8}})
    gone = release(client, jug)
    assert gone.status_code == 502 and "cable" in gone.json()["detail"]
    assert client.get("/api/studio").json()["connected"] is False
    deadline = time.monotonic() + 20
    while not client.get("/api/studio").json()["connected"]:
        assert time.monotonic() < deadline, "the camera never came back"
        time.sleep(0.1)
    assert client.get(f"/api/shots/{jug}").json()["shot"]["takes"] == 0


def test_another_origin_may_not_watch(client: TestClient) -> None:
    from starlette.websockets import WebSocketDisconnect

    with (
        pytest.raises(WebSocketDisconnect),
        client.websocket_connect("ws://127.0.0.1:8470/api/studio/live", headers={"origin": "http://elsewhere.example"}),
    ):
        pass
