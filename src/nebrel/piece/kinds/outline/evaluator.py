"""From the recipe of outlines to their solid: traced or read, mended, made; each step kept by what it depends on."""

import time
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import MultiPolygon

from nebrel.core.errors import BadValueError
from nebrel.core.heightfield.deviation import Deviation
from nebrel.core.heightfield.slab import Slab
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.distance import distances_to
from nebrel.core.outline_solid.cutter import Imprint, MadeCutter, make_cutter
from nebrel.core.outline_solid.raised import raised_outline
from nebrel.core.outline_solid.stamp import make_stamp
from nebrel.core.proof import Finding, check_soundness
from nebrel.core.proof.outline_audit import Use, edge_findings, region_findings
from nebrel.core.region.curves import Figure, figure_region, layer_region, mapped
from nebrel.core.region.grid import polygons_of
from nebrel.core.region.read import read_drawing
from nebrel.piece.document import OutlineDocument
from nebrel.piece.evaluation.cache import ResultCache, step_key
from nebrel.piece.evaluation.codec import decode_slab, encode_slab
from nebrel.piece.evaluation.evaluator import Looks, Progress, quiet
from nebrel.piece.evaluation.prepare import FULL, Preparation
from nebrel.piece.kinds.outline.document import Cutter, DrawnDocument, Raised, Stamp
from nebrel.piece.kinds.outline.mending import mended
from nebrel.piece.kinds.outline.tracing import trace_picture
from nebrel.piece.report import BuildReport, build_report

SKETCH_CHORD = 0.03
TEARS_MM = 1.0
STAMP_TEARS_MM = 0.6
TRACING = "Following the edges"
MAKING = "Making the solid"
_VERSION = 1


@dataclass(frozen=True)
class Outlines:
    """Curves in mm of the piece, the source's lower left corner at the origin.

    Attributes:
        figure: all layers.
        max_deviation, rms_deviation: mm, from the edge that the picture shows; 0 for drawings.
    """

    figure: Figure
    max_deviation: float
    rms_deviation: float


