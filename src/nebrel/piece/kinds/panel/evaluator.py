"""From the recipe to the piece: a chain of pure steps, each kept by the hash of what it depends on."""

import math
import time
from collections.abc import Callable
from dataclasses import asdict
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from nebrel.core.height import HeightField
from nebrel.core.heightfield.deviation import Deviation
from nebrel.core.heightfield.slab import Slab
from nebrel.core.mesh import TriMesh
from nebrel.core.panel.assemble import refuse_unfit
from nebrel.core.panel.build import build_panel, measure_panel, panel_deviation, sketch_panel
from nebrel.core.panel.target import asked_field
from nebrel.core.picture import Picture, ReadLimits, read_picture
from nebrel.core.proof import Finding, check_soundness
from nebrel.core.proof.audit import Ground, audit_picture
from nebrel.core.proof.makeable import Printer, relief_findings
from nebrel.core.proof.section import Profile, asked_profile
from nebrel.piece.document import PieceDocument
from nebrel.piece.evaluation.cache import ResultCache, step_key
from nebrel.piece.evaluation.codec import decode_slab, encode_slab
from nebrel.piece.evaluation.evaluator import PREVIEW_PX, Looks, Progress, quiet
from nebrel.piece.evaluation.prepare import FULL, Preparation
from nebrel.piece.kinds.lithophane.document import LithophaneDocument
from nebrel.piece.kinds.lithophane.evaluator import LithophaneEvaluator
from nebrel.piece.kinds.model.evaluator import ModelEvaluator
from nebrel.piece.kinds.outline.evaluator import OutlineEvaluator
from nebrel.piece.kinds.panel.raising import raised
from nebrel.piece.ops import View
from nebrel.piece.parts.extent import frame_of
from nebrel.piece.parts.maker import PrinterMaker
from nebrel.piece.parts.pictured import Pictured
from nebrel.piece.parts.simplification import lighter_panel
from nebrel.piece.report import BuildReport, build_report

SourceReader = Callable[[str], bytes]

PREVIEW_TOLERANCE_SHARE = 0.012
_RECIPE_VERSION = 2
TRACED_RELIEF_MM = 2.0


