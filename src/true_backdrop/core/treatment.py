"""A treatment: all settings that turn a frame into a finished picture, in plain units, with defaults."""

from __future__ import annotations

from typing import Literal

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
    ground: GroundSettings = GroundSettings()
    frame: FrameSettings = FrameSettings()
    sharpen: SharpenSettings = SharpenSettings()


#: The sections in the order of the work.
SECTIONS = ("cut", "ground", "frame", "sharpen")
SectionName = Literal["cut", "ground", "frame", "sharpen"]
