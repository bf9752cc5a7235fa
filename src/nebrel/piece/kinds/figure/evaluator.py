"""From the recipe of a figure to its solid: outline, front and back, surface, made light; each step kept."""

import time
from dataclasses import replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from nebrel.core.colour.few import FewColours
from nebrel.core.figure.colour import beyond_the_cut
from nebrel.core.figure.figure import ShapedFigure, shape_figure
from nebrel.core.figure.foot import BITE_MM, on_foot
from nebrel.core.figure.learned import network_hash
from nebrel.core.figure.lighten import lighten, lighten_coloured
from nebrel.core.figure.silhouette import sampled, silhouette_of
from nebrel.core.figure.surface import surface_of
from nebrel.core.heightfield.slab import Slab
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.collapse import collapse_in_halves
from nebrel.core.mesh.distance import distances_to, measure_between
from nebrel.core.mesh.place import at_origin
from nebrel.core.mesh.surface_error import BOTH_WAYS, Deviation
from nebrel.core.proof import Finding, check_soundness
from nebrel.core.proof.from_front import silhouette_overlap
from nebrel.piece.evaluation.abilities import (
    ComparedDepth,
    FewColoursView,
    HasDepthSources,
    HasFewColours,
    HasPicture,
)
from nebrel.piece.evaluation.cache import step_key
from nebrel.piece.evaluation.codec import decode_slab, encode_slab
from nebrel.piece.evaluation.evaluator import Progress, quiet
from nebrel.piece.evaluation.pictured import PicturedEvaluator
from nebrel.piece.evaluation.prepare import FULL
from nebrel.piece.evaluation.shown import TONES, Plan, Size
from nebrel.piece.evaluation.skinned import SKETCH_PX, SkinnedEvaluator
from nebrel.piece.kinds.figure.by_hand import hand_over, hand_told, mirror_line
from nebrel.piece.kinds.figure.colours import coloured, colours_told, detail_of, picture_behind
from nebrel.piece.kinds.figure.depth import depth_source
from nebrel.piece.kinds.figure.document import FigureDocument
from nebrel.piece.kinds.figure.few import given_few
from nebrel.piece.kinds.figure.findings import figure_findings, unlike_outline
from nebrel.piece.kinds.figure.sent import depths_of_picture, depths_of_solid, sent_files
from nebrel.piece.parts.model_steps import Worked
from nebrel.piece.report import BuildReport, FigureReport, build_report, colours_report

SKETCH_CELLS = 144
MOST_SHOWN = 120_000
RELIEF_MM = 2.0
OUTLINING, SHAPING, SURFACING = "Finding the outline", "Swelling it", "Making the surface"
OF_FINE = "to the nearest place, from the surface before it was made light"
OF_WORKED = "to the nearest place, from the figure before it was made lighter"
# Sources of depth that need no file.
ALWAYS_THERE = ("swell", "learned", "light")
# What does not change front and back.
BESIDE_FORM = {"cells", "tolerance_mm", "strokes", "order", "colour", "few", "foot"}
_VERSION = 2


