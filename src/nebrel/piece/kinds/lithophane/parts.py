"""What a lithophane has besides its picture: border, foot, bottom, lid seat, rails, clip, hanging hole."""

from typing import ClassVar, Literal

from pydantic import Field

from nebrel.core.bent import parts as core
from nebrel.piece.parts.fields import choice, length, switch
from nebrel.piece.parts.part import Part


class RimPart(Part):
    """A plain border round the picture, on any side."""

    heading: ClassVar[str] = "Border"
    on: bool = switch("Border switched on", True)
    width_mm: float = length("Border width", 3.0, 0.2, 200, slider=(0.5, 20), step=0.5)
    thickness_mm: float = length("Border thickness", 3.2, 0.2, 60, slider=(0.5, 10), step=0.1)
    left: bool = switch("Border on the left", True, label="Left")
    right: bool = switch("Border on the right", True, label="Right")
    top: bool = switch("Border on top", True, label="Top")
    bottom: bool = switch("Border below", True, label="Bottom")


class NameText(Part):
    """A name on the border."""

    on: bool = Field(False, title="Name switched on")
    text: str = Field("", max_length=200, title="Name", json_schema_extra={"label": "Name on the border"})
    side: Literal["bottom", "top"] = choice(
        "Which border", "bottom", {"bottom": "Below", "top": "Above"}, label="Where the name is"
    )
    height_mm: float = length("Letter height", 2.0, 0.4, 100, slider=(1, 15), step=0.1)
    depth_mm: float = length("Letter depth", 0.6, 0.05, 20, slider=(0.1, 3), step=0.1)
    sunk: bool = Field(True, title="Letters sunk")


class FootPart(Part):
    """A plate that it stands on."""

    heading: ClassVar[str] = "Foot"
    hint: ClassVar[str] = "A plate under the lower edge to stand on."
    on: bool = switch("Foot switched on", False)
    margin_mm: float = length("Foot reaches out", 8.0, 0.2, 200, slider=(0.2, 40), step=0.2, label="Reaches out")
    height_mm: float = length("Foot height", 3.0, 0.2, 100, slider=(0.2, 10), step=0.2)


class FlatPart(Part):
    """A flat to stand on."""

    heading: ClassVar[str] = "Flat below"
    hint: ClassVar[str] = "Cut level below, where the lower edge leans and touches the bed along a line."
    on: bool = switch("Flat switched on", False)
    depth_mm: float = length("Cut off below", 0.6, 0.05, 20, slider=(0.2, 4), step=0.2)


class BottomPart(Part):
    """The bottom of a lantern."""

    heading: ClassVar[str] = "Lantern bottom"
    hint: ClassVar[str] = "It closes the form below, round a hole for the lamp."
    on: bool = switch("Bottom switched on", False)
    thickness_mm: float = length("Bottom thickness", 2.4, 0.2, 50, slider=(0.2, 8), step=0.2)
    hole_mm: float = length("Hole for the lamp", 28.0, 0, 900, slider=(0, 80), step=0.2)


class LidPart(Part):
    """A ledge for a lid."""

    heading: ClassVar[str] = "Lid seat"
    hint: ClassVar[str] = "A ledge inside the upper edge that a lid lies on."
    on: bool = switch("Lid seat switched on", False)
    depth_mm: float = length("Lid thickness", 2.0, 0.2, 100, slider=(0.2, 8), step=0.2)
    ledge_mm: float = length("Ledge", 1.6, 0.2, 50, slider=(0.2, 5), step=0.2)


class RailsPart(Part):
    """Tongues for slots."""

    heading: ClassVar[str] = "Slide rails"
    hint: ClassVar[str] = "Tongues along both sides that slide into slots of a lamp."
    on: bool = switch("Rails switched on", False)
    slot_mm: float = length("Slot width", 2.2, 0.4, 50, slider=(0.4, 8), step=0.2)
    depth_mm: float = length("Rail depth", 4.0, 0.4, 100, slider=(0.4, 12), step=0.2)


class ClipPart(Part):
    """A hook behind the upper edge."""

    heading: ClassVar[str] = "Clip"
    hint: ClassVar[str] = "A hook behind the upper edge that hangs it over a board or a pane."
    on: bool = switch("Clip switched on", False)
    slot_mm: float = length("Clip slot", 4.0, 0.4, 100, slider=(0.4, 20), step=0.2)
    width_mm: float = length("Clip width", 20.0, 2, 500, slider=(2, 80), step=0.2)
    length_mm: float = length("Clip length", 12.0, 1, 200, slider=(1, 40), step=0.2)


class HolePart(Part):
    """A hole to hang it by."""

    heading: ClassVar[str] = "Hanging hole"
    hint: ClassVar[str] = "Through the upper border; two on opposite sides where the form runs round."
    on: bool = switch("Hanging hole switched on", False)
    diameter_mm: float = length("Hole diameter", 3.0, 0.5, 50, slider=(0.5, 10), step=0.2)
    from_edge_mm: float = length(
        "Hole below the edge", 3.5, 0.4, 200, slider=(0.4, 20), step=0.2, label="Below the edge"
    )


class LithophaneParts(Part):
    """Everything besides the picture."""

    rim: RimPart = RimPart()
    name: NameText = NameText()
    foot: FootPart = FootPart()
    flat: FlatPart = FlatPart()
    bottom: BottomPart = BottomPart()
    lid: LidPart = LidPart()
    rails: RailsPart = RailsPart()
    clip: ClipPart = ClipPart()
    hole: HolePart = HolePart()

    def to_core(self) -> core.WallParts:
        """Those that are joined or cut, for the solid."""
        foot, bottom, lid, rails, clip, hole = self.foot, self.bottom, self.lid, self.rails, self.clip, self.hole
        return core.WallParts(
            foot=core.Foot(foot.margin_mm, foot.height_mm) if foot.on else None,
            bottom=core.Bottom(bottom.thickness_mm, bottom.hole_mm) if bottom.on else None,
            lid=core.LidSeat(lid.depth_mm, lid.ledge_mm) if lid.on else None,
            rails=core.Rails(rails.slot_mm, rails.depth_mm) if rails.on else None,
            clip=core.Clip(clip.slot_mm, clip.width_mm, clip.length_mm) if clip.on else None,
            hole=core.BorderHole(hole.diameter_mm, hole.from_edge_mm) if hole.on else None,
            flat=self.flat.depth_mm if self.flat.on else None,
        )