class Evaluator(Looks[PieceDocument]):
    """Runs the steps of pieces. `longest_px` chooses the resolution: `FULL`, or a preview of that many pixels.

    Preview and final build are the same steps; the preview starts from a smaller picture and allows a surface error
    that the eye does not see.
    """

    def __init__(self, read_source: SourceReader, cache: ResultCache, limits: ReadLimits | None = None) -> None:
        super().__init__(cache)
        self._read_source = read_source
        self._limits = limits or ReadLimits()
        self.models = ModelEvaluator(read_source, cache, lambda blob, name: self._read(blob, name, lambda _: None))
        self._preparation = Preparation(cache, self._read)
        self.outlines = OutlineEvaluator(read_source, cache, self._preparation)
        self.lithophanes = LithophaneEvaluator(cache, self._preparation, self.audit)

    def reading(self, read_source: SourceReader) -> "Evaluator":
        """The same evaluator and results over other source files."""
        return Evaluator(read_source, self._cache, self._limits)

    def check(self, document: PieceDocument, progress: Progress = quiet) -> None:
        refuse_unfit(self.field(document, PREVIEW_PX, progress), document.body.made())

    def picture(self, document: Pictured, longest_px: int = FULL, progress: Progress = quiet) -> Picture:
        """The prepared picture."""
        return self._preparation.view(document, longest_px, None, progress).picture

    def view(self, document: Pictured, longest_px: int, upto: str | None = None, progress: Progress = quiet) -> View:
        """The picture after all its ops or after one of them, with its place on the piece."""
        return self._preparation.view(document, longest_px, upto, progress)

    def field(self, document: PieceDocument, longest_px: int = FULL, progress: Progress = quiet) -> HeightField:
        """Heights above the backing."""
        return self._field_from(lambda: self.picture(document, longest_px, progress), document, longest_px, progress)

    def asked(self, document: PieceDocument, longest_px: int = FULL) -> HeightField:
        """Heights above the backing that the finished piece is asked to have, its frame and edges included."""
        parameters = document.body.model_dump(mode="json")
        key = step_key("asked", _RECIPE_VERSION, parameters, self.field_key(document, longest_px))
        return self._cache.get(key, lambda: asked_field(self.field(document, longest_px), document.body.made()))

    def solid(self, document: PieceDocument, progress: Progress = quiet) -> Slab:
        """The built solid, at full resolution."""
        return self._solid_from(lambda: self.field(document), document, progress)

    def mesh(self, document: PieceDocument, longest_px: int = FULL) -> TriMesh:
        if longest_px == FULL:
            return self.delivered(document).mesh
        return self._cache.get(
            self.solid_key(document, longest_px),
            lambda: sketch_panel(
                self.field(document, longest_px), document.body.made(), _tolerance(document, longest_px)
            ),
        )

    def off_asked(self, document: PieceDocument, mesh: TriMesh, longest_px: int) -> NDArray[np.float64]:
        return panel_deviation(mesh, self.field(document, longest_px), document.body.made())

    def size(self, document: PieceDocument) -> tuple[float, float, float]:
        return document.size_mm

    def findings(
        self, document: PieceDocument, longest_px: int = FULL, progress: Progress = quiet
    ) -> tuple[Finding, ...]:
        field = self.field(document, longest_px)
        made = _findings(self.picture(document, longest_px), field, document, progress)
        return (*self.audit(document, progress), *made)

    def audit(
        self, document: Pictured, progress: Progress = quiet, picture: Picture | None = None
    ) -> tuple[Finding, ...]:
        """What to know about the prepared picture, always at full resolution; `picture` spares computing it."""
        ground = ground_of(document)
        key = step_key("audit", _RECIPE_VERSION, asdict(ground), self._preparation.key(document, FULL))

        def look() -> tuple[Finding, ...]:
            prepared = self.picture(document, FULL, progress) if picture is None else picture
            return audit_picture(prepared, ground, lambda part: progress("Looking over the picture", part))

        return self._cache.get(key, look)

    def build(self, document: PieceDocument, progress: Progress = quiet) -> tuple[Slab, BuildReport]:
        # Picture and heights are held meanwhile: they may not fit the cache.
        started = time.perf_counter()
        progress("Reading the picture", 0.0)
        picture = self.picture(document, FULL, progress)
        progress("Raising the heights", 0.0)
        field = self._field_from(lambda: picture, document, FULL, progress)
        slab = self._solid_from(lambda: field, document, progress)
        before = len(slab.mesh.faces) if document.light.on else None
        slab = self._lightened(lambda: field, lambda: slab, document, progress)
        progress("Proving it sound", 0.0)
        surface_only = document.body.back == "none"
        soundness = check_soundness(slab.mesh, lambda part: progress("Proving it sound", part), surface_only)
        findings = (*self.audit(document, progress, picture), *_findings(picture, field, document, progress))
        return slab, build_report(soundness, slab, findings, time.perf_counter() - started, before)

    def delivered(self, document: PieceDocument) -> Slab:
        """The built solid, made as light as asked."""
        return self._lightened(lambda: self.field(document), lambda: self.solid(document), document, quiet)

    def asked_along(
        self, document: PieceDocument, start: tuple[float, float], end: tuple[float, float], longest_px: int
    ) -> Profile | None:
        return asked_profile(self.asked(document, longest_px), document.body.backing_mm, start, end)

    def picture_key(self, document: Pictured, longest_px: int) -> str:
        """The key of the prepared picture at a resolution and, through ops in mm, at the size of the piece."""
        return step_key("prepared", _RECIPE_VERSION, document.width_mm, self._preparation.key(document, longest_px))

    def solid_key(self, document: PieceDocument, longest_px: int) -> str:
        slab_key = self._slab_key(document, longest_px)
        if longest_px != FULL or not document.light.on:
            return slab_key
        return step_key("light", _RECIPE_VERSION, document.light.key(document.delivery.format), slab_key)

    def _slab_key(self, document: PieceDocument, longest_px: int) -> str:
        parameters = [document.body.model_dump(mode="json"), _tolerance(document, longest_px)]
        return step_key("solid", _RECIPE_VERSION, parameters, self.field_key(document, longest_px))

    def field_key(self, document: PieceDocument, longest_px: int = FULL) -> str:
        """The key of the heights at a resolution."""
        parameters = [document.height.model_dump(mode="json"), document.body.width_mm]
        return step_key("heights", _RECIPE_VERSION, parameters, self._preparation.key(document, longest_px))

    def _field_from(
        self, picture: Callable[[], Picture], document: PieceDocument, longest_px: int, progress: Progress
    ) -> HeightField:
        key = self.field_key(document, longest_px)

        def read_mask(blob: str, name: str) -> Picture:
            mask_key = step_key("picture", _RECIPE_VERSION, [blob, "mask"])
            return self._cache.get(mask_key, lambda: self._read(blob, name, lambda _: None))

        return self._cache.get(key, lambda: raised(picture(), document, read_mask, progress))

    def _solid_from(self, field: Callable[[], HeightField], document: PieceDocument, progress: Progress) -> Slab:
        def build() -> Slab:
            return build_panel(field(), document.body.made(), document.finish.tolerance_mm, progress)

        return self._cache.get(self._slab_key(document, FULL), build, encode_slab, decode_slab)

    def _lightened(
        self,
        field: Callable[[], HeightField],
        solid: Callable[[], Slab],
        document: PieceDocument,
        progress: Progress,
    ) -> Slab:
        if not document.light.on:
            return solid()

        def build(tolerance: float) -> Slab:
            return build_panel(field(), document.body.made(), tolerance, progress)

        def measure(mesh: TriMesh) -> Deviation:
            return measure_panel(mesh, field(), document.body.made())

        def make() -> Slab:
            return lighter_panel(solid(), build, measure, document.light, document.delivery.format)

        return self._cache.get(self.solid_key(document, FULL), make, encode_slab, decode_slab)

    def _read(self, blob: str, name: str, progress: Callable[[float], None]) -> Picture:
        return read_picture(self._read_source(blob), name, self._limits, progress)


