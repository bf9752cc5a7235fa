"""From the recipe of a panel to its solid: a chain of pure steps, each kept by the hash of what it depends on."""

import math
import time
from collections.abc import Callable
from dataclasses import replace
from functools import partial
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from nebrel.core.bas_relief.nearness import Nearness
from nebrel.core.bas_relief.stage import is_scene
from nebrel.core.errors import BadPictureError
from nebrel.core.figure.learned import network_hash
from nebrel.core.height import HeightField, found_steps, step_shares
from nebrel.core.height.export import HeightMap, height_map
from nebrel.core.height.lined import lined_anew
from nebrel.core.heightfield.slab import Slab
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.surface_error import Deviation
from nebrel.core.panel.assemble import refuse_unfit
from nebrel.core.panel.build import build_panel, measure_panel, panel_deviation, sketch_panel
from nebrel.core.panel.layout import PanelLayout, layout_of
from nebrel.core.panel.target import target_field
from nebrel.core.picture import Picture
from nebrel.core.picture.light_and_paint import LOOKED_PX, painted
from nebrel.core.proof import Finding, check_soundness
from nebrel.core.proof.audit import Ground
from nebrel.core.proof.makeable import relief_findings
from nebrel.core.proof.section import Profile, target_profile
from nebrel.piece.depths.sent import depths_received, sent_files
from nebrel.piece.depths.sources import compared_kinds
from nebrel.piece.documents.extent import extent_of
from nebrel.piece.evaluation.abilities import (
    ComparedDepth,
    HasDepthSources,
    HasHeights,
    HasPicture,
    LaysReliefs,
    StepTable,
    TakesPieces,
)
from nebrel.piece.evaluation.cache import step_key
from nebrel.piece.evaluation.codec import decode_slab, encode_slab
from nebrel.piece.evaluation.evaluator import PREVIEW_PX, Progress, quiet
from nebrel.piece.evaluation.pictured import PicturedEvaluator, shares_of, tones_of
from nebrel.piece.evaluation.prepare import FULL
from nebrel.piece.evaluation.shown import Plan, Size
from nebrel.piece.evaluation.sources import Sources
from nebrel.piece.kinds.panel.compared import by_source, taller, unsure_over
from nebrel.piece.kinds.panel.document import PanelDocument
from nebrel.piece.kinds.panel.form_findings import BRIGHTNESS, IDLE, IN_COLOUR, WHOLE_SCENE, about_heights
from nebrel.piece.kinds.panel.forming import nearness_in
from nebrel.piece.kinds.panel.laid import PictureOf
from nebrel.piece.kinds.panel.laid_findings import laid_findings
from nebrel.piece.kinds.panel.laid_first import picture_laid, piece_laid, with_laid
from nebrel.piece.kinds.panel.laying import Opens
from nebrel.piece.kinds.panel.staged import HeightStages
from nebrel.piece.ops import PictureView
from nebrel.piece.parts.refusals import parse_part
from nebrel.piece.parts.simplification import lighter_panel
from nebrel.piece.relief_reports import UNLINED, edges_report, form_report
from nebrel.piece.report import BuildReport, build_report

PREVIEW_TOLERANCE_SHARE = 0.012
_RECIPE_VERSION = 5
# Of the form of a preview: cells for every pixel of its picture, and the least.
CELLS_PX, LEAST_CELLS = 0.27, 128
# What is a finding of a file, and was chosen on a sheet that was begun here.
OF_FILES = ("tone_range", "near-white", "near-black", "few-levels", "oversampled")

# What gray files say of their channels, and how many bits a sample photographs have at the most.
IN_GRAY, COLOUR_BITS = ("gray", "minis"), 8

# Of heights up to this many, what changes none of them is told.
MOST_COMPARED = 4_000_000


