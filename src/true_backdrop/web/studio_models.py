"""What the page at the table is told and what it may ask."""

from __future__ import annotations

from datetime import datetime
from typing import Any, Literal

from pydantic import BaseModel, Field

from true_backdrop.core.treatment import FramingBox
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
    turntable: float | None


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


TakeKind = Literal["product", "backdrop", "silhouette", "backlit"]


class ShutterOrder(BaseModel):
    """Who wants the shutter."""

    client: str = Field(min_length=1, max_length=64)
    take_over: bool = False


class ReleaseOrder(ShutterOrder):
    """Press the shutter for a shot."""

    kind: TakeKind = "product"


class SeriesOrder(ShutterOrder):
    """A focus series between two distances; without them, the one that was broken off goes on."""

    near_mm: float | None = Field(None, gt=0)
    far_mm: float | None = Field(None, gt=0)


class SeriesPublic(BaseModel):
    id: int
    steps: list[float]
    slices: int
    state: Literal["shooting", "merging", "done", "failed"]
    problem: str | None


class FocusSteps(BaseModel):
    """Focus distances in mm, the nearest first."""

    steps: list[float]
    f_number: float


class SpinCreate(BaseModel):
    """An angle for each position of a full turn; for these products, or for all."""

    name: str = Field(min_length=1, max_length=40, pattern=r"^[\w ]+$")
    positions: int = Field(24, ge=2, le=360)
    codes: list[str] = []


class SpinShot(BaseModel):
    positions: int
    taken: int


class TakeChoice(BaseModel):
    frame_id: int


class Expected(BaseModel):
    """What comes next at the table; without a shot, the next of the list."""

    shot_id: int | None = None
    kind: TakeKind = "product"


class LatestTake(BaseModel):
    shot_id: int | None


class WatchOrder(BaseModel):
    """The folder to watch, as a full path; None for none."""

    folder: str | None = Field(None, min_length=1, max_length=500)


class WatchedFile(BaseModel):
    name: str
    problem: str | None
    shot: str | None
    taken_at: datetime


class WatchPublic(BaseModel):
    """A watched folder, what came out of it, and what its next file is held to be unless its name says otherwise."""

    folder: str | None
    trouble: str | None
    taken: int
    latest: list[WatchedFile]
    expected_shot: ShotPublic | None
    expected_kind: TakeKind


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


class KnownGuide(BaseModel):
    """A guide and where it is in use."""

    shoot: str
    angle: str
    guide: GuidePublic


class Proposal(BaseModel):
    """A frame that should be shot now, and why."""

    kind: Literal["backdrop", "silhouette", "backlit"]
    said: str


class OtherView(BaseModel):
    """An angle that the camera may stand as for."""

    angle_id: int
    name: str


class StandsAs(BaseModel):
    angle_id: int | None


class NextShot(BaseModel):
    shot: ShotPublic | None
    guide: GuidePublic | None
    backdrop: FramePublic | None
    takes: list[FramePublic]
    series: SeriesPublic | None
    proposal: Proposal | None
    stands_as: int | None
    other_views: list[OtherView]


class SetUpName(BaseModel):
    """With a shoot, its framing box is saved along."""

    name: str = Field(min_length=1, max_length=80)
    shoot_id: int | None = None


class SetUpPublic(BaseModel):
    id: int
    name: str
    camera: CameraSettings
    lamps: LampSettings
    framing: FramingBox | None
    locked: bool


class SetUpChange(BaseModel):
    """Lock or unlock, or put the studio's present settings under this name."""

    locked: bool | None = None
    renew: bool = False
    shoot_id: int | None = None


class LivePoint(BaseModel):
    """A point of the live view; parts of its width and height."""

    x: float = Field(ge=0, le=1)
    y: float = Field(ge=0, le=1)


class FramingChoice(BaseModel):
    """The part of the view that is kept, for all shots of a shoot; None for all of it."""

    framing: FramingBox | None
