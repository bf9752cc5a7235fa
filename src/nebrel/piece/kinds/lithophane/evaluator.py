"""From the recipe of a lithophane to its solid and to what is seen of it in light."""

import time
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from nebrel.core.bent.bend import placed, unplaced
from nebrel.core.bent.forms import Form
from nebrel.core.bent.lithophane import MadeLithophane, make_lithophane, refuse_tight
from nebrel.core.bent.parts import plan_of, refuse_misplaced
from nebrel.core.height.transmission import encoded
from nebrel.core.heightfield.deviation import Deviation
from nebrel.core.heightfield.slab import Slab
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.measure import volume
from nebrel.core.mesh.shading import ShadedMesh
from nebrel.core.proof import Finding, check_soundness
from nebrel.core.proof.lit import Likeness, glow_light, likeness, shown_tones, tinted
from nebrel.core.proof.makeable import Printer
from nebrel.core.proof.render import Behind, View, render
from nebrel.core.proof.section import Profile
from nebrel.core.proof.transmission_audit import Wall, glow_findings, recipe_card
from nebrel.core.proof.transmitted_thickness import OFF_U, OFF_V, material_through
from nebrel.piece.evaluation.cache import ResultCache, step_key
from nebrel.piece.evaluation.codec import decode_slab, encode_slab
from nebrel.piece.evaluation.evaluator import PREVIEW_PX, THUMBNAIL_PX, Looks, Progress, SectionCut, png_of, quiet
from nebrel.piece.evaluation.prepare import FULL, Preparation
from nebrel.piece.kinds.lithophane.document import LithophaneDocument
from nebrel.piece.kinds.lithophane.sheet import Wanted, form_of, laid_out, lit_size, on_cells, rim_mm, tones_at
from nebrel.piece.parts.extent import frame_of
from nebrel.piece.report import BuildReport, LitReport, build_report

SKETCH_TOLERANCE = 0.04
CHECK_PX = 320
REACH_SHARE = 2.0
SECTION_SAMPLES = 500
LAYING = "Working out thicknesses"
_VERSION = 1
NEAR_MM, EDGEWISE = 0.05, 0.12
# Findings on pictures that speak of heights and strokes; light needs neither flat grounds nor wide lines.
OF_RELIEFS = (
    "near-black", "near-white", "thin-stroke", "thin-gap", "busy-background", "specks", "low-resolution", "oversampled",
)  # fmt: skip
RANGES, STRENGTHS = (0.6, 1.0, 1.5), (0.0, 0.5, 1.0)
LIT_VIEW, STANDING_TILT_DEG, LYING_TILT_DEG = -14.0, 76.0, 8.0

Audit = Callable[[LithophaneDocument, Progress], tuple[Finding, ...]]


@dataclass(frozen=True)
class LitView:
    """A sheet in light.

    Attributes:
        through: float32 (h, w) mm of material on the way of the light, measured on the mesh.
        tones: float32 (h, w) that are wanted; NaN on the border.
        size_mm: of the sheet.
    """

    through: NDArray[np.float32]
    tones: NDArray[np.float32]
    size_mm: tuple[float, float]


