"""What evaluators of models and of what is put together share: how the mesh is looked at, made light and proved."""

import time
from abc import abstractmethod
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from nebrel.core.heightfield.from_above import heights_from_above
from nebrel.core.heightfield.slab import Slab
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.collapse import collapse_in_halves
from nebrel.core.mesh.distance import distances_to
from nebrel.core.mesh.place import at_origin
from nebrel.core.mesh.surface_error import BOTH_WAYS, Deviation
from nebrel.core.proof import Finding, check_soundness
from nebrel.core.proof.makeable import bed_findings
from nebrel.piece.documents.worked import WorkedDocument
from nebrel.piece.evaluation.cache import step_key
from nebrel.piece.evaluation.codec import decode_slab, encode_slab
from nebrel.piece.evaluation.evaluator import Progress, quiet
from nebrel.piece.evaluation.prepare import FULL
from nebrel.piece.evaluation.shown import Plan, Size, plan_from_above
from nebrel.piece.evaluation.skinned import MOST_SHOWN, SKETCH_PX, SkinnedEvaluator
from nebrel.piece.report import BuildReport, build_report

OF_MODEL = "to the nearest place, from the model before it was made light"
AS_IT_CAME = "nothing to measure: the mesh is the model itself"
STANDS_FROM = 0.4
TURN_OR_CUT = "It does not fit in one go as it lies; turn it, cut it, or choose another maker."
AnyWorked = TypeVar("AnyWorked", bound=WorkedDocument)
_VERSION = 2


def tall_enough(size: Size) -> bool:
    """Whether something is tall enough to be looked at from in front and not from above."""
    x, y, z = size
    return z >= STANDS_FROM * max(x, y)


class SolidEvaluator(SkinnedEvaluator[AnyWorked]):
    """Runs steps on a mesh. Coordinates stay as they came; for looking, the lowest corner is at the origin."""

    # What it is called in sentences.
    what = "model"

    @property
    @abstractmethod
    def unworked_size(self) -> Size:
        """Sides of the mesh before all steps."""

    def with_fixes(self, findings: tuple[Finding, ...]) -> tuple[Finding, ...]:
        """Findings with what would mend them, where it is known."""
        return findings

    def about_itself(self, progress: Progress) -> tuple[Finding, ...]:
        """What is known besides of how its mesh comes about."""
        return ()

    def check(self, progress: Progress = quiet) -> None:
        self.worked(FULL, progress)
        self.decorated(SKETCH_PX, progress)

    @property
    def size_mm(self) -> Size:
        if not self.document.is_worked:
            return self.unworked_size
        key = step_key("model size", _VERSION, None, self.made_key(SKETCH_PX))
        return self._kept_size(key, lambda: self.made(SKETCH_PX))

    @property
    def standing(self) -> bool:
        return tall_enough(self.unworked_size)

    def plan(self, longest_px: int, upto: str | None = None, progress: Progress = quiet) -> Plan:
        key = step_key("from above", _VERSION, longest_px, self.made_key(longest_px))
        above = self._cache.get(key, lambda: heights_from_above(self.mesh(longest_px), longest_px))
        width, depth, _ = self.size_mm
        return plan_from_above(above, width, depth)

    def delivered(self, progress: Progress = quiet) -> Slab:
        """The mesh after steps, decorations and strokes, made light, with how far it is from the one before that."""

        def make() -> Slab:
            mesh = self.made(FULL, progress)
            lighter = self.document.light.simplify(
                mesh, self.document.delivery.format, lambda part: progress("Making it light", part)
            )
            if lighter is not None:
                apart = lighter.deviation
                by_tolerance = self.document.light.tolerance_mm if self.document.light.by == "tolerance" else 0.0
                return Slab(lighter.mesh, Deviation(apart.max, apart.rms, OF_MODEL, BOTH_WAYS), by_tolerance)
            apart_from_asked = self.decoration_error(progress)
            if apart_from_asked is not None:
                return Slab(mesh, apart_from_asked, self.document.detail_mm)
            return Slab(mesh, Deviation(0.0, 0.0, AS_IT_CAME, "nowhere"), 0.0)

        return self._cache.get(self.solid_key(FULL), make, encode_slab, decode_slab)

    def mesh(self, longest_px: int = FULL) -> TriMesh:
        if longest_px == FULL:
            return at_origin(self.delivered().mesh)

        def sketch() -> TriMesh:
            mesh = self.made(longest_px)
            decorated = self.decorated_key(longest_px) != ""
            return at_origin(
                mesh if decorated or len(mesh.faces) <= MOST_SHOWN else collapse_in_halves(mesh, MOST_SHOWN)
            )

        return self._cache.get(self.solid_key(longest_px), sketch)

    def solid_key(self, longest_px: int) -> str:
        light = self.document.light.key(self.document.delivery.format) if longest_px == FULL else "shown"
        return step_key("model", _VERSION, light, self.made_key(longest_px))

    def findings(self, longest_px: int = FULL, progress: Progress = quiet) -> tuple[Finding, ...]:
        maker = self.document.maker.model_dump(mode="json")
        key = step_key("model findings", _VERSION, maker, self.made_key(longest_px))

        def look() -> tuple[Finding, ...]:
            mesh = self.worked(FULL, progress)[-1].mesh
            found = check_soundness(mesh, lambda part: progress("Looking the model over", part)).findings
            told = (*self.with_fixes(found), *self._too_large(mesh))
            return (*self.about_itself(progress), *self.about_decorations(longest_px), *told)

        return self._cache.get(key, look)

    def build(self, progress: Progress = quiet) -> tuple[Slab, BuildReport]:
        started = time.perf_counter()
        before = len(self.made(FULL, progress).faces)
        slab = self.delivered(progress)
        soundness = check_soundness(slab.mesh, lambda part: progress("Proving it sound", part))
        report = build_report(
            soundness,
            slab,
            (
                *self.about_itself(progress),
                *self.about_decorations(FULL),
                *self._too_large(slab.mesh),
                *self.document.light.missed(slab.mesh),
            ),
            time.perf_counter() - started,
            before if self.document.light.on else None,
        )
        return slab, report

    def off_target(self, mesh: TriMesh, longest_px: int) -> NDArray[np.float64]:
        return distances_to(at_origin(self.made(longest_px)), mesh.corners.mean(axis=1))

    def _too_large(self, mesh: TriMesh) -> tuple[Finding, ...]:
        return bed_findings(mesh, self.document.maker.to_core(), self.what, TURN_OR_CUT)

    def placed(self, longest_px: int) -> TriMesh:
        return self.made(longest_px) if longest_px != FULL else self.delivered().mesh
