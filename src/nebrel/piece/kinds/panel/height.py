"""The Height station's part of a piece: from tone to millimetres, and what the surface may be like."""

from typing import Annotated, Literal

from pydantic import Field, model_validator

from nebrel.core.height.surface import Where
from nebrel.piece.parts.part import Part

Tone = Annotated[float, Field(ge=0, le=1)]
LevelMm = Annotated[float, Field(ge=0, le=200)]
RuleKind = Literal["straight", "curve", "steps", "compress"]


class Step(Part):
    """One row of the table of steps."""

    tone: Tone = Field(title="Tone of a step")
    mm: LevelMm = Field(title="Height of a step")


class HeightRule(Part):
    """Which tone stands how tall. What belongs to another kind is kept, so that nothing is lost by trying one."""

    kind: RuleKind = Field("straight", title="Height rule")
    tall: Literal["bright", "dark"] = Field("bright", title="Which tones stand tall")
    relief_mm: float = Field(3.0, ge=0.05, le=200, title="Relief height")
    points: tuple[tuple[Tone, Tone], ...] = Field(
        ((0.0, 0.0), (0.5, 0.5), (1.0, 1.0)), min_length=2, max_length=64, title="Height curve"
    )
    steps: tuple[Step, ...] = Field((Step(tone=0, mm=0), Step(tone=1, mm=2)), max_length=64, title="Table of steps")
    strength: float = Field(0.5, ge=0, le=1, title="Compression")

    @property
    def tallest_mm(self) -> float:
        """The greatest height above the backing that it can give."""
        return max((step.mm for step in self.steps), default=0.0) if self.kind == "steps" else self.relief_mm


class HeightMask(Part):
    """A second picture that scales the height: white leaves it, black takes it away."""

    on: bool = Field(True, title="Height mask switched on")
    blob: str | None = Field(None, pattern="^[0-9a-f]{64}$", title="Mask picture")
    name: str = Field("", max_length=255, title="Mask name")
    invert: bool = Field(False, title="Mask turned round")


class CutBelow(Part):
    """Tones that become blank and are cut through."""

    on: bool = Field(False, title="Cutting through switched on")
    tone: float = Field(0.02, gt=0, lt=1, title="Cut below tone")


class DraftPart(Part):
    """How steep walls may be."""

    on: bool = Field(False, title="Draft switched on")
    wall_deg: float = Field(5.0, ge=0.5, le=80, title="Draft angle")


class Rounding(Part):
    """Rounding of upper edges."""

    on: bool = Field(False, title="Rounding switched on")
    radius_mm: float = Field(0.4, ge=0.01, le=20, title="Rounding radius")


class Height(Part):
    """From tone to millimetres."""

    rule: HeightRule = HeightRule()
    mask: HeightMask = HeightMask()
    cut: CutBelow = CutBelow()
    smooth_mm: float = Field(0.0, ge=0, le=20, title="Smoothing")
    smooth_on: bool = Field(True, title="Smoothing switched on")
    smooth_keep_mm: float = Field(0.0, ge=0, le=50, title="Edges kept when smoothing")
    smooth_where: Where = Field("all", title="Where to smooth")
    draft: DraftPart = DraftPart()
    rounding: Rounding = Rounding()

    @model_validator(mode="after")
    def _steps_in_order(self) -> "Height":
        from nebrel.core.height.steps import check_table

        if self.rule.kind == "steps":
            check_table([(step.tone, step.mm) for step in self.rule.steps])
        return self
