"""The adapter for cameras on USB, against a stand-in with the shape of python-gphoto2 2.6: no hardware was there to try.

What the stand-in says (names of settings, error numbers, return types) follows libgphoto2's headers and the package's own.
"""

from __future__ import annotations

from collections.abc import Iterator
from types import SimpleNamespace
from typing import Any

import cv2
import numpy as np
import pytest

from true_backdrop.studio.errors import CardFull, DeviceBusy, DeviceGone, StudioError
from true_backdrop.studio.gphoto import GPhotoStudio
from true_backdrop.studio.protocols import CameraSettings, LampSettings

JPEG = cv2.imencode(".jpg", np.full((8, 12, 3), 90, np.uint8))[1].tobytes()


class GPhoto2Error(Exception):
    def __init__(self, code: int, string: str = "Unknown model") -> None:
        self.code, self.string = code, string


class Widget:
    def __init__(self, name: str, value: str = "", choices: tuple[str, ...] = (), children: tuple[Widget, ...] = ()) -> None:
        self.name, self.value, self.choices, self.children = name, value, choices, children

    def get_name(self) -> str:
        return self.name

    def get_value(self) -> str:
        return self.value

    def set_value(self, value: str) -> None:
        assert not self.choices or value in self.choices
        self.value = value

    def get_choices(self) -> Iterator[str]:
        return iter(self.choices)

    def get_children(self) -> Iterator[Widget]:
        return iter(self.children)


class File:
    def get_data_and_size(self) -> bytes:
        return JPEG


class FakeLibrary:
    """One camera with a card, and the faults that a test wants of it."""

    GP_CAPTURE_IMAGE, GP_FILE_TYPE_NORMAL = 0, 1
    GP_ERROR_NO_SPACE, GP_ERROR_CAMERA_BUSY, GP_ERROR_TIMEOUT = -115, -110, -10
    GPhoto2Error = GPhoto2Error

    def __init__(self) -> None:
        self.files: list[str] = []
        self.fault: int | None = None
        self.inits = self.exits = 0
        exposure = (
            Widget("shutterspeed", "1/125", ("bulb", "1/60", "1/125", "1/250", "0.8")),
            Widget("f-number", "f/8", ("f/5.6", "f/8", "f/11")),
        )
        self.config = Widget(
            "main",
            children=(
                Widget("imgsettings", children=(Widget("iso", "100", ("Auto", "100", "200")),)),
                Widget("capturesettings", children=exposure),
            ),
        )

    def Camera(self) -> FakeLibrary:
        return self

    def _check(self) -> None:
        if self.fault is not None:
            raise GPhoto2Error(self.fault)

    def init(self) -> None:
        self._check()
        self.inits += 1

    def exit(self) -> None:
        self.exits += 1

    def get_config(self) -> Widget:
        self._check()
        return self.config

    def set_single_config(self, name: str, widget: Widget) -> None:
        assert widget.name == name

    def get_storageinfo(self) -> list[Any]:
        return [SimpleNamespace(freeimages=321)]

    def get_abilities(self) -> Any:
        return SimpleNamespace(model="Stand-in camera")

    def capture(self, kind: int) -> Any:
        self._check()
        self.files.append(f"DSC_{len(self.files) + 1:04d}.JPG")
        return SimpleNamespace(folder="/store_1/DCIM", name=self.files[-1])

    def capture_preview(self) -> File:
        self._check()
        return File()

    def folder_list_folders(self, folder: str) -> list[tuple[str, None]]:
        return {"/": [("store_1", None)], "/store_1": [("DCIM", None)]}.get(folder, [])

    def folder_list_files(self, folder: str) -> list[tuple[str, None]]:
        return [(name, None) for name in [*self.files, "notes.txt"]] if folder == "/store_1/DCIM" else []

    def file_get(self, folder: str, name: str, kind: int) -> File:
        self._check()
        return File()

    def file_delete(self, folder: str, name: str) -> None:
        self.files.remove(name)


@pytest.fixture
def library() -> FakeLibrary:
    return FakeLibrary()


@pytest.fixture
def studio(library: FakeLibrary) -> GPhotoStudio:
    return GPhotoStudio(lambda: library)


def test_what_the_camera_tells_and_the_nearest_that_it_offers(studio: GPhotoStudio) -> None:
    status = studio.status()
    assert (status.name, status.simulated, status.card_free) == ("Stand-in camera", False, 321)
    assert (status.camera.shutter_s, status.camera.f_number, status.camera.iso) == (1 / 125, 8.0, 100)
    after = studio.set_camera(status.camera.model_copy(update={"shutter_s": 1 / 220, "f_number": 10.0, "iso": 190})).camera
    assert (after.shutter_s, after.f_number, after.iso) == (1 / 250, 11.0, 200)


def test_a_take_waits_on_the_card_until_it_is_forgotten(studio: GPhotoStudio, library: FakeLibrary) -> None:
    name = studio.release()
    assert studio.waiting() == [name] == ["/store_1/DCIM/DSC_0001.JPG"]
    taken = studio.fetch(name)
    assert (taken.file_name, taken.data) == ("DSC_0001.JPG", JPEG)
    studio.close()
    assert studio.waiting() == [name]
    studio.forget(name)
    studio.forget(name)
    assert studio.waiting() == []
    with pytest.raises(StudioError, match="is not on the camera's card"):
        studio.fetch(name)


def test_live_view_and_a_camera_that_goes_and_comes_back(studio: GPhotoStudio, library: FakeLibrary) -> None:
    live = studio.live_view()
    assert [next(live).number, next(live).number] == [1, 2]
    library.fault = -7
    with pytest.raises(DeviceGone, match=r"does not answer \(Unknown model\)"):
        next(live)
    assert library.exits == 1
    library.fault = None
    assert next(studio.live_view()).jpeg == JPEG
    assert library.inits == 2


@pytest.mark.parametrize(
    ("code", "kind", "said"), [(-115, CardFull, "card is full"), (-110, DeviceBusy, "in time"), (-10, DeviceBusy, "in time")]
)
def test_faults_are_said_in_sentences(studio: GPhotoStudio, library: FakeLibrary, code: int, kind: type, said: str) -> None:
    studio.status()
    library.fault = code
    with pytest.raises(kind, match=said):
        studio.release()


def test_what_it_cannot_do_is_said(studio: GPhotoStudio) -> None:
    for order in (
        lambda: studio.set_camera(CameraSettings(focus_mm=900)),
        lambda: studio.focus_at(0.5, 0.5),
        lambda: studio.set_lamps(LampSettings()),
        lambda: studio.turn_to(15),
    ):
        with pytest.raises(StudioError, match=r"by hand|at the lens"):
            order()


def test_without_the_extra_the_sentence_says_what_to_install() -> None:
    def none() -> Any:
        raise DeviceGone("install its extra `camera`")

    with pytest.raises(DeviceGone, match="extra `camera`"):
        GPhotoStudio(none).status()


def test_the_real_library_finds_no_camera_here() -> None:
    """With python-gphoto2 there, its own binding answers; the constants that are used exist in it."""
    real = pytest.importorskip("gphoto2", reason="the optional extra `camera` is not installed")
    for name in ("GP_CAPTURE_IMAGE", "GP_FILE_TYPE_NORMAL", "GP_ERROR_NO_SPACE", "GP_ERROR_CAMERA_BUSY", "GP_ERROR_TIMEOUT"):
        assert isinstance(getattr(real, name), int)
    with pytest.raises(DeviceGone, match=r"check its cable"):
        GPhotoStudio().status()
