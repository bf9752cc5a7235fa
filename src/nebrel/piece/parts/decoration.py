"""The recipe of a decoration on a model: what is laid on its skin, where, and how."""

from dataclasses import replace
from typing import Annotated, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field, model_validator

from nebrel.core.surface.displace.fence import Fence, fence_round
from nebrel.core.surface.displace.sculpt import BrushStroke, Profile, Tool
from nebrel.core.surface.parameterize.chart import Way
from nebrel.core.surface.scatter.copies import Copies
from nebrel.core.surface.skin.skin import Skin
from nebrel.piece.parts.fields import angle, choice, colour, length, share, switch, whole
from nebrel.piece.parts.material import Colour
from nebrel.piece.parts.part import Part

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

    profile: Literal["square", "bevel", "fade", "dome", "cove", "pillow", "rope"] = choice(
        "Edge",
        "square",
        {
            "square": "Square",
            "bevel": "Bevelled",
            "fade": "Faded",
            "dome": "Dome",
            "cove": "Cove",
            "pillow": "Pillow",
            "rope": "Rope",
        },
        hints={
            "pillow": "It swells from its edge like a skin held there, highest where it is widest.",
            "rope": "A cord lies along the edge, as thick as the edge is wide; nothing stands within it.",
        },
    )
    width_mm: float = length(
        "Width of the edge",
        1.0,
        0.01,
        1000,
        slider=(0.25, 20),
        step=0.25,
        shown={"profile": ["bevel", "fade", "dome", "cove", "rope"]},
    )
    side: Literal["around", "left", "right", "top", "bottom"] = choice(
        "Side that fades",
        "around",
        {
            "around": "All around",
            "left": "Towards the left",
            "right": "Towards the right",
            "top": "Towards the top",
            "bottom": "Towards the bottom",
        },
        shown={"profile": ["bevel", "fade", "dome", "cove"]},
    )


class DecorationCopies(Part):
    """How it is repeated."""

    kind: Literal["once", "row", "ring", "grid", "scatter"] = choice(
        "Repeat",
        "once",
        {
            "once": "Once",
            "row": "In a row",
            "ring": "Round the axis, evenly",
            "grid": "On a grid",
            "scatter": "Scattered",
        },
    )
    count: int = whole("Copies", 8, 1, 400, shown={"kind": ["row", "ring", "grid", "scatter"]})
    rows: int = whole("Rows", 2, 1, 100, shown={"kind": ["grid"]})
    across_mm: float = length(
        "Distance to the right",
        12.0,
        0.01,
        3000,
        slider=(1, 60),
        step=0.5,
        label="From middle to middle",
        shown={"kind": ["row", "grid", "scatter"]},
    )
    up_mm: float = length(
        "Distance upwards",
        12.0,
        0.01,
        3000,
        slider=(1, 60),
        step=0.5,
        label="From row to row",
        shown={"kind": ["grid", "scatter"]},
    )
    turn_deg: float = angle(
        "Turn of every copy",
        0.0,
        -360,
        360,
        step=5,
        label="Each turned further by",
        shown={"kind": ["row", "ring", "grid", "scatter"]},
    )
    seed: int = whole("Seed", 1, 0, 1_000_000, shown={"kind": ["scatter"]})

    def to_core(self) -> Copies:
        """The same for the core."""
        return Copies(self.kind, self.count, self.rows, self.across_mm, self.up_mm, self.turn_deg, self.seed)


class DecorationPick(Part):
    """The part of the skin that it keeps to: faces reached from places, what is near them, or what they encircle."""

    kind: Literal["free", "everything", "faces", "brush", "lasso"] = choice(
        "Region",
        "free",
        {
            "free": "Wherever it lies",
            "everything": "The whole model",
            "faces": "Faces that are pressed",
            "brush": "Where it is painted",
            "lasso": "What is encircled",
        },
        label="Region it keeps to",
        hints={
            "faces": "Press a face; its neighbours count as far as no edge bends more than the angle.",
            "brush": "Paint over the model.",
            "lasso": "Draw round a part of the model.",
        },
    )
    places: tuple[Place, ...] = Field((), max_length=2000, title="Picked places")
    most_deg: float = angle("Sharpest edge passed", 30.0, 0, 180, shown={"kind": ["faces"]})
    radius_mm: float = length(
        "Radius of the brush",
        4.0,
        0.01,
        1000,
        step=0.5,
        label="Radius of the region brush",
        shown={"kind": ["brush"]},
    )


