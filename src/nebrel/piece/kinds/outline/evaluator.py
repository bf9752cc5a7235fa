"""From the recipe of outlines to their solid: traced or read, mended, made; each step kept by what it depends on."""

import time
from abc import abstractmethod
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from typing import Literal, Self, TypeVar

import numpy as np
from numpy.typing import NDArray

from nebrel.core.csg.put_together import PLAIN
from nebrel.core.errors import BadValueError
from nebrel.core.heightfield.from_above import heights_from_above
from nebrel.core.heightfield.slab import Slab
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.distance import distances_to, measure_between
from nebrel.core.mesh.surface_error import BOTH_WAYS, Deviation
from nebrel.core.outline_files.read import read_drawing
from nebrel.core.picture.ink import InkGuess
from nebrel.core.proof import Finding, check_soundness
from nebrel.core.proof.drawing_audit import Difference, compare_with_drawing, difference_finding
from nebrel.core.proof.picture_audit import PictureDifference, compare_with_picture, picture_difference_finding
from nebrel.core.proof.wall_error import measure_walls
from nebrel.core.region.curves import Figure, map_figure
from nebrel.core.region.drawing import Drawing
from nebrel.piece.evaluation.abilities import HasOutlines, HasPicture, PieceOutlines
from nebrel.piece.evaluation.cache import step_key
from nebrel.piece.evaluation.codec import decode_slab, encode_slab
from nebrel.piece.evaluation.evaluator import PieceEvaluator, Progress, quiet
from nebrel.piece.evaluation.pictured import PicturedEvaluator
from nebrel.piece.evaluation.prepare import FULL
from nebrel.piece.evaluation.shown import TONES, Plan, Size, plan_from_above
from nebrel.piece.kinds.outline.document import DrawnDocument, OutlineDocument, RaisedPart, TracedDocument
from nebrel.piece.kinds.outline.findings import close_call, left_out, off_the_lines, outline_findings, untrue
from nebrel.piece.kinds.outline.mending import mend_figure
from nebrel.piece.kinds.outline.painting import layers_of_faces
from nebrel.piece.kinds.outline.solids import (
    SKETCH_CHORD,
    MadeOfOutlines,
    is_straight_figure,
    solid_of_outlines,
    standing_of,
    straight_prism,
)
from nebrel.piece.kinds.outline.tracing import guessed_ink, shown_ink, trace_picture
from nebrel.piece.parts.paint import rgba_of
from nebrel.piece.report import BuildReport, build_report

BLANK_PX = 64
TRACED_RELIEF_MM = 2.0
TRACING = "Following the edges"
MAKING = "Making the solid"
MEASURING = "Measuring the surface"
# A finished solid is measured against one whose curves are followed so many times as closely.
FINER = 4
OF_EDGES = "from the edges as they are drawn, and in height"
OF_CURVES = "to the nearest place, from the same curves followed four times as closely"
_VERSION = 4
AnyOutlined = TypeVar("AnyOutlined", bound=OutlineDocument)


