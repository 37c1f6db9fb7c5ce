"""What an outlet demands of a picture, and the three outlets that ship."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, ValidationError, field_validator, model_validator

from true_backdrop.core.errors import RuleError
from true_backdrop.core.naming import NamePattern
from true_backdrop.core.treatment import Section

MIN_SIDE, MAX_SIDE = 64, 10_000


class Spec(Section):
    """Rules of one outlet. Exactly one of `quality` and `max_bytes` rules the size of a JPEG."""

    name: str = Field(pattern=r"^[a-z0-9][a-z0-9-]{0,40}$")
    title: str = Field(min_length=1, max_length=80)
    format: Literal["jpeg", "png"] = "jpeg"
    side_px: int = Field(ge=MIN_SIDE, le=MAX_SIDE)
    quality: int | None = Field(None, ge=40, le=100)
    max_bytes: int | None = Field(None, ge=2_000)
    coverage: float | None = Field(None, ge=0.2, le=1.0, description="Longer side of the product as part of the square.")
    margin: float | None = Field(None, ge=0.0, le=0.4, description="The same said as a margin on each side.")
    shadow: Literal["none", "own"] = "none"
    colour_space: Literal["srgb"] = "srgb"
    density_ppi: int = Field(72, ge=30, le=2400)
    name_pattern: str = "{code}_{angle}"

    @field_validator("name_pattern")
    @classmethod
    def _pattern_makes_sense(cls, value: str) -> str:
        try:
            NamePattern(value)
        except RuleError as fault:
            raise ValueError(str(fault)) from fault
        return value

    @model_validator(mode="after")
    def _one_rule_for_size(self) -> Spec:
        if self.format == "jpeg" and (self.quality is None) == (self.max_bytes is None):
            raise ValueError("a JPEG spec needs either quality or max_bytes, not both and not neither")
        if self.coverage is not None and self.margin is not None:
            raise ValueError("give coverage or margin, not both")
        return self

    @property
    def wanted_coverage(self) -> float | None:
        """Coverage, from whichever of the two it was given as; None leaves it to the treatment."""
        return 1 - 2 * self.margin if self.margin is not None else self.coverage

    @property
    def extension(self) -> str:
        return "jpg" if self.format == "jpeg" else "png"


SHIPPED: dict[str, Spec] = {
    spec.name: spec
    for spec in (
        Spec(name="pennywharf", title="Pennywharf", side_px=2000, max_bytes=153_600, coverage=0.85),
        Spec(name="kiosk-nine", title="Kiosk Nine", side_px=1000, quality=80, coverage=0.85),
        Spec(
            name="larkfield-home",
            title="Larkfield Home",
            side_px=2048,
            quality=85,
            density_ppi=300,
            shadow="own",
            name_pattern="{code}_{name}_{angle}",
        ),
    )
}


def parse_spec(text: str) -> Spec:
    """A spec from JSON text; the error names each field and what is wrong with it."""
    try:
        return Spec.model_validate_json(text)
    except ValidationError as fault:
        said = "; ".join(f"{'.'.join(map(str, e['loc'])) or 'spec'}: {e['msg']}" for e in fault.errors())
        raise RuleError(f"the spec makes no sense: {said}") from fault
