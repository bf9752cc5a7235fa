"""The Height station's part of a piece: from tone to millimetres, and what the surface may be like."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field, model_validator

from nebrel.core.height.from_edge import EdgeRule, Profile
from nebrel.core.height.surface import Where
from nebrel.piece.parts.fields import angle, choice, length, share, switch, tone, tone_between
from nebrel.piece.parts.part import Part

Tone = Annotated[float, Field(ge=0, le=1)]
RuleKind = Literal["straight", "curve", "steps", "compress", "edge"]


class Step(Part):
    """One row of the table of steps."""

    tone: float = tone("Tone of a step", ...)
    mm: float = length("Height of a step", ..., 0, 200, step=0.1)


class HeightRule(Part):
    """Which tone stands how tall. What belongs to another kind is kept, so that nothing is lost by trying one."""

    kind: RuleKind = choice(
        "Height rule",
        "straight",
        {"straight": "Even", "curve": "Curve", "steps": "Steps", "compress": "Shallow", "edge": "Edge"},
        label="How does height follow tone?",
        hints={
            "straight": "Height goes evenly with tone, from black to white.",
            "curve": "Bend the curve: to the right are brighter tones, upwards is taller.",
            "steps": "Every tone goes to the nearest step; terraces are level, their walls upright.",
            "compress": "Big differences of height are held back and small detail is kept, "
            "so a deep subject fits a shallow relief.",
            "edge": "Height follows the distance from the edge between dark and bright: for silhouettes and masks.",
        },
    )
    tall: Literal["bright", "dark"] = choice(
        "Which tones stand tall",
        "bright",
        {"bright": "Bright", "dark": "Dark"},
        label="Which tones stand tall?",
        shown={"kind": ["straight", "curve", "compress", "edge"]},
    )
    relief_mm: float = length(
        "Relief height",
        3.0,
        0.05,
        200,
        slider=(0.2, 15),
        step=0.1,
        shown={"kind": ["straight", "curve", "compress", "edge"]},
    )
    points: tuple[tuple[Tone, Tone], ...] = Field(
        ((0.0, 0.0), (0.5, 0.5), (1.0, 1.0)), min_length=2, max_length=64, title="Height curve"
    )
    steps: tuple[Step, ...] = Field((Step(tone=0, mm=0), Step(tone=1, mm=2)), max_length=64, title="Table of steps")
    edge: Profile = choice(
        "Profile from the edge",
        "dome",
        {"roof": "Roof", "dome": "Dome", "cove": "Cove", "pillow": "Pillow", "rope": "Rope"},
        label="It rises as a",
        shown={"kind": ["edge"]},
    )
    roof_deg: float = angle(
        "Angle of the roof",
        45,
        1,
        89,
        slider=(5, 80),
        label="Roof rises by",
        shown={"kind": ["edge"], "edge": ["roof"]},
    )
    edge_mm: float = length(
        "Reach from the edge",
        4.0,
        0.05,
        500,
        slider=(0.5, 30),
        step=0.5,
        label="Reach from the edge",
        shown={"kind": ["edge"], "edge": ["dome", "cove", "rope"]},
    )
    edge_tones: float = share("Tones added", 0.0, label="The picture's tones added", shown={"kind": ["edge"]})
    strength: float = share("Compression", 0.5, label="How much is held back", shown={"kind": ["compress"]})

    @property
    def tallest_mm(self) -> float:
        """The greatest height above the backing that it can give."""
        if self.kind == "steps":
            return max((step.mm for step in self.steps), default=0.0)
        return self.relief_mm * (1 + self.edge_tones) if self.kind == "edge" else self.relief_mm

    def height_of(self, tone: float) -> float:
        """The height of a picture that is all of one tone."""
        if self.kind == "steps":
            return min(self.steps, key=lambda step: abs(step.tone - tone)).mm
        return self.relief_mm * (tone if self.tall == "bright" else 1 - tone)

    def from_edge(self) -> EdgeRule:
        """How height follows the distance from the edge."""
        return EdgeRule(self.edge, self.relief_mm, self.roof_deg, self.edge_mm, self.edge_tones)


class HeightMask(Part):
    """A second picture that scales the height: white leaves it, black takes it away."""

    heading: ClassVar[str] = "Height mask"
    on: bool = switch("Height mask switched on", True)
    blob: str | None = Field(None, pattern="^[0-9a-f]{64}$", title="Mask picture")
    name: str = Field("", max_length=255, title="Mask name")
    invert: bool = switch("Mask turned round", False, label="Turned round")


class CutBelow(Part):
    """Tones that become blank and are cut through."""

    heading: ClassVar[str] = "Cut through dark"
    hint: ClassVar[str] = "What is darker becomes a hole, cut along a curve."
    on: bool = switch("Cutting through switched on", False)
    tone: float = tone_between("Cut below tone", 0.02, slider=[0.001, 0.999], step=0.005, label="Darker than")


class DraftPart(Part):
    """How steep walls may be."""

    heading: ClassVar[str] = "Leaning walls"
    hint: ClassVar[str] = "So that a mould comes off, and a tapered bit gets in. Material is added at the foot."
    on: bool = switch("Draft switched on", False)
    wall_deg: float = angle("Draft angle", 5.0, 0.5, 80, slider=(1, 45), step=0.5, label="Every wall leans at least")


class Rounding(Part):
    """Rounding of upper edges."""

    heading: ClassVar[str] = "Round upper edges"
    on: bool = switch("Rounding switched on", False)
    radius_mm: float = length("Rounding radius", 0.4, 0.01, 20, slider=(0.05, 3), label="Edge radius")


class EdgeCurves(Part):
    """Walls along curves where heights jump."""

    heading: ClassVar[str] = "Edges as curves"
    hint: ClassVar[str] = (
        "Where the height jumps, the wall follows a curve and not the pixels. Soft slopes stay as they are."
    )
    on: bool = switch("Edges as curves switched on", True)


class Height(Part):
    """From tone to millimetres."""

    rule: HeightRule = HeightRule()
    mask: HeightMask = HeightMask()
    cut: CutBelow = CutBelow()
    smooth_mm: float = length("Smoothing", 0.0, 0, 20, slider=(0, 2), step=0.02, label="Radius")
    smooth_on: bool = switch("Smoothing switched on", True)
    smooth_keep_mm: float = length(
        "Edges kept when smoothing", 0.0, 0, 50, slider=(0, 3), label="Keep steps taller than"
    )
    smooth_where: Where = choice(
        "Where to smooth", "all", {"all": "Everywhere", "slopes": "Slopes", "terraces": "Level parts"}, label="Where"
    )
    draft: DraftPart = DraftPart()
    rounding: Rounding = Rounding()
    edges: EdgeCurves = EdgeCurves()

    @model_validator(mode="after")
    def _steps_in_order(self) -> "Height":
        from nebrel.core.height.steps import check_table

        if self.rule.kind == "steps":
            check_table([(step.tone, step.mm) for step in self.rule.steps])
        return self
