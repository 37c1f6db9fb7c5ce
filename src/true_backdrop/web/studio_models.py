"""What the page at the table is told and what it may ask."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import BaseModel, Field

from true_backdrop.studio.protocols import CameraSettings, LampSettings
from true_backdrop.web.models import FramePublic, ShotPublic

ShootingOrder = Literal["product", "angle"]


class StudioPublic(BaseModel):
    """The device behind the live view, or why there is none."""

    connected: bool
    trouble: str | None
    name: str
    simulated: bool
    camera: CameraSettings | None
    lamps: LampSettings | None
    focal_mm: float | None
    card_free: int | None


class HandsOrder(BaseModel):
    """What the hands do at the simulated table, and faults on request."""

    table: dict[str, Any] = Field(default={})
    faults: dict[str, Any] = Field(default={})


class HandsTable(BaseModel):
    code: str | None
    angle: str
    right: float
    down: float
    turn: float
    size: float


class HandsPublic(BaseModel):
    table: HandsTable
    products: dict[str, list[str]]


class ReleaseOrder(BaseModel):
    """Press the shutter for a shot."""

    client: str = Field(min_length=1, max_length=64)
    kind: Literal["product", "backdrop", "silhouette"] = "product"
    take_over: bool = False


class Released(BaseModel):
    frame: FramePublic
    shot: ShotPublic


class GuideChoice(BaseModel):
    """The take that becomes the placement guide of a shot's angle; None for no guide."""

    frame_id: int | None


class SkipChoice(BaseModel):
    skipped: bool


class PlacementTold(BaseModel):
    right: float
    down: float
    turn: float | None
    size: float | None
    by: Literal["features", "silhouette", "base"]
    sure: float


class PlacementReading(BaseModel):
    told: PlacementTold | None
    way: Literal["left", "right", "up", "down", "turn left", "turn right", "nearer", "farther", "there"] | None
    reason: str | None


class ExposureReading(BaseModel):
    """Histogram of each channel, the highest bin 1, and percent of pixels clipped."""

    red: list[float]
    green: list[float]
    blue: list[float]
    clipped: list[float]


class LiveReading(BaseModel):
    exposure: ExposureReading
    placement: PlacementReading | None


class LiveWord(BaseModel):
    """A text message of the live view; pictures come as binary messages between them."""

    trouble: str | None = None
    holds: bool = False
    held_elsewhere: bool = False
    reading: LiveReading | None = None


class GuidePublic(BaseModel):
    """The guide of an angle: the take itself, and its outline as a picture with a clear ground."""

    frame: FramePublic
    view: str
    outline: str


class NextShot(BaseModel):
    shot: ShotPublic | None
    guide: GuidePublic | None
    backdrop: FramePublic | None


class SetUpName(BaseModel):
    name: str = Field(min_length=1, max_length=80)


class SetUpPublic(BaseModel):
    id: int
    name: str
    camera: CameraSettings
    lamps: LampSettings
    locked: bool


class SetUpChange(BaseModel):
    """Lock or unlock, or put the studio's present settings under this name."""

    locked: bool | None = None
    renew: bool = False


class NeutralPoint(BaseModel):
    """A point of the live view that should be neutral; parts of its width and height."""

    x: float = Field(ge=0, le=1)
    y: float = Field(ge=0, le=1)
