"""A router that a piece may be carved on: its bits, the stock, how passes go, and how it wants its programs."""

from typing import ClassVar, Literal

from pydantic import Field

from nebrel.core.carve.bits import Bit
from nebrel.core.carve.board import Board, Machine
from nebrel.core.carve.cut_out import CutOut
from nebrel.core.carve.finish import Direction, Finishing, line_distance
from nebrel.core.carve.plan import Job
from nebrel.core.carve.program import Post
from nebrel.core.carve.rough import Roughing
from nebrel.core.carve.sunk.outline import Walls
from nebrel.core.carve.sunk.sinking import Sinking
from nebrel.core.errors import BadValueError
from nebrel.piece.parts.fields import angle, choice, length, measure, switch, whole
from nebrel.piece.parts.part import Part


class BitPart(Part):
    """A bit and how it is run; a copy of what the rack had, so that the rack may change."""

    heading: ClassVar[str] = "Bit"

    name: str = Field("6 mm ball", min_length=1, max_length=80, title="Name")
    role: Literal["rough", "finish"] = choice("It", "finish", {"rough": "roughs", "finish": "finishes"})
    kind: Literal["flat", "ball", "v", "taper", "drill"] = choice(
        "Shape", "ball", {"flat": "Flat end", "ball": "Ball", "v": "V", "taper": "Tapered ball", "drill": "Drill"}
    )
    diameter_mm: float = length("Diameter", 6.0, 0.05, 100)
    tip_radius_mm: float = length("Tip radius", 0.5, 0.02, 50, shown={"kind": ["taper"]})
    angle_deg: float = angle("Angle", 60, 0.5, 170, shown={"kind": ["v", "taper", "drill"]})
    flute_mm: float = length("Flute length", 22, 0.5, 200)
    shank_mm: float = length("Shank", 6, 0.5, 100)
    step_down_mm: float = length("Deepest layer", 3, 0.05, 100)
    feed_mm_min: float = measure("Feed", 1500, 1, 100_000, unit="mm/min", step=50)
    plunge_mm_min: float = measure("Plunge feed", 500, 1, 100_000, unit="mm/min", step=50)
    spindle_rpm: float = measure("Spindle", 16_000, 1, 200_000, unit="turns/min", step=500)

    def to_core(self) -> Bit:
        """The same for the core."""
        return Bit(
            self.kind,
            self.diameter_mm,
            self.tip_radius_mm if self.kind == "taper" else 0.0,
            self.angle_deg if self.kind in {"v", "taper", "drill"} else 0.0,
            self.flute_mm,
            self.shank_mm,
            self.feed_mm_min,
            self.plunge_mm_min,
            self.spindle_rpm,
            self.step_down_mm,
        )


class StockPart(Part):
    """The material that it is carved from, and where the piece lies in it."""

    heading: ClassVar[str] = "Stock"

    material: str = Field("Limewood", min_length=1, max_length=80, title="Material")
    width_mm: float = length("Width", 120, 0.5, 5000, step=1)
    depth_mm: float = length("Depth", 140, 0.5, 5000, step=1)
    thickness_mm: float = length("Thickness", 18, 0.5, 500, step=0.5)
    lies: Literal["centre", "typed"] = choice("The piece lies", "centre", {"centre": "centred", "typed": "at"})
    left_mm: float = length("From the left", 10, 0, 5000, step=1, shown={"lies": ["typed"]})
    low_mm: float = length("From the lower edge", 10, 0, 5000, step=1, shown={"lies": ["typed"]})
    zero: Literal["corner", "centre"] = choice("Zero point", "corner", {"corner": "corner", "centre": "centre"})
    zero_height: Literal["top", "bed"] = choice("Zero height", "top", {"top": "top", "bed": "bed"})

    def to_core(self) -> Board:
        """The same for the core."""
        at = (self.left_mm, self.low_mm) if self.lies == "typed" else None
        return Board((self.width_mm, self.depth_mm, self.thickness_mm), at, self.zero, self.zero_height)


