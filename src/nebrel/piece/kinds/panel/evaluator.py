"""From the recipe of a panel to its solid: a chain of pure steps, each kept by the hash of what it depends on."""

import math
import time
from collections.abc import Callable
from dataclasses import replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

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
from nebrel.core.proof import Finding, check_soundness
from nebrel.core.proof.makeable import relief_findings
from nebrel.core.proof.section import Profile, target_profile
from nebrel.piece.documents.extent import extent_of
from nebrel.piece.edges import UNLINED, edges_report
from nebrel.piece.evaluation.abilities import HasHeights, HasPicture, StepTable
from nebrel.piece.evaluation.cache import step_key
from nebrel.piece.evaluation.codec import decode_slab, encode_slab
from nebrel.piece.evaluation.evaluator import PREVIEW_PX, Progress, quiet
from nebrel.piece.evaluation.pictured import PicturedEvaluator, shares_of, tones_of
from nebrel.piece.evaluation.prepare import FULL
from nebrel.piece.evaluation.shown import Plan, Size
from nebrel.piece.kinds.panel.document import PanelDocument
from nebrel.piece.kinds.panel.raising import raise_heights
from nebrel.piece.parts.simplification import lighter_panel
from nebrel.piece.report import BuildReport, build_report

PREVIEW_TOLERANCE_SHARE = 0.012
_RECIPE_VERSION = 3
# What is a finding of a file, and was chosen on a sheet that was begun here.
OF_FILES = ("tone_range", "near-white", "near-black", "few-levels", "oversampled")

# Of heights up to this many, what changes none of them is told.
MOST_COMPARED = 4_000_000
IDLE = {
    "draft": ("The draft changes nothing: no wall is steeper than it asks for.", "It can be switched off."),
    "rounding": ("The rounding changes nothing: no upper edge is sharper than it asks for.", "It can be switched off."),
}


class PanelEvaluator(PicturedEvaluator[PanelDocument], HasPicture, HasHeights):
    """Runs the steps of relief panels."""

    _laid_out: PanelLayout | None = None

    def check(self, progress: Progress = quiet) -> None:
        refuse_unfit(self.layout(PREVIEW_PX, progress))

    @property
    def size_mm(self) -> Size:
        return self.document.size_mm

    @property
    def relief_mm(self) -> float:
        return self.document.height.rule.tallest_mm

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
        view, field = self.view(longest_px, None, progress), self.target(longest_px)
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
        return self._field_from(lambda: self.picture(longest_px, progress), longest_px, progress)

    def target(self, longest_px: int = FULL) -> HeightField:
        """Heights above the backing that the finished piece is meant to have, its frame and edges included."""
        parameters = self.document.body.model_dump(mode="json")
        key = step_key("asked", _RECIPE_VERSION, parameters, self.field_key(longest_px))
        return self._cache.get(key, lambda: target_field(self.layout(longest_px)))

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
        field = self.field(longest_px)
        made = self._findings(self.picture(longest_px), field, progress)
        return self._of_kind((*self.audit(progress), *made, *self._idle(field, longest_px)))

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
                without = PanelEvaluator(document, self._sources).field(longest_px)
                if np.array_equal(without.heights, field.heights):
                    found.append(Finding("note", *words, f"idle_{name}"))
        return tuple(found)

    def build(self, progress: Progress = quiet) -> tuple[Slab, BuildReport]:
        # Picture and heights are held meanwhile: they may not fit the cache.
        started = time.perf_counter()
        progress("Reading the picture", 0.0)
        picture = self.picture(FULL, progress)
        progress("Raising the heights", 0.0)
        field = self._field_from(lambda: picture, FULL, progress)
        slab = self._solid_from(lambda: field, progress)
        before = len(slab.mesh.faces) if self.document.light.on else None
        slab = self._lighten(lambda: field, lambda: slab, progress)
        progress("Proving it sound", 0.0)
        surface_only = self.document.body.back == "none"
        soundness = check_soundness(slab.mesh, lambda part: progress("Proving it sound", part), surface_only)
        told = (*self.audit(progress, picture), *self._findings(picture, field, progress), *self._idle(field, FULL))
        findings = (*self._of_kind(told), *((UNLINED,) if slab.unlined else ()))
        report = build_report(
            soundness, slab, (*findings, *self.document.light.missed(slab.mesh)), time.perf_counter() - started, before
        )
        report.edges = edges_report(slab, field)
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
        told = self._tolerance(longest_px) if self.document.height.edges.on else None
        parameters = [self.document.height.model_dump(mode="json"), self.document.body.width_mm, told]
        return step_key("heights", _RECIPE_VERSION, parameters, self._prepared_key(longest_px))

    def _slab_key(self, longest_px: int) -> str:
        between = self.document.finish.between and longest_px == FULL
        parameters = [self.document.body.model_dump(mode="json"), self._tolerance(longest_px), between]
        return step_key("solid", _RECIPE_VERSION, parameters, self.field_key(longest_px))

    def _field_from(self, picture: Callable[[], Picture], longest_px: int, progress: Progress) -> HeightField:
        def read_mask(blob: str, name: str) -> Picture:
            mask_key = step_key("picture", _RECIPE_VERSION, [blob, "mask"])
            return self._cache.get(mask_key, lambda: self._sources.picture(blob, name))

        return self._cache.get(
            self.field_key(longest_px),
            lambda: raise_heights(picture(), self.document, read_mask, self._tolerance(longest_px), progress),
        )

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

    def _of_kind(self, found: tuple[Finding, ...]) -> tuple[Finding, ...]:
        """Of a sheet that was begun here, tones were chosen; that few of them are used is no fault."""
        if not self.document.picture.is_sheet:
            return found
        return tuple(each for each in found if each.measure not in OF_FILES)

    def _tolerance(self, longest_px: int) -> float:
        if longest_px == FULL:
            return self.tolerance_mm
        share = PREVIEW_TOLERANCE_SHARE * math.pow(PREVIEW_PX / longest_px, 1.5)
        return max(self.tolerance_mm, share * self.relief_mm)
