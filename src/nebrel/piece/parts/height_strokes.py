"""Strokes that shape the heights of a piece by hand, in the piece's own frame."""

from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from nebrel.core.height.modelling import ModellingStroke, Profile, Tool
from nebrel.piece.parts.fields import choice, length, share, switch
from nebrel.piece.parts.part import Part


class HeightStroke(Part):
    """A stroke over the heights; its places are shares of the piece's width and height from its lower left corner."""

    heading: ClassVar[str] = "Shape by hand"
    hint: ClassVar[str] = (
        "Strokes shape the heights themselves. They stay where they are on the piece, whatever becomes of its picture "
        "and size."
    )
    id: str = Field("", max_length=40)
    on: bool = switch("Stroke switched on", True)
    tool: Tool = choice(
        "What the hand does",
        "raise",
        {
            "raise": "Raise",
            "lower": "Lower",
            "smooth": "Smooth",
            "flatten": "Flatten",
            "sharpen": "Sharpen",
            "carve": "Line",
            "pull": "Pull",
        },
        hints={
            "raise": "The surface comes up under the stroke.",
            "lower": "The surface goes down under the stroke, to the ground at the most; a lithophane to its thinnest.",
            "smooth": "What is finer than the stroke is evened out.",
            "flatten": "The surface becomes the plane through what lies under the stroke.",
            "sharpen": "Ridges and edges under the stroke become steeper.",
            "carve": "A groove or a bead of even width runs along the stroke.",
            "pull": "The surface is taken along from where the stroke begins to where it ends.",
        },
    )
    places: tuple[tuple[float, float, float], ...] = Field(
        min_length=1, max_length=5000, title="Places of the stroke", json_schema_extra={"by_hand": True}
    )
    size_mm: float = length("Width of the stroke", 5.0, 0.05, 500, slider=(0.5, 40), step=0.5, label="Width")
    amount_mm: float = length(
        "Amount", 0.3, 0, 100, slider=(0.05, 3), shown={"tool": ["raise", "lower", "carve"]}, label="By"
    )
    strength: float = share("Strength", 0.5, shown={"tool": ["smooth", "flatten", "sharpen"]})
    hardness: float = share("Hardness", 0.3, shown={"tool": ["raise", "lower", "smooth", "flatten", "sharpen", "pull"]})
    profile: Profile = choice(
        "Profile of the line", "V", {"V": "V", "U": "U", "bead": "Bead"}, shown={"tool": ["carve"]}, label="Profile"
    )
    mirror: Literal["none", "across", "up", "both"] = choice(
        "Mirrored",
        "none",
        {"none": "Not", "across": "Left and right", "up": "Above and below", "both": "Both"},
        label="Mirrored about the middle",
    )

    def to_core(self, width: float, depth: float) -> list[ModellingStroke]:
        """The same for the core, over a piece of that size, mm; with its mirror images."""
        places = np.array(self.places, dtype=np.float64) * (width, depth, 1.0)
        own = ModellingStroke(
            self.tool, places, self.size_mm / 2, self.amount_mm, self.strength, self.hardness, self.profile
        )
        sides = {"none": (), "across": ((1, 0),), "up": ((0, 1),), "both": ((1, 0), (0, 1), (1, 1))}[self.mirror]
        return [own, *(own.mirrored(width, depth, bool(across), bool(up)) for across, up in sides)]


class ByHand(Part):
    """What the hand did to the heights."""

    heading: ClassVar[str] = "Shape by hand"
    strokes: tuple[HeightStroke, ...] = Field((), max_length=500, title="Strokes over the heights")

    def to_core(self, width: float, depth: float) -> list[ModellingStroke]:
        """All that are switched on, for the core."""
        return [each for stroke in self.strokes if stroke.on for each in stroke.to_core(width, depth)]
