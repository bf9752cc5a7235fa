"""The part of a panel that says whether heights follow tones, or how near everything in the picture is."""

from typing import ClassVar, Literal

from pydantic import Field

from nebrel.core.bas_relief.heights import FineTones
from nebrel.core.bas_relief.hold_back import Shallow
from nebrel.core.bas_relief.nearness import Roundness
from nebrel.piece.depths.by_hand import hand_told
from nebrel.piece.parts.depth import DepthPart
from nebrel.piece.parts.depth_strokes import DepthStroke, OrderedPart
from nebrel.piece.parts.fields import choice, length, share, switch, whole
from nebrel.piece.parts.part import Part

ReliefStrokeKind = Literal["nearer", "farther", "level", "thicker", "thinner", "ridge", "crease", "flat"]


class ReliefStroke(DepthStroke):
    """What a stroke over the picture says of how near it is."""

    hint: ClassVar[str] = "Lengths are those of the form before it is held back."
    kind: ReliefStrokeKind = choice(
        "What a stroke does",
        "nearer",
        {
            "nearer": "Nearer",
            "farther": "Farther",
            "level": "Same depth",
            "thicker": "Rounder",
            "thinner": "Flatter",
            "ridge": "Ridge",
            "crease": "Crease",
            "flat": "Flat",
        },
        hints={
            "nearer": "The part under it comes forward, up to the edges of the picture round it.",
            "farther": "The part under it goes back, up to the edges of the picture round it.",
            "level": "All that it crosses comes to one depth.",
            "thicker": "It swells more, near the stroke only.",
            "thinner": "It swells less, near the stroke only.",
            "ridge": "The form rises to an edge along it.",
            "crease": "The form sinks to a groove along it.",
            "flat": "The form becomes level under it.",
        },
    )


class FineTonesPart(Part):
    """Fine relief of the picture's tones on the large form."""

    heading: ClassVar[str] = "Fine form from tones"
    strength_mm: float = length("Strength of fine form", 0.5, 0, 20, slider=(0, 3), label="From black to white")
    radius_mm: float = length(
        "Radius of fine form", 2.0, 0.1, 100, slider=(0.5, 15), step=0.1, label="What is broader is light, not form"
    )
    tall: Literal["bright", "dark"] = choice("Tall tones", "bright", {"bright": "Bright", "dark": "Dark"})

    def to_core(self) -> FineTones:
        """The same for the core."""
        return FineTones(self.strength_mm if self.tall == "bright" else -self.strength_mm, self.radius_mm)


class ReliefForm(Part):
    """What heights follow."""

    heading: ClassVar[str] = "Heights follow"
    of: Literal["tones", "depth", "both"] = choice(
        "What heights follow",
        "tones",
        {"tones": "Tones", "depth": "Depth", "both": "Both"},
        hints={
            "tones": "A height picture has its heights in its tones. In a photograph they are light and paint.",
            "depth": "What is nearer stands taller, however bright it is.",
            "both": "The large form follows depth, and fine form on it follows tones.",
        },
    )
    depth: DepthPart = DepthPart()
    relief_mm: float = length(
        "Relief height", 3.0, 0.05, 200, slider=(0.2, 15), step=0.1, label="From the ground to the nearest"
    )
    strength: float = share("Holding back", 0.5, label="How much is held back")
    step_mm: float = length(
        "Step of overlaps", 0.3, 0, 50, slider=(0, 2), label="Steps where one thing hides another, at least"
    )
    ground: bool = switch("Ground", True, label="What is cut out stands on a ground")
    cells: int = whole("Resolution of the form", 256, 64, 512, slider=(64, 512), step=16, label="Cells along the form")
    fine: FineTonesPart = FineTonesPart()
    strokes: tuple[ReliefStroke, ...] = Field((), max_length=200, title="Strokes")
    order: tuple[OrderedPart, ...] = Field((), max_length=60, title="Parts in order")

    @property
    def on(self) -> bool:
        """Whether depth counts."""
        return self.of != "tones"

    def shallow(self, grounded: bool) -> Shallow:
        """How depth is held back."""
        return Shallow(self.relief_mm, self.strength, self.step_mm, grounded)

    def roundness(self) -> Roundness:
        """How parts swell."""
        return Roundness(self.depth.profile, self.depth.rim_mm)

    def nearness_told(self) -> list[object]:
        """What the depth before it is held back depends on."""
        return [self.depth.model_dump(mode="json"), hand_told(self.strokes, self.order)]