class LithophaneEvaluator(Looks[LithophaneDocument]):
    """Runs the steps of lithophanes."""

    def __init__(self, cache: ResultCache, preparation: Preparation, audit: Audit) -> None:
        super().__init__(cache)
        self._preparation = preparation
        self._audit = audit

    def check(self, document: LithophaneDocument, progress: Progress = quiet) -> None:
        wanted = self.wanted(document, CHECK_PX, progress)
        refuse_tight(wanted.form, document.form.inside, float(wanted.sheet.thickness.max()))
        refuse_misplaced(document.parts.made(), wanted.form)
        if not document.parts.made().none:
            self._made(document, CHECK_PX, progress)

    def wanted(self, document: LithophaneDocument, longest_px: int, progress: Progress = quiet) -> Wanted:
        """The sheet before it is bent."""

        def work_out() -> Wanted:
            picture = self._preparation.view(document, longest_px, None, progress).picture
            progress(LAYING, 0.0)
            blank = picture.coverage < 0.5
            tones = np.where(blank, np.float32(1), picture.tones) if blank.any() else picture.tones
            made = laid_out(document, tones, bool(blank.any()))
            progress(LAYING, 1.0)
            return made

        return self._cache.get(self._sheet_key(document, longest_px), work_out)

    def size(self, document: LithophaneDocument) -> tuple[float, float, float]:
        # Kept in the folder too: the shelf asks for the size of every piece.
        sides = self._cache.get(
            step_key("lithophane size", _VERSION, None, self._made_key(document, PREVIEW_PX)),
            lambda: np.ptp(self._made(document, PREVIEW_PX).mesh.vertices, axis=0).tobytes(),
            lambda data: data,
            lambda data: data,
        )
        x, y, z = np.frombuffer(sides)
        return float(x), float(y), float(z)

    def sheet_size(self, document: LithophaneDocument) -> tuple[float, float]:
        """Width and height of the unrolled sheet, mm."""
        form = form_of(document)[0]
        return form.width, form.height

    def mesh(self, document: LithophaneDocument, longest_px: int = FULL) -> TriMesh:
        if longest_px == FULL:
            return self.delivered(document).mesh
        return self._made(document, longest_px).mesh

    def solid_key(self, document: LithophaneDocument, longest_px: int) -> str:
        if longest_px != FULL:
            return self._made_key(document, longest_px)
        light = document.light.key(document.delivery.format)
        return step_key("lithophane light", _VERSION, light, self._made_key(document, FULL))

    def findings(
        self, document: LithophaneDocument, longest_px: int = FULL, progress: Progress = quiet
    ) -> tuple[Finding, ...]:
        wall = self.wall(document, longest_px)
        maker = document.maker
        printer = Printer(line_width=maker.line_width_mm, layer=maker.layer_mm, bed=maker.bed_mm)
        pictured = (found for found in self._audit(document, progress) if found.measure not in OF_RELIEFS)
        return (*glow_findings(wall, printer), *pictured)

    def delivered(self, document: LithophaneDocument, progress: Progress = quiet) -> Slab:
        """The finished solid, made as light as asked."""

        def make() -> Slab:
            made = self._made(document, FULL, progress)
            lighter = document.light.made(
                made.mesh, document.delivery.format, lambda part: progress("Making it light", part)
            )
            tolerance = document.finish.tolerance_mm
            if lighter is None:
                return Slab(made.mesh, made.deviation, tolerance)
            apart = lighter.deviation
            return Slab(lighter.mesh, Deviation(apart.max + made.deviation.max, apart.rms), tolerance)

        return self._cache.get(self.solid_key(document, FULL), make, encode_slab, decode_slab)

    def build(self, document: LithophaneDocument, progress: Progress = quiet) -> tuple[Slab, BuildReport]:
        started = time.perf_counter()
        before = len(self._made(document, FULL, progress).mesh.faces) if document.light.on else None
        slab = self.delivered(document, progress)
        soundness = check_soundness(slab.mesh, lambda part: progress("Proving it sound", part))
        progress("Looking at it in light", 0.0)
        lit = self.lit_report(document, FULL)
        findings = self.findings(document, FULL, progress)
        report = build_report(soundness, slab, findings, time.perf_counter() - started, before)
        return slab, report.model_copy(update={"lit": lit})

    def lit(self, document: LithophaneDocument, longest_px: int = FULL) -> LitView:
        """The sheet as light passes it, measured along the form's normals through the solid."""

        def look() -> LitView:
            wanted, mesh = self.wanted(document, longest_px), self.mesh(document, longest_px)
            size_px = lit_size(wanted.form, longest_px)
            reach = REACH_SHARE * float(wanted.sheet.thickness.max())
            through = material_through(mesh, wanted.form, self.shift(document, longest_px), size_px, reach)
            return LitView(through, tones_at(wanted, size_px), (wanted.form.width, wanted.form.height))

        return self._cache.get(step_key("lit", _VERSION, None, self.solid_key(document, longest_px)), look)

    def asked_view(self, document: LithophaneDocument, longest_px: int) -> LitView:
        """Like `lit`, from the thicknesses that are asked for: quick enough to follow a slider."""
        wanted = self.wanted(document, longest_px)
        size_px = lit_size(wanted.form, longest_px)
        through = on_cells(wanted.sheet, wanted.form, size_px)
        return LitView(through, tones_at(wanted, size_px), (wanted.form.width, wanted.form.height))

    def likeness(self, document: LithophaneDocument, longest_px: int) -> Likeness:
        """How well the lit piece matches its picture."""

        def look() -> Likeness:
            view = self.lit(document, longest_px)
            rule = document.glow.made()
            shown = shown_tones(view.through, rule.material, rule.thinnest)
            inside = np.isfinite(view.tones)
            rows, columns = np.flatnonzero(inside.any(axis=1)), np.flatnonzero(inside.any(axis=0))
            part = (slice(rows[0], rows[-1] + 1), slice(columns[0], columns[-1] + 1))
            tones = view.tones[part]
            return likeness(shown[part], encoded(rule.wanted(tones)), tones, rule.darkest_tone)

        key = step_key(
            "likeness", _VERSION, document.glow.model_dump(mode="json"), self.solid_key(document, longest_px)
        )
        return self._cache.get(key, look)

    def lit_report(self, document: LithophaneDocument, longest_px: int) -> LitReport:
        """Measures of the lit piece."""
        alike, view = self.likeness(document, longest_px), self.lit(document, longest_px)
        shown = view.through[np.isfinite(view.tones) & (view.through > 0)]
        return LitReport(
            thinnest_mm=round(float(shown.min()), 4),
            thickest_mm=round(float(shown.max()), 4),
            contrast=round(alike.contrast, 3),
            tones_lost=round(alike.tones_lost, 5),
            ssim_within_reach=round(alike.within_reach, 5),
            ssim=round(alike.overall, 5),
            mean_difference=round(alike.mean_difference, 5),
        )

    def shift(self, document: LithophaneDocument, longest_px: int) -> NDArray[np.float64]:
        """What takes the form to where the solid is, (3,) mm."""
        key = step_key("lithophane shift", _VERSION, None, self._made_key(document, longest_px))
        data = self._cache.get(
            key, lambda: bytes(self._made(document, longest_px).shift.data), lambda data: data, lambda data: data
        )
        return np.frombuffer(data)

    def on_sheet(self, document: LithophaneDocument, shaded: ShadedMesh, longest_px: int) -> NDArray[np.float32]:
        """Where the vertices of the shaded solid lie on the unrolled sheet.

        Returns:
            float32 (N, 3): shares of its width and height from its lower left corner, and 1 where they belong to the
            sheet and face the viewer, -1 where they face the lamp, 0 elsewhere.
        """
        wanted = self.wanted(document, longest_px)
        form = wanted.form
        at = form.unrolled(unplaced(form, shaded.positions.astype(np.float64) - self.shift(document, longest_px)))
        away = -at[:, 2] if document.form.inside else at[:, 2]
        on = (away > -NEAR_MM) & (away < float(wanted.sheet.thickness.max()) + NEAR_MM)
        on &= (at[:, 1] > -NEAR_MM) & ((at[:, 1] < form.height + NEAR_MM) | form.pole)
        on &= (at[:, 0] > -NEAR_MM) & (at[:, 0] < form.width + NEAR_MM)
        u, v = np.clip(at[:, 0], 0, form.width), np.clip(at[:, 1], 0, form.height)
        out = placed(form, form.at(u, v)[1])
        facing = (out * shaded.normals).sum(axis=1)
        # Of what looks neither way, walls of the edges belong to no side, and steep places of the relief to its side.
        edge = (v < NEAR_MM) | ((v > form.height - NEAR_MM) & (not form.pole))
        edge |= ((u < NEAR_MM) | (u > form.width - NEAR_MM)) & (not form.around)
        steep = np.where(edge, 0.0, -1.0 if document.form.inside else 1.0)
        side = np.where(np.abs(facing) > EDGEWISE, np.sign(facing), steep)
        return np.column_stack([at[:, 0] / form.width, v / form.height, np.where(on, side, 0.0)]).astype(np.float32)

    def places(self, document: LithophaneDocument, longest_px: int) -> NDArray[np.float32]:
        """Where the vertices of the shaded solid lie on the sheet, as `on_sheet` tells."""
        key = step_key("places", _VERSION, None, self.solid_key(document, longest_px))
        return self._cache.get(key, lambda: self.on_sheet(document, self.shaded(document, longest_px), longest_px))

    def thumbnail(self, document: LithophaneDocument) -> bytes:
        key = step_key(
            "lit thumbnail", _VERSION, [document.glow.model_dump(mode="json"), document.lamp.model_dump(mode="json")],
            self.solid_key(document, PREVIEW_PX),
        )  # fmt: skip

        def paint() -> bytes:
            return png_of(self.rendered(document, *THUMBNAIL_PX))

        return self._cache.get(key, paint, lambda data: data, lambda data: data)

    def rendered(
        self, document: LithophaneDocument, width_px: int, height_px: int, longest_px: int = PREVIEW_PX
    ) -> NDArray[np.uint8]:
        """A picture of the solid, lit from behind, uint8 (height_px, width_px, 3) sRGB."""
        rule = document.glow.made()
        light = glow_light(self.lit(document, longest_px).through, rule.material, rule.thinnest, document.lamp.made())
        standing = document.form.standing
        view = View(turn_deg=LIT_VIEW, tilt_deg=STANDING_TILT_DEG if standing else LYING_TILT_DEG, upright=standing)
        direct = document.lamp.power * tinted(document.lamp.made().colour, rule.material.cast)
        behind = Behind(self.places(document, longest_px), light, direct, document.lamp.ambient)
        return render(self.shaded(document, longest_px), width_px, height_px, view, behind)

    def variations(self, document: LithophaneDocument) -> list[LithophaneDocument]:
        """Three ranges of thickness, each with three strengths of the light rule."""
        glow, made = document.glow, []
        for spread in RANGES:
            thickest = round(glow.thinnest_mm + spread * (glow.thickest_mm - glow.thinnest_mm), 2)
            for strength in STRENGTHS:
                part = {"thickest_mm": min(thickest, 40.0), "strength": strength, "rule": "light"}
                made.append(document.model_copy(update={"glow": glow.model_copy(update=part)}))
        return made

    def recipe(self, document: LithophaneDocument, longest_px: int = FULL) -> str:
        """How to print it, as text."""
        maker, material = document.maker, document.glow.material
        printer = Printer(line_width=maker.line_width_mm, layer=maker.layer_mm, bed=maker.bed_mm)
        amount = volume(self.mesh(document, longest_px))
        return recipe_card(
            document.title, self.wall(document, longest_px), printer, amount, material.name, material.attenuation_per_mm
        )

    def wall(self, document: LithophaneDocument, longest_px: int) -> Wall:
        """What is to be printed, as the audit sees it."""
        wanted = self.wanted(document, longest_px)
        rule, form = document.glow.made(), wanted.form
        width, depth, thick = self.size(document)
        low, high = wanted.sheet.window[1], wanted.sheet.window[3]
        foot = 2 * document.parts.foot.margin_mm if document.parts.foot.on else 0.0
        if document.form.kind == "flat":
            stance, upright = rim_mm(document) + foot, depth
        elif document.form.kind == "arc":
            stance, upright = min(width, depth), thick
        else:
            left, front, right, back = plan_of(form, rim_mm(document)).bounds
            stance, upright = min(right - left, back - front) + foot, thick
        return Wall(
            form=document.form.words + (", relief inside" if document.form.inside else ""),
            size=(width, depth, thick),
            standing=form.standing,
            stance=stance,
            upright=upright,
            thinnest=rule.thinnest,
            thickest=rule.thickest,
            contrast=rule.contrast,
            tones_lost=float((wanted.tones < rule.darkest_tone).mean()),
            pitch=document.width_mm / (frame_of(document).shape[1] - 1),
            cropped=wanted.cropped,
            smallest_scale=float(form.scale(np.array([low, (low + high) / 2, high])).min()),
            seam_step=wanted.seam_step,
            blanks=wanted.blanks,
            steepest=_steepest_deg(form),
            covered=_covered_mm(document),
        )

    def off_asked(self, document: LithophaneDocument, mesh: TriMesh, longest_px: int) -> NDArray[np.float64]:
        wanted = self.wanted(document, longest_px)
        form, sheet = wanted.form, wanted.sheet
        centres = mesh.corners.mean(axis=1) - self.shift(document, longest_px)
        u, v, away = form.unrolled(unplaced(form, centres)).T
        if document.form.inside:
            away = -away
        column = np.interp(u, sheet.u, np.arange(len(sheet.u)))
        row = np.interp(-v, -sheet.v, np.arange(len(sheet.v)))
        asked = ndimage.map_coordinates(sheet.thickness, [row, column], order=1, mode="nearest")
        relief = away > float(sheet.thickness.min()) / 2
        on = (v > 0) & (v < form.height) & (u > 0) & (u < form.width) & (away < float(sheet.thickness.max()) + 0.1)
        return np.where(on, np.abs(away - np.where(relief, asked, 0.0)), np.nan)

    def section(
        self,
        document: LithophaneDocument,
        start: tuple[float, float],
        end: tuple[float, float],
        longest_px: int,
        tilt_deg: float = 0.0,
        lift_mm: float = 0.0,
    ) -> SectionCut:
        """Thickness along a line of the unrolled sheet, asked and measured through the solid."""
        view, wanted = self.lit(document, longest_px), self.wanted(document, longest_px)
        width, height = view.size_mm
        share = np.linspace(0, 1, SECTION_SAMPLES)
        u, v = (start[axis] + (end[axis] - start[axis]) * share for axis in (0, 1))
        length = float(np.hypot(end[0] - start[0], end[1] - start[1]))
        sheet = wanted.sheet
        column = np.interp(u, sheet.u, np.arange(len(sheet.u)))
        row = np.interp(-v, -sheet.v, np.arange(len(sheet.v)))
        asked = ndimage.map_coordinates(sheet.thickness, [row, column], order=1, mode="nearest")
        rows, columns = view.through.shape
        x, y = u / width * columns - 0.5 - OFF_U, (height - v) / height * rows - 0.5 - OFF_V
        made = ndimage.map_coordinates(view.through, [y, x], order=1, mode="nearest")
        along = share * length
        outline = [(0.0, 0.0), *zip(along.tolist(), made.tolist(), strict=True), (length, 0.0), (0.0, 0.0)]
        return SectionCut(length, Profile(along, asked.astype(np.float64)), [outline])

    def _made(self, document: LithophaneDocument, longest_px: int, progress: Progress = quiet) -> MadeLithophane:
        def make() -> MadeLithophane:
            wanted = self.wanted(document, longest_px, progress)
            return make_lithophane(
                wanted.sheet, wanted.form, document.form.inside, rim_mm(document), document.parts.made(),
                _tolerance(document, longest_px), progress, sketch=longest_px != FULL,
            )  # fmt: skip

        key = self._made_key(document, longest_px)
        return self._cache.get(key, make, _encode, _decode) if longest_px == FULL else self._cache.get(key, make)

    def _sheet_key(self, document: LithophaneDocument, longest_px: int) -> str:
        parts = document.parts
        parameters = [
            document.glow.model_dump(mode="json", exclude={"material": {"name", "cast", "surface_loss"}}),
            document.form.model_dump(mode="json"), parts.rim.model_dump(mode="json"),
            parts.name.model_dump(mode="json"),
        ]  # fmt: skip
        return step_key("sheet", _VERSION, parameters, self._preparation.key(document, longest_px))

    def _made_key(self, document: LithophaneDocument, longest_px: int) -> str:
        parameters = [document.parts.model_dump(mode="json"), _tolerance(document, longest_px)]
        return step_key("lithophane", _VERSION, parameters, self._sheet_key(document, longest_px))


