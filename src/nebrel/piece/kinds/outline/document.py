"""The recipe of a piece that is made of outlines: where they come from, how they are mended, what they become."""

import secrets
from typing import Annotated, Literal

from pydantic import Field

from nebrel.core.outline_solid import cutter as core_cutter
from nebrel.core.outline_solid import raised as core
from nebrel.core.outline_solid import stamp as core_stamp
from nebrel.core.outline_solid.raised import PROFILES
from nebrel.piece.documents.document import Document, PicturedDocument
from nebrel.piece.kinds.outline.mending import MendStep
from nebrel.piece.kinds.outline.tracing import Trace
from nebrel.piece.parts.fields import angle, choice, length, made_by_hand, switch, whole
from nebrel.piece.parts.paint import Colour
from nebrel.piece.parts.part import Part

PLATES = ["rectangle", "ellipse", "outline"]
Heights = tuple[Annotated[float, Field(ge=0, le=500)], ...]


class DrawingSource(Part):
    """The drawing that a piece starts from: a blob, and what it was taken for."""

    blob: str = Field(pattern="^[0-9a-f]{64}$", title="Drawing blob")
    name: str = Field(max_length=255, title="Drawing name")
    format: Literal["svg", "dxf"]
    size_mm: tuple[float, float]
    told: bool = Field(True, title="Whether the file says its size")
    remarks: tuple[str, ...] = ()
    join_mm: float = made_by_hand("Ends that were joined", 0.0)
    mm_per_unit: float | None = made_by_hand("Unit that was told", None)


class OutlineBase(Part):
    """A plate under the outlines."""

    kind: core.BaseKind = choice(
        "Base",
        "none",
        {"none": "None", "rectangle": "Rectangle", "ellipse": "Ellipse", "outline": "Outline"},
        label="Plate",
    )
    margin_mm: float = length(
        "Base margin", 3.0, 0, 500, slider=(0, 15), step=0.5, label="Beyond the outlines", shown={"kind": PLATES}
    )
    thickness_mm: float = length(
        "Base thickness", 1.2, 0.1, 200, slider=(0.4, 8), step=0.2, label="Plate thickness", shown={"kind": PLATES}
    )

    def to_core(self) -> core.Base:
        """The base for the solid."""
        return core.Base(self.kind, self.margin_mm, self.thickness_mm)


class RaisedPart(Part):
    """Outlines raised, or cut through a plate."""

    kind: Literal["raised"] = "raised"
    thickness_mm: float = length("Thickness", 3.0, 0.05, 500, slider=(0.4, 20), step=0.2)
    heights_mm: Heights = Field((), max_length=64, title="Heights of the layers", json_schema_extra={"step": 0.2})
    colours: tuple[Colour | None, ...] = made_by_hand("Colours of the layers", (), max_length=64)
    base: OutlineBase = OutlineBase()
    edge: core.EdgeKind = choice(
        "Edge",
        "square",
        {
            "square": "Square",
            "bevel": "Bevelled",
            "round": "Round",
            "roof": "Roof",
            "dome": "Dome",
            "cove": "Cove",
            "pillow": "Pillow",
            "rope": "Rope",
        },
        label="Upper edge",
        hints={
            "roof": "It rises evenly from its foot, to a ridge or to a level top.",
            "dome": "It bulges from its foot, to a ridge or to a level top.",
            "cove": "It rises hollow from its foot, to a ridge or to a level top.",
            "pillow": "It swells from its foot like a skin held at the edge, highest where it is widest.",
            "rope": "A cord lies along the edge, as thick as it reaches; nothing stands within it.",
        },
    )
    edge_mm: float = length("Edge size", 0.5, 0.02, 100, slider=(0.1, 3), step=0.1, shown={"edge": ["bevel", "round"]})
    profile_mm: float = length(
        "Reach of the profile",
        6.0,
        0.05,
        500,
        slider=(0.5, 30),
        step=0.5,
        label="Reach from the edge",
        shown={"edge": ["roof", "dome", "cove", "rope"]},
    )
    edge_both: bool = switch("Edge on both sides", False, label="Below as well", shown={"edge": ["bevel", "round"]})
    cut: bool = switch("Cut through the base", False, label="Cut the outlines out of it")
    shell: core.ShellKind = choice(
        "Only a band along the edge",
        "none",
        {"none": "All", "inside": "Inside", "centred": "Centred", "outside": "Outside"},
        label="What stays",
    )
    shell_mm: float = length(
        "Width of the band",
        1.2,
        0.05,
        200,
        slider=(0.4, 8),
        step=0.1,
        wall="lines",
        shown={"shell": ["inside", "centred", "outside"]},
    )
    inlay: bool = switch("Inlay pair", False)
    clearance_mm: float = length("Clearance", 0.12, 0, 10, slider=(0, 0.5), step=0.02)

    @property
    def straight(self) -> bool:
        """Whether straight outlines make straight faces alone, however closely curves are followed."""
        return self.edge not in PROFILES

    def to_core(self) -> core.RaisedBody:
        """The same for the solid."""
        return core.RaisedBody(
            base=self.base.to_core(),
            edge=self.edge,
            edge_size=self.profile_mm if self.edge in PROFILES else self.edge_mm,
            both=self.edge_both,
            cut=self.cut,
            shell=self.shell,
            shell_width=self.shell_mm,
            inlay=self.clearance_mm if self.inlay else None,
        )