class GrainStroke(Part):
    """Which way a texture points up, along the skin from place to place."""

    places: tuple[Place, ...] = Field(min_length=2, max_length=400, title="Places of the direction")


class DecorationPart(Part):
    """One decoration."""

    id: str = Field("", max_length=40)
    on: bool = Field(True, title="Decoration switched on")
    art: DecorationArt
    at: Place = Field(title="Place")
    up: Direction = Field((0.0, 0.0, 1.0), title="Up")
    width_mm: float = length("Width", 24.0, 0.1, 3000, slider=(2, 60), step=0.5)
    turn_deg: float = angle("Turn", 0.0, -360, 360, slider=(-180, 180))
    mirror: bool = switch("Mirror", False)
    lie: Literal["follow", "wrap", "project"] = choice(
        "Lie",
        "follow",
        {"follow": "Follow", "wrap": "Wrap", "project": "Straight on"},
        label="How it lies",
        hints={
            "follow": "By the skin's own lengths, whatever its shape.",
            "wrap": "Unrolled from the cylinder, cone or sphere that the skin is part of, or round its turning axis.",
            "project": "As it is seen from straight in front; sides that turn away are stretched.",
        },
    )
    along: Direction | None = Field(None, title="Direction it is seen along")
    rim: Literal["clip", "continue"] = choice(
        "Rim",
        "clip",
        {"clip": "Ends there", "continue": "Goes on round it"},
        label="At sharp edges",
        hints={
            "clip": "What reaches over a sharp edge is left out.",
            "continue": "It goes on over the edge, laid on both sides by their lengths.",
        },
        shown={"lie": ["follow"]},
    )
    distort: bool = switch(
        "Any size",
        False,
        label="Let it be distorted",
        hint="Otherwise it is refused where it would lie more than a tenth larger, smaller or wider than asked.",
        shown={"lie": ["follow", "wrap"]},
    )
    effect: Literal["raise", "sink", "both", "colour", "picture"] = choice(
        "Effect",
        "raise",
        {
            "raise": "Raised",
            "sink": "Sunk",
            "both": "Both ways from middle gray",
            "colour": "Colour only",
            "picture": "Picture only",
        },
        label="What it does",
    )
    depth_mm: float = length("Depth", 0.6, 0.01, 100, slider=(0.1, 3), shown={"effect": ["raise", "sink", "both"]})
    tall: Literal["bright", "dark"] = choice(
        "Tones that stand tall", "bright", {"bright": "Bright", "dark": "Dark"}, label="Which tones stand tall?"
    )
    curves: bool = switch(
        "Edges as curves",
        True,
        hint="Where the depth of a picture jumps, the wall follows a curve and not the pixels.",
        shown={"effect": ["raise", "sink", "both"]},
    )
    edge: DecorationEdge = DecorationEdge()
    copies: DecorationCopies = DecorationCopies()
    pick: DecorationPick = DecorationPick()
    tiled: bool = switch("Texture", False)
    grain: tuple[GrainStroke, ...] = Field((), max_length=200, title="Directions of the texture")
    overlap: Literal["highest", "sum", "last"] = choice(
        "Where decorations meet", "highest", {"highest": "Highest", "sum": "Sum", "last": "Last"}
    )
    colour: Colour = colour("Colour", "#2f6f5e", shown={"effect": ["colour"]})

    def to_way(self) -> Way:
        """How it lies, as the core takes it."""
        return Way(self.lie, self.rim, None if self.along is None else np.array(self.along))