class FigureEvaluator(
    PicturedEvaluator[FigureDocument], SkinnedEvaluator[FigureDocument], HasPicture, HasFewColours, HasDepthSources
):
    """Runs the steps of figures. X runs right and Y up as in the picture, Z towards the viewer."""

    looked_px = SKETCH_PX

    @property
    def relief_mm(self) -> float:
        """What tones are judged as: nothing is raised by them."""
        return RELIEF_MM

    @property
    def tall_tones(self) -> Literal["bright", "dark"]:
        return "bright"

    @property
    def tolerance_mm(self) -> float:
        return self.document.figure.tolerance_mm

    def check(self, progress: Progress = quiet) -> None:
        self.shaped(SKETCH_PX, progress)

    @property
    def size_mm(self) -> Size:
        if not self.document.is_worked:
            return self.plan_mm
        key = step_key("worked figure size", _VERSION, None, self.made_key(SKETCH_PX))
        return self._kept_size(key, lambda: self.made(SKETCH_PX))

    @property
    def plan_mm(self) -> Size:
        key = step_key("figure size", _VERSION, None, self._surface_key(SKETCH_PX))
        return self._kept_size(key, lambda: self._surface(SKETCH_PX))

    def width_share(self) -> float:
        """How much of the picture's width the figure takes up.

        Raises:
            BadPictureError: nothing is cut out.
        """
        silhouette = silhouette_of(self.picture().coverage, 1.0, SKETCH_CELLS)
        return silhouette.width_px / (self.picture().shape[1] - 1)

    def shaped(self, longest_px: int = FULL, progress: Progress = quiet) -> ShapedFigure:
        """Front and back of the figure."""

        def shape() -> ShapedFigure:
            view = self.view(longest_px, None, progress)
            progress(OUTLINING, 0.0)
            silhouette = silhouette_of(view.picture.coverage, view.mm_per_px, self._cells(longest_px))
            progress(SHAPING, 0.3)
            figure = self.document.figure
            source = depth_source(figure.depth, view.picture, self._sources)
            own_back = picture_behind(figure.back, view.picture, self._sources)
            detail = detail_of(figure.detail, view.picture, own_back)
            line = mirror_line(figure.symmetry, view, silhouette)
            return shape_figure(silhouette, figure.to_core(), source, hand_over(figure, view), detail, line)

        return self._cache.get(self._form_key(longest_px), shape)

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

    def mesh(self, longest_px: int = FULL) -> TriMesh:
        return at_origin(self.placed(longest_px))

    def placed(self, longest_px: int) -> TriMesh:
        return self.delivered().mesh if longest_px == FULL else self._painted_sketch()

    def solid_key(self, longest_px: int) -> str:
        return self._with_few(self._finished_key if longest_px == FULL else self.made_key(longest_px))

    def findings(self, longest_px: int = FULL, progress: Progress = quiet) -> tuple[Finding, ...]:
        told = figure_findings(self.document, self.shaped(longest_px, progress), self._sketch())
        return (*told, *self.about_decorations(longest_px))

    def unworked(self, longest_px: int, progress: Progress = quiet) -> Worked:
        made = self._lightened(progress).mesh if longest_px == FULL else self._coloured_sketch()
        return Worked(made, f"{len(made.faces):,} triangles made")

    def unworked_key(self, longest_px: int) -> str:
        coloured = self._coloured_key(longest_px)
        return step_key("figure light", _VERSION, self.tolerance_mm, coloured) if longest_px == FULL else coloured

    def delivered(self, progress: Progress = quiet) -> Slab:
        """The finished solid, made as light as its tolerance and what is asked allow."""
        slab = self._finished(progress)
        few = self._few_delivered(progress)
        return slab if few is None else replace(slab, mesh=few.mesh)

    def _few_delivered(self, progress: Progress = quiet) -> FewColours | None:
        """The finished solid in few colours, where they are asked for."""
        if not self._has_few:
            return None
        mesh, few = self._finished(progress).mesh, self.document.figure.few
        key = step_key("figure few delivered", _VERSION, None, self.solid_key(FULL))
        return self._cache.get(key, lambda: given_few(few, mesh, lambda part: progress("Choosing colours", part)))

    def _lightened(self, progress: Progress = quiet) -> Slab:
        """The figure with all colours before its steps, as light as its tolerance allows."""

        def make() -> Slab:
            fine = self._coloured(self._surface(FULL, progress), FULL)
            light = lighten if fine.colours is None else lighten_coloured
            lighter = light(fine, self.tolerance_mm, lambda part: progress("Making it light", part))
            apart = lighter.deviation
            return Slab(lighter.mesh, Deviation(apart.max, apart.rms, OF_FINE, BOTH_WAYS), self.tolerance_mm)

        return self._cache.get(self.unworked_key(FULL), make, encode_slab, decode_slab)

    def _finished(self, progress: Progress = quiet) -> Slab:
        """The figure with all colours after its steps and decorations, as light as is asked."""

        def make() -> Slab:
            light, mesh = self._lightened(progress), self.made(FULL, progress)
            asked = self.document.light.simplify(
                mesh, self.document.delivery.format, lambda part: progress("Making it lighter", part)
            )
            if asked is not None:
                before = mesh if self.document.is_worked else self._surface(FULL)
                apart = measure_between(before, asked.mesh, lambda part: progress("Measuring the surface", part))
                how = OF_WORKED if self.document.is_worked else OF_FINE
                return Slab(asked.mesh, Deviation(apart.max, apart.rms, how, BOTH_WAYS), self.tolerance_mm)
            of_decorations = self.decoration_error(progress)
            return replace(light, mesh=mesh, deviation=of_decorations or light.deviation)

        return self._cache.get(self._finished_key, make, encode_slab, decode_slab)

    def build(self, progress: Progress = quiet) -> tuple[Slab, BuildReport]:
        started = time.perf_counter()
        slab = self.delivered(progress)
        soundness = check_soundness(slab.mesh, lambda part: progress("Proving it sound", part))
        shaped = self.shaped(FULL, progress)
        overlap = self._overlap(slab.mesh, shaped)
        findings = (*self.findings(FULL, progress), *unlike_outline(overlap))
        before = len(self._surface(FULL).faces)
        report = build_report(soundness, slab, findings, time.perf_counter() - started, before)
        few = self._few_delivered(progress)
        names, plan = self.colour_names, self.document.figure.few.print_plan
        figure = FigureReport(
            overlap_mask=round(overlap, 5),
            depth_mm=round(float(np.ptp(slab.mesh.vertices[:, 2])), 4),
            source=self.document.figure.depth.kind,
            thickened_mm2=round(shaped.widened + shaped.thickened, 3),
            colours=None if few is None else colours_report(slab.mesh, few, names, plan),
        )
        return slab, report.model_copy(update={"figure": figure})

    @property
    def colour_names(self) -> dict[str, str]:
        few = self.document.figure.few
        return {each.to_core().hex: each.to_core().name for each in few.filaments} if few.of == "filaments" else {}

    def few_colours(self) -> FewColoursView | None:
        if not self._has_few:
            return None
        before = self.made(SKETCH_PX)
        found = given_few(self.document.figure.few, before)
        report = colours_report(found.mesh, found, self.colour_names, self.document.figure.few.print_plan)
        assert report is not None
        return FewColoursView(at_origin(before), at_origin(found.mesh), report)

    def compared_depths(self) -> list[ComparedDepth]:
        asked = self.document.figure.depth.kind
        kinds = [asked, *(kind for kind in ALWAYS_THERE if kind != asked)]
        own = self._front_over_box(self.shaped(SKETCH_PX))
        found = []
        for kind in kinds:
            depth = self.document.figure.depth.model_copy(update={"kind": kind})
            figure = self.document.figure.model_copy(update={"depth": depth})
            other = FigureEvaluator(self.document.model_copy(update={"figure": figure}), self._sources)
            shaped = other.shaped(SKETCH_PX)
            nearer = self._front_over_box(shaped) - own
            unsure = None if shaped.unsure is None else self._over_box(shaped, shaped.unsure)
            found.append(ComparedDepth(kind, at_origin(other._sketch()), nearer, unsure))
        return found

    def sent(self) -> tuple[bytes, bytes]:
        return sent_files(self.picture())

    def received(self, data: bytes, depth_share: float | None) -> tuple[bytes, float]:
        found = depths_of_solid(data, self.picture()) if depth_share is None else depths_of_picture(data, depth_share)
        view = self.view(FULL)
        return found[0], found[1] * view.mm_per_px * view.picture.shape[1]

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
        fine = at_origin(self.made(longest_px) if self.document.is_worked else self._surface(longest_px))
        return distances_to(fine, mesh.corners.mean(axis=1))

    def _overlap(self, mesh: TriMesh, shaped: ShapedFigure) -> float:
        """Of the solid, seen from the front, with the picture's own coverage, above the cut of its foot."""
        view, foot = self.view(FULL), self.document.figure.foot
        covered = view.picture.coverage >= 0.5
        if foot.on:
            level = foot.cut_mm + BITE_MM + shaped.asked.pitch
            covered = covered[: max(2, sum(shaped.asked.pixel_place(0, row)[1] > level for row in range(len(covered))))]
        return silhouette_overlap(mesh, covered, view.mm_per_px, shaped.asked.pixel_place(0, covered.shape[0] - 1))

    def _sketch(self) -> TriMesh:
        def sketch() -> TriMesh:
            mesh = self._surface(SKETCH_PX)
            return mesh if len(mesh.faces) <= MOST_SHOWN else collapse_in_halves(mesh, MOST_SHOWN)

        return self._cache.get(step_key("figure sketch", _VERSION, MOST_SHOWN, self._surface_key(SKETCH_PX)), sketch)

    def _coloured_sketch(self) -> TriMesh:
        key = step_key("figure coloured sketch", _VERSION, MOST_SHOWN, self._coloured_key(SKETCH_PX))
        return self._cache.get(key, lambda: self._coloured(self._sketch(), SKETCH_PX))

    @property
    def _has_few(self) -> bool:
        return self.document.figure.colour.on and self.document.figure.few.on

    def _painted_sketch(self) -> TriMesh:
        """The sketch as it is seen, in few colours where they are asked for."""
        made = self.made(SKETCH_PX)
        if not self._has_few:
            return made
        return self._cache.get(self.solid_key(SKETCH_PX), lambda: given_few(self.document.figure.few, made).mesh)

    def _coloured(self, mesh: TriMesh, longest_px: int) -> TriMesh:
        """The mesh with the picture's colours, where they are asked for."""
        form, picture = self.shaped(longest_px).form, self.picture(longest_px)
        return coloured(mesh, form, self.document.figure, picture, self._sources)

    def _surface(self, longest_px: int, progress: Progress = quiet) -> TriMesh:
        def surface() -> TriMesh:
            form = self.shaped(longest_px, progress).form
            made = surface_of(form, lambda part: progress(SURFACING, part))
            foot = self.document.figure.foot
            return on_foot(made, foot.to_core(), rough=longest_px != FULL) if foot.on else made

        return self._cache.get(self._surface_key(longest_px), surface)

    def _cells(self, longest_px: int) -> int:
        cells = self.document.figure.cells
        return cells if longest_px == FULL else min(cells, SKETCH_CELLS)

    def _form_key(self, longest_px: int) -> str:
        figure = self.document.figure.model_dump(mode="json", exclude=BESIDE_FORM)
        network = network_hash() if self.document.figure.depth.kind == "learned" else None
        return step_key(
            "figure form",
            _VERSION,
            [figure, hand_told(self.document.figure), self._cells(longest_px), network],
            self.picture_key(longest_px),
        )

    def _coloured_key(self, longest_px: int) -> str:
        told = colours_told(self.document.figure)
        return step_key("figure coloured", _VERSION, told, self._surface_key(longest_px))

    def _with_few(self, key: str) -> str:
        """The key of what few colours make of a mesh."""
        if not self._has_few:
            return key
        told = self.document.figure.few.model_dump(mode="json", exclude={"layer_mm", "purge_mm3", "printed"})
        return step_key("figure few colours", _VERSION, told, key)

    @property
    def _finished_key(self) -> str:
        light = self.document.light.key(self.document.delivery.format)
        return step_key("figure finished", _VERSION, light, self.made_key(FULL))

    def _surface_key(self, longest_px: int) -> str:
        foot = self.document.figure.foot
        told = foot.model_dump(mode="json") if foot.on else None
        return step_key("figure surface", _VERSION, told, self._form_key(longest_px))
