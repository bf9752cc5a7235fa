"""From the recipe of a model to its mesh: a chain of steps, each kept by the hash of what it depends on."""

import time
from collections.abc import Callable
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from nebrel.core.height import HeightField
from nebrel.core.heightfield.deviation import Deviation
from nebrel.core.heightfield.slab import Slab
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.collapse import collapsed_in_halves
from nebrel.core.mesh.distance import distances_to
from nebrel.core.mesh.formats import MeshFile, format_of, read_mesh
from nebrel.core.mesh.place import at_origin
from nebrel.core.picture import Picture
from nebrel.core.proof import Finding, check_soundness
from nebrel.core.proof.finding import Fix
from nebrel.core.proof.from_above import heights_from_above
from nebrel.core.proof.render import View
from nebrel.core.proof.skin_audit import decoration_findings, stroke_findings
from nebrel.core.surface.decorate import Decorated, decorate
from nebrel.core.surface.displace.sculpt import BrushStroke, Sculpted, sculpted
from nebrel.core.surface.placing import Placed, Snap, placed, snapped
from nebrel.core.surface.scatter.copies import Copies
from nebrel.core.surface.skin.skin import Skin, SkinPlace, place_on, skin_of
from nebrel.piece.evaluation.cache import ResultCache, step_key
from nebrel.piece.evaluation.codec import decode_slab, encode_slab
from nebrel.piece.evaluation.evaluator import Looks, Progress, quiet
from nebrel.piece.evaluation.prepare import FULL
from nebrel.piece.kinds.model.decorating import art_for, laid_out
from nebrel.piece.kinds.model.decoration import Decoration
from nebrel.piece.kinds.model.document import ModelDocument, ModelSource, ModelStep, Worked
from nebrel.piece.report import BuildReport, build_report

MOST_SHOWN = 100_000
STAGE = "Working on the model"
LAYING = "Laying decorations on"
BRUSHING = "Following the brush"
SKETCH_PX = 720
MOST_HOVERED = 24_000
STANDS_FROM = 0.4
STANDING = View(turn_deg=-12.0, tilt_deg=68.0, light_from_deg=-128.0, light_above_deg=34.0, upright=True)
ART_PX = 480
SKETCH_SHARE = 0.03
MENDED_BY_REPAIR = ("closed", "manifold", "outward", "degenerate_faces", "self_crossings")
_VERSION = 1


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
        told=found.told,
        size_mm=(float(sides[0]), float(sides[1]), float(sides[2])),
        triangles=len(found.mesh.faces),
    )