class OutlineEvaluator(Looks[OutlineDocument]):
    """Runs the steps of pieces made of outlines. Pictures are always traced at full resolution."""

    def __init__(self, read_source: Callable[[str], bytes], cache: ResultCache, preparation: Preparation) -> None:
        super().__init__(cache)
        self._read_source = read_source
        self._preparation = preparation

    def check(self, document: OutlineDocument, progress: Progress = quiet) -> None:
        self._made(document, SKETCH_CHORD, progress)
        self.size(document)

    def source(self, document: OutlineDocument, progress: Progress = quiet) -> Outlines:
        """The outlines as they were traced or read, at the piece's width."""
        return self._cache.get(self._source_key(document), lambda: self._outlines(document, progress))

    def outlines(self, document: OutlineDocument, progress: Progress = quiet) -> Outlines:
        """The outlines after mending."""

        def mend() -> Outlines:
            found = self.source(document, progress)
            figure = mended(found.figure, document.mend, document.width_mm, self._motif)
            return Outlines(figure, found.max_deviation, found.rms_deviation)

        return self._cache.get(self._figure_key(document), mend)

    def depth_mm(self, document: OutlineDocument) -> float:
        """How high the whole picture or drawing is."""
        if isinstance(document, DrawnDocument):
            width, depth = document.drawing.size_mm
            return document.width_mm * depth / max(width, 1e-9)
        rows, columns = self._preparation.view(document, FULL).picture.shape
        return document.width_mm * (rows - 1) / (columns - 1)

    def size(self, document: OutlineDocument) -> tuple[float, float, float]:
        # Kept in the folder too: the shelf asks for the size of every piece.
        sides = self._cache.get(
            step_key("outline size", _VERSION, None, self._solid_key(document, SKETCH_CHORD)),
            lambda: np.ptp(self._made(document, SKETCH_CHORD).mesh.vertices, axis=0).tobytes(),
            lambda data: data,
            lambda data: data,
        )
        x, y, z = np.frombuffer(sides)
        return float(x), float(y), float(z)

    def mesh(self, document: OutlineDocument, longest_px: int = FULL) -> TriMesh:
        if longest_px == FULL:
            return self.delivered(document).mesh
        return self._made(document, SKETCH_CHORD).mesh

    def solid_key(self, document: OutlineDocument, longest_px: int) -> str:
        if longest_px != FULL:
            return self._solid_key(document, SKETCH_CHORD)
        light = document.light.key(document.delivery.format)
        return step_key("outline light", _VERSION, light, self._solid_key(document, document.finish.tolerance_mm))

    def findings(
        self, document: OutlineDocument, longest_px: int = FULL, progress: Progress = quiet
    ) -> tuple[Finding, ...]:
        key = step_key(
            "outline findings", _VERSION, document.maker.model_dump(mode="json"), self._solid_key(document, 0)
        )
        return self._cache.get(key, lambda: self._findings(document, progress))

    def delivered(self, document: OutlineDocument, progress: Progress = quiet) -> Slab:
        """The finished solid, made as light as asked."""

        def make() -> Slab:
            tolerance = document.finish.tolerance_mm
            mesh = self._made(document, tolerance, progress).mesh
            lighter = document.light.made(
                mesh, document.delivery.format, lambda part: progress("Making it light", part)
            )
            if lighter is None:
                return Slab(mesh, Deviation(tolerance, tolerance), tolerance)
            apart = lighter.deviation
            return Slab(lighter.mesh, Deviation(apart.max + tolerance, apart.rms), tolerance)

        return self._cache.get(self.solid_key(document, FULL), make, encode_slab, decode_slab)

    def build(self, document: OutlineDocument, progress: Progress = quiet) -> tuple[Slab, BuildReport]:
        started = time.perf_counter()
        before = None
        if document.light.on:
            before = len(self._made(document, document.finish.tolerance_mm, progress).mesh.faces)
        slab = self.delivered(document, progress)
        soundness = check_soundness(slab.mesh, lambda part: progress("Proving it sound", part))
        return slab, build_report(
            soundness, slab, self.findings(document, FULL, progress), time.perf_counter() - started, before
        )

    def off_asked(self, document: OutlineDocument, mesh: TriMesh, longest_px: int) -> NDArray[np.float64]:
        unlightened = self._made(document, document.finish.tolerance_mm).mesh
        return distances_to(unlightened, mesh.corners.mean(axis=1))

    def _made(self, document: OutlineDocument, chord: float, progress: Progress = quiet) -> "Made":
        def make() -> Made:
            figure = self.outlines(document, progress).figure
            progress(MAKING, 0.5)
            return made_of(figure, document.solid, chord)

        return self._cache.get(self._solid_key(document, chord), make)

    def _findings(self, document: OutlineDocument, progress: Progress) -> tuple[Finding, ...]:
        figure = self.outlines(document, progress).figure
        made = self._made(document, SKETCH_CHORD, progress)
        line = document.solid.line_mm if isinstance(document.solid, Cutter) else document.maker.line_width_mm
        tears = {"cutter": TEARS_MM, "stamp": STAMP_TEARS_MM}.get(document.solid.kind, 0.0)
        region = cut_region(figure, document.solid) if isinstance(document.solid, Cutter) else drawn_region(figure)
        based = isinstance(document.solid, Raised) and (document.solid.base.kind != "none" or document.solid.inlay)
        found = region_findings(region, Use("based" if based else document.solid.kind, line, tears))
        return (
            *self._remarks(document),
            *edge_findings(figure, line),
            *found,
            *made.findings,
            *_fits(made.mesh, document),
        )

    def _motif(self, blob: str, name: str) -> Figure:
        key = step_key("motif", _VERSION, blob)
        return self._cache.get(key, lambda: read_drawing(self._read_source(blob), f"{name}.svg").figure)

    def _remarks(self, document: OutlineDocument) -> list[Finding]:
        if not isinstance(document, DrawnDocument):
            return []
        return [
            Finding("note", remark, "Everything else of the drawing is there.", "left_out")
            for remark in document.drawing.remarks
        ]

    def _outlines(self, document: OutlineDocument, progress: Progress) -> Outlines:
        if isinstance(document, DrawnDocument):
            drawing = document.drawing
            found = read_drawing(self._read_source(drawing.blob), drawing.name)
            return Outlines(_wide(found.figure, document.width_mm / max(found.size[0], 1e-9)), 0.0, 0.0)
        picture = self._preparation.view(document, FULL, None, progress).picture
        traced = trace_picture(picture, document.trace, document.width_mm, lambda part: progress(TRACING, part))
        return Outlines(Figure(traced.layers), traced.max_deviation, traced.rms_deviation)

    def _source_key(self, document: OutlineDocument) -> str:
        if isinstance(document, DrawnDocument):
            return step_key("drawing", _VERSION, [document.drawing.blob, document.drawing.size_mm, document.width_mm])
        parameters = [document.trace.model_dump(mode="json"), document.width_mm]
        return step_key("traced", _VERSION, parameters, self._preparation.key(document, FULL))

    def _figure_key(self, document: OutlineDocument) -> str:
        steps = [step.model_dump(mode="json", exclude={"id", "on"}) for step in document.mend if step.on]
        return step_key("mended", _VERSION, steps, self._source_key(document))

    def _solid_key(self, document: OutlineDocument, chord: float) -> str:
        parameters = [document.solid.model_dump(mode="json"), chord]
        return step_key("outline solid", _VERSION, parameters, self._figure_key(document))