class RouterPart(Part):
    """The machine."""

    heading: ClassVar[str] = "Router"

    name: str = Field("Yard router", min_length=1, max_length=80, title="Router")
    travel_x_mm: float = length("Travel in X", 600, 1, 10_000, step=10)
    travel_y_mm: float = length("Travel in Y", 400, 1, 10_000, step=10)
    travel_z_mm: float = length("Travel in Z", 90, 1, 2000, step=5)
    safe_mm: float = length("Safe height", 5, 0.5, 200, step=0.5)
    rapid_mm_min: float = measure("Rapids", 3000, 10, 100_000, unit="mm/min", step=100)
    acceleration: float = measure("Acceleration", 400, 1, 20_000, unit="mm/s²", step=50)
    corner_deviation_mm: float = length("Leaves corners by", 0.02, 0.001, 1, step=0.005)
    unit: Literal["mm", "in"] = choice("Unit of programs", "mm", {"mm": "Millimetres", "in": "Inches"})

    def to_core(self) -> Machine:
        """The same for the core."""
        return Machine(
            self.name,
            (self.travel_x_mm, self.travel_y_mm, self.travel_z_mm),
            self.safe_mm,
            self.acceleration,
            self.corner_deviation_mm,
            self.rapid_mm_min,
            self.unit,
        )


class PassesPart(Part):
    """How passes go."""

    heading: ClassVar[str] = "Passes"

    scallop_mm: float = length("Scallop", 0.01, 0.001, 1, step=0.005, label="Ridges between lines")
    direction: Literal["lines", "crossed", "contour"] = choice(
        "Finishing in", "lines", {"lines": "lines", "crossed": "crossed lines", "contour": "rings"}
    )
    direction_deg: float = angle("Direction", 0, 0, 180, shown={"direction": ["lines"]})
    steep: Literal["contours", "lines"] = choice(
        "Steep places", "contours", {"contours": "contours", "lines": "lines"}, label="Steep places in"
    )
    pattern: Literal["rings", "rows"] = choice("Roughing in", "rings", {"rings": "rings", "rows": "rows"})
    allowance_mm: float = length("Allowance", 0.5, 0, 10, label="Roughing leaves")
    rest_mm: float = length("Finer bits from", 0.05, 0.002, 5, step=0.01, label="Finer bits where more is left than")
    tolerance_mm: float = length("Path tolerance", 0.0075, 0.001, 0.5, step=0.001)


class SunkPart(Part):
    """How outlines are carved: standing up as the solid that they make, or sunk into the face of the stock."""

    heading: ClassVar[str] = "Outlines"

    way: Literal["raised", "v", "straight"] = choice(
        "Outlines are",
        "raised",
        {"raised": "raised", "v": "V-carved", "straight": "pockets"},
        hints={
            "raised": "The solid is carved as it stands, seen from above.",
            "v": "A V bit goes along their middles, as deep as both walls let it; flat bits clear what is deeper.",
            "straight": "Flat bits clear them down to their depth; drills bore round ones of their own width.",
        },
    )
    depth_mm: float = length("Deepest", 4.0, 0.05, 200, step=0.5, shown={"way": ["v", "straight"]})


class CutOutPart(Part):
    """How the piece comes out of its stock; a stock as large as the piece has no cut-out."""

    heading: ClassVar[str] = "Cut-out"

    on: bool = switch("Cut out", False)
    through: Literal["piece", "stock"] = choice("As deep as", "piece", {"piece": "the piece", "stock": "the stock"})
    tabs: int = whole("Tabs", 4, 0, 100)
    tab_width_mm: float = length("Tab width", 6, 0.2, 100, step=0.5)
    tab_height_mm: float = length("Tab height", 1.5, 0.1, 50, step=0.1)


