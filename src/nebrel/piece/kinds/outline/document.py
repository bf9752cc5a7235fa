"""The recipe of a piece that is made of outlines: where they come from, how they are mended, what they become."""

from typing import Annotated, Literal

from pydantic import Field

from nebrel.core.outline_solid import cutter as core_cutter
from nebrel.core.outline_solid import raised as core
from nebrel.core.outline_solid import stamp as core_stamp
from nebrel.piece.kinds.outline.mending import MendStep
from nebrel.piece.kinds.outline.tracing import Trace
from nebrel.piece.parts.document import Document, PicturedDocument
from nebrel.piece.parts.part import Part

Heights = tuple[Annotated[float, Field(ge=0, le=500)], ...]


class DrawingSource(Part):
    """The drawing that a piece starts from: a blob, and what it was taken for."""

    blob: str = Field(pattern="^[0-9a-f]{64}$", title="Drawing blob")
    name: str = Field(max_length=255, title="Drawing name")
    format: Literal["svg", "dxf"]
    size_mm: tuple[float, float]
    told: bool = Field(True, title="Whether the file says its size")
    remarks: tuple[str, ...] = ()


class OutlineBase(Part):
    """A plate under the outlines."""

    kind: core.BaseKind = Field("none", title="Base")
    margin_mm: float = Field(3.0, ge=0, le=500, title="Base margin")
    thickness_mm: float = Field(1.2, ge=0.1, le=200, title="Base thickness")

    def to_core(self) -> core.Base:
        """The base for the solid."""
        return core.Base(self.kind, self.margin_mm, self.thickness_mm)


class RaisedPart(Part):
    """Outlines raised, or cut through a plate."""

    kind: Literal["raised"] = "raised"
    thickness_mm: float = Field(3.0, ge=0.05, le=500, title="Thickness")
    heights_mm: Heights = Field((), max_length=64, title="Heights of the layers")
    base: OutlineBase = OutlineBase()
    edge: core.EdgeKind = Field("square", title="Edge")
    edge_mm: float = Field(0.5, ge=0.02, le=100, title="Edge size")
    edge_both: bool = Field(False, title="Edge on both sides")
    cut: bool = Field(False, title="Cut through the base")
    shell: core.ShellKind = Field("none", title="Only a band along the edge")
    shell_mm: float = Field(1.2, ge=0.05, le=200, title="Width of the band")
    inlay: bool = Field(False, title="Inlay pair")
    clearance_mm: float = Field(0.12, ge=0, le=10, title="Clearance")

    def to_core(self) -> core.RaisedBody:
        """The same for the solid."""
        return core.RaisedBody(
            base=self.base.to_core(),
            edge=self.edge,
            edge_size=self.edge_mm,
            both=self.edge_both,
            cut=self.cut,
            shell=self.shell,
            shell_width=self.shell_mm,
            inlay=self.clearance_mm if self.inlay else None,
        )


class CutterPart(Part):
    """A cutter for clay or dough."""

    kind: Literal["cutter"] = "cutter"
    lines: int = Field(4, ge=1, le=40, title="Lines to a wall")
    line_mm: float = Field(0.45, ge=0.05, le=5, title="Line width")
    height_mm: float = Field(16.0, ge=2, le=200, title="Height")
    edge_mm: float = Field(0.8, ge=0.05, le=20, title="Cutting edge")
    edge_height_mm: float = Field(4.0, ge=0, le=100, title="Height of the edge")
    rim_mm: float = Field(4.0, ge=0, le=100, title="Rim width")
    rim_height_mm: float = Field(2.5, ge=0.2, le=50, title="Rim height")
    rim_round: bool = Field(False, title="Rounded rim")
    clearance_mm: float = Field(0.0, ge=0, le=20, title="Dough clearance")
    holes: bool = Field(False, title="Cut holes too")
    bars: int = Field(2, ge=0, le=4, title="Bars between parts")
    bar_mm: float = Field(4.0, ge=0.4, le=50, title="Bar width")
    handle_mm: float = Field(0.0, ge=0, le=100, title="Handle width")
    imprint: bool = Field(False, title="Imprint")
    setback_mm: float = Field(3.0, ge=0, le=100, title="Imprint behind the edge")
    setbacks_mm: Heights = Field((), max_length=64, title="Imprint of the layers behind the edge")
    plate_mm: float = Field(2.0, ge=0.2, le=50, title="Imprint plate")
    gap_mm: float = Field(0.6, ge=0, le=50, title="Imprint away from the wall")
    mirror: bool = Field(True, title="Mirrored")

    def to_core(self) -> core_cutter.Cutter:
        """The same for the solid."""
        return core_cutter.Cutter(
            lines=self.lines,
            line=self.line_mm,
            height=self.height_mm,
            edge=self.edge_mm,
            edge_height=self.edge_height_mm,
            rim=self.rim_mm,
            rim_height=self.rim_height_mm,
            rim_round=self.rim_round,
            clearance=self.clearance_mm,
            bars=self.bars,
            bar=self.bar_mm,
            handle=self.handle_mm,
            imprint_plate=self.plate_mm,
            imprint_gap=self.gap_mm,
            mirror=self.mirror,
        )


class StampPart(Part):
    """A stamp."""

    kind: Literal["stamp"] = "stamp"
    relief_mm: float = Field(2.0, ge=0.1, le=50, title="Relief")
    draft_deg: float = Field(5.0, ge=0, le=45, title="Draft")
    plate: OutlineBase = OutlineBase(kind="rectangle", margin_mm=2.0, thickness_mm=3.0)
    grip: core_stamp.Grip = Field("none", title="Grip")
    grip_mm: float = Field(18.0, ge=2, le=200, title="Grip height")
    mirror: bool = Field(True, title="Mirrored")

    def to_core(self) -> core_stamp.Stamp:
        """The same for the solid."""
        return core_stamp.Stamp(
            self.relief_mm, self.draft_deg, self.plate.to_core(), self.grip, self.grip_mm, self.mirror
        )


OutlineSolid = Annotated[RaisedPart | CutterPart | StampPart, Field(discriminator="kind")]


class OutlineFinish(Part):
    """How true curves have to be."""

    tolerance_mm: float = Field(0.01, ge=0.0005, le=1, title="Tolerance")


class OutlineDocument(Document):
    """What all pieces made of outlines have in common; `width_mm` is that of the whole picture or drawing."""

    width_mm: float = Field(60.0, ge=0.5, le=3000, title="Width")
    mend: tuple[MendStep, ...] = Field((), max_length=200, title="Mending")
    solid: OutlineSolid = RaisedPart()
    finish: OutlineFinish = OutlineFinish()

    @property
    def line_mm(self) -> float:
        """Width of the thinnest line that it is made with."""
        return self.solid.line_mm if isinstance(self.solid, CutterPart) else self.maker.line_width_mm


class DrawnDocument(OutlineDocument):
    """One immutable state of a piece that starts from a drawing."""

    drawing: DrawingSource


class TracedDocument(OutlineDocument, PicturedDocument):
    """One immutable state of a piece that is made of the outlines of a picture."""

    trace: Trace = Trace()

    @property
    def picture_width_mm(self) -> float:
        """That of the piece."""
        return self.width_mm