class ModelEvaluator(Looks[ModelDocument]):
    """Runs the steps of models. Coordinates stay as they came; for looking, the lowest corner is at the origin."""

    def __init__(
        self, read_source: Callable[[str], bytes], cache: ResultCache, read_picture: Callable[[str, str], Picture]
    ) -> None:
        super().__init__(cache)
        self._read_source = read_source
        self._read_picture = read_picture

    def take(self, document: ModelDocument, found: MeshFile) -> None:
        """Remember a source that was just read, so that it need not be read again."""
        self._cache.get(self._source_key(document), lambda: _as_it_came(found))

    def check(self, document: ModelDocument, progress: Progress = quiet) -> None:
        self.worked(document, progress)
        self.decorated(document, SKETCH_PX, progress)

    def size(self, document: ModelDocument) -> tuple[float, float, float]:
        decorated = any(each.on for each in document.decorations)
        if not decorated and not any(step.on for step in document.steps):
            return document.model.size_mm
        key = step_key("model size", _VERSION, None, self._made_key(document, SKETCH_PX))
        sides = self._cache.get(
            key,
            lambda: np.ptp(self._made(document, SKETCH_PX).vertices, axis=0).tobytes(),
            lambda data: data,
            lambda data: data,
        )
        x, y, z = np.frombuffer(sides)
        return float(x), float(y), float(z)

    def worked(self, document: ModelDocument, progress: Progress = quiet) -> list[Worked]:
        """The mesh as it came, then after every step that is on, with what each step changed."""
        key = self._source_key(document)
        progress("Reading the model", 0.0)
        results = [self._cache.get(key, lambda: self._read(document))]
        for step in document.steps:
            if not step.on:
                continue
            before = results[-1].mesh
            key = step_key("model step", _VERSION, step.model_dump(mode="json", exclude={"id", "on"}), key)

            def work(step: ModelStep = step, before: TriMesh = before) -> Worked:
                return step.worked(before, lambda part: progress(STAGE, part))

            results.append(self._cache.get(key, work))
        return results

    def skin(self, document: ModelDocument, longest_px: int = FULL) -> Skin:
        """The skin that decorations are laid on: of the model after its steps, or of a sketch of it."""
        key = step_key("skin", _VERSION, longest_px == FULL, self._steps_key(document))

        def look() -> Skin:
            mesh = self.worked(document)[-1].mesh
            light = longest_px == FULL or len(mesh.faces) <= MOST_SHOWN
            return skin_of(mesh if light else collapsed_in_halves(mesh, MOST_SHOWN))

        return self._cache.get(key, look)

    def decorated(
        self, document: ModelDocument, longest_px: int = FULL, progress: Progress = quiet
    ) -> Decorated | None:
        """The model with its decorations, or None where none is switched on."""
        shown = [each for each in document.decorations if each.on]
        if not shown:
            return None

        def lay() -> Decorated:
            progress(LAYING, 0.0)
            skin = self.skin(document, longest_px)
            tolerance = document.detail_mm
            if longest_px != FULL:
                tolerance = max(tolerance, SKETCH_SHARE * max(each.depth_mm for each in shown))
            laid = [laid_out(each, self._read_source, self._read_picture, longest_px and ART_PX) for each in shown]
            return decorate(skin, laid, tolerance, document.thinnest_wall_mm, lambda part: progress(LAYING, part))

        return self._cache.get(self._decorated_key(document, longest_px), lay)

    def delivered(self, document: ModelDocument, progress: Progress = quiet) -> Slab:
        """The mesh after steps, decorations and strokes, made light, with how far it is from the one before that."""

        def make() -> Slab:
            mesh = self._made(document, FULL, progress)
            lighter = document.light.made(
                mesh, document.delivery.format, lambda part: progress("Making it light", part)
            )
            allowed = document.detail_mm if self._decorated_key(document, FULL) else 0.0
            if lighter is None:
                return Slab(mesh, Deviation(allowed, allowed), allowed)
            by_tolerance = document.light.tolerance_mm if document.light.by == "tolerance" else 0.0
            return Slab(lighter.mesh, Deviation(lighter.deviation.max, lighter.deviation.rms), by_tolerance)

        return self._cache.get(self.solid_key(document, FULL), make, encode_slab, decode_slab)

    def mesh(self, document: ModelDocument, longest_px: int = FULL) -> TriMesh:
        if longest_px == FULL:
            return at_origin(self.delivered(document).mesh)

        def sketch() -> TriMesh:
            mesh = self._made(document, longest_px)
            decorated = self._decorated_key(document, longest_px) != ""
            return at_origin(
                mesh if decorated or len(mesh.faces) <= MOST_SHOWN else collapsed_in_halves(mesh, MOST_SHOWN)
            )

        return self._cache.get(self.solid_key(document, longest_px), sketch)

    def placement(self, document: ModelDocument, decoration: Decoration, most_copies: int, quick: bool) -> Placed:
        """Where a decoration would lie, on a coarse sketch of the skin."""
        key = step_key("skin", _VERSION, "coarse", self._steps_key(document))

        def look() -> Skin:
            mesh = self.worked(document)[-1].mesh
            return skin_of(mesh if len(mesh.faces) <= MOST_HOVERED else collapsed_in_halves(mesh, MOST_HOVERED))

        copies = decoration.copies
        return placed(
            self._cache.get(key, look),
            np.array(decoration.at),
            np.array(decoration.up),
            self.art_size(decoration),
            decoration.turn_deg,
            decoration.mirror,
            decoration.lie,
            Copies(
                copies.kind, copies.count, copies.rows, copies.across_mm, copies.up_mm, copies.turn_deg, copies.seed
            ),
            most_copies,
            quick,
            None if decoration.along is None else np.array(decoration.along),
        )

    def first_place(self, document: ModelDocument) -> tuple[tuple[float, float, float], tuple[float, float, float]]:
        """A place that is seen at once, and which way is up there: in front of what stands, else on top."""
        skin = self.skin(document, SKETCH_PX)
        low, high = skin.mesh.vertices.min(axis=0), skin.mesh.vertices.max(axis=0)
        middle = (low + high) / 2
        if stands(document):
            wished, out, up = np.array([middle[0], low[1], middle[2]]), np.array([0.0, -1.0, 0.0]), (0.0, 0.0, 1.0)
        else:
            wished, out, up = np.array([middle[0], middle[1], high[2]]), np.array([0.0, 0.0, 1.0]), (0.0, 1.0, 0.0)
        x, y, z = place_on(skin, wished, out).point
        return (float(x), float(y), float(z)), up

    def art_size(self, decoration: Decoration) -> tuple[float, float]:
        """Width and height of a decoration, mm."""
        art = decoration.art

        def look() -> NDArray[np.float64]:
            made = art_for(decoration, self._read_source, self._read_picture, ART_PX)
            return np.array([made.height / made.width])

        key = step_key("art size", _VERSION, [art.kind, art.blob])
        return decoration.width_mm, decoration.width_mm * float(self._cache.get(key, look)[0])

    def snapped(self, document: ModelDocument, at: tuple[float, ...], up: tuple[float, ...], to: Snap) -> SkinPlace:
        """The place that a decoration snaps to."""
        return snapped(self.skin(document, SKETCH_PX), np.array(at), np.array(up), to)

    def shelf_view(self, document: ModelDocument) -> View:
        return STANDING if stands(document) else super().shelf_view(document)

    def low_corner(self, document: ModelDocument, longest_px: int) -> NDArray[np.float64]:
        """What `mesh` takes off from the model's own coordinates, float64 (3,) mm."""
        key = step_key("low corner", _VERSION, None, self.solid_key(document, longest_px))

        def look() -> NDArray[np.float64]:
            made = self._made(document, longest_px) if longest_px != FULL else self.delivered(document).mesh
            return np.asarray(made.vertices.min(axis=0))

        return self._cache.get(key, look)

    def _made(self, document: ModelDocument, longest_px: int, progress: Progress = quiet) -> TriMesh:
        """The mesh after steps, decorations and strokes."""
        brushed = self._sculpted(document, longest_px, progress)
        if brushed is not None:
            return brushed.mesh
        decorated = self.decorated(document, longest_px, progress)
        return self.worked(document, progress)[-1].mesh if decorated is None else decorated.mesh

    def _sculpted(self, document: ModelDocument, longest_px: int, progress: Progress = quiet) -> Sculpted | None:
        """The decorated model after its strokes, or None where there are none."""
        decorated = self.decorated(document, longest_px, progress) if document.strokes else None
        if decorated is None:
            return None

        def stroke() -> Sculpted:
            progress(BRUSHING, 0.0)
            strokes = [
                BrushStroke(each.tool, np.array(each.places, dtype=np.float64), each.radius_mm, each.strength)
                for each in document.strokes
            ]
            return sculpted(decorated.mesh, decorated.of_decoration > 0, strokes)

        return self._cache.get(self._made_key(document, longest_px), stroke)

    def _decorated_key(self, document: ModelDocument, longest_px: int) -> str:
        """The key of the decorated mesh; empty where nothing is decorated."""
        shown = [each.model_dump(mode="json", exclude={"id", "on"}) for each in document.decorations if each.on]
        if not shown:
            return ""
        recipe = [shown, document.thinnest_wall_mm, document.detail_mm, longest_px == FULL]
        return step_key("decorated", _VERSION, recipe, self._steps_key(document))

    def _made_key(self, document: ModelDocument, longest_px: int) -> str:
        decorated = self._decorated_key(document, longest_px)
        if not decorated or not document.strokes:
            return decorated or self._steps_key(document)
        strokes = [each.model_dump(mode="json", exclude={"id"}) for each in document.strokes]
        return step_key("strokes", _VERSION, strokes, decorated)

    def from_above(self, document: ModelDocument, longest_px: int) -> HeightField:
        """Heights of the model seen from above."""
        key = step_key("from above", _VERSION, longest_px, self._made_key(document, longest_px))
        return self._cache.get(key, lambda: heights_from_above(self.mesh(document, longest_px), longest_px))

    def solid_key(self, document: ModelDocument, longest_px: int) -> str:
        light = document.light.key(document.delivery.format) if longest_px == FULL else "shown"
        return step_key("model", _VERSION, light, self._made_key(document, longest_px))

    def findings(
        self, document: ModelDocument, longest_px: int = FULL, progress: Progress = quiet
    ) -> tuple[Finding, ...]:
        maker = document.maker.model_dump(mode="json")
        key = step_key("model findings", _VERSION, maker, self._made_key(document, longest_px))

        def look() -> tuple[Finding, ...]:
            mesh = self.worked(document, progress)[-1].mesh
            found = check_soundness(mesh, lambda part: progress("Looking the model over", part)).findings
            told = (*(_with_fix(finding, document) for finding in found), *_fits(mesh, document))
            return (*self._about_decorations(document, longest_px), *told)

        return self._cache.get(key, look)

    def build(self, document: ModelDocument, progress: Progress = quiet) -> tuple[Slab, BuildReport]:
        started = time.perf_counter()
        before = len(self._made(document, FULL, progress).faces)
        slab = self.delivered(document, progress)
        soundness = check_soundness(slab.mesh, lambda part: progress("Proving it sound", part))
        report = build_report(
            soundness,
            slab,
            (*self._about_decorations(document, FULL), *_fits(slab.mesh, document)),
            time.perf_counter() - started,
            before if document.light.on else None,
        )
        return slab, report

    def off_asked(self, document: ModelDocument, mesh: TriMesh, longest_px: int) -> NDArray[np.float64]:
        return distances_to(at_origin(self._made(document, longest_px)), mesh.corners.mean(axis=1))

    def _about_decorations(self, document: ModelDocument, longest_px: int) -> tuple[Finding, ...]:
        decorated = self.decorated(document, longest_px)
        if decorated is None:
            return ()
        names = [each.art.name for each in document.decorations if each.on]
        low = self.low_corner(document, longest_px)
        brushed = self._sculpted(document, longest_px)
        told = (
            *decoration_findings(decorated, names, document.thinnest_wall_mm),
            *stroke_findings(0 if brushed is None else len(brushed.left_out)),
        )
        return tuple(
            replace(each, where=tuple(float(side) for side in np.array(each.where) - low)) if each.where else each  # type: ignore[arg-type]
            for each in told
        )

    def _read(self, document: ModelDocument) -> Worked:
        model = document.model
        return _as_it_came(read_mesh(self._read_source(model.blob), model.name, model.unit))

    def _source_key(self, document: ModelDocument) -> str:
        model = document.model
        return step_key("model source", _VERSION, [model.blob, model.format, model.unit])

    def _steps_key(self, document: ModelDocument) -> str:
        steps = [step.model_dump(mode="json", exclude={"id", "on"}) for step in document.steps if step.on]
        return step_key("model steps", _VERSION, steps, self._source_key(document))