class PostPart(Part):
    """How the machine wants its programs."""

    heading: ClassVar[str] = "Programs"

    name: str = Field("plain", min_length=1, max_length=80, title="Name")
    line_end: Literal["lf", "crlf"] = choice("Lines end with", "lf", {"lf": "LF", "crlf": "CR LF"})
    bit_change: Literal["file", "m6", "pause"] = choice(
        "Bits change", "file", {"file": "files", "m6": "M6", "pause": "M0"}
    )
    decimals_mm: int = whole("Digits in mm", 4, 2, 6)
    decimals_in: int = whole("Digits in inches", 6, 3, 7)
    numbered: bool = switch("Numbered lines", False)
    remarks: bool = switch("Remarks", True)
    arcs: Literal["none", "centre", "radius"] = choice(
        "Circles", "centre", {"centre": "I J", "radius": "R", "none": "none"}, label="Circles told by"
    )

    def to_core(self) -> Post:
        """The same for the core."""
        return Post(
            self.name,
            self.line_end,
            self.bit_change,
            decimals_mm=self.decimals_mm,
            decimals_in=self.decimals_in,
            numbered=self.numbered,
            remarks=self.remarks,
            arcs=self.arcs,
        )


FLAT = BitPart(name="6 mm flat", role="rough", kind="flat")


class CarvingPart(Part):
    """Whether a piece is for a router, and how it is carved there."""

    heading: ClassVar[str] = "Carving"

    on: bool = switch("For a router", False)
    router: RouterPart = RouterPart()
    stock: StockPart = StockPart()
    bits: tuple[BitPart, ...] = Field((FLAT, BitPart()), max_length=8, title="Bits")
    passes: PassesPart = PassesPart()
    outlines: SunkPart = SunkPart()
    cut_out: CutOutPart = CutOutPart()
    post: PostPart = PostPart()

    @property
    def finest_mm(self) -> float | None:
        """How close together the lines of the finest bit lie, where the piece is for a router: finer detail is lost."""
        apart = [line_distance(bit.to_core(), self.passes.scallop_mm) for bit in self.finishing]
        return min(apart) if self.on and apart else None

    def to_core(self, thickness_mm: float | None = None) -> Job:
        """The job for the core, for a piece of that thickness; without a cut-out where that is not known.

        Raises:
            BadValueError: there is no bit that finishes, or one that cannot be.
        """
        finishing = [bit.to_core() for bit in self.finishing]
        if not finishing:
            raise BadValueError("No bit finishes; take one from the rack that does.")
        rough = next((bit.to_core() for bit in self.bits if bit.role == "rough"), None)
        passes = self.passes
        direction: Direction = passes.direction_deg if passes.direction == "lines" else passes.direction
        return Job(
            tuple(finishing),
            rough,
            Roughing(passes.allowance_mm, passes.pattern),
            Finishing(passes.scallop_mm, passes.tolerance_mm, direction, passes.steep),
            passes.rest_mm,
            None if thickness_mm is None else self._cut_out(thickness_mm),
        )

    def to_sinking(self) -> Sinking:
        """How outlines are sunk, for the core.

        Raises:
            BadValueError: a bit that is needed is missing, or one that cannot do it is there.
        """
        walls: Walls = "v" if self.outlines.way == "v" else "straight"
        bits = tuple(bit.to_core() for bit in self.bits)
        return Sinking(walls, self.outlines.depth_mm, bits, self.passes.rest_mm, self.passes.tolerance_mm)

    @property
    def finishing(self) -> list[BitPart]:
        """The bits that finish a surface, in their order."""
        return [bit for bit in self.bits if bit.role == "finish" and bit.kind != "drill"]

    def _cut_out(self, thickness_mm: float) -> CutOut | None:
        part = self.cut_out
        if not part.on:
            return None
        depth = self.stock.thickness_mm if part.through == "stock" else thickness_mm
        return CutOut(depth, part.tabs, part.tab_width_mm, part.tab_height_mm)
