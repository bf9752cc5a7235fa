"""What the API says and hears, as the typed client sees it."""

from datetime import datetime
from typing import Literal

from pydantic import BaseModel, Field

from nebrel.core.picture.write import PictureFormat
from nebrel.core.proof.maps import MapKind
from nebrel.core.region.flaws import FlawKind
from nebrel.core.surface.placing import Snap
from nebrel.piece.document import PieceDocument, TracedDocument
from nebrel.piece.kinds.lithophane.document import GlowMaterial, LithophaneDocument
from nebrel.piece.kinds.model.decoration import Decoration, Direction, Place
from nebrel.piece.kinds.model.document import ModelDocument
from nebrel.piece.kinds.outline.document import DrawnDocument
from nebrel.piece.report import BuildReport, LitReport

JobStateName = Literal["waiting", "running", "done", "failed", "cancelled", "interrupted"]


class Refusal(BaseModel):
    """Why something was refused, in one sentence; `sizes_mm` when a unit must be told: what each would make of it."""

    message: str
    sizes_mm: dict[str, tuple[float, float, float]] | None = None


class PieceCard(BaseModel):
    """A piece on the shelf."""

    id: str
    revision: int
    title: str
    body: str
    maker: str
    size_mm: tuple[float, float, float]
    changed: datetime


class PieceView(BaseModel):
    """A piece on the bench.

    `undoes` and `redoes` name what undo would take back and redo bring back, where they can.
    """

    id: str
    revision: int
    document: PieceDocument | LithophaneDocument | ModelDocument | TracedDocument | DrawnDocument
    changed: datetime
    undoes: str | None
    redoes: str | None
    removed: bool


class Change(BaseModel):
    """An edit: a JSON merge patch (RFC 7396) of the document, made while looking at revision `base`."""

    base: int
    label: str = Field(min_length=1, max_length=200)
    change: dict[str, object]


class Draft(BaseModel):
    """An edit that is not kept yet, for a preview: a merge patch, and how many pixels the longer side gets.

    `upto` is the id of the picture op after which to look; "" looks at the source, None at the finished picture.
    """

    change: dict[str, object] = {}
    longest_px: int = Field(720, ge=32, le=2048)
    upto: str | None = None


class StepOutcome(BaseModel):
    """What a step of a model changed; the id "" stands for reading it."""

    id: str
    told: str
    triangles: int


class LayerView(BaseModel):
    """Outlines of one tone, or one layer of a drawing; `ground` is the paper."""

    name: str
    tone: float | None
    ground: bool
    area_mm2: float


class CurveView(BaseModel):
    """One outline: its course as SVG path data in mm, Y up. Of very many nodes only the first is told."""

    number: int
    layer: int
    path: str
    nodes: list[tuple[float, float]]
    closed: bool
    width_mm: float | None
    area_mm2: float


class FlawView(BaseModel):
    """A fault of an outline; `size` is mm between its ends or mm²."""

    kind: FlawKind
    curve: int
    where: tuple[float, float]
    size: float


class OutlinesView(BaseModel):
    """All outlines of a piece in mm of its source, whose lower left corner is the origin."""

    width_mm: float
    depth_mm: float
    box: tuple[float, float, float, float]
    nodes: int
    max_deviation_mm: float
    rms_deviation_mm: float
    layers: list[LayerView]
    curves: list[CurveView]
    flaws: list[FlawView]
    gaps: list[tuple[tuple[float, float], tuple[float, float]]]


class MotifView(BaseModel):
    """A picture or region kept for reuse; `outlines` where it has some, then also as the file `drawing_blob`."""

    id: str
    name: str
    tags: list[str]
    width_mm: float
    height_mm: float
    outlines: bool
    picture_blob: str
    drawing_blob: str | None
    changed: datetime


class MotifChange(BaseModel):
    """What a motif is called and found by."""

    name: str = Field(min_length=1, max_length=120)
    tags: list[str] = Field([], max_length=20)


