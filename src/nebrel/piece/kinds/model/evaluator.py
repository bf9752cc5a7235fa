"""From the recipe of a model to its mesh: a chain of steps, each kept by the hash of what it depends on."""

import time
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from nebrel.core.heightfield.slab import Slab
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.collapse import collapse_in_halves
from nebrel.core.mesh.distance import distances_to
from nebrel.core.mesh.formats import MeshFile, format_of, read_mesh
from nebrel.core.mesh.place import at_origin
from nebrel.core.mesh.surface_error import BOTH_WAYS, Deviation
from nebrel.core.proof import Finding, check_soundness
from nebrel.core.proof.from_above import heights_from_above
from nebrel.core.proof.makeable import bed_findings
from nebrel.core.proof.render import Viewpoint
from nebrel.core.proof.skin_audit import decoration_findings, stroke_findings
from nebrel.core.surface.decorate import Decorated, decorate
from nebrel.core.surface.displace.sculpt import BrushStroke, Sculpted, sculpt
from nebrel.core.surface.placing import Box, Placed, Snap, place_decoration, snap
from nebrel.core.surface.skin.skin import Skin, SkinPlace, place_on, skin_of
from nebrel.piece.evaluation.abilities import HasSkin, StepResult, Worked
from nebrel.piece.evaluation.cache import step_key
from nebrel.piece.evaluation.codec import decode_slab, encode_slab
from nebrel.piece.evaluation.evaluator import PieceEvaluator, Progress, quiet
from nebrel.piece.evaluation.prepare import FULL
from nebrel.piece.evaluation.shown import Plan, ShownSolid, Size, plan_from_above, three
from nebrel.piece.kinds.model.decorating import art_for, lay_out
from nebrel.piece.kinds.model.document import ModelDocument, ModelSource, ModelStep
from nebrel.piece.kinds.model.findings import with_fix
from nebrel.piece.parts.decoration import DecorationPart
from nebrel.piece.report import BuildReport, build_report

MOST_SHOWN = 100_000
STAGE = "Working on the model"
LAYING = "Laying decorations on"
BRUSHING = "Following the brush"
OF_MODEL = "to the nearest place, from the model before it was made light"
BEFORE_STROKES = ", before the strokes of the brush"
AS_IT_CAME = "nothing to measure: the mesh is the model itself"
SKETCH_PX = 720
MOST_HOVERED = 24_000
STANDS_FROM = 0.4
STANDING = Viewpoint(turn_deg=-12.0, tilt_deg=68.0, light_from_deg=-128.0, light_above_deg=34.0, upright=True)
ART_PX = 480
SKETCH_SHARE = 0.03
TURN_OR_CUT = "It does not fit in one go as it lies; turn it, cut it, or choose another maker."
_VERSION = 2


def stands(document: ModelDocument) -> bool:
    """Whether a model is tall enough to be looked at from in front and not from above."""
    x, y, z = document.model.size_mm
    return z >= STANDS_FROM * max(x, y)


def model_source(blob: str, name: str, found: MeshFile) -> ModelSource:
    """The part of the document that names a mesh file."""
    sides = np.ptp(found.mesh.vertices, axis=0)
    return ModelSource(
        blob=blob,
        name=name,
        format=format_of(name),
        unit=found.unit,
        told=found.unit_given,
        size_mm=(float(sides[0]), float(sides[1]), float(sides[2])),
        triangles=len(found.mesh.faces),
    )