class OutlineEvaluator(PieceEvaluator[AnyOutlined], HasOutlines):
    """Runs the steps of pieces made of outlines."""

    @abstractmethod
    def _source_outlines(self, progress: Progress) -> PieceOutlines:
        """The outlines as they were traced or read, at the piece's width."""

    @abstractmethod
    def _source_key(self) -> str:
        """The key of `source`."""

    def check(self, progress: Progress = quiet) -> None:
        self._made(SKETCH_CHORD, progress)
        _ = self.size_mm

    def source(self, progress: Progress = quiet) -> PieceOutlines:
        """The outlines as they were traced or read, at the piece's width."""
        return self._cache.get(self._source_key(), lambda: self._source_outlines(progress))

    def outlines(self, progress: Progress = quiet) -> PieceOutlines:
        def mend() -> PieceOutlines:
            found = self.source(progress)
            figure = mend_figure(found.figure, self.document.mend, self.document.width_mm, self._motif)
            return PieceOutlines(figure, found.max_deviation, found.rms_deviation)

        return self._cache.get(self._figure_key(), mend)

    def guessed_ink(self, progress: Progress = quiet) -> InkGuess | None:
        return None

    def with_changes(self, parts: dict[str, object]) -> Self:
        """An evaluator of the same document with other parts, which are taken as they are."""
        return type(self)(self.document.model_copy(update=parts), self._sources)

    @property
    def line_mm(self) -> float:
        return self.document.line_mm

    @property
    def size_mm(self) -> Size:
        key = step_key("outline size", _VERSION, None, self._solid_key(SKETCH_CHORD))
        return self._kept_size(key, lambda: self._made(SKETCH_CHORD).mesh)

    @property
    def tolerance_mm(self) -> float:
        return self.document.finish.tolerance_mm

    def plan(self, longest_px: int, upto: str | None = None, progress: Progress = quiet) -> Plan:
        width, depth, _ = self.size_mm
        return plan_from_above(heights_from_above(self.mesh(longest_px), longest_px), width, depth)

    def mesh(self, longest_px: int = FULL) -> TriMesh:
        if longest_px == FULL:
            return self.delivered().mesh
        return self._made(SKETCH_CHORD).mesh

    def solid_key(self, longest_px: int) -> str:
        if longest_px != FULL:
            return self._solid_key(SKETCH_CHORD)
        light = self.document.light.key(self.document.delivery.format)
        return step_key("outline light", _VERSION, light, self._solid_key(self.tolerance_mm))

    def findings(self, longest_px: int = FULL, progress: Progress = quiet) -> tuple[Finding, ...]:
        maker = self.document.maker.model_dump(mode="json")

        def look() -> tuple[Finding, ...]:
            return outline_findings(self.document, self.outlines(progress).figure, self._made(SKETCH_CHORD, progress))

        return self._cache.get(step_key("outline findings", _VERSION, maker, self._solid_key(0)), look)

    def delivered(self, progress: Progress = quiet) -> Slab:
        """The finished solid, made as light as asked."""

        def make() -> Slab:
            prism = straight_prism(self.outlines(progress).figure, self.document.solid)
            # Made lighter, walls may lean a little and are measured as any surface.
            if prism is not None and not self.document.light.on:
                mesh = self._made(self.tolerance_mm, progress).mesh
                progress(MEASURING, 0.5)
                return Slab(mesh, Deviation(*measure_walls(mesh, *prism), OF_EDGES, BOTH_WAYS), self.tolerance_mm)
            # What it is measured against is made beside it, on another core.
            with ThreadPoolExecutor(max_workers=1) as beside:
                finer = beside.submit(self._made, self.tolerance_mm / FINER)
                mesh = self._made(self.tolerance_mm, progress).mesh
                lighter = self.document.light.simplify(
                    mesh, self.document.delivery.format, lambda part: progress("Making it light", part)
                )
                finished = mesh if lighter is None else lighter.mesh
                found = measure_between(finer.result().mesh, finished, lambda part: progress(MEASURING, part))
            return Slab(finished, Deviation(found.max, found.rms, OF_CURVES, BOTH_WAYS), self.tolerance_mm)

        return self._cache.get(self.solid_key(FULL), make, encode_slab, decode_slab)

    def build(self, progress: Progress = quiet) -> tuple[Slab, BuildReport]:
        started = time.perf_counter()
        before = len(self._made(self.tolerance_mm, progress).mesh.faces) if self.document.light.on else None
        # What is looked at is the outlines, so another core can look while the solid is measured and proved.
        with ThreadPoolExecutor(max_workers=1) as beside:
            looking = beside.submit(self.findings)
            slab = self.delivered(progress)
            soundness = check_soundness(slab.mesh, lambda part: progress("Proving it sound", part))
            findings = looking.result()
        if before is None:
            findings = (*findings, *untrue(slab.deviation.max, self.tolerance_mm))
        return slab, build_report(
            soundness, slab, (*findings, *self.document.light.missed(slab.mesh)), time.perf_counter() - started, before
        )

    def off_target(self, mesh: TriMesh, longest_px: int) -> NDArray[np.float64]:
        unlightened = self._made(self.tolerance_mm).mesh
        return distances_to(unlightened, mesh.corners.mean(axis=1))

    def with_motif(self, motif: dict[str, object], at: tuple[float, float], width_mm: float) -> dict[str, object]:
        if motif["drawing"] is None:
            raise BadValueError(f"The motif {motif['name']} has no outlines; lay it on a relief panel.")
        width, depth = self.source_mm
        step = {
            "kind": "motif",
            "id": motif["id"],
            "file": {"name": motif["name"], "motif": motif["motif"], "blob": motif["drawing"]},
            # Steps measure both ways in widths of the source.
            "place": (at[0], at[1] * depth / width),
            "wide_mm": width_mm,
        }
        return {"mend": [*(each.model_dump(mode="json") for each in self.document.mend), step]}

    def painted(self, mesh: TriMesh) -> TriMesh:
        """Every layer that is raised in its own colour, all else in the piece's."""
        solid = self.document.solid
        if not isinstance(solid, RaisedPart) or not any(solid.colours) or solid.cut or solid.inlay:
            return super().painted(mesh)
        rest = self.document.paint.rgba or PLAIN
        tints = [rest if told is None else rgba_of(told) for told in solid.colours]
        standing = standing_of(self.outlines().figure, solid, SKETCH_CHORD)
        tints += [rest] * (len(standing) - len(tints))
        # The base is numbered -1, and so takes the last.
        table = np.array([*tints[: len(standing)], rest], dtype=np.uint8)
        own = table[layers_of_faces(mesh, standing, solid.base.to_core())]
        return replace(mesh, corner_colours=np.repeat(own[:, None, :], 3, axis=1))

    @property
    def paint_key(self) -> object:
        colours = self.document.solid.colours if isinstance(self.document.solid, RaisedPart) else ()
        return [super().paint_key, list(colours)] if any(colours) else super().paint_key

    def _made(self, chord: float, progress: Progress = quiet) -> MadeOfOutlines:
        figure = self.outlines(progress).figure
        if self.document.solid.straight and is_straight_figure(figure):
            # However closely it is followed, it comes out the same.
            chord = SKETCH_CHORD

        def make() -> MadeOfOutlines:
            progress(MAKING, 0.5)
            return solid_of_outlines(figure, self.document.solid, chord)

        return self._cache.get(self._solid_key(chord), make)

    def _motif(self, blob: str, name: str) -> Figure:
        key = step_key("motif", _VERSION, blob)
        return self._cache.get(key, lambda: read_drawing(self._sources.read(blob), f"{name}.svg").figure)

    def _figure_key(self) -> str:
        steps = [step.model_dump(mode="json", exclude={"id", "on"}) for step in self.document.mend if step.on]
        return step_key("mended", _VERSION, steps, self._source_key())

    def _solid_key(self, chord: float) -> str:
        parameters = [self.document.solid.model_dump(mode="json", exclude={"colours"}), chord]
        return step_key("outline solid", _VERSION, parameters, self._figure_key())