class PanelEvaluator(
    PicturedEvaluator[PanelDocument], HasPicture, HasHeights, HasDepthSources, TakesPieces, LaysReliefs
):
    """Runs the steps of relief panels."""

    _laid_out: PanelLayout | None = None

    def __init__(self, document: PanelDocument, sources: Sources, opens: Opens | None = None) -> None:
        super().__init__(document, sources)
        self._opens = opens

    def with_piece(self, piece_id: str, document: dict[str, Any]) -> dict[str, object]:
        """Laid on its middle, as tall and as wide as it is, where there is room for that."""
        return with_laid(self.document, piece_laid(piece_id, document, self._opens, self._sources, self.size_mm[:2]))

    def with_relief(self, source: dict[str, object]) -> dict[str, object]:
        part = picture_laid(parse_part(PictureOf, source), self._sources, self.document)
        return with_laid(self.document, part)

    def with_document(self, document: PanelDocument) -> "PanelEvaluator":
        return PanelEvaluator(document, self._sources, self._opens)

    def check(self, progress: Progress = quiet) -> None:
        refuse_unfit(self.layout(PREVIEW_PX, progress))

    @property
    def size_mm(self) -> Size:
        return self.document.size_mm

    @property
    def relief_mm(self) -> float:
        return self.document.height.tallest_mm

    def audit(self, progress: Progress = quiet, picture: Picture | None = None) -> tuple[Finding, ...]:
        found = super().audit(progress, picture)
        told = self.document.height.form.on or any(each.measure == BRIGHTNESS for each in found)
        return found if told or not self._is_painted() else (IN_COLOUR, *found)

    def _is_painted(self) -> bool:
        """Whether the source is a photograph in colour; the prepared picture has none any more."""
        source = self.document.picture
        if source.bit_depth > COLOUR_BITS or any(name in source.channels.lower() for name in IN_GRAY):
            return False
        key = step_key("painted", _RECIPE_VERSION, [source.blob], "")
        return self._cache.get(key, lambda: painted(self.source_picture(LOOKED_PX))) > 0

    @property
    def ground(self) -> Ground:
        form = self.document.height.form
        return replace(super().ground, relief=form.fine.strength_mm) if form.of == "both" else super().ground

    @property
    def tall_tones(self) -> Literal["bright", "dark"]:
        return self.document.height.rule.tall

    @property
    def tolerance_mm(self) -> float:
        return self.document.finish.tolerance_mm

    def plan(self, longest_px: int, upto: str | None = None, progress: Progress = quiet) -> Plan:
        if upto is not None:
            dark = self.tall_tones == "dark"
            plan = self.plan_of_view(longest_px, upto, progress, self.relief_mm, self.size_mm[2], dark)
            return replace(plan, backing=self.document.body.backing_mm)
        # Lines move no sample, so while something is dragged nobody waits for them.
        view, field = self.view(longest_px, None, progress), self.target(longest_px, longest_px >= PREVIEW_PX)
        rows, columns = extent_of(self.document).shape
        return Plan(
            tones=tones_of(view.picture),
            heights=np.where(field.material, field.heights, np.float32(np.nan)),
            size=self.size_mm,
            pitch=field.pitch,
            backing=self.document.body.backing_mm,
            relief=self.relief_mm,
            full_px=(columns, rows),
            from_source=shares_of(view.picture) @ view.from_source,
        )

    def field(self, longest_px: int = FULL, progress: Progress = quiet) -> HeightField:
        """Heights above the backing."""
        return self._field_from(lambda: self.view(longest_px, None, progress), longest_px, progress)

    def nearness(self, longest_px: int = FULL, progress: Progress = quiet) -> Nearness:
        """How near everything in the picture is, before it is held back."""
        return self._nearness_of(lambda: self.view(longest_px, None, progress), longest_px)

    def _nearness_of(self, view: Callable[[], PictureView], longest_px: int) -> Nearness:
        form = self.document.height.form
        # What is looked at at rest has the edges that are built.
        at_rest = longest_px == FULL or longest_px >= PREVIEW_PX
        cells = form.cells if at_rest else min(form.cells, max(LEAST_CELLS, round(CELLS_PX * longest_px)))
        network = network_hash() if form.depth.kind == "learned" else None
        told = [form.nearness_told(), cells, network]
        key = step_key("nearness", _RECIPE_VERSION, told, self.picture_key(longest_px))
        return self._cache.get(key, lambda: nearness_in(view(), form, cells, self._sources))

    def target(self, longest_px: int = FULL, lined: bool = True) -> HeightField:
        """Heights above the backing that the finished piece is meant to have, its frame and edges included."""
        parameters, view = self.document.body.model_dump(mode="json"), partial(self.view, longest_px)
        key = step_key("asked", _RECIPE_VERSION, parameters, self._stages(longest_px, lined).key)
        return self._cache.get(
            key, lambda: target_field(self._layout_over(self._field_from(view, longest_px, quiet, lined)))
        )

    def layout(self, longest_px: int = FULL, progress: Progress = quiet) -> PanelLayout:
        """How the panel is laid out over its heights."""
        return self._layout_over(self.field(longest_px, progress))

    def _layout_over(self, field: HeightField) -> PanelLayout:
        """The same, worked out once for the heights that were asked for last."""
        if self._laid_out is None or self._laid_out.field is not field:
            self._laid_out = layout_of(field, self.document.body.to_core())
        return self._laid_out

    def solid(self, progress: Progress = quiet) -> Slab:
        """The built solid, at full resolution."""
        return self._solid_from(self.field, progress)

    def mesh(self, longest_px: int = FULL) -> TriMesh:
        if longest_px == FULL:
            return self.delivered().mesh
        return self._cache.get(
            self.solid_key(longest_px),
            lambda: sketch_panel(self.layout(longest_px), self._tolerance(longest_px)),
        )

    def off_target(self, mesh: TriMesh, longest_px: int) -> NDArray[np.float64]:
        return panel_deviation(mesh, self.layout(longest_px))

    def findings(self, longest_px: int = FULL, progress: Progress = quiet) -> tuple[Finding, ...]:
        field, picture = self.field(longest_px), self.picture(longest_px)
        made = self._findings(picture, field, progress)
        found = self._of_kind((*self.audit(progress), *made, *self._idle(field, longest_px)), picture)
        return (*found, *self._about_laid(longest_px))

    def _about_laid(self, longest_px: int) -> tuple[Finding, ...]:
        """What is said of reliefs that are laid on it."""
        if not any(each.on for each in self.document.height.laid):
            return ()

        def view() -> PictureView:
            return self.view(longest_px)

        rows, columns = extent_of(self.document).shape
        _, outcomes = self._stages(longest_px).laid(view, lambda: self._nearness_of(view, longest_px), quiet)
        return laid_findings(outcomes, self.document.width_mm / max(columns - 1, 1), rows * columns)

    def _idle(self, field: HeightField, longest_px: int) -> tuple[Finding, ...]:
        """What is switched on for the heights and changes none of them."""
        if field.heights.size > MOST_COMPARED:
            return ()
        found = []
        for name, words in IDLE.items():
            part = getattr(self.document.height, name)
            if part.on:
                off = self.document.height.model_copy(update={name: part.model_copy(update={"on": False})})
                document = self.document.model_copy(update={"height": off})
                without = self.with_document(document).field(longest_px)
                if np.array_equal(without.heights, field.heights):
                    found.append(Finding("note", *words, f"idle_{name}"))
        return tuple(found)

    def build(self, progress: Progress = quiet) -> tuple[Slab, BuildReport]:
        # Picture and heights are held meanwhile: they may not fit the cache.
        started = time.perf_counter()
        progress("Reading the picture", 0.0)
        view = self.view(FULL, None, progress)
        picture = view.picture
        progress("Raising the heights", 0.0)
        field = self._field_from(lambda: view, FULL, progress)
        slab = self._solid_from(lambda: field, progress)
        before = len(slab.mesh.faces) if self.document.light.on else None
        slab = self._lighten(lambda: field, lambda: slab, progress)
        progress("Proving it sound", 0.0)
        surface_only = self.document.body.back == "none"
        soundness = check_soundness(slab.mesh, lambda part: progress("Proving it sound", part), surface_only)
        told = (*self.audit(progress, picture), *self._findings(picture, field, progress), *self._idle(field, FULL))
        unlined = (UNLINED,) if slab.unlined else ()
        findings = (*self._of_kind(told, picture), *self._about_laid(PREVIEW_PX), *unlined)
        report = build_report(
            soundness, slab, (*findings, *self.document.light.missed(slab.mesh)), time.perf_counter() - started, before
        )
        report.edges = edges_report(slab, field)
        form = self.document.height.form
        if form.on:
            report.form = form_report(slab, self._nearness_of(lambda: view, FULL), field, form.depth.kind)
        return slab, report

    def delivered(self) -> Slab:
        """The built solid, made as light as asked."""
        return self._lighten(self.field, self.solid, quiet)

    def target_along(self, start: tuple[float, float], end: tuple[float, float], longest_px: int) -> Profile | None:
        return target_profile(self.target(longest_px), self.document.body.backing_mm, start, end)

    def heights_to_carve(self, pitch: float) -> HeightField:
        return self._over_the_back(self.target())

    def heights_seen(self, longest_px: int) -> HeightField:
        return self._over_the_back(self.target(longest_px))

    def _over_the_back(self, field: HeightField) -> HeightField:
        raised = field.heights + np.float32(self.document.body.backing_mm)
        return replace(field, heights=raised, terraces=None, lines=None)

    def compared_depths(self) -> list[ComparedDepth]:
        found, own = [], self.document.height.form.depth.kind
        for kind in compared_kinds(self.document.height.form.depth):
            other = self.with_document(by_source(self.document, kind))
            try:
                by = taller(other.field(PREVIEW_PX), self.field(PREVIEW_PX))
            except BadPictureError:
                # A source that finds nothing in the picture has nothing to show.
                if kind == own:
                    raise
                continue
            found.append(ComparedDepth(kind, other.mesh(PREVIEW_PX), by, other.unsure()))
        return found

    def unsure(self) -> NDArray[np.float64] | None:
        form = self.document.height.form
        return unsure_over(self.nearness(PREVIEW_PX), self.field(PREVIEW_PX), form.relief_mm) if form.on else None

    def sent(self) -> tuple[bytes, bytes]:
        return sent_files(self.picture())

    def received(self, data: bytes, depth_share: float | None) -> tuple[bytes, float]:
        return depths_received(data, depth_share, self.view(FULL))

    def height_map(self) -> HeightMap:
        return height_map(self.target(), self.document.body.backing_mm)

    def height_map_key(self) -> str:
        return step_key("height map", _RECIPE_VERSION, self.document.body.model_dump(mode="json"), self.field_key())

    def step_table(self) -> StepTable:
        picture, rule = self.picture(PREVIEW_PX), self.document.height.rule
        given = step_shares(picture, [(step.tone, step.mm) for step in rule.steps])
        return StepTable(list(given), list(found_steps(picture, rule.relief_mm)))

    def solid_key(self, longest_px: int) -> str:
        slab_key = self._slab_key(longest_px)
        light = self.document.light
        if longest_px != FULL or not light.on:
            return slab_key
        return step_key("light", _RECIPE_VERSION, light.key(self.document.delivery.format), slab_key)

    def field_key(self, longest_px: int = FULL) -> str:
        """The key of the heights at a resolution."""
        return self._stages(longest_px).key

    def _slab_key(self, longest_px: int) -> str:
        between = self.document.finish.between and longest_px == FULL
        parameters = [self.document.body.model_dump(mode="json"), self._tolerance(longest_px), between]
        return step_key("solid", _RECIPE_VERSION, parameters, self.field_key(longest_px))

    def _field_from(
        self, view: Callable[[], PictureView], longest_px: int, progress: Progress, lined: bool = True
    ) -> HeightField:
        return self._stages(longest_px, lined).field(view, lambda: self._nearness_of(view, longest_px), progress)

    def _stages(self, longest_px: int, lined: bool = True) -> HeightStages:
        tolerance, prepared = self._tolerance(longest_px) if lined else math.inf, self._prepared_key(longest_px)
        return HeightStages(self.document, self._sources, self._cache, self._opens, prepared, longest_px, tolerance)

    def _solid_from(self, field: Callable[[], HeightField], progress: Progress) -> Slab:
        def build() -> Slab:
            return build_panel(self._layout_over(field()), self.tolerance_mm, progress, self.document.finish.between)

        return self._cache.get(self._slab_key(FULL), build, encode_slab, decode_slab)

    def _lighten(self, field: Callable[[], HeightField], solid: Callable[[], Slab], progress: Progress) -> Slab:
        if not self.document.light.on:
            return solid()

        def build(tolerance: float) -> Slab:
            # What is less than the tolerance is no edge any more, so coarser panels have fewer lines.
            layout = layout_of(lined_anew(field(), tolerance), self.document.body.to_core())
            return build_panel(layout, tolerance, progress, self.document.finish.between)

        def measure(mesh: TriMesh) -> Deviation:
            return measure_panel(mesh, self._layout_over(field()))

        def make() -> Slab:
            return lighter_panel(solid(), build, measure, self.document.light, self.document.delivery.format)

        return self._cache.get(self.solid_key(FULL), make, encode_slab, decode_slab)

    def _findings(self, picture: Picture, field: HeightField, progress: Progress) -> tuple[Finding, ...]:
        document = self.document
        return relief_findings(
            picture,
            field,
            self.relief_mm,
            document.body.backing_mm,
            document.maker.to_core(),
            document.body.to_core().margin,
            lambda part: progress("Looking over the heights", part),
        )

    def _of_kind(self, found: tuple[Finding, ...], picture: Picture) -> tuple[Finding, ...]:
        """Of a sheet that was begun here, or a ground for reliefs, tones were chosen; that they are few is no fault."""
        if self.document.picture.is_sheet or self.document.height.laid:
            found = tuple(each for each in found if each.measure not in OF_FILES)
        found = about_heights(found, self.document, picture)
        scene = self.document.height.form.on and is_scene(picture.coverage)
        return (*found, WHOLE_SCENE) if scene else found

    def _tolerance(self, longest_px: int) -> float:
        if longest_px == FULL:
            return self.tolerance_mm
        share = PREVIEW_TOLERANCE_SHARE * math.pow(PREVIEW_PX / longest_px, 1.5)
        return max(self.tolerance_mm, share * self.relief_mm)
