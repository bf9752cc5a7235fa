"""The recipe of a figure: how thick, how deep, what back, over the outline of a cut-out picture."""

from typing import ClassVar, Literal

from pydantic import Field

from nebrel.core.colour.changes import PrintPlan
from nebrel.core.figure.colour import BackColour
from nebrel.core.figure.figure import FigureWish
from nebrel.core.figure.foot import Foot
from nebrel.core.figure.form import BackKind
from nebrel.core.figure.hand import StrokeKind
from nebrel.piece.documents.document import PicturedDocument
from nebrel.piece.documents.worked import WorkedDocument
from nebrel.piece.parts.depth import DepthPart
from nebrel.piece.parts.depth_strokes import DepthStroke, OrderedPart
from nebrel.piece.parts.fields import angle, choice, length, made_by_hand, measure, share, switch, whole
from nebrel.piece.parts.filament import Filament
from nebrel.piece.parts.part import Part


class FigureDepth(DepthPart):
    """How far every place stands towards the viewer, and how thick the figure is there."""

    by: Literal["share", "mm"] = choice(
        "Thickness told by", "share", {"share": "Roundness", "mm": "Millimetres"}, label="How thick"
    )
    roundness: float = share(
        "Roundness", 0.8, 0.05, 2.0, label="As thick as it is wide, times", shown={"by": ["share"]}
    )
    thickness_mm: float = length(
        "Thickness", 20.0, 0.2, 1000, slider=(2, 120), step=0.5, label="Thickness", shown={"by": ["mm"]}
    )
    behind_blob: str | None = made_by_hand("Depth picture of the back", None, pattern="^[0-9a-f]{64}$")
    behind_name: str = Field("", max_length=255, title="Name of the depth picture of the back")


class FigureBack(Part):
    """What is behind, which no picture shows."""

    heading: ClassVar[str] = "Back"
    kind: BackKind = choice(
        "Back",
        "mirror",
        {"mirror": "As the front", "flat": "Flat", "bulge": "Bulged"},
        label="What is behind",
        hints={
            "mirror": "As thick behind as in front.",
            "flat": "Level, with a rounded rim: it lies on a table.",
            "bulge": "As thick as the front, times a factor.",
        },
    )
    bulge: float = share("Bulge", 0.6, 0.0, 2.0, label="Of the front", shown={"kind": ["bulge"]})
    fade_mm: float = length(
        "Fading behind",
        1.5,
        0,
        100,
        slider=(0, 15),
        step=0.5,
        label="What the front shows fades behind within",
        shown={"kind": ["mirror", "bulge"]},
    )
    blob: str | None = made_by_hand("Picture of the back", None, pattern="^[0-9a-f]{64}$")
    name: str = Field("", max_length=255, title="Name of the picture of the back")


class FigureColour(Part):
    """Colours of the picture on the figure."""

    heading: ClassVar[str] = "Colour"
    hint: ClassVar[str] = "The picture lies on the front. 3MF, GLB, OBJ and PLY carry colours; STL and OFF do not."
    on: bool = switch("Colour switched on", False)
    back: BackColour = choice(
        "Colour of the back",
        "edges",
        {"edges": "From its edges inwards", "mirror": "As the front"},
        label="Behind",
        hints={
            "edges": "What is on the outline goes on behind, and the face does not.",
            "mirror": "The front's colours are behind too.",
        },
    )
    carried: Literal["corners", "texture"] = choice(
        "What carries colours",
        "corners",
        {"corners": "Triangles", "texture": "A texture"},
        label="Carried by",
        hints={
            "corners": "Triangles are as small as colours ask for; every format that has colours keeps them.",
            "texture": "A picture lies on the solid, which can be far lighter. GLB and OBJ keep it.",
        },
    )
    texture_px: int = whole(
        "Side of the texture", 2048, 256, 4096, slider=(512, 4096), step=256, shown={"carried": ["texture"]}
    )


class FigureFewColours(Part):
    """As many colours as can be made."""

    heading: ClassVar[str] = "Few colours"
    hint: ClassVar[str] = "Every triangle gets one of a few colours, in patches that can be printed."
    on: bool = switch("Few colours switched on", False)
    of: Literal["picture", "filaments"] = choice(
        "Where few colours come from",
        "picture",
        {"picture": "The picture", "filaments": "My filaments"},
        label="Taken from",
        hints={
            "picture": "Those that come nearest to all that the figure shows.",
            "filaments": "Those of the chosen filaments that come nearest.",
        },
    )
    count: int = whole("How many colours", 4, 1, 16, slider=(1, 9), label="At most")
    filaments: tuple[Filament, ...] = Field((), max_length=64, title="Filaments", json_schema_extra={"by_hand": True})
    smallest_mm2: float = measure(
        "Smallest patch", 1.0, 0, 1000, slider=(0, 10), step=0.1, label="No patch is smaller than"
    )
    layer_mm: float = length("Layer height", 0.2, 0.02, 2, slider=(0.05, 0.4))
    purge_mm3: float = measure(
        "Purged at a change", 140.0, 0, 5000, unit="mm³", slider=(0, 400), step=5, label="Purged at each change"
    )
    printed: Literal["standing", "lying"] = choice(
        "How it is printed", "standing", {"standing": "Standing", "lying": "On its back"}, label="It is printed"
    )

    @property
    def print_plan(self) -> PrintPlan:
        """How it is printed, for the core."""
        return PrintPlan(self.layer_mm, self.purge_mm3, 1 if self.printed == "standing" else 2)