class TracedEvaluator(OutlineEvaluator[TracedDocument], PicturedEvaluator[TracedDocument], HasPicture):
    """Runs the steps of pieces made of the outlines of a picture, which is always traced at full resolution."""

    @property
    def relief_mm(self) -> float:
        """What tones are judged as: nothing is raised by them."""
        return TRACED_RELIEF_MM

    @property
    def tall_tones(self) -> Literal["bright", "dark"]:
        return "bright"

    @property
    def source_mm(self) -> tuple[float, float]:
        rows, columns = self.picture().shape
        return self.document.width_mm, self.document.width_mm * rows / columns

    def plan(self, longest_px: int, upto: str | None = None, progress: Progress = quiet) -> Plan:
        if upto is None:
            return super().plan(longest_px, upto, progress)
        plan = self.plan_of_view(longest_px, upto, progress, TRACED_RELIEF_MM, TRACED_RELIEF_MM)
        # Outlines lie over whole pixels, from the outer side of the first to that of the last.
        rows, columns = plan.tones.shape
        pitch = self.document.width_mm / columns
        inset = np.array([[1 - 1 / columns, 0, 0.5 / columns], [0, 1 - 1 / rows, 0.5 / rows], [0, 0, 1]])
        return replace(
            plan,
            size=(columns * pitch, rows * pitch, TRACED_RELIEF_MM),
            pitch=pitch,
            from_source=inset @ plan.from_source,
        )

    def findings(self, longest_px: int = FULL, progress: Progress = quiet) -> tuple[Finding, ...]:
        found = [*close_call(self.guessed_ink(progress))]
        if self.document.trace.by == "centre-line":
            found += off_the_lines(self.source(progress).max_deviation, self.line_mm)
        found += picture_difference_finding(self.picture_difference(progress))
        return (*found, *super().findings(longest_px, progress))

    def picture_difference(self, progress: Progress = quiet) -> PictureDifference | None:
        """How the outlines as they were traced differ from what the picture shows."""

        def compare() -> PictureDifference | None:
            inked = shown_ink(self.picture(FULL, progress), self.document.trace)
            if inked is None:
                return None
            return compare_with_picture(inked, self.source(progress).figure, self.document.width_mm)

        return self._cache.get(step_key("picture seen", _VERSION, self._source_key()), compare)

    def guessed_ink(self, progress: Progress = quiet) -> InkGuess | None:
        key = step_key("ink", _VERSION, self.document.trace.model_dump(mode="json"), self._prepared_key(FULL))
        return self._cache.get(key, lambda: guessed_ink(self.picture(FULL, progress), self.document.trace))

    def _source_outlines(self, progress: Progress) -> PieceOutlines:
        picture, width = self.picture(FULL, progress), self.document.width_mm
        traced = trace_picture(picture, self.document.trace, width, lambda part: progress(TRACING, part))
        return PieceOutlines(Figure(traced.layers), traced.max_deviation, traced.rms_deviation)

    def _source_key(self) -> str:
        parameters = [self.document.trace.model_dump(mode="json"), self.document.width_mm]
        return step_key("traced", _VERSION, parameters, self._prepared_key(FULL))


