"""Which tone of a picture stands how tall."""

from typing import Annotated, Literal

from pydantic import Field

from nebrel.core.height.from_edge import EdgeRule, Profile
from nebrel.piece.parts.fields import angle, choice, length, share, tone
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