class MotifOrder(MotifChange):
    """What to keep as a motif: all that a piece shows, or its outlines of these numbers."""

    piece_id: str
    chosen: list[int] = Field([], max_length=2000)


class MotifPlace(BaseModel):
    """Where to lay a motif: shares of the source from its lower left corner; its own width unless one is given."""

    motif_id: str
    x: float = Field(0.5, ge=-1, le=2)
    y: float = Field(0.5, ge=-1, le=2)
    width_mm: float | None = Field(None, gt=0, le=3000)
    follow: bool = True


class PartView(BaseModel):
    """A part of a model that hangs together; 1 is the largest."""

    number: int
    size_mm: tuple[float, float, float]
    volume_mm3: float
    triangles: int
    closed: bool


class VersionName(BaseModel):
    """What a version is to be called."""

    name: str = Field(min_length=1, max_length=120)


class VersionView(BaseModel):
    """A named state of a piece."""

    id: int
    revision: int
    name: str
    created: datetime


class LightTargetEdit(BaseModel):
    """How light a mesh should be: `amount` triangles, mm of deviation or megabytes."""

    name: str = Field(min_length=1, max_length=120)
    by: Literal["triangles", "tolerance", "bytes"]
    amount: float = Field(gt=0, le=60_000_000)


class LightTargetView(LightTargetEdit):
    """A target that is kept."""

    id: int


class MaterialEdit(GlowMaterial):
    """A material of the table."""

    measured: bool = Field(False, title="Measured by yourself")


class MaterialView(MaterialEdit):
    """A material that is kept."""

    id: int


class Readings(BaseModel):
    """Brightness behind steps of known thickness, mm; a thickness of 0 stands for the bare light."""

    thickness_mm: list[float] = Field(max_length=500)
    brightness: list[float] = Field(max_length=500)


class LightBoxOrder(BaseModel):
    """What the simulated light box is to read: a wedge of a material, and how much its readings shake."""

    material: GlowMaterial
    steps: int = Field(10, ge=3, le=40)
    noise: float = Field(0.01, ge=0, le=0.5)
    seed: int = Field(1, ge=0, le=1_000_000)


class FitView(BaseModel):
    """A fitted material. `residuals` are shares by which readings are brighter than the fit, in their order."""

    attenuation_per_mm: float
    attenuation_error: float
    surface_loss: float
    bare: bool
    residuals: list[float]
    rms: float


class LitFacts(BaseModel):
    """A lithophane in light, and how it is to be printed; `detail_mm` is the smallest that shows."""

    detail_mm: float
    lit: LitReport
    sheet_mm: tuple[float, float]
    contrast: float
    recipe: str


class GlowFrameHead(BaseModel):
    """Facts that travel in front of a lithophane's solid: how large its unrolled sheet is, and whether it stands."""

    triangles: int
    sheet_mm: tuple[float, float]
    standing: bool
    around: bool


class Variation(BaseModel):
    """One cell of a contact sheet: what it changes, and what it reaches."""

    thinnest_mm: float
    thickest_mm: float
    strength: float
    contrast: float


class VariationsHead(BaseModel):
    """Facts in front of the thicknesses of a contact sheet, `through0`, `through1` and so on."""

    cells: list[Variation]
    sheet_mm: tuple[float, float]


class ModelFrameHead(BaseModel):
    """Facts that travel in front of a solid: `low_mm` is what was taken off from the model's own coordinates."""

    triangles: int
    standing: bool = False
    low_mm: tuple[float, ...] = (0.0, 0.0, 0.0)


class PlacementDraft(BaseModel):
    """A decoration as it would be laid; of many copies only the first few are shown. `quick` follows a pointer, else
    lengths are as exact as in what is made."""

    decoration: Decoration
    quick: bool = True
    most_copies: int = Field(1, ge=1, le=40)


class PlacementHead(BaseModel):
    """Facts that travel in front of a placement: where the first copy is, its directions, and places to hold it by."""

    at: tuple[float, float, float]
    out: tuple[float, float, float]
    up: tuple[float, float, float]
    right: tuple[float, float, float]
    size_mm: tuple[float, float]
    handles: list[tuple[float, float, float] | None]
    copies: int
    told: str
    most_stretch: float