class DrawnEvaluator(OutlineEvaluator[DrawnDocument]):
    """Runs the steps of pieces made of the outlines of a drawing."""

    @property
    def source_mm(self) -> tuple[float, float]:
        width, depth = self.document.drawing.size_mm
        return self.document.width_mm, self.document.width_mm * depth / max(width, 1e-9)

    def plan(self, longest_px: int, upto: str | None = None, progress: Progress = quiet) -> Plan:
        return super().plan(longest_px, upto, progress) if upto is None else self._blank_sheet()

    def findings(self, longest_px: int = FULL, progress: Progress = quiet) -> tuple[Finding, ...]:
        return (
            *left_out(self.document.drawing.remarks),
            *difference_finding(self.difference()),
            *super().findings(longest_px, progress),
        )

    def difference(self) -> Difference | None:
        """How the outlines as they were read differ from what other programs draw of the file."""
        drawing = self.document.drawing

        def compare() -> Difference | None:
            found = self._drawing()
            away = compare_with_drawing(self._sources.read(drawing.blob), drawing.name, found)
            if away is None or away.where is None:
                return away
            scale = self.document.width_mm / max(found.size[0], 1e-9)
            return replace(away, where=(away.where[0] * scale, away.where[1] * scale))

        return self._cache.get(step_key("drawing seen", _VERSION, self._source_key()), compare)

    def take(self, found: Drawing) -> None:
        """Remember what was read of the file already."""
        self._cache.get(self._drawing_key(), lambda: found)

    def _drawing_key(self) -> str:
        drawing = self.document.drawing
        return step_key("drawing as it is", _VERSION, [drawing.blob, drawing.mm_per_unit, drawing.join_mm])

    def _drawing(self) -> Drawing:
        drawing = self.document.drawing

        def read() -> Drawing:
            return read_drawing(self._sources.read(drawing.blob), drawing.name, drawing.mm_per_unit, drawing.join_mm)

        return self._cache.get(self._drawing_key(), read)

    def _blank_sheet(self) -> Plan:
        """An empty sheet as large as the drawing, to draw its outlines on."""
        width, depth = self.source_mm
        columns = max(2, round(BLANK_PX * min(1.0, width / depth)))
        rows = max(2, round(BLANK_PX * min(1.0, depth / width)))
        return Plan(
            tones=np.full((rows, columns), TONES, dtype=np.uint16),
            heights=np.zeros((rows, columns), np.float32),
            size=(width, depth, 1.0),
            pitch=width / (columns - 1),
            backing=0.0,
            relief=1.0,
            full_px=(columns, rows),
            from_source=np.eye(3),
        )

    def _source_outlines(self, progress: Progress) -> PieceOutlines:
        found = self._drawing()
        return PieceOutlines(_widen(found.figure, self.document.width_mm / max(found.size[0], 1e-9)), 0.0, 0.0)

    def _source_key(self) -> str:
        drawing = self.document.drawing
        return step_key("drawing", _VERSION, [drawing.blob, drawing.size_mm, drawing.join_mm, self.document.width_mm])


def _widen(figure: Figure, scale: float) -> Figure:
    if not scale > 0:
        raise BadValueError("The drawing has no width; outlines that enclose something are needed.")
    return figure if scale == 1.0 else map_figure(figure, np.array([[scale, 0.0, 0.0], [0.0, scale, 0.0]]))
