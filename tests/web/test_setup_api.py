"""Framing box, set-ups, proposals, guides of earlier shoots, and the choice among takes."""

from __future__ import annotations

from fastapi.testclient import TestClient

from tests.web.table import hands, look, named, release

BOX = {"left": 0.2, "top": 0.1, "right": 0.8, "bottom": 0.95}


def test_the_framing_box_is_kept_with_the_set_up_and_with_each_take(client: TestClient, shoot: int) -> None:
    from true_backdrop.catalog.database import transaction
    from true_backdrop.catalog.frames import get_frame
    from true_backdrop.settings import settings

    jug = named(client, shoot, "HT-204", "front")
    assert client.put(f"/api/shoots/{shoot}/framing", json={"framing": BOX}).status_code == 204
    hands(client, code="HT-204")
    frame_id = release(client, jug).json()["frame"]["id"]
    with transaction(settings().database_url.get_secret_value()) as session:
        about = get_frame(session, frame_id).made_with
    assert about["framing"] == BOX and about["camera"]["f_number"] == 11
    saved = client.post("/api/setups", json={"name": "Small things", "shoot_id": shoot}).json()
    assert saved["framing"] == BOX
    client.put(f"/api/shoots/{shoot}/framing", json={"framing": None})
    assert client.get(f"/api/shoots/{shoot}").json()["treatment"]["cut"]["framing"] is None
    client.post(f"/api/setups/{saved['id']}/recall", params={"shoot_id": shoot})
    assert client.get(f"/api/shoots/{shoot}").json()["treatment"]["cut"]["framing"] == BOX


def test_a_box_without_an_inside_is_refused(client: TestClient, shoot: int) -> None:
    told = client.put(f"/api/shoots/{shoot}/framing", json={"framing": BOX | {"right": 0.21}})
    assert told.status_code == 422 and "a tenth of the frame" in told.json()["detail"]


def test_what_lies_outside_the_box_is_not_in_the_square(client: TestClient, shoot: int) -> None:
    """The jug is left of the box: there is nothing to show; with the box around it, it is there."""
    jug = named(client, shoot, "HT-204", "front")
    hands(client, code="HT-204")
    release(client, jug)
    hands(client, code=None)
    release(client, jug, "backdrop")
    assert look(client, jug)["shot"]["cut"]["square"]
    client.put(f"/api/shoots/{shoot}/framing", json={"framing": {"left": 0.85, "top": 0.0, "right": 1.0, "bottom": 1.0}})
    assert look(client, jug)["shot"]["cut"]["square"] is None
    client.put(f"/api/shoots/{shoot}/framing", json={"framing": BOX})
    assert look(client, jug)["shot"]["cut"]["verdict"] == "clean", look(client, jug)["shot"]["cut"]["reasons"]


def test_the_empty_set_and_the_silhouette_are_proposed_when_it_is_time(client: TestClient, shoot: int) -> None:
    jug, mug = (named(client, shoot, code, "front") for code in ("HT-204", "HT-215"))
    assert client.get(f"/api/shots/{jug}/at-table").json()["proposal"] is None
    hands(client, code="HT-204")
    release(client, jug)
    told = client.get(f"/api/shots/{mug}/at-table").json()["proposal"]
    assert told["kind"] == "backdrop" and "1 take of front" in told["said"]
    hands(client, code=None)
    release(client, jug, "backdrop")
    look(client, jug)
    assert client.get(f"/api/shots/{jug}/at-table").json()["proposal"] is None
    hands(client, code="HT-215")
    release(client, mug)
    told = look(client, mug)["proposal"]
    assert told["kind"] == "silhouette" and "pale" in told["said"]
    release(client, mug, "silhouette")
    told = look(client, mug)
    assert told["proposal"]["kind"] == "backlit" and "1 silhouette from front" in told["proposal"]["said"]
    guessed = told["shot"]["cut"]
    hands(client, code=None)
    assert release(client, mug, "backlit").status_code == 201
    told = look(client, mug)
    assert told["proposal"] is None
    # The same take, the same settings: what was shot beside it made another cut of it.
    assert told["shot"]["cut"]["current"] and told["shot"]["cut"]["matte"] != guessed["matte"]