class CutterPart(Part):
    """A cutter for clay or dough."""

    kind: Literal["cutter"] = "cutter"
    lines: int = whole("Lines to a wall", 4, 1, 40, slider=(1, 8), label="Printed lines")
    line_mm: float = length("Line width", 0.45, 0.05, 5, wall="line")
    height_mm: float = length("Height", 16.0, 2, 200, step=1)
    edge_mm: float = length("Cutting edge", 0.8, 0.05, 20, step=0.1, label="Edge thickness", wall="lines")
    edge_height_mm: float = length("Height of the edge", 4.0, 0, 100, step=0.5, label="Edge height")
    rim_mm: float = length("Rim width", 4.0, 0, 100, step=0.5)
    rim_height_mm: float = length("Rim height", 2.5, 0.2, 50, step=0.5)
    rim_round: bool = switch("Rounded rim", False, label="Rounded")
    clearance_mm: float = length("Dough clearance", 0.0, 0, 20, slider=(0, 3), step=0.1, label="Room for the dough")
    holes: bool = switch("Cut holes too", False)
    bars: int = whole("Bars between parts", 2, 0, 4)
    bar_mm: float = length("Bar width", 4.0, 0.4, 50, step=0.5, wall="lines")
    handle_mm: float = length("Handle width", 0.0, 0, 100, slider=(0, 30), step=1, label="Handle across, 0 for none")
    imprint: bool = switch("Imprint", False)
    setback_mm: float = length(
        "Imprint behind the edge", 3.0, 0, 100, slider=(0, 12), step=0.5, label="Behind the cutting edge"
    )
    setbacks_mm: Heights = Field(
        (), max_length=64, title="Imprint of the layers behind the edge", json_schema_extra={"step": 0.5}
    )
    plate_mm: float = length("Imprint plate", 2.0, 0.2, 50, step=0.2, label="Plate")
    gap_mm: float = length("Imprint away from the wall", 0.6, 0, 50, step=0.1, label="Away from the wall")
    mirror: bool = switch("Mirrored", True, label="Mirrored, so that what is cut looks like the outline")

    @property
    def straight(self) -> bool:
        """Straight outlines make straight faces alone."""
        return True

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
    relief_mm: float = length("Relief", 2.0, 0.1, 50, slider=(0.4, 6), step=0.1)
    draft_deg: float = angle("Draft", 5.0, 0, 45, slider=(0, 30), label="Flanks lean")
    plate: OutlineBase = OutlineBase(kind="rectangle", margin_mm=2.0, thickness_mm=3.0)
    grip: core_stamp.Grip = choice(
        "Grip", "none", {"none": "None", "knob": "Knob", "bar": "Bar"}, label="Behind the plate"
    )
    grip_mm: float = length("Grip height", 18.0, 2, 200, slider=(6, 40), step=1, shown={"grip": ["knob", "bar"]})
    mirror: bool = switch("Mirrored", True, label="Mirrored, so that its print reads right")

    @property
    def straight(self) -> bool:
        """Straight outlines make straight faces alone."""
        return True

    def to_core(self) -> core_stamp.Stamp:
        """The same for the solid."""
        return core_stamp.Stamp(
            self.relief_mm, self.draft_deg, self.plate.to_core(), self.grip, self.grip_mm, self.mirror
        )


OutlineSolid = Annotated[RaisedPart | CutterPart | StampPart, Field(discriminator="kind")]


class OutlineFinish(Part):
    """How true curves have to be."""

    tolerance_mm: float = length(
        "Tolerance", 0.01, 0.0005, 1, slider=(0.002, 0.1), step=0.002, label="Curves may be off by"
    )


class OutlineDocument(Document):
    """What all pieces made of outlines have in common; `width_mm` is that of the whole picture or drawing."""

    width_mm: float = length("Width", 60.0, 0.5, 3000, slider=(10, 200), step=1, label="Width of the outlines")
    mend: tuple[MendStep, ...] = Field((), max_length=200, title="Mending")
    solid: OutlineSolid = RaisedPart()
    finish: OutlineFinish = OutlineFinish()

    @property
    def width_at(self) -> tuple[str, ...]:
        return ("width_mm",)

    def wall_changes(self, line: float) -> tuple[tuple[str, dict[str, object]], ...]:
        widened = {"kind": "widen", "id": secrets.token_hex(4), "narrower_than_mm": line, "by_mm": round(line / 2, 3)}
        steps = [step.model_dump(mode="json") for step in self.mend]
        return ((f"Widen the outline where it is thinner than {line:g} mm", {"mend": [*steps, widened]}),)

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
