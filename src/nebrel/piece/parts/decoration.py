"""The recipe of a decoration on a model: what is laid on its skin, where, and how."""

from typing import Annotated, Literal

from pydantic import Field

from nebrel.core.surface.scatter.copies import Copies
from nebrel.piece.parts.part import COLOUR_PATTERN, Part

Coordinate = Annotated[float, Field(ge=-1e7, le=1e7)]
Place = tuple[Coordinate, Coordinate, Coordinate]
Direction = tuple[
    Annotated[float, Field(ge=-1, le=1)], Annotated[float, Field(ge=-1, le=1)], Annotated[float, Field(ge=-1, le=1)]
]


class DecorationArt(Part):
    """A picture or a drawing; with `motif` it follows the library."""

    kind: Literal["picture", "outline"] = Field("outline", title="What is laid")
    blob: str = Field(pattern="^[0-9a-f]{64}$", title="File of the decoration")
    name: str = Field("motif", max_length=255, title="Name of the decoration")
    motif: str | None = Field(None, max_length=64, title="Motif that it follows")


class DecorationEdge(Part):
    """How it ends."""

    profile: Literal["square", "bevel", "fade"] = Field("square", title="Edge")
    width_mm: float = Field(1.0, ge=0.01, le=1000, title="Width of the edge")
    side: Literal["around", "left", "right", "top", "bottom"] = Field("around", title="Side that fades")


class DecorationCopies(Part):
    """How it is repeated."""

    kind: Literal["once", "row", "ring", "grid", "scatter"] = Field("once", title="Repeat")
    count: int = Field(8, ge=1, le=400, title="Copies")
    rows: int = Field(2, ge=1, le=100, title="Rows")
    across_mm: float = Field(12.0, ge=0.01, le=3000, title="Distance to the right")
    up_mm: float = Field(12.0, ge=0.01, le=3000, title="Distance upwards")
    turn_deg: float = Field(0.0, ge=-360, le=360, title="Turn of every copy")
    seed: int = Field(1, ge=0, le=1_000_000, title="Seed")

    def to_core(self) -> Copies:
        """The same for the core."""
        return Copies(self.kind, self.count, self.rows, self.across_mm, self.up_mm, self.turn_deg, self.seed)


class DecorationPick(Part):
    """The part of the skin that it keeps to: faces reached from places, what is near them, or what they encircle."""

    kind: Literal["free", "everything", "faces", "brush", "lasso"] = Field("free", title="Region")
    places: tuple[Place, ...] = Field((), max_length=2000, title="Picked places")
    most_deg: float = Field(30.0, ge=0, le=180, title="Sharpest edge passed")
    radius_mm: float = Field(4.0, ge=0.01, le=1000, title="Radius of the brush")


class DecorationPart(Part):
    """One decoration."""

    id: str = Field("", max_length=40)
    on: bool = Field(True, title="Decoration switched on")
    art: DecorationArt
    at: Place = Field(title="Place")
    up: Direction = Field((0.0, 0.0, 1.0), title="Up")
    width_mm: float = Field(24.0, ge=0.1, le=3000, title="Width")
    turn_deg: float = Field(0.0, ge=-360, le=360, title="Turn")
    mirror: bool = Field(False, title="Mirror")
    lie: Literal["follow", "wrap", "project"] = Field("follow", title="Lie")
    along: Direction | None = Field(None, title="Direction it is seen along")
    effect: Literal["raise", "sink", "both", "colour", "picture"] = Field("raise", title="Effect")
    depth_mm: float = Field(0.6, ge=0.01, le=100, title="Depth")
    tall: Literal["bright", "dark"] = Field("bright", title="Tones that stand tall")
    edge: DecorationEdge = DecorationEdge()
    copies: DecorationCopies = DecorationCopies()
    pick: DecorationPick = DecorationPick()
    tiled: bool = Field(False, title="Texture")
    overlap: Literal["highest", "sum", "last"] = Field("highest", title="Where decorations meet")
    colour: str = Field("#2f6f5e", pattern=COLOUR_PATTERN, title="Colour")


class BrushMark(Part):
    """A stroke of a brush over decorated skin."""

    id: str = Field("", max_length=40)
    tool: Literal["smooth", "raise", "lower", "flatten"] = Field("smooth", title="Brush")
    places: tuple[Place, ...] = Field((), min_length=1, max_length=500, title="Places of the stroke")
    radius_mm: float = Field(3.0, ge=0.05, le=200, title="Radius of the brush")
    strength: float = Field(0.5, ge=0.01, le=1, title="Strength")
