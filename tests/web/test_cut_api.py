"""The station Cut through its API: touches and their history, the chart, carrying, accepting, out and back."""

from __future__ import annotations

import io
import json
import zipfile

import numpy as np
import pytest
from fastapi.testclient import TestClient
from PIL import Image

from tests.scenes import jpeg, scene
from tests.web.test_api import client, run_all, send, shoot  # noqa: F401  fixtures

MIDDLE = [[0.5, 0.5]]


def shots_of(client: TestClient, shoot: int) -> dict[str, dict]:  # noqa: F811
    return {s["code"]: s for s in client.get(f"/api/shoots/{shoot}/shots").json()}


def matte(client: TestClient, shot: int, **query: object) -> np.ndarray:  # noqa: F811
    answer = client.get(f"/api/shots/{shot}/look", params={"view": "matte", "width": 720, **query})
    assert answer.status_code == 200, answer.text
    return np.asarray(Image.open(io.BytesIO(answer.content)).convert("L"), float) / 255


def touch(client: TestClient, shot: int, kind: str, points: object = MIDDLE, **about: float):  # noqa: F811
    return client.post(f"/api/shots/{shot}/touches", json={"kind": kind, "points": points, **about})


class TestTouchesAndHistory:
    def test_three_touches_are_undone_one_by_one_and_any_is_chosen_again(self, client: TestClient, shoot: int) -> None:  # noqa: F811
        shot = shots_of(client, shoot)["HT-1"]["id"]
        seen = [matte(client, shot).mean()]
        for x in (0.42, 0.5, 0.58):
            assert touch(client, shot, "backdrop", [[x, 0.5]], width=0.05, reach=0).status_code == 201
            seen.append(matte(client, shot).mean())
        assert seen == sorted(seen, reverse=True) and len(set(seen)) == 4
        for before in seen[2::-1]:
            assert client.post(f"/api/shots/{shot}/undo").status_code == 200
            assert matte(client, shot).mean() == pytest.approx(before)
        answer = client.post(f"/api/shots/{shot}/undo")
        assert answer.status_code == 409 and "nothing to take back" in answer.json()["detail"]
        history = client.get(f"/api/shots/{shot}/revisions").json()
        assert [r["said"] for r in history[-3:]] == ["backdrop here"] * 3
        client.post(f"/api/shots/{shot}/take-back", json={"revision": history[-3]["id"]})
        assert matte(client, shot).mean() == pytest.approx(seen[3])
        client.post(f"/api/shots/{shot}/undo")
        assert matte(client, shot).mean() == pytest.approx(seen[2])

    def test_touches_hold_while_the_control_moves_and_in_the_finished_picture(self, client: TestClient, shoot: int) -> None:  # noqa: F811
        shot = shots_of(client, shoot)["HT-1"]["id"]
        touch(client, shot, "backdrop", width=0.1, reach=0)
        for match in (20, 50, 80):
            assert matte(client, shot, match=match)[240, 360] == 0
        run_all(client, shoot, ["pennywharf"])
        cut = shots_of(client, shoot)["HT-1"]["cut"]
        assert cut["current"]
        square = Image.open(io.BytesIO(client.get(cut["square"]).content)).convert("RGB")
        colours = np.asarray(square.resize((100, 100)))[40:60, 40:60].reshape(-1, 3)
        assert (colours > 250).all(axis=1).any()  # white where the touch was, in the middle of the product

    @pytest.mark.parametrize(
        "stroke",
        [
            {"kind": "product", "points": []},
            {"kind": "product", "points": [[0.5]]},
            {"kind": "product", "points": [[0.5, 7]]},
            {"kind": "ghost", "points": MIDDLE},
            {"kind": "product", "points": MIDDLE, "width": 0},
            {"kind": "product", "points": MIDDLE, "reach": 2},
        ],
    )
    def test_a_senseless_touch_changes_nothing(self, client: TestClient, shoot: int, stroke: dict) -> None:  # noqa: F811
        shot = shots_of(client, shoot)["HT-1"]["id"]
        assert client.post(f"/api/shots/{shot}/touches", json=stroke).status_code == 422
        assert client.get(f"/api/shots/{shot}/revisions").json() == []


