"""A real camera on USB through libgphoto2 (optional: the extra `camera` installs python-gphoto2).

Exposure is set on the nearest value that the camera offers. It does not tell distances, so focus is set at the lens; lamps
and turntable are not connected to it. The library is not safe for several threads: one lock keeps its calls apart.
"""

from __future__ import annotations

import contextlib
import threading
import time
from collections.abc import Callable, Iterator
from datetime import UTC, datetime
from fractions import Fraction
from types import ModuleType
from typing import Any, TypeVar

from true_backdrop.core.exif import exposure_told
from true_backdrop.studio.errors import CardFull, DeviceBusy, DeviceGone, StudioError
from true_backdrop.studio.protocols import CameraSettings, DeviceStatus, LampSettings, LiveFrame, Taken

#: The address of such a camera.
GPHOTO2 = "gphoto2"
_MISSING = (
    "the program was installed without support for cameras on USB; install its extra `camera` (python-gphoto2), then start again"
)
#: Names that makers give to the same setting.
_SHUTTER, _APERTURE, _ISO = ("shutterspeed", "shutterspeed2"), ("f-number", "aperture"), ("iso",)
_SUFFIXES = (".jpg", ".jpeg", ".tif", ".tiff")

T = TypeVar("T")


def _library() -> ModuleType:
    try:
        import gphoto2
    except ImportError as fault:
        raise DeviceGone(_MISSING) from fault
    module: ModuleType = gphoto2
    return module


