"""From the recipe of a lithophane to its solid and to what is seen of it in light."""

import time
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from nebrel.core.bent.lithophane import MadeLithophane, make_lithophane, refuse_tight
from nebrel.core.bent.parts import refuse_misplaced
from nebrel.core.height.transmission import TransmissionRule
from nebrel.core.heightfield.slab import Slab
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.measure import volume
from nebrel.core.proof import Finding, check_soundness
from nebrel.core.proof.lit import Likeness, tint, transmitted_light
from nebrel.core.proof.makeable import crowded_edges
from nebrel.core.proof.render import Behind, Viewpoint, render
from nebrel.core.proof.transmission_audit import Wall, recipe_card, smallest_detail, transmission_findings
from nebrel.core.proof.transmitted_thickness import material_through
from nebrel.core.tinted.layers import split_bodies
from nebrel.piece.evaluation.abilities import HasPicture, HasSheet, LitView, SheetVariation
from nebrel.piece.evaluation.cache import step_key
from nebrel.piece.evaluation.codec import decode_slab, encode_slab
from nebrel.piece.evaluation.evaluator import PREVIEW_PX, THUMBNAIL_PX, Progress, quiet
from nebrel.piece.evaluation.pictured import PicturedEvaluator
from nebrel.piece.evaluation.prepare import FULL
from nebrel.piece.evaluation.shown import (
    Plan,
    SectionCut,
    SheetOnSolid,
    ShownSolid,
    Size,
    png_of,
    shown_colours,
)
from nebrel.piece.kinds.lithophane.coloured import (
    OF_BODIES,
    coloured_report,
    filters_through,
    lit_view,
    names_of_colours,
    painted_bodies,
)
from nebrel.piece.kinds.lithophane.document import LithophaneDocument
from nebrel.piece.kinds.lithophane.edges import unrolled_edges
from nebrel.piece.kinds.lithophane.findings import OF_RELIEFS, colour_findings, colour_rows, contact_below, wall_of
from nebrel.piece.kinds.lithophane.looked_at import (
    likeness_of,
    lit_report,
    off_sheet,
    plan_of_sheet,
    section_through,
    varied_documents,
)
from nebrel.piece.kinds.lithophane.places import largest_between, lightened_error, places_on_sheet, split_at_seam
from nebrel.piece.kinds.lithophane.sheet import (
    Wanted,
    colours_at,
    filters_at,
    form_of,
    lit_size,
    on_cells,
    rim_mm,
    tones_at,
    wanted_sheet,
)
from nebrel.piece.relief_reports import UNLINED
from nebrel.piece.report import BuildReport, LitColoursReport, LitReport, build_report

SKETCH_TOLERANCE = 0.04
CHECK_PX = 320
REACH_SHARE = 2.0
LAYING = "Working out thicknesses"
_VERSION = 2
# How tall the picture is shown before it is bent.
TRACED_MM = 2.0
LIT_VIEW, STANDING_TILT_DEG, LYING_TILT_DEG = -14.0, 76.0, 8.0