class SnapDraft(BaseModel):
    """Where a decoration is, which way is up, and what it is to snap to."""

    at: Place
    up: Direction = (0.0, 0.0, 1.0)
    to: Snap


class SnapView(BaseModel):
    """A place on the skin."""

    at: tuple[float, float, float]


class DecorationFile(BaseModel):
    """A picture or drawing that was taken in to be laid on models."""

    kind: Literal["picture", "outline"]
    blob: str
    name: str


class MapDraft(Draft):
    """A measure over the solid of a draft."""

    kind: MapKind


class MapHead(BaseModel):
    """Facts that travel in front of a surface map. `limit` is what the maker can just make, where that is known."""

    standing: bool

    triangles: int
    kind: MapKind
    unit: str
    least: float
    most: float
    spot: tuple[float, float, float] | None
    limit: float | None


class StepRow(BaseModel):
    """A row of the table of steps, with the share of the picture that falls on it."""

    tone: float
    mm: float
    share: float


class StepTables(BaseModel):
    """The table of steps as it is, and one made from the tones that the picture shows."""

    table: list[StepRow]
    found: list[StepRow]


class SectionLine(BaseModel):
    """A line across a piece, in shares of its width and depth from its lower left corner, and the plane through it.

    `tilt_deg` is how far the plane leans from the upright, 90 for a level one; `lift_mm` the height of the line.
    """

    start: tuple[float, float]
    end: tuple[float, float]
    tilt_deg: float = Field(0.0, ge=-90, le=90)
    lift_mm: float = Field(0.0, ge=0, le=3000)


class SectionDraft(Draft, SectionLine):
    """A section line over a draft."""


class SectionView(BaseModel):
    """What was asked and what was made along a line: `[mm along, mm up]`, `null` over blanks."""

    length_mm: float
    size_mm: tuple[float, float, float]
    asked: list[tuple[float, float | None]]
    made: list[list[tuple[float, float]]]


class BuildResult(BaseModel):
    """What a finished build left behind."""

    report: BuildReport
    solid_key: str
    file_key: str
    file_name: str
    recipe_key: str | None = None


class PictureResult(BaseModel):
    """What a finished export of a prepared picture left behind."""

    file_key: str
    file_name: str
    size_px: tuple[int, int]
    dpi: float


class PictureOrder(BaseModel):
    """How to export a prepared picture."""

    format: PictureFormat = "png"


class JobView(BaseModel):
    """Long work: where it is, and how it ended. `result` is that of a build, `picture` that of an exported picture."""

    id: str
    kind: str
    piece_id: str
    revision: int
    state: JobStateName
    stage: str
    fraction: float
    message: str
    created: datetime
    result: BuildResult | None = None
    picture: PictureResult | None = None


class PlanHead(BaseModel):
    """Facts that travel in front of a plan's arrays.

    `from_source` takes places in shares of the source picture to shares of the plan, both from the lower left corner.
    """

    size_mm: tuple[float, float, float]
    pitch_mm: float
    backing_mm: float
    relief_mm: float
    full_px: tuple[int, int]
    from_source: tuple[tuple[float, float, float], tuple[float, float, float], tuple[float, float, float]]


class PictureFile(BaseModel):
    """A further picture that was kept."""

    blob: str
    name: str


class ToneCount(BaseModel):
    """To how many tones a picture is reduced, found in it or evenly spread."""

    count: int = Field(ge=2, le=32)
    spread: Literal["found", "even"] = "found"


class ContentBox(BaseModel):
    """Shares of a picture, from its lower left corner."""

    left: float
    bottom: float
    right: float
    top: float


class StripHead(BaseModel):
    """Whose small pictures follow: "" for the source, then the ids of ops; `failed` says why one has none."""

    ids: list[str]
    failed: dict[str, str]