class GPhotoStudio:
    """`Studio` (see protocols.py) of one camera: whichever libgphoto2 finds first."""

    def __init__(self, library: Callable[[], Any] = _library) -> None:
        self._load, self._lock = library, threading.RLock()
        self._camera: Any = None
        self._said = CameraSettings()

    def status(self) -> DeviceStatus:
        return self._with(self._status)

    def set_camera(self, settings: CameraSettings) -> DeviceStatus:
        return self._with(lambda camera: self._set(camera, settings))

    def focus_at(self, x: float, y: float) -> DeviceStatus:
        raise StudioError("this camera cannot be focused from here; focus at the lens")

    def set_lamps(self, settings: LampSettings) -> DeviceStatus:
        raise StudioError("no lamps are connected; switch them by hand")

    def turn_to(self, degrees: float) -> DeviceStatus:
        raise StudioError("no turntable is connected; turn the product by hand")

    def release(self) -> str:
        def press(camera: Any) -> str:
            path = camera.capture(self._gp.GP_CAPTURE_IMAGE)
            return f"{path.folder.rstrip('/')}/{path.name}"

        return self._with(press)

    def waiting(self) -> list[str]:
        return self._with(lambda camera: sorted(_pictures(camera, "/"), key=lambda path: path.rsplit("/", 1)[1]))

    def fetch(self, file_name: str) -> Taken:
        folder, name = _split(file_name)

        def download(camera: Any) -> Taken:
            if name not in {entry[0] for entry in camera.folder_list_files(folder)}:
                raise StudioError(f"{file_name} is not on the camera's card")
            file = camera.file_get(folder, name, self._gp.GP_FILE_TYPE_NORMAL)
            data = bytes(memoryview(file.get_data_and_size()))
            told = exposure_told(data)
            known = {key: value for key, value in told.items() if key in ("shutter_s", "f_number")}
            if "iso" in told:
                known["iso"] = round(told["iso"])
            return Taken(name, data, datetime.now(UTC), self._said.model_copy(update=known))

        return self._with(download)

    def forget(self, file_name: str) -> None:
        folder, name = _split(file_name)

        def remove(camera: Any) -> None:
            if name in {entry[0] for entry in camera.folder_list_files(folder)}:
                camera.file_delete(folder, name)

        self._with(remove)

    def live_view(self) -> Iterator[LiveFrame]:
        number = 0
        while True:
            made_at = time.time()
            jpeg = self._with(lambda camera: bytes(memoryview(camera.capture_preview().get_data_and_size())))
            number += 1
            yield LiveFrame(jpeg, number, made_at)

    def close(self) -> None:
        with self._lock:
            self._drop()

    def _with(self, do: Callable[[Any], T]) -> T:
        """Do something with the camera, found anew when it had gone; the library's faults become sentences."""
        self._gp = self._load()
        with self._lock:
            try:
                if self._camera is None:
                    camera = self._gp.Camera()
                    camera.init()
                    self._camera = camera
                return do(self._camera)
            except self._gp.GPhoto2Error as fault:
                raise self._sentence(fault) from fault

    def _sentence(self, fault: Any) -> StudioError:
        if fault.code == self._gp.GP_ERROR_NO_SPACE:
            return CardFull("the camera's card is full; change it or clear it, then press the shutter again")
        if fault.code in (self._gp.GP_ERROR_CAMERA_BUSY, self._gp.GP_ERROR_TIMEOUT):
            return DeviceBusy("the camera did not answer in time; try again, or switch it off and on")
        self._drop()
        return DeviceGone(f"the camera does not answer ({fault.string}); check its cable and that it is switched on")

    def _drop(self) -> None:
        camera, self._camera = self._camera, None
        if camera is not None:
            with contextlib.suppress(self._gp.GPhoto2Error):  # it is gone already
                camera.exit()

    def _status(self, camera: Any) -> DeviceStatus:
        config = camera.get_config()
        told: dict[str, Any] = {}
        for key, names in (("shutter_s", _SHUTTER), ("f_number", _APERTURE), ("iso", _ISO)):
            widget = _child(config, names)
            value = _number(widget.get_value()) if widget is not None else None
            if value:
                told[key] = round(value) if key == "iso" else value
        self._said = CameraSettings(**(self._said.model_dump() | told))
        storage = camera.get_storageinfo()
        free = min((int(one.freeimages) for one in storage), default=0)
        name = str(camera.get_abilities().model)
        return DeviceStatus(name, False, self._said, LampSettings(), 50.0, free)

    def _set(self, camera: Any, wanted: CameraSettings) -> DeviceStatus:
        if wanted.focus_mm != self._said.focus_mm or wanted.autofocus != self._said.autofocus:
            raise StudioError("this camera cannot be focused from here; focus at the lens")
        config = camera.get_config()
        for value, names in ((wanted.shutter_s, _SHUTTER), (wanted.f_number, _APERTURE), (wanted.iso, _ISO)):
            widget = _child(config, names)
            if widget is None:
                continue
            choices = [(number, choice) for choice in widget.get_choices() if (number := _number(choice))]
            if choices:
                widget.set_value(_nearest(choices, float(value)))
                camera.set_single_config(widget.get_name(), widget)
        kelvin = _child(config, ("colortemperature",))
        if kelvin is not None and wanted.kelvin != self._said.kelvin:
            kelvin.set_value(str(wanted.kelvin))
            camera.set_single_config(kelvin.get_name(), kelvin)
        self._said = self._said.model_copy(update={"kelvin": wanted.kelvin})
        return self._status(camera)


def _child(config: Any, names: tuple[str, ...]) -> Any:
    """The first of these settings that the camera has."""
    for widget in _leaves(config):
        if widget.get_name() in names:
            return widget
    return None


def _leaves(widget: Any) -> Iterator[Any]:
    children = list(widget.get_children())
    if not children:
        yield widget
    for child in children:
        yield from _leaves(child)


def _nearest(choices: list[tuple[float, str]], wanted: float) -> str:
    return min(choices, key=lambda one: max(one[0] / wanted, wanted / one[0]))[1]


def _number(said: object) -> float | None:
    """The value of what cameras call their settings: 1/125, 0.8s, f/8, 8, 100."""
    try:
        return float(Fraction(str(said).strip().lower().removeprefix("f/").removesuffix("s")))
    except (ValueError, ZeroDivisionError):
        return None


def _pictures(camera: Any, folder: str) -> Iterator[str]:
    for name, _ in camera.folder_list_files(folder):
        if name.lower().endswith(_SUFFIXES):
            yield f"{folder.rstrip('/')}/{name}"
    for name, _ in camera.folder_list_folders(folder):
        yield from _pictures(camera, f"{folder.rstrip('/')}/{name}")


def _split(path: str) -> tuple[str, str]:
    folder, _, name = path.rpartition("/")
    return folder or "/", name