class BrushMark(Part):
    """A stroke of a brush over a model."""

    id: str = Field("", max_length=40)
    tool: Tool = choice(
        "Brush",
        "smooth",
        {
            "smooth": "Smooth",
            "raise": "Raise",
            "lower": "Lower",
            "flatten": "Flatten",
            "sharpen": "Sharpen",
            "carve": "Carve a line",
            "pull": "Pull",
        },
        label="What the brush does",
    )
    within: Literal["decorations", "face", "region", "everywhere"] = choice(
        "Where the brush works",
        "decorations",
        {
            "decorations": "On decorations",
            "face": "On the side where it begins",
            "region": "In a region",
            "everywhere": "Everywhere",
        },
        label="Where it works",
        hints={
            "decorations": "What is beside decorations stays as it came.",
            "face": "A side goes as far as no edge bends more than the angle.",
            "region": "Encircle a part of the model, or paint it; strokes end softly at its border.",
            "everywhere": "Over edges and all.",
        },
    )
    most_deg: float = angle("Sharpest edge brushed over", 30.0, 0, 180, shown={"within": ["face"]})
    region: DecorationPick = Field(DecorationPick(), title="Region that the stroke keeps to")
    places: tuple[Place, ...] = Field(min_length=1, max_length=500, title="Places of the stroke")
    pressures: tuple[Annotated[float, Field(ge=0, le=1)], ...] = Field(
        (), max_length=500, title="Pressure at every place; all of it where none is told"
    )
    radius_mm: float = length("Radius of the brush", 3.0, 0.05, 200, slider=(0.5, 15), step=0.25, label="Radius")
    strength: float = share(
        "Strength",
        0.5,
        0.01,
        1,
        slider=(0.05, 1),
        step=0.05,
        shown={"tool": ["smooth", "flatten", "sharpen", "pull", "raise", "lower"]},
    )
    amount_mm: float = length(
        "Height of a stroke",
        0.0,
        0,
        100,
        slider=(0, 5),
        step=0.05,
        label="By so much, whatever the strength",
        hint="0 for as much as the size of the brush suggests.",
        shown={"tool": ["raise", "lower", "carve"]},
    )
    profile: Profile = choice(
        "Profile of the line",
        "V",
        {"V": "V groove", "U": "U groove", "bead": "Bead"},
        label="Profile",
        shown={"tool": ["carve"]},
    )
    mirror: bool = switch("Mirrored left and right", False, hint="About the middle of the model.")

    @model_validator(mode="after")
    def _pressed_everywhere(self) -> "BrushMark":
        if self.pressures and len(self.pressures) != len(self.places):
            raise ValueError(
                f"The stroke has {len(self.places)} places and {len(self.pressures)} pressures; "
                "one pressure for every place, or none at all, would be accepted."
            )
        return self

    @model_validator(mode="after")
    def _has_its_region(self) -> "BrushMark":
        drawn = {"lasso": 3, "brush": 1}.get(self.region.kind)
        if self.within == "region" and (drawn is None or len(self.region.places) < drawn):
            raise ValueError(
                "The stroke keeps to a region, and none is given; "
                "three places or more that encircle it (lasso), or one or more that are painted (brush), "
                "would be accepted."
            )
        return self

    def regions_to_core(self, skin: Skin, middle: float) -> tuple[Fence, ...]:
        """Its region on a skin, for every stroke of `to_core`."""
        places = np.array(self.region.places, dtype=np.float64).reshape(-1, 3)
        drawn = (places, _mirrored(places, middle)) if self.mirror else (places,)
        radius = self.region.radius_mm if self.region.kind == "brush" else 0.0
        return tuple(fence_round(skin, each, radius) for each in drawn)

    def to_core(self, middle: float) -> tuple[BrushStroke, ...]:
        """The stroke for the core, and where it is mirrored its image on the other side of `middle`, X in mm."""
        places = np.array(self.places, dtype=np.float64)
        pressure = np.array(self.pressures) if self.pressures else None
        stroke = BrushStroke(
            self.tool, places, self.radius_mm, self.strength, self.amount_mm, self.profile, pressure,
            beside=self.within != "decorations",
        )  # fmt: skip
        if not self.mirror:
            return (stroke,)
        return stroke, replace(stroke, places=_mirrored(places, middle))


def _mirrored(places: NDArray[np.float64], middle: float) -> NDArray[np.float64]:
    """Places (K, 3) on the other side of `middle`, X in mm."""
    return np.asarray(places * [-1.0, 1.0, 1.0] + [2 * middle, 0.0, 0.0])