def _as_it_came(found: MeshFile) -> Worked:
    return Worked(found.mesh, f"{len(found.mesh.faces):,} triangles read")


def _with_fix(finding: Finding, document: ModelDocument) -> Finding:
    if finding.severity != "fault" or finding.measure not in MENDED_BY_REPAIR:
        return finding
    mended = any(step.on and step.kind == "repair" for step in document.steps)
    extent = max(document.model.size_mm)
    fix = (
        Fix("remesh", {"voxel_mm": float(f"{max(extent / 200, 0.001):.2g}")}, "Make the surface anew")
        if mended
        else Fix("repair", {}, "Repair")
    )
    return Finding(finding.severity, finding.what, finding.why, finding.measure, finding.where, fix=fix)


def _fits(mesh: TriMesh, document: ModelDocument) -> tuple[Finding, ...]:
    sides = np.ptp(mesh.vertices, axis=0)
    bed = document.maker.bed_mm
    if sorted(sides[:2])[0] <= min(bed[:2]) and max(sides[:2]) <= max(bed[:2]) and sides[2] <= bed[2]:
        return ()
    size, takes = (" × ".join(f"{side:.1f}" for side in values) for values in (sides, bed))
    return (
        Finding(
            "caution",
            f"The model is {size} mm; your printer takes {takes} mm.",
            "It does not fit in one go as it lies; turn it, cut it, or choose another maker.",
            "bed",
        ),
    )
