"""From the recipe of a model to its mesh: a chain of steps, each kept by the hash of what it depends on."""

import time
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from nebrel.core.height import HeightField
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.collapse import collapsed_in_halves
from nebrel.core.mesh.distance import distances_to
from nebrel.core.mesh.formats import MeshFile, format_of, read_mesh
from nebrel.core.mesh.place import at_origin
from nebrel.core.proof import Finding, check_soundness
from nebrel.core.proof.finding import Fix
from nebrel.core.proof.from_above import heights_from_above
from nebrel.core.solid import Deviation, Slab
from nebrel.piece.cache import ResultCache, step_key
from nebrel.piece.codec import decode_slab, encode_slab
from nebrel.piece.looks import Looks, Progress, quiet
from nebrel.piece.model import ModelDocument, ModelSource, ModelStep, Worked
from nebrel.piece.prepare import FULL
from nebrel.piece.report import BuildReport, build_report

MOST_SHOWN = 100_000
STAGE = "Working on the model"
MENDED_BY_REPAIR = ("closed", "manifold", "outward", "degenerate_faces", "self_crossings")
_VERSION = 1


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

    def __init__(self, read_source: Callable[[str], bytes], cache: ResultCache) -> None:
        super().__init__(cache)
        self._read_source = read_source

    def take(self, document: ModelDocument, found: MeshFile) -> None:
        """Remember a source that was just read, so that it need not be read again."""
        self._cache.get(self._source_key(document), lambda: _as_it_came(found))

    def check(self, document: ModelDocument, progress: Progress = quiet) -> None:
        self.worked(document, progress)

    def size(self, document: ModelDocument) -> tuple[float, float, float]:
        if not any(step.on for step in document.steps):
            return document.model.size_mm
        key = step_key("model size", _VERSION, None, self._steps_key(document))
        sides = self._cache.get(
            key,
            lambda: np.ptp(self.worked(document)[-1].mesh.vertices, axis=0).tobytes(),
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

    def delivered(self, document: ModelDocument, progress: Progress = quiet) -> Slab:
        """The mesh after its steps and made light, with how far it is from the one before that."""

        def make() -> Slab:
            mesh = self.worked(document, progress)[-1].mesh
            lighter = document.light.made(
                mesh, document.delivery.format, lambda part: progress("Making it light", part)
            )
            if lighter is None:
                return Slab(mesh, Deviation(0.0, 0.0), 0.0)
            allowed = document.light.tolerance_mm if document.light.by == "tolerance" else 0.0
            return Slab(lighter.mesh, Deviation(lighter.deviation.max, lighter.deviation.rms), allowed)

        return self._cache.get(self.solid_key(document, FULL), make, encode_slab, decode_slab)

    def mesh(self, document: ModelDocument, longest_px: int = FULL) -> TriMesh:
        if longest_px == FULL:
            return at_origin(self.delivered(document).mesh)

        def sketch() -> TriMesh:
            mesh = self.worked(document)[-1].mesh
            return at_origin(mesh if len(mesh.faces) <= MOST_SHOWN else collapsed_in_halves(mesh, MOST_SHOWN))

        return self._cache.get(self.solid_key(document, longest_px), sketch)

    def from_above(self, document: ModelDocument, longest_px: int) -> HeightField:
        """Heights of the model seen from above."""
        key = step_key("from above", _VERSION, longest_px, self._steps_key(document))
        return self._cache.get(key, lambda: heights_from_above(self.mesh(document, longest_px), longest_px))

    def solid_key(self, document: ModelDocument, longest_px: int) -> str:
        light = document.light.key(document.delivery.format) if longest_px == FULL else "shown"
        return step_key("model", _VERSION, light, self._steps_key(document))

    def findings(
        self, document: ModelDocument, longest_px: int = FULL, progress: Progress = quiet
    ) -> tuple[Finding, ...]:
        key = step_key("model findings", _VERSION, document.maker.model_dump(mode="json"), self._steps_key(document))

        def look() -> tuple[Finding, ...]:
            mesh = self.worked(document, progress)[-1].mesh
            found = check_soundness(mesh, lambda part: progress("Looking the model over", part)).findings
            return (*(_with_fix(finding, document) for finding in found), *_fits(mesh, document))

        return self._cache.get(key, look)

    def build(self, document: ModelDocument, progress: Progress = quiet) -> tuple[Slab, BuildReport]:
        started = time.perf_counter()
        before = len(self.worked(document, progress)[-1].mesh.faces)
        slab = self.delivered(document, progress)
        soundness = check_soundness(slab.mesh, lambda part: progress("Proving it sound", part))
        report = build_report(
            soundness,
            slab,
            _fits(slab.mesh, document),
            time.perf_counter() - started,
            before if document.light.on else None,
        )
        return slab, report

    def off_asked(self, document: ModelDocument, mesh: TriMesh, longest_px: int) -> NDArray[np.float64]:
        return distances_to(at_origin(self.worked(document)[-1].mesh), mesh.corners.mean(axis=1))

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