class ModelEvaluator(PieceEvaluator[ModelDocument], HasSkin):
    """Runs the steps of models. Coordinates stay as they came; for looking, the lowest corner is at the origin."""

    def take(self, found: MeshFile) -> None:
        """Remember a source that was just read, so that it need not be read again."""
        self._cache.get(self._source_key(), lambda: _as_it_came(found))

    def check(self, progress: Progress = quiet) -> None:
        self.worked(progress)
        self.decorated(SKETCH_PX, progress)

    @property
    def size_mm(self) -> Size:
        decorated = any(each.on for each in self.document.decorations)
        if not decorated and not any(step.on for step in self.document.steps):
            return self.document.model.size_mm
        key = step_key("model size", _VERSION, None, self._made_key(SKETCH_PX))
        return self._kept_size(key, lambda: self._made(SKETCH_PX))

    @property
    def standing(self) -> bool:
        return stands(self.document)

    def plan(self, longest_px: int, upto: str | None = None, progress: Progress = quiet) -> Plan:
        key = step_key("from above", _VERSION, longest_px, self._made_key(longest_px))
        above = self._cache.get(key, lambda: heights_from_above(self.mesh(longest_px), longest_px))
        width, depth, _ = self.size_mm
        return plan_from_above(above, width, depth)

    def shown(self, longest_px: int = FULL) -> ShownSolid:
        return ShownSolid(self.shaded(longest_px), self.standing, three(self.low_corner(longest_px)))

    def step_results(self, progress: Progress = quiet) -> list[StepResult]:
        ids = ["", *(step.id for step in self.document.steps if step.on)]
        return [StepResult(*each) for each in zip(ids, self.worked(progress), strict=True)]

    def before_step(self, step_id: str, progress: Progress = quiet) -> TriMesh | None:
        ids = [step.id for step in self.document.steps]
        if step_id not in ids:
            return None
        before = self.document.model_copy(update={"steps": self.document.steps[: ids.index(step_id)]})
        return ModelEvaluator(before, self._sources).worked(progress)[-1].mesh

    def with_motif(self, motif: dict[str, object], at: tuple[float, float], width_mm: float) -> dict[str, object]:
        place, up = self.first_place()
        art = {
            "kind": "outline" if motif["drawing"] else "picture",
            "blob": motif["drawing"] or motif["picture"],
            "name": motif["name"],
            "motif": motif["motif"],
        }
        decoration = {"art": art, "id": motif["id"], "width_mm": width_mm, "at": place, "up": up}
        return {"decorations": [*(each.model_dump(mode="json") for each in self.document.decorations), decoration]}

    def worked(self, progress: Progress = quiet) -> list[Worked]:
        """The mesh as it came, then after every step that is on, with what each step changed."""
        key = self._source_key()
        progress("Reading the model", 0.0)
        results = [self._cache.get(key, self._read)]
        for step in self.document.steps:
            if not step.on:
                continue
            before = results[-1].mesh
            key = step_key("model step", _VERSION, step.model_dump(mode="json", exclude={"id", "on"}), key)

            def work(step: ModelStep = step, before: TriMesh = before) -> Worked:
                return step.worked(before, lambda part: progress(STAGE, part))

            results.append(self._cache.get(key, work))
        return results

    def skin(self, longest_px: int = FULL) -> Skin:
        """The skin that decorations are laid on: of the model after its steps, or of a sketch of it."""
        key = step_key("skin", _VERSION, longest_px == FULL, self._steps_key())

        def look() -> Skin:
            mesh = self.worked()[-1].mesh
            light = longest_px == FULL or len(mesh.faces) <= MOST_SHOWN
            return skin_of(mesh if light else collapse_in_halves(mesh, MOST_SHOWN))

        return self._cache.get(key, look)

    def decorated(self, longest_px: int = FULL, progress: Progress = quiet) -> Decorated | None:
        """The model with its decorations, or None where none is switched on."""
        shown = [each for each in self.document.decorations if each.on]
        if not shown:
            return None

        def lay() -> Decorated:
            progress(LAYING, 0.0)
            skin = self.skin(longest_px)
            tolerance = self.document.detail_mm
            if longest_px != FULL:
                tolerance = max(tolerance, SKETCH_SHARE * max(each.depth_mm for each in shown))
            laid = [lay_out(each, self._sources.read, self._sources.picture, longest_px and ART_PX) for each in shown]
            return decorate(
                skin,
                laid,
                tolerance,
                self.document.thinnest_wall_mm,
                lambda part: progress(LAYING, part),
                measured=longest_px == FULL,
            )

        return self._cache.get(self._decorated_key(longest_px), lay)

    def delivered(self, progress: Progress = quiet) -> Slab:
        """The mesh after steps, decorations and strokes, made light, with how far it is from the one before that."""

        def make() -> Slab:
            mesh = self._made(FULL, progress)
            lighter = self.document.light.simplify(
                mesh, self.document.delivery.format, lambda part: progress("Making it light", part)
            )
            if lighter is not None:
                apart = lighter.deviation
                by_tolerance = self.document.light.tolerance_mm if self.document.light.by == "tolerance" else 0.0
                return Slab(lighter.mesh, Deviation(apart.max, apart.rms, OF_MODEL, BOTH_WAYS), by_tolerance)
            decorated = self.decorated(FULL, progress)
            if decorated is not None:
                assert decorated.deviation is not None
                how = decorated.deviation.how + (BEFORE_STROKES if self.document.strokes else "")
                return Slab(mesh, replace(decorated.deviation, how=how), self.document.detail_mm)
            return Slab(mesh, Deviation(0.0, 0.0, AS_IT_CAME, "nowhere"), 0.0)

        return self._cache.get(self.solid_key(FULL), make, encode_slab, decode_slab)

    def mesh(self, longest_px: int = FULL) -> TriMesh:
        if longest_px == FULL:
            return at_origin(self.delivered().mesh)

        def sketch() -> TriMesh:
            mesh = self._made(longest_px)
            decorated = self._decorated_key(longest_px) != ""
            return at_origin(
                mesh if decorated or len(mesh.faces) <= MOST_SHOWN else collapse_in_halves(mesh, MOST_SHOWN)
            )

        return self._cache.get(self.solid_key(longest_px), sketch)

    def placement(self, decoration: DecorationPart, most_copies: int, quick: bool) -> Placed:
        key = step_key("skin", _VERSION, "coarse", self._steps_key())

        def look() -> Skin:
            mesh = self.worked()[-1].mesh
            return skin_of(mesh if len(mesh.faces) <= MOST_HOVERED else collapse_in_halves(mesh, MOST_HOVERED))

        along = None if decoration.along is None else np.array(decoration.along)
        box = Box(self.art_size(decoration), decoration.turn_deg, decoration.mirror, decoration.lie, along)
        skin, copies = self._cache.get(key, look), decoration.copies.to_core()
        at, up = np.array(decoration.at), np.array(decoration.up)
        return place_decoration(skin, at, up, box, copies, most_copies, quick)

    def first_place(self) -> tuple[Size, Size]:
        """A place that is seen at once, and which way is up there: in front of what stands, else on top."""
        skin = self.skin(SKETCH_PX)
        low, high = skin.mesh.vertices.min(axis=0), skin.mesh.vertices.max(axis=0)
        middle = (low + high) / 2
        if stands(self.document):
            wished, out, up = np.array([middle[0], low[1], middle[2]]), np.array([0.0, -1.0, 0.0]), (0.0, 0.0, 1.0)
        else:
            wished, out, up = np.array([middle[0], middle[1], high[2]]), np.array([0.0, 0.0, 1.0]), (0.0, 1.0, 0.0)
        return three(place_on(skin, wished, out).point), up

    def art_size(self, decoration: DecorationPart) -> tuple[float, float]:
        """Width and height of a decoration, mm."""
        art = decoration.art

        def look() -> NDArray[np.float64]:
            made = art_for(decoration, self._sources.read, self._sources.picture, ART_PX)
            return np.array([made.height / made.width])

        key = step_key("art size", _VERSION, [art.kind, art.blob])
        return decoration.width_mm, decoration.width_mm * float(self._cache.get(key, look)[0])

    def snapped(self, at: tuple[float, ...], up: tuple[float, ...], to: Snap) -> SkinPlace:
        """The place that a decoration snaps to."""
        return snap(self.skin(SKETCH_PX), np.array(at), np.array(up), to)

    def shelf_view(self) -> Viewpoint:
        return STANDING if stands(self.document) else super().shelf_view()

    def low_corner(self, longest_px: int) -> NDArray[np.float64]:
        """What `mesh` takes off from the model's own coordinates, float64 (3,) mm."""
        key = step_key("low corner", _VERSION, None, self.solid_key(longest_px))

        def look() -> NDArray[np.float64]:
            made = self._made(longest_px) if longest_px != FULL else self.delivered().mesh
            return np.asarray(made.vertices.min(axis=0))

        return self._cache.get(key, look)

    def _made(self, longest_px: int, progress: Progress = quiet) -> TriMesh:
        """The mesh after steps, decorations and strokes."""
        brushed = self._sculpt(longest_px, progress)
        if brushed is not None:
            return brushed.mesh
        decorated = self.decorated(longest_px, progress)
        return self.worked(progress)[-1].mesh if decorated is None else decorated.mesh

    def _sculpt(self, longest_px: int, progress: Progress = quiet) -> Sculpted | None:
        """The decorated model after its strokes, or None where there are none."""
        decorated = self.decorated(longest_px, progress) if self.document.strokes else None
        if decorated is None:
            return None

        def stroke() -> Sculpted:
            progress(BRUSHING, 0.0)
            strokes = [
                BrushStroke(each.tool, np.array(each.places, dtype=np.float64), each.radius_mm, each.strength)
                for each in self.document.strokes
            ]
            return sculpt(decorated.mesh, decorated.of_decoration > 0, strokes)

        return self._cache.get(self._made_key(longest_px), stroke)

    def _decorated_key(self, longest_px: int) -> str:
        """The key of the decorated mesh; empty where nothing is decorated."""
        shown = [each.model_dump(mode="json", exclude={"id", "on"}) for each in self.document.decorations if each.on]
        if not shown:
            return ""
        recipe = [shown, self.document.thinnest_wall_mm, self.document.detail_mm, longest_px == FULL]
        return step_key("decorated", _VERSION, recipe, self._steps_key())

    def _made_key(self, longest_px: int) -> str:
        decorated = self._decorated_key(longest_px)
        if not decorated or not self.document.strokes:
            return decorated or self._steps_key()
        strokes = [each.model_dump(mode="json", exclude={"id"}) for each in self.document.strokes]
        return step_key("strokes", _VERSION, strokes, decorated)

    def solid_key(self, longest_px: int) -> str:
        light = self.document.light.key(self.document.delivery.format) if longest_px == FULL else "shown"
        return step_key("model", _VERSION, light, self._made_key(longest_px))

    def findings(self, longest_px: int = FULL, progress: Progress = quiet) -> tuple[Finding, ...]:
        maker = self.document.maker.model_dump(mode="json")
        key = step_key("model findings", _VERSION, maker, self._made_key(longest_px))

        def look() -> tuple[Finding, ...]:
            mesh = self.worked(progress)[-1].mesh
            found = check_soundness(mesh, lambda part: progress("Looking the model over", part)).findings
            told = (
                *(with_fix(finding, self.document) for finding in found),
                *self._too_large(mesh),
            )
            return (*self._about_decorations(longest_px), *told)

        return self._cache.get(key, look)

    def build(self, progress: Progress = quiet) -> tuple[Slab, BuildReport]:
        started = time.perf_counter()
        before = len(self._made(FULL, progress).faces)
        slab = self.delivered(progress)
        soundness = check_soundness(slab.mesh, lambda part: progress("Proving it sound", part))
        report = build_report(
            soundness,
            slab,
            (
                *self._about_decorations(FULL),
                *self._too_large(slab.mesh),
            ),
            time.perf_counter() - started,
            before if self.document.light.on else None,
        )
        return slab, report

    def off_target(self, mesh: TriMesh, longest_px: int) -> NDArray[np.float64]:
        return distances_to(at_origin(self._made(longest_px)), mesh.corners.mean(axis=1))

    def _about_decorations(self, longest_px: int) -> tuple[Finding, ...]:
        decorated = self.decorated(longest_px)
        if decorated is None:
            return ()
        names = [each.art.name for each in self.document.decorations if each.on]
        low = self.low_corner(longest_px)
        brushed = self._sculpt(longest_px)
        told = (
            *decoration_findings(decorated, names, self.document.thinnest_wall_mm, self.document.detail_mm),
            *stroke_findings(0 if brushed is None else len(brushed.left_out)),
        )
        return tuple(replace(each, where=three(np.array(each.where) - low)) if each.where else each for each in told)

    def _too_large(self, mesh: TriMesh) -> tuple[Finding, ...]:
        return bed_findings(mesh, self.document.maker.to_core(), "model", TURN_OR_CUT)

    def _read(self) -> Worked:
        model = self.document.model
        return _as_it_came(read_mesh(self._sources.read(model.blob), model.name, model.unit))

    def _source_key(self) -> str:
        model = self.document.model
        return step_key("model source", _VERSION, [model.blob, model.format, model.unit])

    def _steps_key(self) -> str:
        steps = [step.model_dump(mode="json", exclude={"id", "on"}) for step in self.document.steps if step.on]
        return step_key("model steps", _VERSION, steps, self._source_key())


def _as_it_came(found: MeshFile) -> Worked:
    return Worked(found.mesh, f"{len(found.mesh.faces):,} triangles read")
