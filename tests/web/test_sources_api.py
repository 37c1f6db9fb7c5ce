"""Where takes come from besides single presses of the shutter: focus series, spins, watched folders, the card."""

from __future__ import annotations

import io
import time
from collections.abc import Callable
from pathlib import Path

import pytest
from fastapi.testclient import TestClient
from PIL import Image

from tests.studio.process import Process
from tests.web.table import hands, look, named, release
from true_backdrop.core import codec
from true_backdrop.studio.protocols import CameraSettings


def eventually(told: Callable[[], object], patience_s: float = 12.0) -> None:
    deadline = time.monotonic() + patience_s
    while not told():
        assert time.monotonic() < deadline, "it did not happen in time"
        time.sleep(0.1)


class TestFocusSeries:
    def open_aperture(self, client: TestClient) -> None:
        camera = client.get("/api/studio").json()["camera"]
        wide = {"f_number": 5.6, "shutter_s": 1 / 480, "focus_mm": 1100, "autofocus": False}
        client.put("/api/studio/camera", json=camera | wide)

    def order(self, client: TestClient, shot: int, **points: float):
        return client.post(f"/api/shots/{shot}/series", json={"client": "here", **points})

    def merge(self, client: TestClient, series: int) -> None:
        from true_backdrop.jobs.merging import merge_series
        from true_backdrop.jobs.shot_work import look_at_take

        for shot in merge_series(series):
            look_at_take(shot)

    def test_slices_are_proposed_shot_kept_and_merged_to_one_take(self, client: TestClient, shoot: int) -> None:
        jug = named(client, shoot, "HT-204", "front")
        hands(client, code="HT-204")
        self.open_aperture(client)
        near = client.post("/api/studio/focus-at", json={"x": 0.5, "y": 0.6}).json()["camera"]["focus_mm"]
        far = near + 90
        proposed = client.get("/api/studio/focus-steps", params={"near_mm": near, "far_mm": far}).json()["steps"]
        assert proposed[0] > near and proposed == sorted(proposed) and 3 <= len(proposed) <= 8
        made = self.order(client, jug, near_mm=far, far_mm=near).json()  # either way round
        assert (made["slices"], made["state"], made["steps"]) == (len(proposed), "merging", proposed)
        # The focus rests where the merged take's lies, for the empty set.
        assert client.get("/api/studio").json()["camera"]["focus_mm"] == proposed[len(proposed) // 2]
        assert client.get(f"/api/shots/{jug}/at-table").json()["takes"] == []
        self.merge(client, made["id"])
        at_table = client.get(f"/api/shots/{jug}/at-table").json()
        assert at_table["series"]["state"] == "done"
        (take,) = at_table["takes"]
        assert take["file_name"].endswith("_merged.png") and take["format"] == "PNG"
        assert at_table["shot"]["cut"]["square"]
        view = client.get(f"/api/frames/{take['id']}/view")
        assert view.status_code == 200

    def test_the_merged_file_says_how_it_was_exposed(self, client: TestClient, shoot: int) -> None:
        from true_backdrop.catalog.blobs import BlobStore
        from true_backdrop.catalog.database import transaction
        from true_backdrop.catalog.frames import get_frame
        from true_backdrop.settings import settings

        jug = named(client, shoot, "HT-204", "front")
        hands(client, code="HT-204")
        self.open_aperture(client)
        self.merge(client, self.order(client, jug, near_mm=1060, far_mm=1120).json()["id"])
        frame_id = client.get(f"/api/shots/{jug}/at-table").json()["takes"][0]["id"]
        with transaction(settings().database_url.get_secret_value()) as session:
            frame = get_frame(session, frame_id)
            data = BlobStore(settings().blob_url).get(frame.sha256)
            assert len(frame.made_with["focus_series"]["steps_mm"]) == len(frame.made_with["focus_series"]["breathing"])
        exif = Image.open(io.BytesIO(data)).getexif().get_ifd(0x8769)
        assert float(exif[0x829D]) == pytest.approx(5.6)
        assert codec.decode(data, "merged.png").width == 900

    def test_a_device_killed_during_a_series_goes_on_where_it_was(
        self, client: TestClient, shoot: int, process: Process, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        from true_backdrop.studio.client import RemoteStudio

        jug = named(client, shoot, "HT-204", "front")
        hands(client, code="HT-204")
        self.open_aperture(client)
        whole, count = RemoteStudio.release, 0

        def dies_after_two(studio: RemoteStudio) -> str:
            nonlocal count
            count += 1
            if count == 3:
                process.kill()
            return whole(studio)

        monkeypatch.setattr(RemoteStudio, "release", dies_after_two)
        broken = self.order(client, jug, near_mm=1040, far_mm=1160)
        assert broken.status_code == 502
        assert "2 of " in broken.json()["detail"] and "continues with slice 3" in broken.json()["detail"]
        series = client.get(f"/api/shots/{jug}/at-table").json()["series"]
        assert (series["slices"], series["state"]) == (2, "shooting")
        process.start()
        hands(client, code="HT-204")
        self.open_aperture(client)
        done = self.order(client, jug).json()
        assert done["id"] == series["id"] and done["slices"] == len(done["steps"]) and done["state"] == "merging"
        self.merge(client, done["id"])
        assert client.get(f"/api/shots/{jug}/at-table").json()["series"]["state"] == "done"

    def test_slices_that_do_not_fit_are_kept_and_said(
        self, client: TestClient, shoot: int, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        from true_backdrop.studio.client import RemoteStudio

        jug = named(client, shoot, "HT-204", "front")
        hands(client, code="HT-204")
        self.open_aperture(client)
        whole, count = RemoteStudio.release, 0

        def moved_after_one(studio: RemoteStudio) -> str:
            nonlocal count
            count += 1
            if count == 2:
                studio.hands({"table": {"code": "HT-215"}})
            return whole(studio)

        monkeypatch.setattr(RemoteStudio, "release", moved_after_one)
        made = self.order(client, jug, near_mm=1060, far_mm=1130).json()
        self.merge(client, made["id"])
        after = client.get(f"/api/shots/{jug}/at-table").json()
        assert after["series"]["state"] == "failed" and "moved" in after["series"]["problem"]
        assert after["series"]["slices"] == len(made["steps"]) and after["takes"] == []

    def test_points_that_cannot_be(self, client: TestClient, shoot: int) -> None:
        jug = named(client, shoot, "HT-204", "front")
        assert "lie apart" in self.order(client, jug, near_mm=1100, far_mm=1100).json()["detail"]
        camera = client.get("/api/studio").json()["camera"]
        client.put("/api/studio/camera", json=camera | {"f_number": 1.0})
        assert "close the aperture" in self.order(client, jug, near_mm=900, far_mm=1600).json()["detail"]
        assert "mark a near and a far point" in self.order(client, jug).json()["detail"]


class TestSpin:
    def test_positions_come_in_order_and_a_missing_one_is_shot_again(self, client: TestClient, shoot: int) -> None:
        made = client.post(f"/api/shoots/{shoot}/spins", json={"name": "round", "positions": 6, "codes": ["HT-204"]})
        assert made.status_code == 201, made.text
        shots = [s for s in client.get(f"/api/shoots/{shoot}/shots").json() if s["spin"] == "round"]
        assert [s["angle"] for s in shots] == [f"round-{k:02d}" for k in range(1, 7)]
        assert {s["code"] for s in shots} == {"HT-204"}
        hands(client, code="HT-204", angle="spin")
        assert client.post(f"/api/shots/{shots[0]['id']}/spin", json={"client": "here"}).json() == {"positions": 6, "taken": 6}
        assert client.get("/api/studio").json()["turntable"] == 300
        frames = [client.get(f"/api/shots/{s['id']}/at-table").json()["takes"] for s in shots]
        names = [takes[0]["file_name"] for takes in frames]
        assert names == sorted(names) and len(set(names)) == 6
        # One is thrown out; only that one is shot again, at its own place.
        client.put(f"/api/frames/{frames[2][0]['id']}", json={"kind": "product", "shot_id": None})
        assert client.post(f"/api/shots/{shots[5]['id']}/spin", json={"client": "here"}).json()["taken"] == 1
        assert client.get("/api/studio").json()["turntable"] == 120

    def test_the_shutter_turns_the_table_for_a_position(self, client: TestClient, shoot: int) -> None:
        client.post(f"/api/shoots/{shoot}/spins", json={"name": "round", "positions": 4})
        quarter = named(client, shoot, "HT-215", "round-02")
        hands(client, code="HT-204", angle="spin")
        assert release(client, quarter).status_code == 201
        assert client.get("/api/studio").json()["turntable"] == 90

    def test_one_empty_set_serves_all_positions(self, client: TestClient, shoot: int) -> None:
        client.post(f"/api/shoots/{shoot}/spins", json={"name": "round", "positions": 3, "codes": ["HT-204"]})
        first, last = (named(client, shoot, "HT-204", f"round-0{k}") for k in (1, 3))
        hands(client, code="HT-204", angle="spin")
        release(client, last)
        hands(client, code=None, angle="spin")
        release(client, first, "backdrop")
        told = look(client, last)
        assert told["backdrop"] and told["shot"]["cut"]["verdict"] == "clean" and not told["shot"]["cut"]["estimated"]

    def test_what_cannot_be(self, client: TestClient, shoot: int) -> None:
        spins = f"/api/shoots/{shoot}/spins"
        assert client.post(spins, json={"name": "round", "positions": 1}).status_code == 422
        assert "no product HT-999" in client.post(spins, json={"name": "round", "codes": ["HT-999"]}).json()["detail"]
        assert client.post(spins, json={"name": "front"}).status_code == 409
        front = named(client, shoot, "HT-204", "front")
        assert "is no spin" in client.post(f"/api/shots/{front}/spin", json={"client": "here"}).json()["detail"]


class TestHalt:
    """A series or a spin is ended from another window; what is there stays."""

    def halts_after(self, monkeypatch: pytest.MonkeyPatch, client: TestClient, pictures: int) -> None:
        from true_backdrop.studio.client import RemoteStudio

        whole, count = RemoteStudio.fetch, 0

        def fetch(studio: RemoteStudio, name: str) -> object:
            nonlocal count
            count += 1
            if count == pictures:
                assert client.post("/api/studio/halt").status_code == 204
            return whole(studio, name)

        monkeypatch.setattr(RemoteStudio, "fetch", fetch)

    def test_a_spin(self, client: TestClient, shoot: int, monkeypatch: pytest.MonkeyPatch) -> None:
        client.post(f"/api/shoots/{shoot}/spins", json={"name": "spin", "positions": 5, "codes": ["HT-204"]})
        first = named(client, shoot, "HT-204", "spin-01")
        hands(client, code="HT-204", angle="spin")
        self.halts_after(monkeypatch, client, 2)
        order = {"client": "here"}
        assert client.post(f"/api/shots/{first}/spin", json=order).json() == {"positions": 5, "taken": 2}
        assert client.post(f"/api/shots/{first}/spin", json=order).json() == {"positions": 5, "taken": 3}

    def test_a_focus_series(self, client: TestClient, shoot: int, monkeypatch: pytest.MonkeyPatch) -> None:
        jug = named(client, shoot, "HT-204", "front")
        hands(client, code="HT-204")
        TestFocusSeries().open_aperture(client)
        self.halts_after(monkeypatch, client, 1)
        points = {"near_mm": 1060, "far_mm": 1130}
        made = client.post(f"/api/shots/{jug}/series", json={"client": "here", **points}).json()
        assert (made["state"], made["slices"]) == ("shooting", 1) and made["problem"].startswith("stopped by hand")
        again = client.post(f"/api/shots/{jug}/series", json={"client": "here"}).json()
        assert (again["id"], again["state"], again["slices"]) == (made["id"], "merging", len(made["steps"]))


class TestWatchedFolder:
    @pytest.fixture
    def folder(self, tmp_path: Path) -> Path:
        folder = tmp_path / "from camera"
        folder.mkdir()
        return folder

    def photo(self, process: Process, **table: object) -> bytes:
        studio = process.client()
        studio.set_camera(CameraSettings())
        studio.hands({"table": table})
        name = studio.release()
        data = studio.fetch(name).data
        studio.forget(name)
        return data

    def watch(self, client: TestClient, shoot: int, folder: Path | None) -> dict:
        told = client.put(f"/api/shoots/{shoot}/watch", json={"folder": str(folder) if folder else None})
        assert told.status_code == 200, told.text
        return told.json()

    def taken(self, client: TestClient, shoot: int) -> int:
        return int(client.get(f"/api/shoots/{shoot}/watch").json()["taken"])

    def test_files_fill_the_list_in_order_once_each(self, client: TestClient, shoot: int, folder: Path, process: Process) -> None:
        jug, mug = (named(client, shoot, code, "front") for code in ("HT-204", "HT-215"))
        first, second = self.photo(process, code="HT-204"), self.photo(process, code="HT-215")
        assert self.watch(client, shoot, folder)["taken"] == 0
        (folder / "IMG_1.jpg").write_bytes(first[:-500])
        time.sleep(1.0)
        assert self.taken(client, shoot) == 0  # half written
        (folder / "IMG_1.jpg").write_bytes(first)
        eventually(lambda: self.taken(client, shoot) == 1)
        assert len(client.get(f"/api/shots/{jug}/at-table").json()["takes"]) == 1
        # The same bytes under another name are no new take, and what is expected comes before the list.
        (folder / "IMG_1.jpg").rename(folder / "IMG_1 renamed.jpg")
        client.put(f"/api/shoots/{shoot}/expected", json={"shot_id": mug, "kind": "product"})
        eventually(lambda: self.taken(client, shoot) == 2)
        (folder / "IMG_2.jpg").write_bytes(second)
        eventually(lambda: self.taken(client, shoot) == 3)
        shots = {s["id"]: s["takes"] for s in client.get(f"/api/shoots/{shoot}/shots").json()}
        assert (shots[jug], shots[mug], sum(shots.values())) == (1, 1, 2)
        assert client.get(f"/api/shoots/{shoot}/latest-take").json() == {"shot_id": mug}
        told = client.get(f"/api/shoots/{shoot}/watch").json()["latest"][0]
        assert (told["name"], told["shot"], told["problem"]) == ("IMG_2.jpg", "HT-215 front", None)

    def test_the_empty_set_is_expected_once(self, client: TestClient, shoot: int, folder: Path, process: Process) -> None:
        above = named(client, shoot, "HT-204", "above")
        self.watch(client, shoot, folder)
        client.put(f"/api/shoots/{shoot}/expected", json={"shot_id": above, "kind": "backdrop"})
        (folder / "a.jpg").write_bytes(self.photo(process, code=None, angle="above"))
        eventually(lambda: self.taken(client, shoot) == 1)
        (folder / "b.jpg").write_bytes(self.photo(process, code="HT-204", angle="above"))
        eventually(lambda: self.taken(client, shoot) == 2)
        told = look(client, above)
        assert told["backdrop"]["file_name"] == "a.jpg" and told["takes"][0]["file_name"] == "b.jpg"
        assert told["shot"]["cut"]["verdict"] == "clean"

    def test_a_restart_loses_and_doubles_nothing(self, client: TestClient, shoot: int, folder: Path, process: Process) -> None:
        from true_backdrop.catalog.blobs import BlobStore
        from true_backdrop.settings import settings
        from true_backdrop.web.folder_watch import FolderWatch

        (folder / "a.jpg").write_bytes(self.photo(process, code="HT-204"))
        self.watch(client, shoot, folder)
        eventually(lambda: self.taken(client, shoot) == 1)
        (folder / "b.jpg").write_bytes(self.photo(process, code="HT-215"))
        again = FolderWatch(settings().database_url.get_secret_value(), BlobStore(settings().blob_url))
        for _ in range(3):
            again.look()
            time.sleep(0.5)
        eventually(lambda: self.taken(client, shoot) == 2)
        assert sum(s["takes"] for s in client.get(f"/api/shoots/{shoot}/shots").json()) == 2

    def test_a_broken_file_and_a_folder_that_goes_away_are_said(self, client: TestClient, shoot: int, folder: Path) -> None:
        (folder / "broken.png").write_bytes(b"\x89PNG\r\n\x1a\n" + b"\0" * 40 + b"IEND")
        self.watch(client, shoot, folder)
        eventually(lambda: self.taken(client, shoot) == 1)
        told = client.get(f"/api/shoots/{shoot}/watch").json()
        assert told["latest"][0]["problem"].startswith("broken.png") and told["trouble"] is None
        folder.rename(folder.with_name("elsewhere"))
        eventually(lambda: client.get(f"/api/shoots/{shoot}/watch").json()["trouble"])
        assert "is its drive connected" in client.get(f"/api/shoots/{shoot}/watch").json()["trouble"]
        folder.with_name("elsewhere").rename(folder)
        eventually(lambda: client.get(f"/api/shoots/{shoot}/watch").json()["trouble"] is None)

    def test_folders_that_cannot_be_watched(self, client: TestClient, shoot: int, folder: Path) -> None:
        where = f"/api/shoots/{shoot}/watch"
        assert "is not there" in client.put(where, json={"folder": str(folder / "none")}).json()["detail"]
        assert "no full path" in client.put(where, json={"folder": "pictures"}).json()["detail"]
        self.watch(client, shoot, folder)
        other = client.post("/api/shoots", json={"name": "Other"}).json()["id"]
        taken = client.put(f"/api/shoots/{other}/watch", json={"folder": str(folder)})
        assert taken.status_code == 409 and "watches the folder" in taken.json()["detail"]
        assert self.watch(client, shoot, None)["folder"] is None


class TestTheCard:
    def test_a_picture_left_on_the_card_by_a_pulled_cable_comes_to_its_shot(
        self, client: TestClient, shoot: int, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        from true_backdrop.studio.client import RemoteStudio
        from true_backdrop.studio.errors import DeviceGone
        from true_backdrop.studio.protocols import Taken

        jug, mug = (named(client, shoot, code, "front") for code in ("HT-204", "HT-215"))
        whole = RemoteStudio.fetch

        def pulled(studio: RemoteStudio, name: str) -> Taken:
            raise DeviceGone("the connection to the camera was lost; check its cable")

        monkeypatch.setattr(RemoteStudio, "fetch", pulled)
        hands(client, code="HT-204")
        assert release(client, jug).status_code == 502
        monkeypatch.setattr(RemoteStudio, "fetch", whole)
        hands(client, code="HT-215")
        assert release(client, mug).status_code == 201
        shots = {s["id"]: s["takes"] for s in client.get(f"/api/shoots/{shoot}/shots").json()}
        assert (shots[jug], shots[mug]) == (1, 1)

    def test_a_shutter_pressed_at_the_camera_is_not_lost(self, client: TestClient, shoot: int, process: Process) -> None:
        process.client().release()
        jug = named(client, shoot, "HT-204", "front")
        (frame,) = client.post(f"/api/shots/{jug}/collect").json()
        assert frame["shot_id"] is None
        assert [w["id"] for w in client.get(f"/api/shoots/{shoot}").json()["waiting"]] == [frame["id"]]
        assert client.post(f"/api/shots/{jug}/collect").json() == []
