"""What a camera, its lamps and a table can be asked. Times in seconds, lengths in millimetres."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime
from typing import Protocol

from pydantic import BaseModel, ConfigDict, Field


class CameraSettings(BaseModel):
    """Everything that the shutter freezes."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    shutter_s: float = Field(1 / 125, gt=0, le=30)
    f_number: float = Field(11.0, ge=1.0, le=45)
    iso: int = Field(100, ge=50, le=25600)
    kelvin: int = Field(5200, ge=2000, le=12000, description="Colour temperature that the camera takes for white.")
    focus_mm: float = Field(1100.0, ge=300, le=10000, description="Distance that the lens is focused at.")
    autofocus: bool = Field(False, description="Focus anew before every release.")


class LampSettings(BaseModel):
    """The dimmer of each group of lamps, 0 off, 1 as set up."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    front: float = Field(1.0, ge=0, le=2)
    backdrop: float = Field(1.0, ge=0, le=2)


@dataclass(frozen=True, slots=True)
class DeviceStatus:
    """What a device says of itself."""

    name: str
    simulated: bool
    camera: CameraSettings
    lamps: LampSettings
    focal_mm: float
    card_free: int
    turntable: float | None = None
    """Where the turntable stands in degrees; None without one."""


@dataclass(frozen=True, slots=True)
class Taken:
    """One press of the shutter: the file as it came, and what it was made with as far as its source knows."""

    file_name: str
    data: bytes
    taken_at: datetime
    camera: CameraSettings | None = None
    lamps: LampSettings | None = None


@dataclass(frozen=True, slots=True)
class LiveFrame:
    """One picture of the live view: JPEG bytes, running number, and when the device made it (seconds, its clock)."""

    jpeg: bytes
    number: int
    made_at: float


class Takes(Protocol):
    """Where finished files come from: a camera's card, or a folder that somebody else fills.

    A file that waits is complete. It goes on waiting, over restarts, until it is forgotten: whoever fetches it forgets it
    when it is safe.
    """

    def waiting(self) -> list[str]:
        """Names of files that have not been forgotten, in the order in which they were made."""
        ...

    def fetch(self, file_name: str) -> Taken:
        """A waiting file, exactly as it was made; raises `StudioError` when there is none of this name."""
        ...

    def forget(self, file_name: str) -> None:
        """It is safe elsewhere; one that is not there is no fault."""
        ...


class Camera(Takes, Protocol):
    """A camera that is tethered. Every call raises `StudioError` with a sentence when it fails."""

    def status(self) -> DeviceStatus: ...

    def set_camera(self, settings: CameraSettings) -> DeviceStatus: ...

    def focus_at(self, x: float, y: float) -> DeviceStatus:
        """Focus on what is seen at a point of the live view (parts of its width and height), and stay there."""
        ...

    def live_view(self) -> Iterator[LiveFrame]:
        """Frames for as long as they are asked for; ends with `DeviceGone` when the camera goes away."""
        ...

    def release(self) -> str:
        """Press the shutter; the name of the file that waits for being fetched."""
        ...


class Lamps(Protocol):
    """Lamps that can be switched and dimmed from here."""

    def set_lamps(self, settings: LampSettings) -> DeviceStatus: ...


class Turntable(Protocol):
    """A turntable that stands still when the call returns."""

    def turn_to(self, degrees: float) -> DeviceStatus: ...


class Studio(Camera, Lamps, Turntable, Protocol):
    """Everything that the table has."""

    def close(self) -> None: ...