class TestTheSet:
    def test_the_chart_streams_and_ends_with_every_shot(self, client: TestClient, shoot: int) -> None:  # noqa: F811
        run_all(client, shoot)
        lines = [json.loads(line) for line in client.get(f"/api/shoots/{shoot}/tuning").text.splitlines()]
        assert lines[-1]["done"] == lines[-1]["total"] == 2
        columns = lines[-1]["columns"]
        assert len(columns) == 33 and columns[0]["match"] < columns[-1]["match"]
        here = min(columns, key=lambda c: abs(c["match"] - lines[-1]["proposed"]))
        assert here["lost"] == here["leftover"] == []
        assert columns[-1]["leftover"] or columns[0]["lost"]
        none = [json.loads(line) for line in client.get(f"/api/shoots/{shoot}/tuning?angle=elsewhere").text.splitlines()]
        assert none[-1]["total"] == 0

    def test_mattes_at_any_value_grow_with_it(self, client: TestClient, shoot: int) -> None:  # noqa: F811
        run_all(client, shoot)
        levels = shots_of(client, shoot)["HT-1"]["cut"]["levels"]
        areas = []
        for match in (0, 50, 100):
            answer = client.get(levels, params={"match": match})
            assert "immutable" in answer.headers["cache-control"]
            areas.append(np.asarray(Image.open(io.BytesIO(answer.content))).mean())
        assert areas == sorted(areas) and areas[1] == pytest.approx(255 * 0.1, rel=0.2)  # the disc's part of the frame
        assert client.get("/api/levels/nonsense?match=1").status_code == 422

    def test_a_value_for_an_angle_is_one_act(self, client: TestClient, shoot: int) -> None:  # noqa: F811
        path = f"/api/shoots/{shoot}"
        done = client.post(f"{path}/match", json={"match": 40, "angle": "front"}).json()
        assert done["shots"] == 2
        shot = shots_of(client, shoot)["HT-2"]["id"]
        assert client.get(f"/api/shots/{shot}").json()["treatment"]["cut"]["match"] == 40
        touch(client, shot, "product")  # changed since: stays
        back = client.post(f"{path}/take-batch-back", json={"batch": done["batch"]}).json()
        assert back == {"back": 1, "stay": 1}
        assert client.get(f"/api/shots/{shot}").json()["treatment"]["cut"]["match"] == 40
        for wanted, words in (({"match": 40}, "say which shots"), ({"match": 40, "angle": "nowhere"}, "no shot")):
            answer = client.post(f"{path}/match", json=wanted)
            assert answer.status_code == 409 and words in answer.json()["detail"]

    def test_following_the_set_again_keeps_what_else_is_the_shots_own(self, client: TestClient, shoot: int) -> None:  # noqa: F811
        shot, path = shots_of(client, shoot)["HT-1"]["id"], f"/api/shoots/{shoot}"
        client.put(f"{path}/treatment", json={"cut": {"match": 45}})
        client.put(f"/api/shots/{shot}/treatment", json={"cut": {"match": 70, "silhouette": False}})
        client.post(f"{path}/match", json={"match": None, "shot_ids": [shot]})
        cut = client.get(f"/api/shots/{shot}").json()["treatment"]["cut"]
        assert (cut["match"], cut["silhouette"]) == (45, False)
        client.put(f"/api/shots/{shot}/treatment", json={"cut": {"match": 70}})
        client.post(f"{path}/match", json={"match": None, "shot_ids": [shot]})
        assert "cut" not in shots_of(client, shoot)["HT-1"]["own_sections"]

    def test_a_cut_is_accepted_until_it_changes(self, client: TestClient, shoot: int) -> None:  # noqa: F811
        shot = shots_of(client, shoot)["HT-1"]["id"]
        answer = client.post(f"/api/shots/{shot}/accept", json={})
        assert answer.status_code == 409 and "run it first" in answer.json()["detail"]
        run_all(client, shoot)
        assert client.post(f"/api/shots/{shot}/accept", json={}).json()["cut"]["accepted"]
        touch(client, shot, "backdrop", width=0.1)
        run_all(client, shoot)
        assert not shots_of(client, shoot)["HT-1"]["cut"]["accepted"]


class TestSilhouettesFromFiles:
    def test_they_find_their_shot_by_name_and_make_another_cut(self, client: TestClient, shoot: int) -> None:  # noqa: F811
        from tests.core.test_silhouette import dark_frames

        before = client.get(f"/api/shots/{shots_of(client, shoot)['HT-1']['id']}/look?view=matte").content
        dark, empty = dark_frames(scene())
        for name, picture, kind in (
            ("HT-1_front_silhouette.jpg", dark, "silhouette"),
            ("empty_silhouette.jpg", empty, "backlit"),
        ):
            answer = send(client, shoot, name, jpeg(picture.pixels))
            assert answer.status_code == 201 and answer.json()["frame"]["kind"] == kind
        shots = shots_of(client, shoot)
        assert shots["HT-1"]["frame"]["file_name"] == "HT-1_front.jpg"
        assert client.get(f"/api/shots/{shots['HT-1']['id']}/look?view=matte").content != before
        run_all(client, shoot, ["pennywharf"])
        cut = shots_of(client, shoot)["HT-1"]["cut"]
        assert cut["current"] and not any("silhouette" in reason for reason in cut["reasons"])
        # Of another product: it is left out, and the cut says so.
        other, _ = dark_frames(scene("box", centre=(0.2, 0.3)))
        send(client, shoot, "HT-2_front_silhouette.jpg", jpeg(other.pixels))
        run_all(client, shoot, ["pennywharf"])
        said = shots_of(client, shoot)["HT-2"]["cut"]
        assert said["verdict"] == "look_again" and any("stands elsewhere" in reason for reason in said["reasons"])


