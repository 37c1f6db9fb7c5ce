"""What the interface is told and what it may ask: one model for each direction."""

from __future__ import annotations

from datetime import datetime
from typing import Any, Literal

from pydantic import BaseModel, Field, field_validator

from true_backdrop.core.spec import Spec
from true_backdrop.core.treatment import (
    ClearSettings,
    CutSettings,
    EdgeSettings,
    FrameSettings,
    GroundSettings,
    Material,
    OutlineSettings,
    SharpenSettings,
    TouchSettings,
    Treatment,
)

VerdictName = Literal["clean", "look_again", "redo"]


class ShootCreate(BaseModel):
    name: str = Field(min_length=1, max_length=120)
    angles: list[str] = Field(default=["front"], min_length=1, max_length=24)

    @field_validator("angles")
    @classmethod
    def _angles_differ(cls, value: list[str]) -> list[str]:
        angles = [angle.strip() for angle in value]
        if any(not 1 <= len(angle) <= 60 for angle in angles) or len({a.lower() for a in angles}) < len(angles):
            raise ValueError("angles need different names of 1 to 60 characters")
        return angles


class ProductListText(BaseModel):
    text: str = Field(max_length=2_000_000)


class ProductListResult(BaseModel):
    added: int
    renewed: int
    problems: list[str]


class AngleCreate(BaseModel):
    name: str = Field(min_length=1, max_length=60)


class FramePublic(BaseModel):
    id: int
    shot_id: int | None
    kind: Literal["product", "backdrop", "silhouette", "slice", "backlit", "matte", "retouched"]
    file_name: str
    format: str
    width: int
    height: int
    bytes: int
    source_profile: str | None
    preview: str


class FrameReceived(BaseModel):
    """What became of one dropped file."""

    frame: FramePublic
    fresh: bool
    shot: str | None


class FrameChange(BaseModel):
    """Give a frame to a shot, take it away (None), or make it the backdrop frame."""

    kind: Literal["product", "backdrop"] = "product"
    shot_id: int | None = None


class StationCounts(BaseModel):
    """The numbers on the line of stations."""

    shots: int
    with_frame: int
    cut: int
    clean: int
    look_again: int
    redo: int
    ready: dict[str, int]


class RunPublic(BaseModel):
    id: int
    state: Literal["running", "stopped", "done"]
    outlets: list[str]
    total: int
    done: int
    failed: int
    rate_per_minute: float | None
    left_s: float | None
    problems: dict[int, str]


class ShootSummary(BaseModel):
    id: int
    name: str
    created_at: datetime
    counts: StationCounts
    cover: list[str]


class ShootPublic(BaseModel):
    id: int
    name: str
    angles: list[str]
    counts: StationCounts
    backdrop: FramePublic | None
    treatment: Treatment
    run: RunPublic | None
    waiting: list[FramePublic]


class FreshnessFinding(BaseModel):
    """One thing that may have changed since the backdrop frame."""

    what: Literal["exposure", "colour", "light", "shift", "focus"]
    value: float | None
    unit: str
    slight: float
    limit: float
    state: Literal["fits", "slight", "shoot again", "cannot tell"]
    said: str


class PlacePublic(BaseModel):
    """Where doubt is, in parts of the frame's width and height."""

    left: float
    top: float
    right: float
    bottom: float
    said: str
    where: str


class CutPublic(BaseModel):
    match: int
    proposed: int
    verdict: VerdictName
    reasons: list[str]
    doubt: float
    matte: str | None
    square: str | None
    cutout: str | None = Field(description="A small straight-alpha picture, to lie on any colour.")
    levels: str | None = Field(description="Address of the matte at any backdrop match.")
    current: bool
    accepted: bool = Field(description="A person looked at this very cut and found it good.")
    hand_made: bool
    places: list[PlacePublic]
    concerns: list[str] = Field(description="In a few words each, what kinds of doubt there are; for filters.")
    estimated: bool = Field(description="Cut against a guessed backdrop, since the empty set has not been shot.")
    freshness: list[FreshnessFinding]


