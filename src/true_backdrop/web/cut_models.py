"""What the routes of the station Cut take and give."""

from __future__ import annotations

from pydantic import BaseModel, Field

from true_backdrop.core.treatment import Material, SectionName


class CarryRequest(BaseModel):
    targets: list[int] = Field(min_length=1)
    sections: list[SectionName] = Field(min_length=1)
    replace_by_hand: bool = Field(False, description="Also where touches or outlines were made by hand.")


class CarryChange(BaseModel):
    """What carrying does to one shot."""

    shot_id: int
    code: str
    angle: str
    changes: list[SectionName]
    kept: list[SectionName]


class BatchDone(BaseModel):
    """One act on several shots, and what takes all of it back."""

    shots: int
    batch: str


class BatchBack(BaseModel):
    back: int
    stay: int = Field(description="Shots that were changed since; they stay as they are.")


class MatchForMany(BaseModel):
    """A backdrop match for chosen shots, all of an angle or all of a material; null follows the set again."""

    match: int | None = Field(ge=0, le=100)
    shot_ids: list[int] | None = None
    angle: str | None = None
    material: Material | None = None


class BatchName(BaseModel):
    batch: str = Field(min_length=1, max_length=32)


class Acceptance(BaseModel):
    accepted: bool = True


class CameBack(BaseModel):
    """What came back from a retoucher, and to which shot."""

    shot_id: int
    shot: str
    retouched: bool


class TouchAdded(BaseModel):
    strokes: int
    revision: int


class TuningColumn(BaseModel):
    """At one backdrop match the shots that would keep leftover backdrop, and those that would lose product."""

    match: int
    leftover: list[int]
    lost: list[int]


class Tuning(BaseModel):
    """One line of the stream: the chart of the shots that have been looked at so far."""

    done: int
    total: int
    proposed: int
    columns: list[TuningColumn]
