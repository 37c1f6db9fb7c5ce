"""A treatment: all settings that turn a frame into a finished picture, in plain units, with defaults."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

Material = Literal["auto", "solid", "strands", "clear", "pale"]
MATERIALS: tuple[Material, ...] = ("auto", "solid", "strands", "clear", "pale")


SMALLEST_BOX = 0.1


class Section(BaseModel):
    """Base of all settings: immutable, and a misspelt name is an error."""

    model_config = ConfigDict(frozen=True, extra="forbid")


class FramingBox(Section):
    """The part of the view that is kept, as parts of the frame's width and height. What lies outside goes white."""

    left: float = Field(0.0, ge=0, le=1)
    top: float = Field(0.0, ge=0, le=1)
    right: float = Field(1.0, ge=0, le=1)
    bottom: float = Field(1.0, ge=0, le=1)

    @model_validator(mode="after")
    def _has_an_inside(self) -> FramingBox:
        if self.right - self.left < SMALLEST_BOX or self.bottom - self.top < SMALLEST_BOX:
            raise ValueError("the framing box must be a tenth of the frame at least in width and in height")
        return self


class CutSettings(Section):
    """How backdrop is told from product."""

    match: int | None = Field(
        None,
        ge=0,
        le=100,
        description="Backdrop match: how alike the backdrop a pixel must be to count as backdrop. None: proposed.",
    )
    material: Material = "auto"
    framing: FramingBox | None = None
    silhouette: bool = Field(True, description="Use the silhouette frame where there is one.")


#: A point of a picture: parts of its width and height.
Point = Annotated[tuple[Annotated[float, Field(ge=-1, le=2)], ...], Field(min_length=2, max_length=2)]


class Touch(Section):
    """One stroke by hand. `product` and `backdrop` say what is there; `shadow` and `no_shadow` paint it back or away."""

    kind: Literal["product", "backdrop", "shadow", "no_shadow"]
    points: tuple[Point, ...] = Field(min_length=1, max_length=2000)
    width: float = Field(0.01, gt=0, le=0.5, description="Of the brush, as a part of the frame's long side.")
    reach: float = Field(
        0.3, ge=0, le=1, description="How far what is taught goes: 0 exactly under the brush, hard-edged, 1 the whole region."
    )


class TouchSettings(Section):
    """Touches in the order in which they were made."""

    strokes: tuple[Touch, ...] = Field((), max_length=400)


class Shape(Section):
    """A closed outline drawn round the product. What it does not keep is backdrop.

    Its points are parts of the frame, or of the box around the product as it was found (`anchor`).
    """

    points: tuple[Point, ...] = Field(min_length=3, max_length=500)
    curved: bool = False
    keep: Literal["inside", "outside"] = "inside"
    anchor: Literal["frame", "product"] = "frame"
    locked: bool = False


class OutlineSettings(Section):
    """Outlines by hand, one after the other."""

    shapes: tuple[Shape, ...] = Field((), max_length=50)


class EdgeSettings(Section):
    """The edge of the cut. None for `shift_px`: as it comes, half a pixel inwards where a silhouette alone told it."""

    shift_px: float | None = Field(None, ge=-5, le=5, description="Pixels of the frame, outwards; tenths count.")
    smooth: float = Field(0.0, ge=0, le=1)
    harden: float = Field(0.0, ge=0, le=1)


class ClearSettings(Section):
    """Glass over a new backdrop: what shines through it is taken out of it.

    Counts where the material is `clear`; where it is `auto`, in places through which the backdrop is seen.
    """

    opacity: float = Field(0.0, ge=0, le=1, description="0 as clear as it is, 1 solid as shot.")
    sensitivity: float = Field(0.5, ge=0, le=1, description="How dark or coloured glass may be and still count as clear.")
    smoothing: float = Field(0.3, ge=0, le=1)


class GroundSettings(Section):
    """What the product stands on."""

    shadow: float = Field(0.7, ge=0, le=1, description="Strength of the product's own soft shadow, 0 none to 1 as shot.")


class FrameSettings(Section):
    """How the product sits in the square."""

    coverage: float = Field(0.85, ge=0.2, le=1.0, description="Longer side of the product as a part of the square.")


class SharpenSettings(Section):
    """Unsharp mask, last, after resizing."""

    amount: float = Field(0.6, ge=0, le=2, description="0.5 to 1.0 is usual (common practice).")
    radius_of_side: float = Field(0.0004, gt=0, le=0.01, description="Gaussian sigma as a part of the square's side.")


class Treatment(Section):
    """The whole of it. Stored as JSON with its schema version."""

    schema_version: Literal[1] = 1
    cut: CutSettings = CutSettings()
    touches: TouchSettings = TouchSettings()
    outlines: OutlineSettings = OutlineSettings()
    edge: EdgeSettings = EdgeSettings()
    clear: ClearSettings = ClearSettings()
    ground: GroundSettings = GroundSettings()
    frame: FrameSettings = FrameSettings()
    sharpen: SharpenSettings = SharpenSettings()


class Hands(Section):
    """What a person did to the cut of one shot, beside its backdrop match."""

    touches: TouchSettings = TouchSettings()
    outlines: OutlineSettings = OutlineSettings()
    edge: EdgeSettings = EdgeSettings()
    clear: ClearSettings = ClearSettings()


def hands_of(treatment: Treatment) -> Hands:
    """The parts of a treatment that change a cut after it was decided."""
    return Hands(touches=treatment.touches, outlines=treatment.outlines, edge=treatment.edge, clear=treatment.clear)


#: The sections in the order of the work.
SectionName = Literal["cut", "touches", "outlines", "edge", "clear", "ground", "frame", "sharpen"]
SECTIONS: tuple[SectionName, ...] = ("cut", "touches", "outlines", "edge", "clear", "ground", "frame", "sharpen")
