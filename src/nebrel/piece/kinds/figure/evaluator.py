"""Figures as they are looked at, compared, judged and delivered."""

import time

import numpy as np
from numpy.typing import NDArray

from nebrel.core.figure.colour import beyond_the_cut
from nebrel.core.figure.figure import ShapedFigure
from nebrel.core.figure.foot import BITE_MM
from nebrel.core.figure.silhouette import sampled, silhouette_of
from nebrel.core.heightfield.slab import Slab
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.distance import distances_to
from nebrel.core.mesh.place import at_origin
from nebrel.core.proof import Finding, check_soundness
from nebrel.core.proof.from_front import silhouette_overlap
from nebrel.core.proof.texture_audit import texture_error
from nebrel.piece.depths.sent import depths_received, sent_files
from nebrel.piece.depths.sources import compared_kinds
from nebrel.piece.evaluation.abilities import (
    ComparedDepth,
    FewColoursView,
    HasDepthSources,
    HasFewColours,
    HasPicture,
)
from nebrel.piece.evaluation.cache import step_key
from nebrel.piece.evaluation.evaluator import Progress, quiet
from nebrel.piece.evaluation.prepare import FULL
from nebrel.piece.evaluation.shown import TONES, Plan, Size
from nebrel.piece.evaluation.skinned import SKETCH_PX
from nebrel.piece.kinds.figure.few import given_few
from nebrel.piece.kinds.figure.findings import figure_findings, unlike_outline
from nebrel.piece.kinds.figure.making import RELIEF_MM, SKETCH_CELLS, FigureMaking
from nebrel.piece.report import BuildReport, FigureReport, TextureReport, build_report, colours_report

_VERSION = 2