@dataclass(frozen=True)
class Made:
    """A solid of outlines.

    Attributes:
        mesh: its lowest corner at the origin.
        findings: what the making itself noticed.
    """

    mesh: TriMesh
    findings: tuple[Finding, ...] = ()


def made_of(figure: Figure, solid: Raised | Cutter | Stamp, chord: float) -> Made:
    """The solid of a figure, curves flattened to within `chord` mm.

    Raises:
        BadValueError: it cannot be made.
    """
    if isinstance(solid, Cutter):
        made = make_cutter(cut_region(figure, solid, chord), imprints_of(figure, solid, chord), solid.made())
        return Made(made.mesh, _cutter_findings(made))
    if isinstance(solid, Stamp):
        return Made(make_stamp(drawn_region(figure, chord), solid.made()))
    return Made(raised_outline(standing_of(figure, solid, chord), solid.made()))


def drawn_region(figure: Figure, chord: float = SKETCH_CHORD) -> MultiPolygon:
    """The area of all layers but the ground."""
    return figure_region(Figure(tuple(layer for layer in figure.layers if not layer.ground) or figure.layers), chord)


def cut_region(figure: Figure, solid: Cutter, chord: float = SKETCH_CHORD) -> MultiPolygon:
    """What a cutter cuts out: everything drawn, its holes filled unless they are cut too."""
    drawn = drawn_region(figure, chord)
    if solid.holes:
        return drawn
    return polygons_of(shapely.union_all([shapely.Polygon(part.exterior) for part in drawn.geoms]))


def imprints_of(figure: Figure, solid: Cutter, chord: float) -> list[Imprint]:
    """Every drawn layer but the largest, each pressed in by its own measure."""
    if not solid.imprint:
        return []
    layers = [(at, layer_region(layer, chord)) for at, layer in enumerate(figure.layers) if not layer.ground]
    if len(layers) < 2:
        return []
    largest = max(layers, key=lambda layer: layer[1].area)[0]
    return [
        Imprint(region, solid.setbacks_mm[at] if at < len(solid.setbacks_mm) else solid.setback_mm)
        for at, region in layers
        if at != largest
    ]


def standing_of(figure: Figure, solid: Raised, chord: float) -> list[tuple[MultiPolygon, float]]:
    """Every layer with its height; the ground stands at 0 unless it is given one."""
    standing = []
    for at, layer in enumerate(figure.layers):
        usual = 0.0 if layer.ground else solid.thickness_mm
        height = solid.heights_mm[at] if at < len(solid.heights_mm) else usual
        standing.append((layer_region(layer, chord), height))
    return standing


def _cutter_findings(made: MadeCutter) -> tuple[Finding, ...]:
    if made.joined:
        return ()
    return (
        Finding(
            "caution",
            f"The cutter is {made.parts} parts that nothing joins.",
            "They cannot be pressed as one; let bars, a handle or an imprint plate hold them together.",
            "loose_parts",
            None,
            float(made.parts),
        ),
    )


def _fits(mesh: TriMesh, document: OutlineDocument) -> tuple[Finding, ...]:
    wide, deep, tall = np.ptp(mesh.vertices, axis=0).tolist()
    bed = document.maker.bed_mm
    if min(wide, deep) <= min(bed[:2]) and max(wide, deep) <= max(bed[:2]) and tall <= bed[2]:
        return ()
    size, takes = (" × ".join(f"{side:.1f}" for side in values) for values in ((wide, deep, tall), bed))
    return (
        Finding(
            "caution",
            f"The piece is {size} mm; your printer takes {takes} mm.",
            "It does not fit in one go; make it smaller, or choose another maker.",
            "bed",
        ),
    )


def _wide(figure: Figure, scale: float) -> Figure:
    if not scale > 0:
        raise BadValueError("The drawing has no width; outlines that enclose something are needed.")
    return mapped(figure, np.array([[scale, 0.0, 0.0], [0.0, scale, 0.0]]))