def test_a_curve_is_told_as_the_line_that_it_is_cut_along(client: TestClient, shoot: int) -> None:  # noqa: F811
    """It goes through its corners, in pieces; a polygon is its corners."""
    shot = shots_of(client, shoot)["HT-1"]["id"]
    corners = [[0.1, 0.1], [0.9, 0.1], [0.9, 0.9], [0.1, 0.9]]
    for curved, pieces in ((False, 4), (True, 48)):
        section = {"shapes": [{"points": corners, "curved": curved}]}
        assert client.put(f"/api/shots/{shot}/treatment", json={"outlines": section}).status_code == 200
        (line,) = client.get(f"/api/shots/{shot}/cut").json()["outlines"]
        assert len(line) == pieces and all(corner in line for corner in corners)


def test_it_says_what_the_product_looks_like_where_nobody_did(client: TestClient, shoot: int) -> None:  # noqa: F811
    shot = shots_of(client, shoot)["HT-1"]["id"]
    assert client.get(f"/api/shots/{shot}/cut").json()["seems"] == "solid"
    client.put(f"/api/shots/{shot}/treatment", json={"cut": {"material": "pale"}})
    assert client.get(f"/api/shots/{shot}/cut").json()["seems"] is None


class TestCarrying:
    outline = {"shapes": [{"points": [[0.2, 0.2], [0.8, 0.2], [0.5, 0.9]]}]}

    def carry(self, client: TestClient, shoot: int, sections: list[str], **more: bool):  # noqa: F811
        shots = shots_of(client, shoot)
        body = {"targets": [shots["HT-2"]["id"]], "sections": sections, **more}
        preview = client.post(f"/api/shots/{shots['HT-1']['id']}/carry-preview", json=body).json()
        return preview[0], client.post(f"/api/shots/{shots['HT-1']['id']}/carry", json=body).json()

    def put(self, client: TestClient, shoot: int, code: str, **sections: object) -> None:  # noqa: F811
        shot = shots_of(client, shoot)[code]["id"]
        assert client.put(f"/api/shots/{shot}/treatment", json=sections).status_code == 200

    def treatment(self, client: TestClient, shoot: int) -> dict:  # noqa: F811
        return client.get(f"/api/shots/{shots_of(client, shoot)['HT-2']['id']}").json()["treatment"]

    def test_chosen_parts_go_over_and_one_click_takes_them_back(self, client: TestClient, shoot: int) -> None:  # noqa: F811
        self.put(client, shoot, "HT-1", edge={"shift_px": -0.4}, outlines=self.outline, cut={"match": 61})
        preview, done = self.carry(client, shoot, ["edge", "outlines"])
        assert preview["changes"] == ["edge", "outlines"] and preview["kept"] == []
        got = self.treatment(client, shoot)
        assert got["edge"]["shift_px"] == -0.4 and len(got["outlines"]["shapes"]) == 1 and got["cut"]["match"] is None
        assert client.post(f"/api/shoots/{shoot}/take-batch-back", json={"batch": done["batch"]}).json()["back"] == 1
        assert self.treatment(client, shoot)["edge"]["shift_px"] is None

    def test_what_was_made_by_hand_there_stays_unless_asked(self, client: TestClient, shoot: int) -> None:  # noqa: F811
        touch(client, shots_of(client, shoot)["HT-2"]["id"], "product", [[0.1, 0.1]])
        touch(client, shots_of(client, shoot)["HT-1"]["id"], "backdrop")
        preview, done = self.carry(client, shoot, ["touches"])
        assert preview["kept"] == ["touches"] and done["shots"] == 0
        assert self.treatment(client, shoot)["touches"]["strokes"][0]["kind"] == "product"
        _, done = self.carry(client, shoot, ["touches"], replace_by_hand=True)
        assert done["shots"] == 1 and self.treatment(client, shoot)["touches"]["strokes"][0]["kind"] == "backdrop"

    def test_a_locked_outline_stays_always(self, client: TestClient, shoot: int) -> None:  # noqa: F811
        locked = {"shapes": [{**self.outline["shapes"][0], "locked": True}]}
        self.put(client, shoot, "HT-2", outlines=locked)
        self.put(client, shoot, "HT-1", outlines={"shapes": []}, edge={"harden": 0.5})
        preview, _ = self.carry(client, shoot, ["outlines", "edge"], replace_by_hand=True)
        assert preview["kept"] == ["outlines"] and preview["changes"] == ["edge"]