def _encode(made: MadeLithophane) -> bytes:
    return made.shift.tobytes() + encode_slab(Slab(made.mesh, made.deviation, 0.0))


def _decode(data: bytes) -> MadeLithophane:
    slab = decode_slab(data[24:])
    return MadeLithophane(slab.mesh, slab.deviation, np.frombuffer(data[:24]))


def _tolerance(document: LithophaneDocument, longest_px: int) -> float:
    asked = document.finish.tolerance_mm
    return asked if longest_px == FULL else max(asked, SKETCH_TOLERANCE * PREVIEW_PX / longest_px)


def _steepest_deg(form: Form) -> float:
    """How far a standing form leans from upright where it leans most, degrees."""
    if not form.standing:
        return 0.0
    v = np.linspace(0, form.height, 200)
    _, normals, _ = form.at(np.zeros_like(v), v)
    return float(np.degrees(np.arcsin(np.abs(normals[:, 1]).max())))


def _covered_mm(document: LithophaneDocument) -> float:
    """How much of the picture's height parts stand behind, beyond the borders."""
    parts, rim = document.parts.made(), document.parts.rim
    above = rim.width_mm if rim.on and rim.top else 0.0
    below = rim.width_mm if rim.on and rim.bottom else 0.0
    lid = 0.0 if parts.lid is None else max(0.0, parts.lid.reaches - above)
    return lid + (0.0 if parts.bottom is None else max(0.0, parts.bottom.thickness - below))
