"""The Body station's part of a piece: what the object is, as a recipe for `core.panel`."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from nebrel.core.panel import body as core
from nebrel.piece.parts.fields import angle, choice, length, switch, whole
from nebrel.piece.parts.part import Part


class FramePart(Part):
    """A rim on the outermost part of the panel."""

    heading: ClassVar[str] = "Frame"
    hint: ClassVar[str] = "It lies on the outermost part of the piece; the width stays what was asked."
    on: bool = switch("Frame switched on", False)
    width_mm: float = length("Frame width", 4.0, 0.1, 500, slider=(0.5, 20), step=0.5)
    height_mm: float = length("Frame height", 3.0, 0.05, 200, slider=(0.2, 15), step=0.1, label="Over the backing")
    profile: core.FrameProfile = choice(
        "Frame profile", "flat", {"flat": "Flat", "bevel": "Bevel", "round": "Round", "cove": "Cove"}, label="Profile"
    )

    @property
    def tallest_mm(self) -> float:
        """Its height above the backing, 0 when there is none."""
        return self.height_mm if self.on else 0.0

    def to_core(self) -> core.Frame | None:
        """The frame for the solid."""
        return core.Frame(self.width_mm, self.height_mm, self.profile) if self.on else None


class EdgePart(Part):
    """What is done to the outer edge."""

    heading: ClassVar[str] = "Outer edge"
    bevel_on: bool = switch("Bevel switched on", False, label="Bevelled")
    bevel_mm: float = length("Bevel", 1.0, 0.05, 50, slider=(0.1, 6), step=0.1, shown={"bevel_on": ["true"]})
    draft_on: bool = switch("Wall draft switched on", False, label="Walls lean inwards")
    draft_deg: float = angle(
        "Wall draft", 5.0, 0.5, 45, slider=(0.5, 30), step=0.5, label="Lean", shown={"draft_on": ["true"]}
    )


class HangingHolePart(Part):
    """A round hole in the middle, below the top edge."""

    heading: ClassVar[str] = "Hanging hole"
    hint: ClassVar[str] = "Round, right through, below the middle of the top edge."
    kind: Literal["hanging-hole"] = "hanging-hole"
    on: bool = switch("Opening switched on", True)
    diameter_mm: float = length("Hole diameter", 4.0, 0.2, 200, step=0.1, label="Diameter")
    from_edge_mm: float = length("Hole below the edge", 5.0, 0.1, 1000, step=0.1, label="Middle below the edge")

    def to_core(self) -> core.Opening:
        """The opening for the solid."""
        return core.HangingHole(self.diameter_mm, self.from_edge_mm)


class CornerHolesPart(Part):
    """Four holes, one in every corner."""

    heading: ClassVar[str] = "Corner holes"
    hint: ClassVar[str] = "Four round holes for screws."
    kind: Literal["corner-holes"] = "corner-holes"
    on: bool = switch("Opening switched on", True)
    diameter_mm: float = length("Hole diameter", 3.2, 0.2, 200, step=0.1, label="Diameter")
    inset_mm: float = length("Holes inside the edges", 5.0, 0.1, 1000, step=0.1, label="Middle inside the edges")

    def to_core(self) -> core.Opening:
        """The opening for the solid."""
        return core.CornerHoles(self.diameter_mm, self.inset_mm)


class KeyholePart(Part):
    """A pocket in the back that slips over a screw."""

    heading: ClassVar[str] = "Keyhole"
    hint: ClassVar[str] = (
        "A pocket in the back that slips over a screw head. It needs a backing thicker than it is deep."
    )
    kind: Literal["keyhole"] = "keyhole"
    on: bool = switch("Opening switched on", True)
    head_mm: float = length("Keyhole mouth", 8.0, 0.5, 100, step=0.1, label="Mouth")
    neck_mm: float = length("Keyhole slot", 4.0, 0.3, 100, step=0.1, label="Slot")
    rise_mm: float = length("Keyhole rise", 6.0, 0.1, 200, step=0.1, label="Slot upwards")
    lip_mm: float = length("Keyhole lip", 1.2, 0.1, 50, step=0.1, label="Lip")
    depth_mm: float = length("Keyhole depth", 3.6, 0.3, 100, step=0.1, label="Depth")
    from_edge_mm: float = length("Keyhole below the edge", 15.0, 0.1, 1000, step=0.1, label="Mouth below the edge")

    def to_core(self) -> core.Opening:
        """The opening for the solid."""
        return core.Keyhole(self.head_mm, self.neck_mm, self.rise_mm, self.lip_mm, self.depth_mm, self.from_edge_mm)


class StandSlotPart(Part):
    """A groove across the back for a strip that props the piece up."""

    heading: ClassVar[str] = "Stand slot"
    hint: ClassVar[str] = "A leaning groove across the back that takes a strip for a prop."
    kind: Literal["stand-slot"] = "stand-slot"
    on: bool = switch("Opening switched on", True)
    length_mm: float = length("Slot length", 30.0, 1, 2000, step=0.1, label="Length")
    thickness_mm: float = length("Slot thickness", 2.2, 0.3, 50, step=0.1, label="Strip thickness")
    depth_mm: float = length("Slot depth", 3.0, 0.3, 100, step=0.1, label="Depth")
    lean_deg: float = angle("Slot lean", 15.0, 0, 45, label="Lean")
    from_edge_mm: float = length("Slot above the edge", 15.0, 0.1, 1000, step=0.1, label="Above the bottom edge")

    def to_core(self) -> core.Opening:
        """The opening for the solid."""
        return core.StandSlot(self.length_mm, self.thickness_mm, self.depth_mm, self.lean_deg, self.from_edge_mm)


Opening = Annotated[HangingHolePart | CornerHolesPart | KeyholePart | StandSlotPart, Field(discriminator="kind")]


class PanelBodyPart(Part):
    """A panel over an outline, raised by the heights."""

    kind: Literal["panel"] = "panel"
    width_mm: float = length("Width", 80.0, 1, 3000, slider=(20, 300), step=1)
    backing_mm: float = length("Backing", 1.2, 0.1, 100, slider=(0.4, 10), step=0.1, shown={"back": ["flat", "follow"]})
    back: core.Back = choice(
        "Back",
        "flat",
        {"flat": "Flat", "follow": "Follows", "none": "None"},
        label="The back is",
        hints={
            "flat": "Solid down to a flat back.",
            "follow": "The back runs along the relief, as thick everywhere as asked: light, and quick to cast.",
            "none": "The surface alone. It can be carved or joined to a model; a printer needs a back.",
        },
    )
    shape: core.BaseShape = choice(
        "Outline",
        "rectangle",
        {
            "rectangle": "Rectangle",
            "rounded": "Rectangle with round corners",
            "ellipse": "Ellipse",
            "polygon": "Polygon",
            "outline": "What the picture shows",
        },
        hints={
            "outline": "The outline follows what is not blank: cut the picture out, or cut through dark tones at "
            "Height. It stays inside the picture; a blank border there gives it room.",
        },
    )
    corner_mm: float = length(
        "Corner radius", 5.0, 0.05, 1500, slider=(0.5, 30), step=0.5, shown={"shape": ["rounded"]}
    )
    sides: int = whole("Sides", 6, 3, 60, slider=(3, 16), shown={"shape": ["polygon"]})
    margin_mm: float = length(
        "Margin", 0.0, 0, 500, slider=(0, 15), step=0.5, label="Base around it", shown={"shape": ["outline"]}
    )
    frame: FramePart = FramePart()
    edge: EdgePart = EdgePart()
    openings: tuple[Opening, ...] = Field((), max_length=20, title="Openings")

    def to_core(self) -> core.PanelBody:
        """The panel for the solid."""
        return core.PanelBody(
            backing=self.backing_mm,
            back=self.back,
            shape=self.shape,
            corner=self.corner_mm,
            sides=self.sides,
            margin=self.margin_mm if self.shape == "outline" else 0.0,
            frame=self.frame.to_core(),
            bevel=self.edge.bevel_mm if self.edge.bevel_on else 0.0,
            wall_draft_deg=self.edge.draft_deg if self.edge.draft_on else 0.0,
            openings=tuple(opening.to_core() for opening in self.openings if opening.on),
        )