def test_a_guide_of_an_earlier_shoot_serves_the_next(client: TestClient, shoot: int) -> None:
    jug = named(client, shoot, "HT-204", "front")
    hands(client, code="HT-204")
    frame_id = release(client, jug).json()["frame"]["id"]
    client.put(f"/api/shots/{jug}/guide", json={"frame_id": frame_id})
    later = client.post("/api/shoots", json={"name": "Later", "angles": ["front"]}).json()["id"]
    client.post(f"/api/shoots/{later}/products", json={"text": "HT-619,Bell"})
    (known,) = client.get("/api/guides").json()
    assert (known["shoot"], known["angle"]) == ("Table", "front")
    bell = named(client, later, "HT-619", "front")
    told = client.put(f"/api/shots/{bell}/guide", json={"frame_id": known["guide"]["frame"]["id"]}).json()
    assert told["guide"]["frame"]["id"] == frame_id


def test_an_earlier_take_can_be_chosen_again(client: TestClient, shoot: int) -> None:
    jug = named(client, shoot, "HT-204", "front")
    hands(client, code=None)
    release(client, jug, "backdrop")
    hands(client, code="HT-204")
    first = release(client, jug).json()["frame"]["id"]
    look(client, jug)
    hands(client, code="HT-204", right=0.05)
    second = release(client, jug).json()["frame"]["id"]
    moved = look(client, jug)["shot"]["cut"]
    chosen = client.put(f"/api/shots/{jug}/take", json={"frame_id": first}).json()
    assert chosen["frame"]["id"] == first and chosen["takes"] == 2
    back = look(client, jug)
    assert back["shot"]["cut"]["current"] and back["shot"]["cut"]["square"] != moved["square"]
    assert [take["id"] for take in back["takes"]] == [first, second]
    foreign = named(client, shoot, "HT-215", "front")
    assert "no take of this shot" in client.put(f"/api/shots/{foreign}/take", json={"frame_id": first}).json()["detail"]


class TestViewsOfTheSet:
    """Which angles share an empty set."""

    def test_a_backdrop_frame_of_another_angle_is_not_taken_for_this_ones(self, client: TestClient, shoot: int) -> None:
        front, above = (named(client, shoot, "HT-204", angle) for angle in ("front", "above"))
        release(client, front, "backdrop")
        hands(client, code="HT-204", angle="above")
        release(client, above)
        told = look(client, above)
        assert told["backdrop"] is None and told["shot"]["cut"]["estimated"]
        assert told["proposal"]["kind"] == "backdrop"

    def test_where_the_camera_stands_alike_one_empty_set_serves_both(self, client: TestClient, shoot: int) -> None:
        client.post(f"/api/shoots/{shoot}/angles", json={"name": "turned"})
        front, turned = (named(client, shoot, "HT-204", angle) for angle in ("front", "turned"))
        release(client, front, "backdrop")
        hands(client, code="HT-204", angle="turned")
        release(client, turned)
        other = next(v for v in look(client, turned)["other_views"] if v["name"] == "front")
        told = client.put(f"/api/shots/{turned}/stands-as", json={"angle_id": other["angle_id"]}).json()
        assert told["backdrop"] is not None and told["stands_as"] == other["angle_id"]
        assert not look(client, turned)["shot"]["cut"]["estimated"]
        # And back: it is a view of its own again.
        assert client.put(f"/api/shots/{turned}/stands-as", json={"angle_id": None}).json()["backdrop"] is None

    def test_all_positions_of_a_spin_stand_alike(self, client: TestClient, shoot: int) -> None:
        client.post(f"/api/shoots/{shoot}/spins", json={"name": "spin", "positions": 3, "codes": ["HT-204"]})
        front, first, third = (named(client, shoot, "HT-204", angle) for angle in ("front", "spin-01", "spin-03"))
        release(client, front, "backdrop")
        views = client.get(f"/api/shots/{first}/at-table").json()["other_views"]
        assert [view["name"] for view in views] == ["front", "above"]
        client.put(f"/api/shots/{first}/stands-as", json={"angle_id": views[0]["angle_id"]})
        assert client.get(f"/api/shots/{third}/at-table").json()["backdrop"] is not None

    def test_an_angle_cannot_stand_as_itself(self, client: TestClient, shoot: int) -> None:
        front, above = (named(client, shoot, "HT-204", angle) for angle in ("front", "above"))
        (view,) = client.get(f"/api/shots/{above}/at-table").json()["other_views"]
        refused = client.put(f"/api/shots/{front}/stands-as", json={"angle_id": view["angle_id"]})
        assert refused.status_code == 409
        assert client.put(f"/api/shots/{front}/stands-as", json={"angle_id": 10**6}).status_code == 404