class TestOutAndBack:
    def out(self, client: TestClient, shot: int, what: str) -> bytes:  # noqa: F811
        answer = client.get(f"/api/shots/{shot}/{what}")
        assert answer.status_code == 200, answer.text
        return answer.content

    def back(self, client: TestClient, address: str, name: str, data: bytes):  # noqa: F811
        return client.post(address, files={"file": (name, data)})

    def test_a_changed_layer_comes_back_and_no_run_overwrites_it(self, client: TestClient, shoot: int) -> None:  # noqa: F811
        from true_backdrop.jobs.shot_work import look_at_take

        shot = shots_of(client, shoot)["HT-1"]["id"]
        with zipfile.ZipFile(io.BytesIO(self.out(client, shot, "out.ora"))) as archive:
            files = {name: archive.read(name) for name in archive.namelist()}
        assert next(iter(files)) == "mimetype" and files["mimetype"] == b"image/openraster"
        layer = np.array(Image.open(io.BytesIO(files["data/product.png"])))
        layer[:, :360] = 0  # the retoucher cut the left half away
        out = io.BytesIO()
        Image.fromarray(layer).save(out, "PNG")
        files["data/product.png"] = out.getvalue()
        again = io.BytesIO()
        with zipfile.ZipFile(again, "w") as archive:
            for name, data in files.items():
                archive.writestr(name, data)
        answer = self.back(client, f"/api/shoots/{shoot}/back", "whatever.ora", again.getvalue())
        assert answer.status_code == 201 and answer.json() == {"shot_id": shot, "shot": "HT-1 front", "retouched": True}
        look_at_take(shot)
        for _ in range(2):
            cut = shots_of(client, shoot)["HT-1"]["cut"]
            assert cut["hand_made"] and cut["verdict"] == "clean" and cut["current"]
            assert matte(client, shot)[240, 300] == 0 and matte(client, shot)[240, 420] == 1
            client.put(f"/api/shoots/{shoot}/treatment", json={"cut": {"match": 30}})
            run_all(client, shoot, ["pennywharf"])
        assert client.delete(f"/api/shots/{shot}/back").status_code == 200
        look_at_take(shot)
        assert not shots_of(client, shoot)["HT-1"]["cut"]["hand_made"] and matte(client, shot)[240, 300] == 1

    def test_a_matte_of_sixteen_bits_comes_back_by_its_name(self, client: TestClient, shoot: int) -> None:  # noqa: F811
        shot = shots_of(client, shoot)["HT-2"]["id"]
        plane = np.asarray(Image.open(io.BytesIO(self.out(client, shot, "out-matte.png"))))
        assert plane.dtype == np.uint16 and plane.max() == 65535 and plane.shape == (480, 720)
        out = io.BytesIO()
        Image.fromarray((plane // 2).astype(np.uint16)).save(out, "PNG")
        answer = self.back(client, f"/api/shoots/{shoot}/back", "HT-2_front_matte.png", out.getvalue())
        assert answer.status_code == 201 and answer.json()["shot"] == "HT-2 front"
        assert matte(client, shot)[240, 360] == pytest.approx(0.5, abs=0.01)

    def test_bad_files_are_told_and_nothing_changes(self, client: TestClient, shoot: int) -> None:  # noqa: F811
        shot = shots_of(client, shoot)["HT-1"]["id"]
        small = io.BytesIO()
        Image.new("L", (100, 80)).save(small, "PNG")
        lost = io.BytesIO()
        Image.new("L", (720, 480)).save(lost, "PNG")
        cases = (
            (f"/api/shots/{shot}/back", "m.png", small.getvalue(), "100 x 80 px"),
            (f"/api/shots/{shot}/back", "m.ora", b"PK\x03\x04broken", "damaged"),
            (f"/api/shots/{shot}/back", "m.txt", b"hello", "neither OpenRaster nor a picture"),
            (f"/api/shots/{shot}/back", "colour.jpg", jpeg(scene().frame), "without transparency"),
            (f"/api/shoots/{shoot}/back", "scan0001.png", lost.getvalue(), "which shot"),
        )
        for address, name, data, words in cases:
            answer = self.back(client, address, name, data)
            assert answer.status_code in (400, 409, 422) and words in answer.json()["detail"], answer.text
        assert send(client, shoot, "HT-1_front.jpg", jpeg(scene().frame)).json()["fresh"] is False
        assert matte(client, shot)[240, 360] == 1