class LithophaneEvaluator(PicturedEvaluator[LithophaneDocument], HasPicture, HasSheet):
    """Runs the steps of lithophanes."""

    @property
    def relief_mm(self) -> float:
        glow = self.document.glow
        return glow.thickest_mm - glow.thinnest_mm

    @property
    def tall_tones(self) -> Literal["bright", "dark"]:
        return "dark"

    @property
    def tolerance_mm(self) -> float:
        return self.document.finish.tolerance_mm

    @property
    def standing(self) -> bool:
        return self.document.form.standing

    @property
    def plan_mm(self) -> Size:
        return (*self.sheet_mm, self.document.glow.thickest_mm + self.document.behind_mm)

    @property
    def rule(self) -> TransmissionRule:
        return self.document.glow.to_core()

    @property
    def smallest_detail_mm(self) -> float:
        return smallest_detail(self.document.maker.line_width_mm, self.document.glow.thinnest_mm)

    def check(self, progress: Progress = quiet) -> None:
        wanted = self.wanted(CHECK_PX, progress)
        refuse_tight(wanted.form, self.document.form.inside, float(wanted.sheet.thickness.max()))
        refuse_misplaced(self.document.parts.to_core(), wanted.form)
        if not self.document.parts.to_core().none:
            self._made(CHECK_PX, progress)

    def wanted(self, longest_px: int, progress: Progress = quiet) -> Wanted:
        """The sheet before it is bent."""

        def work_out() -> Wanted:
            picture = self.picture(longest_px, progress)
            progress(LAYING, 0.0)
            blank = picture.coverage < 0.5
            tones = np.where(blank, np.float32(1), picture.tones) if blank.any() else picture.tones
            rgb = None if picture.rgb is None else np.where(blank[..., np.newaxis], np.float32(1), picture.rgb)
            made = wanted_sheet(self.document, tones, bool(blank.any()), rgb, self._tolerance(longest_px))
            progress(LAYING, 1.0)
            return made

        return self._cache.get(self._sheet_key(longest_px), work_out)

    @property
    def size_mm(self) -> Size:
        key = step_key("lithophane size", _VERSION, None, self._made_key(PREVIEW_PX))
        return self._kept_size(key, lambda: self._made(PREVIEW_PX).mesh)

    @property
    def sheet_mm(self) -> tuple[float, float]:
        form = form_of(self.document)[0]
        return form.width, form.height

    def plan(self, longest_px: int, upto: str | None = None, progress: Progress = quiet) -> Plan:
        """The unrolled sheet, its heights the material that light passes; at the resolution of rest that is measured
        through the solid, below it is what is asked for, which is quick."""
        if upto is not None:
            return self.plan_of_view(longest_px, upto, progress, TRACED_MM, TRACED_MM)
        view = self.lit(longest_px) if longest_px >= PREVIEW_PX else self.target_view(longest_px)
        return plan_of_sheet(self.document, self.wanted(longest_px).sheet, view)

    def shown(self, longest_px: int = FULL) -> ShownSolid:
        around = self.document.form.around
        shaded, places = split_at_seam(self.shaded(longest_px), self.places(longest_px), around)
        view = self.lit(longest_px)
        sheet = SheetOnSolid(places, view.seen, self.sheet_mm, around, shown_colours(view.colour))
        return ShownSolid(shaded, self.standing, sheet=sheet)

    def mesh(self, longest_px: int = FULL) -> TriMesh:
        if longest_px == FULL:
            return self.delivered().mesh
        return self._made(longest_px).mesh

    def solid_key(self, longest_px: int) -> str:
        if longest_px != FULL:
            return self._made_key(longest_px)
        light = self.document.light.key(self.document.delivery.format)
        return step_key("lithophane light", _VERSION, light, self._made_key(FULL))

    def findings(self, longest_px: int = FULL, progress: Progress = quiet) -> tuple[Finding, ...]:
        wall = self.wall(longest_px)
        pictured = (found for found in self.audit(progress) if found.measure not in OF_RELIEFS)
        report = self._coloured_report(longest_px) if longest_px == FULL else None
        coloured = colour_findings(self.document, self.picture(longest_px).rgb is not None, report)
        noise = crowded_edges(self.wanted(longest_px).crowded)
        own = (*transmission_findings(wall, self.document.maker.to_core()), *coloured, *pictured)
        return own if noise is None else (*own, noise)

    def delivered(self, progress: Progress = quiet) -> Slab:
        """The finished solid, made as light as asked."""

        def make() -> Slab:
            made = self._made(FULL, progress)
            lighter = self.document.light.simplify(
                made.mesh, self.document.delivery.format, lambda part: progress("Making it light", part)
            )
            tolerance = self.document.finish.tolerance_mm
            if lighter is None:
                return Slab(made.mesh, made.deviation, tolerance, made.unlined)
            inwards, shift = self.document.form.inside, self.shift(FULL)
            off = lightened_error(self.wanted(FULL), inwards, shift, made.mesh, lighter.mesh, tolerance)
            return Slab(lighter.mesh, off, tolerance, made.unlined)

        return self._cache.get(self.solid_key(FULL), make, encode_slab, decode_slab)

    def build(self, progress: Progress = quiet) -> tuple[Slab, BuildReport]:
        started = time.perf_counter()
        before = len(self._made(FULL, progress).mesh.faces) if self.document.light.on else None
        slab = self.delivered(progress)
        soundness = check_soundness(slab.mesh, lambda part: progress("Proving it sound", part))
        progress("Looking at it in light", 0.0)
        lit = self.lit_report(FULL)
        findings = (*self.findings(FULL, progress), *self.document.light.missed(slab.mesh))
        findings += (UNLINED,) if slab.unlined else ()
        report = build_report(soundness, slab, findings, time.perf_counter() - started, before)
        wanted, shift = self.wanted(FULL), self.shift(FULL)
        off = largest_between(self.document, wanted, shift, slab.mesh)
        edges = None if slab.unlined else unrolled_edges(wanted, shift, slab.mesh)
        return slab, report.model_copy(update={"lit": lit, "max_error_between_mm": off, "edges": edges})

    def lit(self, longest_px: int = FULL) -> LitView:
        """The sheet as light passes it, measured along the form's normals through the solid."""

        def look() -> LitView:
            wanted, mesh = self.wanted(longest_px), self.mesh(longest_px)
            size_px = lit_size(wanted.form, longest_px)
            reach = REACH_SHARE * float(wanted.sheet.thickness.max())
            shift = self.shift(longest_px)

            def through(body: TriMesh) -> NDArray[np.float32]:
                return material_through(body, wanted.form, shift, size_px, reach)

            laid = wanted.colours
            filters = None
            if laid is not None:
                filters = filters_through(self.bodies(longest_px), len(laid.layers.bands.filters), through)
            aimed = colours_at(wanted, size_px)
            return lit_view(self.document, through(mesh), tones_at(wanted, size_px), wanted.form, filters, aimed)

        spread = self.document.glow.spread_mm
        return self._cache.get(step_key("lit", _VERSION, spread, self.solid_key(longest_px)), look)

    def bodies(self, longest_px: int = FULL) -> list[tuple[int, TriMesh]]:
        """The solid as one body for each material, as `split_bodies` tells them; none without colour layers."""
        wanted, key = self.wanted(longest_px), step_key("bodies", _VERSION, None, self.solid_key(longest_px))
        if wanted.colours is None:
            return []
        layers, sketch = wanted.colours.layers, longest_px != FULL
        corner = np.array([wanted.sheet.window[0], wanted.low, 0.0]) + self.shift(longest_px)
        return self._cache.get(key, lambda: split_bodies(self.mesh(longest_px), layers, corner, sketch))

    @property
    def colour_names(self) -> dict[str, str]:
        return names_of_colours(self.document)

    def objects(self) -> list[tuple[str, TriMesh]]:
        if self.document.bands is None or self.document.delivery.format not in OF_BODIES:
            return []
        return painted_bodies(self.document, self.bodies())

    def target_view(self, longest_px: int) -> LitView:
        """Like `lit`, from the thicknesses that are asked for: quick enough to follow a slider."""
        size_px = lit_size((wanted := self.wanted(longest_px)).form, longest_px)
        through = on_cells(wanted.sheet, wanted.form, size_px)
        filters, aimed = filters_at(wanted, size_px), colours_at(wanted, size_px)
        return lit_view(self.document, through, tones_at(wanted, size_px), wanted.form, filters, aimed)

    def likeness(self, longest_px: int) -> Likeness:
        """How well the lit piece matches its picture."""
        key = step_key("likeness", _VERSION, self.document.glow.model_dump(mode="json"), self.solid_key(longest_px))
        return self._cache.get(key, lambda: likeness_of(self.lit(longest_px), self.rule))

    def lit_report(self, longest_px: int) -> LitReport:
        """Measures of the lit piece."""
        return lit_report(self.lit(longest_px), self.likeness(longest_px), self._coloured_report(longest_px))

    def _coloured_report(self, longest_px: int) -> LitColoursReport | None:
        if self.document.bands is None:
            return None
        key = step_key("colours in light", _VERSION, self.document.glow.spread_mm, self.solid_key(longest_px))

        bodies, whole = self.bodies(longest_px), self.mesh(longest_px)
        return self._cache.get(key, lambda: coloured_report(self.document, self.lit(longest_px), bodies, whole))

    def shift(self, longest_px: int) -> NDArray[np.float64]:
        """What takes the form to where the solid is, (3,) mm."""
        key = step_key("lithophane shift", _VERSION, None, self._made_key(longest_px))
        data = self._cache.get(
            key, lambda: bytes(self._made(longest_px).shift.data), lambda data: data, lambda data: data
        )
        return np.frombuffer(data)

    def places(self, longest_px: int) -> NDArray[np.float32]:
        """Where the vertices of the shaded solid lie on the sheet, as `on_sheet` tells."""
        key = step_key("places", _VERSION, None, self.solid_key(longest_px))
        return self._cache.get(
            key,
            lambda: places_on_sheet(
                self.wanted(longest_px), self.document.form.inside, self.shift(longest_px), self.shaded(longest_px)
            ),
        )

    def thumbnail(self) -> bytes:
        light = [part.model_dump(mode="json") for part in (self.document.glow, self.document.lamp)]
        key = step_key("lit thumbnail", _VERSION, light, self.solid_key(PREVIEW_PX))

        def paint() -> bytes:
            return png_of(self.rendered(*THUMBNAIL_PX))

        return self._cache.get(key, paint, lambda data: data, lambda data: data)

    def rendered(self, width_px: int, height_px: int, longest_px: int = PREVIEW_PX) -> NDArray[np.uint8]:
        """A picture of the solid, lit from behind, uint8 (height_px, width_px, 3) sRGB."""
        rule, lamp = self.rule, self.document.lamp.to_core()
        view = self.lit(longest_px)
        light = transmitted_light(view.seen, rule.material, rule.thinnest, lamp, view.colour)
        standing = self.document.form.standing
        eye = Viewpoint(turn_deg=LIT_VIEW, tilt_deg=STANDING_TILT_DEG if standing else LYING_TILT_DEG, upright=standing)
        direct = self.document.lamp.power * tint(lamp.colour, rule.material.cast)
        behind = Behind(self.places(longest_px), light, direct, self.document.lamp.ambient)
        return render(self.shaded(longest_px), width_px, height_px, eye, behind)

    def variations(self, longest_px: int) -> list[SheetVariation]:
        def of(varied: LithophaneEvaluator) -> SheetVariation:
            glow, seen = varied.document.glow, varied.target_view(longest_px).seen
            return SheetVariation(glow.thinnest_mm, glow.thickest_mm, glow.strength, varied.rule.contrast, seen)

        return [of(LithophaneEvaluator(each, self._sources)) for each in varied_documents(self.document)]

    def recipe(self, longest_px: int = FULL) -> str:
        """How to print it, as text."""
        maker, material = self.document.maker, self.document.glow.material
        printer = maker.to_core()
        amount = volume(self.mesh(longest_px))
        return recipe_card(
            self.document.title, self.wall(longest_px), printer, amount, material.name, material.attenuation_per_mm,
            colour_rows(self.document),
        )  # fmt: skip

    def wall(self, longest_px: int) -> Wall:
        """What is to be printed, as the audit sees it."""
        document, key = self.document, step_key("contact", _VERSION, None, self.solid_key(longest_px))
        contact = self._cache.get(key, lambda: contact_below(document, lambda: self.mesh(longest_px)))
        return wall_of(document, self.wanted(longest_px), self.size_mm, contact)

    def off_target(self, mesh: TriMesh, longest_px: int) -> NDArray[np.float64]:
        inside, shift = self.document.form.inside, self.shift(longest_px)
        return off_sheet(self.wanted(longest_px), inside, mesh.corners.mean(axis=1) - shift)

    def section(
        self,
        start: tuple[float, float],
        end: tuple[float, float],
        longest_px: int,
        tilt_deg: float = 0.0,
        lift_mm: float = 0.0,
    ) -> SectionCut:
        """Thickness along a line of the unrolled sheet, asked and measured through the solid."""
        return section_through(self.lit(longest_px), self.wanted(longest_px).sheet, start, end)

    def _tolerance(self, longest_px: int) -> float:
        if longest_px == FULL:
            return self.tolerance_mm
        return max(self.tolerance_mm, SKETCH_TOLERANCE * PREVIEW_PX / longest_px)

    def _between(self, longest_px: int) -> bool:
        return self.document.finish.between and self.document.form.kind == "flat" and longest_px == FULL

    def _made(self, longest_px: int, progress: Progress = quiet) -> MadeLithophane:
        def make() -> MadeLithophane:
            wanted, document = self.wanted(longest_px, progress), self.document
            return make_lithophane(
                wanted.sheet, wanted.form, document.form.inside, rim_mm(document), document.parts.to_core(),
                self._tolerance(longest_px), progress, longest_px != FULL, self._between(longest_px), wanted.unlined,
            )  # fmt: skip

        key = self._made_key(longest_px)
        return self._cache.get(key, make, _encode, _decode) if longest_px == FULL else self._cache.get(key, make)

    def _sheet_key(self, longest_px: int) -> str:
        parts = self.document.parts
        parameters: list[object] = [
            self.document.glow.model_dump(mode="json", exclude={"material": {"name", "cast", "surface_loss"}}),
            self.document.form.model_dump(mode="json"), parts.rim.model_dump(mode="json"),
            parts.name.model_dump(mode="json"), self.document.colours_key, self.document.hand.model_dump(mode="json"),
        ]  # fmt: skip
        parameters += ["lines", self._tolerance(longest_px)] if self.document.edges.on else []
        return step_key("sheet", _VERSION, parameters, self._prepared_key(longest_px))

    def _made_key(self, longest_px: int) -> str:
        parameters: list[object] = [self.document.parts.model_dump(mode="json"), self._tolerance(longest_px)]
        parameters += ["between"] if self._between(longest_px) else []
        return step_key("lithophane", _VERSION, parameters, self._sheet_key(longest_px))


def _encode(made: MadeLithophane) -> bytes:
    return made.shift.tobytes() + encode_slab(Slab(made.mesh, made.deviation, 0.0, made.unlined))


def _decode(data: bytes) -> MadeLithophane:
    slab = decode_slab(data[24:])
    return MadeLithophane(slab.mesh, slab.deviation, np.frombuffer(data[:24]), slab.unlined)