class FigureEvaluator(FigureMaking, HasPicture, HasFewColours, HasDepthSources):
    """Figures as they are looked at, compared, judged and delivered."""

    @property
    def size_mm(self) -> Size:
        if not self.document.is_worked:
            return self.plan_mm
        key = step_key("worked figure size", _VERSION, None, self.made_key(SKETCH_PX))
        return self._kept_size(key, lambda: self.made(SKETCH_PX))

    @property
    def plan_mm(self) -> Size:
        key = step_key("figure size", _VERSION, None, self.surface_key(SKETCH_PX))
        return self._kept_size(key, lambda: self.surface(SKETCH_PX))

    def width_share(self) -> float:
        """How much of the picture's width the figure takes up.

        Raises:
            BadPictureError: nothing is cut out.
        """
        silhouette = silhouette_of(self.picture().coverage, 1.0, SKETCH_CELLS)
        return silhouette.width_px / (self.picture().shape[1] - 1)

    def plan(self, longest_px: int, upto: str | None = None, progress: Progress = quiet) -> Plan:
        """The picture over the box round the figure; its heights are the front over the lowest place behind."""
        if upto is not None:
            return self.plan_of_view(longest_px, upto, progress, RELIEF_MM, RELIEF_MM)
        view = self.view(longest_px, None, progress)
        form = self.shaped(longest_px, progress).form
        silhouette, (width, depth, thick) = form.silhouette, self.plan_mm
        rows, columns = (max(2, round(side / view.mm_per_px) + 1) for side in (depth, width))
        x, y = np.linspace(0, width, columns), np.linspace(depth, 0, rows)
        grid = silhouette.samples_at(x, y)
        middle, square = sampled(form.middle, grid), sampled(form.square, grid)
        front = np.where(square > 0, middle + np.sqrt(np.maximum(square, 0)), np.nan)
        pixels = silhouette.source_at(x, y)
        tones = beyond_the_cut(view.picture.tones, view.picture.coverage)
        across, up = (1 / max(abs(float(along[-1] - along[0])), 1e-9) for along in pixels)
        to_plan = np.array([[across, 0, -across * pixels[0][0]], [0, -up, 1 + up * pixels[1][0]], [0, 0, 1]])
        return Plan(
            tones=np.round(np.clip(sampled(tones, pixels), 0, 1) * TONES).astype(np.uint16),
            heights=(front - float(np.nanmin(form.back))).astype(np.float32),
            size=(width, depth, thick),
            pitch=width / (columns - 1),
            backing=0.0,
            relief=max(thick, 1e-6),
            full_px=(columns, rows),
            from_source=to_plan @ view.from_source,
        )

    def findings(self, longest_px: int = FULL, progress: Progress = quiet) -> tuple[Finding, ...]:
        told = figure_findings(self.document, self.shaped(longest_px, progress), self.sketch())
        return (*told, *self.about_decorations(longest_px))

    def build(self, progress: Progress = quiet) -> tuple[Slab, BuildReport]:
        started = time.perf_counter()
        slab = self.delivered(progress)
        soundness = check_soundness(slab.mesh, lambda part: progress("Proving it sound", part))
        shaped = self.shaped(FULL, progress)
        overlap = self._overlap(slab.mesh, shaped)
        findings = (*self.findings(FULL, progress), *unlike_outline(overlap))
        before = len(self.surface(FULL).faces)
        report = build_report(
            soundness, slab, (*findings, *self.document.light.missed(slab.mesh)), time.perf_counter() - started, before
        )
        few = self.few_delivered(progress)
        names, plan = self.colour_names, self.document.figure.few.print_plan
        figure = FigureReport(
            overlap_mask=round(overlap, 5),
            depth_mm=round(float(np.ptp(slab.mesh.vertices[:, 2])), 4),
            source=self.document.figure.depth.kind,
            thickened_mm2=round(shaped.widened + shaped.thickened, 3),
            colours=None if few is None else colours_report(slab.mesh, few, names, plan),
            texture=self._texture_report(slab.mesh, progress),
        )
        return slab, report.model_copy(update={"figure": figure})

    def _texture_report(self, mesh: TriMesh, progress: Progress) -> TextureReport | None:
        made = self.texture(progress)
        if made is None:
            return None
        height, width = made.image.shape[:2]
        error = texture_error(mesh, made, self.painted_at(mesh))
        return TextureReport(width_px=width, height_px=height, charts=made.charts, mean_error=round(error, 5))

    @property
    def colour_names(self) -> dict[str, str]:
        few = self.document.figure.few
        return {each.to_core().hex: each.to_core().name for each in few.filaments} if few.of == "filaments" else {}

    def few_colours(self) -> FewColoursView | None:
        if not self.has_few:
            return None
        before = self.made(SKETCH_PX)
        found = given_few(self.document.figure.few, before)
        report = colours_report(found.mesh, found, self.colour_names, self.document.figure.few.print_plan)
        assert report is not None
        return FewColoursView(at_origin(before), at_origin(found.mesh), report)

    def compared_depths(self) -> list[ComparedDepth]:
        own = self._front_over_box(self.shaped(SKETCH_PX))
        found = []
        for kind in compared_kinds(self.document.figure.depth):
            depth = self.document.figure.depth.model_copy(update={"kind": kind})
            figure = self.document.figure.model_copy(update={"depth": depth})
            other = FigureEvaluator(self.document.model_copy(update={"figure": figure}), self._sources)
            shaped = other.shaped(SKETCH_PX)
            nearer = self._front_over_box(shaped) - own
            unsure = None if shaped.unsure is None else self._over_box(shaped, shaped.unsure)
            found.append(ComparedDepth(kind, at_origin(other.sketch()), nearer, unsure))
        return found

    def sent(self) -> tuple[bytes, bytes]:
        return sent_files(self.picture())

    def received(self, data: bytes, depth_share: float | None) -> tuple[bytes, float]:
        return depths_received(data, depth_share, self.view(FULL))

    def unsure(self) -> NDArray[np.float64] | None:
        shaped = self.shaped(SKETCH_PX)
        return None if shaped.unsure is None else self._over_box(shaped, shaped.unsure)

    def _front_over_box(self, shaped: ShapedFigure) -> NDArray[np.float64]:
        front = shaped.form.front
        return self._over_box(shaped, front - float(np.nanmean(front)))

    def _over_box(self, shaped: ShapedFigure, values: NDArray[np.float64]) -> NDArray[np.float64]:
        """Values of the grid over the box round the figure, top row first; NaN beside the figure."""
        silhouette = shaped.form.silhouette
        width, tall = silhouette.box
        x, y = (np.linspace(0, side, max(2, round(side / silhouette.pitch))) for side in (width, tall))
        grid = silhouette.samples_at(x, y[::-1])
        there = sampled(silhouette.inside.astype(np.float64), grid) >= 0.5
        return np.where(there, sampled(np.nan_to_num(values), grid), np.nan)

    def off_target(self, mesh: TriMesh, longest_px: int) -> NDArray[np.float64]:
        fine = at_origin(self.made(longest_px) if self.document.is_worked else self.surface(longest_px))
        return distances_to(fine, mesh.corners.mean(axis=1))

    def _overlap(self, mesh: TriMesh, shaped: ShapedFigure) -> float:
        """Of the solid, seen from the front, with the picture's own coverage, above the cut of its foot."""
        view, foot = self.view(FULL), self.document.figure.foot
        covered = view.picture.coverage >= 0.5
        if foot.on:
            level = foot.cut_mm + BITE_MM + shaped.asked.pitch
            covered = covered[: max(2, sum(shaped.asked.pixel_place(0, row)[1] > level for row in range(len(covered))))]
        return silhouette_overlap(mesh, covered, view.mm_per_px, shaped.asked.pixel_place(0, covered.shape[0] - 1))