class ShotPublic(BaseModel):
    """A cell of the board."""

    id: int
    product_id: int
    code: str
    name: str
    material: str
    angle: str
    spin: str | None
    frame: FramePublic | None
    cut: CutPublic | None
    own_sections: list[str]
    problem: str | None
    takes: int
    skipped: bool


class TrialPublic(BaseModel):
    match: int
    leftover: float
    lost: float


class ShotDetail(BaseModel):
    shot: ShotPublic
    treatment: Treatment
    takes: list[FramePublic]
    can_undo: bool


class BoxPublic(BaseModel):
    """In parts of the frame's width and height."""

    left: float
    top: float
    right: float
    bottom: float


class CutAnswer(BaseModel):
    """The decision at a backdrop match, without a picture."""

    match: int
    proposed: int
    verdict: VerdictName
    reasons: list[str]
    places: list[PlacePublic]
    trials: list[TrialPublic]
    found: BoxPublic | None = Field(description="Around the product before outlines by hand; those that follow it lie in it.")
    seems: Material | None = Field(description="What the product seems to be made of, where nobody said it.")
    glass: bool = Field(description="Parts of it are clear: it was said to be, or the backdrop is seen through them.")
    outlines: list[list[list[float]]] = Field(
        description="The closed lines that outlines by hand are cut along, x and y in parts of the frame; curves in pieces."
    )


class TreatmentChange(BaseModel):
    """Sections to replace; one that is given as null is inherited again, one that is left out stays."""

    cut: CutSettings | None = None
    touches: TouchSettings | None = None
    outlines: OutlineSettings | None = None
    edge: EdgeSettings | None = None
    clear: ClearSettings | None = None
    ground: GroundSettings | None = None
    frame: FrameSettings | None = None
    sharpen: SharpenSettings | None = None
    said: str | None = Field(None, max_length=200, description="What was done, for the history.")

    def sections(self) -> dict[str, Any]:
        given = self.model_fields_set - {"said"}
        return {name: value.model_dump() if (value := getattr(self, name)) is not None else None for name in given}


class TakeBack(BaseModel):
    revision: int = Field(ge=0)


class RevisionPublic(BaseModel):
    id: int
    created_at: datetime
    said: str
    sections: dict[str, Any]


class RunRequest(BaseModel):
    outlets: list[str] = Field(min_length=1, max_length=20)
    shot_ids: list[int] | None = None


class FindingPublic(BaseModel):
    rule: str
    wanted: str
    found: str
    passed: bool
    cure: str


class SheetRow(BaseModel):
    """A picture against every rule of a spec."""

    shot_id: int
    code: str
    name: str
    angle: str
    file: str
    verdict: VerdictName | None
    state: Literal["ready", "fails", "redo", "outdated", "missing"]
    bytes: int | None
    quality: int | None
    picture: str | None
    findings: list[FindingPublic]


class Sheet(BaseModel):
    spec: Spec
    rules: list[str]
    rows: list[SheetRow]


class OutletPublic(Spec):
    """An outlet's rules; `shipped` ones cannot be changed."""

    shipped: bool


class DeliveryRequest(BaseModel):
    shot_ids: list[int] = Field(min_length=1)


class DeliveryPublic(BaseModel):
    id: int
    outlet: str
    folder: str
    created_at: datetime
    files: list[dict[str, Any]]


class FinishMeasure(BaseModel):
    """Numbers that the Finish station shows for one square."""

    side_px: int
    coverage: float
    not_white: int
    blown_out: float
    colour_moved: float = Field(description="95th percentile of CIEDE2000 inside the product against the frame.")


class PointReadout(BaseModel):
    red: int
    green: int
    blue: int
    white: bool


class Health(BaseModel):
    database: bool
