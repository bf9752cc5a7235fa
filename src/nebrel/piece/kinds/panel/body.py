"""The Body station's part of a piece: what the object is, as a recipe for `core.solid`."""

from typing import Annotated, Literal

from pydantic import Field

from nebrel.core.panel import body as core
from nebrel.piece.parts.part import Part


class FramePart(Part):
    """A rim on the outermost part of the panel."""

    on: bool = Field(False, title="Frame switched on")
    width_mm: float = Field(4.0, ge=0.1, le=500, title="Frame width")
    height_mm: float = Field(3.0, ge=0.05, le=200, title="Frame height")
    profile: core.FrameProfile = Field("flat", title="Frame profile")

    @property
    def tallest_mm(self) -> float:
        """Its height above the backing, 0 when there is none."""
        return self.height_mm if self.on else 0.0

    def to_core(self) -> core.Frame | None:
        """The frame for the solid."""
        return core.Frame(self.width_mm, self.height_mm, self.profile) if self.on else None


class EdgePart(Part):
    """What is done to the outer edge."""

    bevel_on: bool = Field(False, title="Bevel switched on")
    bevel_mm: float = Field(1.0, ge=0.05, le=50, title="Bevel")
    draft_on: bool = Field(False, title="Wall draft switched on")
    draft_deg: float = Field(5.0, ge=0.5, le=45, title="Wall draft")


class HangingHolePart(Part):
    """A round hole in the middle, below the top edge."""

    kind: Literal["hanging-hole"] = "hanging-hole"
    on: bool = Field(True, title="Opening switched on")
    diameter_mm: float = Field(4.0, ge=0.2, le=200, title="Hole diameter")
    from_edge_mm: float = Field(5.0, ge=0.1, le=1000, title="Hole below the edge")

    def to_core(self) -> core.Opening:
        """The opening for the solid."""
        return core.HangingHole(self.diameter_mm, self.from_edge_mm)


class CornerHolesPart(Part):
    """Four holes, one in every corner."""

    kind: Literal["corner-holes"] = "corner-holes"
    on: bool = Field(True, title="Opening switched on")
    diameter_mm: float = Field(3.2, ge=0.2, le=200, title="Hole diameter")
    inset_mm: float = Field(5.0, ge=0.1, le=1000, title="Holes inside the edges")

    def to_core(self) -> core.Opening:
        """The opening for the solid."""
        return core.CornerHoles(self.diameter_mm, self.inset_mm)


class KeyholePart(Part):
    """A pocket in the back that slips over a screw."""

    kind: Literal["keyhole"] = "keyhole"
    on: bool = Field(True, title="Opening switched on")
    head_mm: float = Field(8.0, ge=0.5, le=100, title="Keyhole mouth")
    neck_mm: float = Field(4.0, ge=0.3, le=100, title="Keyhole slot")
    rise_mm: float = Field(6.0, ge=0.1, le=200, title="Keyhole rise")
    lip_mm: float = Field(1.2, ge=0.1, le=50, title="Keyhole lip")
    depth_mm: float = Field(3.6, ge=0.3, le=100, title="Keyhole depth")
    from_edge_mm: float = Field(15.0, ge=0.1, le=1000, title="Keyhole below the edge")

    def to_core(self) -> core.Opening:
        """The opening for the solid."""
        return core.Keyhole(self.head_mm, self.neck_mm, self.rise_mm, self.lip_mm, self.depth_mm, self.from_edge_mm)


class StandSlotPart(Part):
    """A groove across the back for a strip that props the piece up."""

    kind: Literal["stand-slot"] = "stand-slot"
    on: bool = Field(True, title="Opening switched on")
    length_mm: float = Field(30.0, ge=1, le=2000, title="Slot length")
    thickness_mm: float = Field(2.2, ge=0.3, le=50, title="Slot thickness")
    depth_mm: float = Field(3.0, ge=0.3, le=100, title="Slot depth")
    lean_deg: float = Field(15.0, ge=0, le=45, title="Slot lean")
    from_edge_mm: float = Field(15.0, ge=0.1, le=1000, title="Slot above the edge")

    def to_core(self) -> core.Opening:
        """The opening for the solid."""
        return core.StandSlot(self.length_mm, self.thickness_mm, self.depth_mm, self.lean_deg, self.from_edge_mm)


Opening = Annotated[HangingHolePart | CornerHolesPart | KeyholePart | StandSlotPart, Field(discriminator="kind")]


class PanelBodyPart(Part):
    """A panel over an outline, raised by the heights."""

    kind: Literal["panel"] = "panel"
    width_mm: float = Field(80.0, ge=1, le=3000, title="Width")
    backing_mm: float = Field(1.2, ge=0.1, le=100, title="Backing")
    back: core.Back = Field("flat", title="Back")
    shape: core.BaseShape = Field("rectangle", title="Outline")
    corner_mm: float = Field(5.0, ge=0.05, le=1500, title="Corner radius")
    sides: int = Field(6, ge=3, le=60, title="Sides")
    margin_mm: float = Field(0.0, ge=0, le=500, title="Margin")
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