class FigureSymmetry(Part):
    """Both sides alike."""

    heading: ClassVar[str] = "Symmetry"
    hint: ClassVar[str] = "Both sides of a line get the same depth, and every stroke. The outline stays as it is drawn."
    on: bool = switch("Symmetry switched on", False)
    by: Literal["outline", "hand"] = choice(
        "Line of symmetry", "outline", {"outline": "Found by the outline", "hand": "Drawn by hand"}, label="The line is"
    )
    at: float = share("Place of the line", 0.5, label="Across the figure", shown={"by": ["hand"]})
    lean_deg: float = angle("Lean of the line", 0.0, -60, 60, slider=(-30, 30), label="Lean", shown={"by": ["hand"]})
    strength: float = share("Strength of symmetry", 1.0, label="How much alike")


class FigureDetail(Part):
    """Fine relief of the picture on the front."""

    heading: ClassVar[str] = "Detail"
    hint: ClassVar[str] = "Fine tones of the picture stand on the front as a relief."
    on: bool = switch("Detail switched on", False)
    strength_mm: float = length("Strength of detail", 0.6, 0.02, 20, slider=(0.1, 4), label="From black to white")
    radius_mm: float = length(
        "Radius of detail", 3.0, 0.1, 100, slider=(0.5, 15), step=0.1, label="What is broader is light, not form"
    )
    tall: Literal["bright", "dark"] = choice("Tall tones", "bright", {"bright": "Bright", "dark": "Dark"})


class FigureFoot(Part):
    """Cut flat to stand, with a plinth."""

    heading: ClassVar[str] = "Foot"
    hint: ClassVar[str] = "It is cut level below, so that it stands."
    on: bool = switch("Foot switched on", False)
    cut_mm: float = length("Cut of the foot", 1.0, 0.05, 500, slider=(0.1, 20), label="Above its lowest place")
    plinth: Literal["none", "oval", "box"] = choice(
        "Plinth", "none", {"none": "None", "oval": "Oval", "box": "Rectangle"}, label="Plinth under it"
    )
    plinth_mm: float = length("Height of the plinth", 4.0, 0.2, 200, slider=(1, 20), shown={"plinth": ["oval", "box"]})
    margin_mm: float = length("Margin of the plinth", 3.0, 0, 200, slider=(0, 20), shown={"plinth": ["oval", "box"]})

    def to_core(self) -> Foot:
        """The same for the core."""
        if self.plinth == "none":
            return Foot(self.cut_mm)
        return Foot(self.cut_mm, self.plinth_mm, self.margin_mm, self.plinth)


class FigureStroke(DepthStroke):
    """What a stroke over the picture says of the figure."""

    kind: StrokeKind = choice(
        "What a stroke does",
        "nearer",
        {
            "nearer": "Nearer",
            "farther": "Farther",
            "level": "Same depth",
            "thicker": "Thicker",
            "thinner": "Thinner",
            "ridge": "Ridge",
            "crease": "Crease",
            "flat": "Flat",
            "hole": "Hole",
        },
        hints={
            "nearer": "The part under it comes forward, up to the edges of the picture round it.",
            "farther": "The part under it goes back, up to the edges of the picture round it.",
            "level": "All that it crosses comes to one depth.",
            "thicker": "Front and back move apart, near it only.",
            "thinner": "Front and back come together, near it only.",
            "ridge": "The front rises to an edge along it.",
            "crease": "The front sinks to a groove along it.",
            "flat": "The front becomes level under it.",
            "hole": "It goes right through.",
        },
    )


class FigurePart(Part):
    """What a cut-out picture becomes in the round."""

    width_mm: float = length("Width", 80.0, 2, 3000, slider=(10, 300), step=1, label="Width of the whole picture")
    cells: int = whole("Resolution", 256, 64, 512, slider=(64, 512), step=16, label="Cells along the longer side")
    thinnest_mm: float = length("Least thickness", 1.2, 0, 50, slider=(0, 6), step=0.1, wall="lines")
    widen: bool = switch("Hair-thin parts widened", True, label="Widen what is thinner, seen from the front")
    tolerance_mm: float = length(
        "Tolerance", 0.06, 0.001, 2, slider=(0.005, 0.5), step=0.005, label="Surface may be off by"
    )
    depth: FigureDepth = FigureDepth()
    back: FigureBack = FigureBack()
    colour: FigureColour = FigureColour()
    few: FigureFewColours = FigureFewColours()
    symmetry: FigureSymmetry = FigureSymmetry()
    detail: FigureDetail = FigureDetail()
    foot: FigureFoot = FigureFoot()
    strokes: tuple[FigureStroke, ...] = Field((), max_length=200, title="Strokes")
    order: tuple[OrderedPart, ...] = Field((), max_length=60, title="Parts in order")

    def to_core(self) -> FigureWish:
        """The same for the core."""
        depth, back = self.depth, self.back
        return FigureWish(
            profile=depth.profile,
            soft_rim=depth.rim_mm,
            thickness=depth.thickness_mm if depth.by == "mm" else None,
            roundness=depth.roundness,
            back=back.kind,
            bulge=back.bulge,
            fade=back.fade_mm,
            thinnest=self.thinnest_mm,
            may_widen=self.widen,
        )


class FigureDocument(PicturedDocument, WorkedDocument):
    """One immutable state of a figure in the round."""

    figure: FigurePart = FigurePart()

    @property
    def in_colour(self) -> bool:
        return True

    @property
    def width_at(self) -> tuple[str, ...]:
        return "figure", "width_mm"

    @property
    def picture_width_mm(self) -> float:
        return self.figure.width_mm