def ground_of(document: Pictured) -> Ground:
    """What the picture of a piece is judged for; one that is traced as if its tones were heights of 2 mm, a
    lithophane as if its thickness were one."""
    printer = _printer(document.maker)
    relief = TRACED_RELIEF_MM
    tall: Literal["bright", "dark"] = "bright"
    if isinstance(document, PieceDocument):
        relief, tall = document.height.rule.tallest_mm, document.height.rule.tall
    elif isinstance(document, LithophaneDocument):
        relief, tall = document.glow.thickest_mm - document.glow.thinnest_mm, "dark"
    return Ground(
        relief=relief,
        tall=tall,
        mm_per_px=frame_of(document).mm_per_px,
        line=printer.line_width,
        layer=printer.layer,
    )


def _findings(picture: Picture, field: HeightField, document: PieceDocument, progress: Progress) -> tuple[Finding, ...]:
    printer = _printer(document.maker)
    relief, backing = document.height.rule.tallest_mm, document.body.backing_mm
    return relief_findings(
        picture,
        field,
        relief,
        backing,
        printer,
        document.body.made().margin,
        lambda part: progress("Looking over the heights", part),
    )


def _tolerance(document: PieceDocument, longest_px: int) -> float:
    asked = document.finish.tolerance_mm
    if longest_px == FULL:
        return asked
    share = PREVIEW_TOLERANCE_SHARE * math.pow(PREVIEW_PX / longest_px, 1.5)
    return max(asked, share * document.height.rule.tallest_mm)


def _printer(maker: PrinterMaker) -> Printer:
    return Printer(line_width=maker.line_width_mm, layer=maker.layer_mm, bed=maker.bed_mm)
