"""From the recipe of a mould to its parts."""

from collections.abc import Callable
from typing import Any

import numpy as np

from nebrel.core.errors import BadPictureError, BadValueError
from nebrel.core.heightfield.slab import Slab
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.measure import volume
from nebrel.core.mesh.shells import together
from nebrel.core.mesh.topology import analyse
from nebrel.core.mould.build import Mould, build_mould, cavity_for, sketch_mould
from nebrel.core.mould.cavity import Cavity
from nebrel.core.proof import Finding
from nebrel.core.proof.mould_audit import MouldFacts, measure_mould
from nebrel.piece.evaluation.abilities import TakesPieces
from nebrel.piece.evaluation.cache import step_key
from nebrel.piece.evaluation.evaluator import PieceEvaluator, Progress, quiet
from nebrel.piece.evaluation.prepare import FULL
from nebrel.piece.evaluation.shown import Size
from nebrel.piece.evaluation.skinned import SKETCH_PX
from nebrel.piece.evaluation.solid import SolidEvaluator
from nebrel.piece.evaluation.sources import Sources
from nebrel.piece.kinds.mould.document import MouldDocument, MouldPart
from nebrel.piece.kinds.mould.findings import SPARE_DEG, UNLINED, catching, filled_finding, found_plane
from nebrel.piece.parts.model_steps import Worked
from nebrel.piece.parts.piece_of import instead
from nebrel.piece.relief_reports import MouldReport
from nebrel.piece.report import BuildReport, FindingReport

Opens = Callable[[dict[str, Any], Sources], PieceEvaluator[Any]]
SINKING = "Sinking the piece into the mould"
# Samples along the longer side: of previews, and at the most.
PREVIEW_SAMPLES, MOST_SAMPLES = 300, 1600
# A piece has so many across at least; and what reaches in by so many tolerances is as bad as a degree that lacks.
LEAST_SAMPLES, REACH = 4, 5.0
# What becomes of x, y and z where casts are pulled off another way than upwards.
PULLS = {
    "up": np.eye(3),
    "front": np.array([[1.0, 0, 0], [0, 0, 1], [0, -1, 0]]),
    "side": np.array([[0, 1.0, 0], [0, 0, 1], [1, 0, 0]]),
}
_VERSION = 2


class MouldEvaluator(SolidEvaluator[MouldDocument], TakesPieces):
    """Sinks a piece into a mould, then works on that as on a model.

    Args:
        document, sources: as of all evaluators.
        opens: gives the evaluator of the document of the piece.
    """

    looked_px = SKETCH_PX
    what = "mould"

    def __init__(self, document: MouldDocument, sources: Sources, opens: Opens) -> None:
        super().__init__(document, sources)
        self._opens = opens

    def with_document(self, document: MouldDocument) -> "MouldEvaluator":
        return MouldEvaluator(document, self._sources, self._opens)

    def with_piece(self, piece_id: str, document: dict[str, Any]) -> dict[str, object]:
        """Cast in it instead of what was."""
        source = {"kind": "piece", "piece_id": piece_id, "follow": True, "document": document}
        return {"mould": {"source": instead(self.document.mould.source.model_dump(mode="json"), source)}}

    @property
    def unworked_size(self) -> Size:
        key = step_key("mould size", _VERSION, None, self.unworked_key(SKETCH_PX))
        return self._kept_size(key, lambda: self.unworked(SKETCH_PX).mesh)

    def unworked(self, longest_px: int, progress: Progress = quiet) -> Worked:
        mould = self.mould(longest_px, progress)
        count = len(mould.parts)
        return Worked(together([mesh for _, mesh in mould.parts]), f"{count} part{'s' if count > 1 else ''} of a mould")

    def unworked_key(self, longest_px: int) -> str:
        part = self.document.mould.model_dump(mode="json", exclude={"source": {"piece_id", "follow"}})
        return step_key("mould", _VERSION, [part, longest_px])

    def mould(self, longest_px: int, progress: Progress = quiet) -> Mould:
        """The parts of the mould."""
        part = self.document.mould

        def make() -> Mould:
            cavity, wish = self.cavity(longest_px, progress), part.to_core()
            progress(SINKING, 0.3)
            return sketch_mould(cavity, wish) if longest_px != FULL else self._better(cavity, progress)[0]

        return self._cache.get(step_key("mould parts", _VERSION, None, self.unworked_key(longest_px)), make)

    def _better(self, cavity: Cavity, progress: Progress) -> tuple[Mould, MouldFacts]:
        """The finished parts with walls along curves, or along samples where casts come out better of those."""
        part, solid = self.document.mould, self.solid_cast(FULL)

        def built(lined: bool) -> tuple[Mould, MouldFacts]:
            own = cavity if lined else self._cavity_of(solid, FULL, widest=True)
            mould = build_mould(own, part.to_core(), part.tolerance_mm, progress, lined)
            return mould, measure_mould(mould, solid, part.floor_mm)

        curved = built(lined=True)
        if _short_of(curved[1], part) == 0:
            return curved
        sampled = built(lined=False)
        return min(curved, sampled, key=lambda each: _short_of(each[1], part))

    def cavity(self, longest_px: int, progress: Progress = quiet) -> Cavity:
        """What it is hollow of."""

        def make() -> Cavity:
            progress(SINKING, 0.0)
            return self._cavity_of(self.solid_cast(longest_px), longest_px)

        return self._cache.get(step_key("cavity", _VERSION, None, self.unworked_key(longest_px)), make)

    def _cavity_of(self, solid: TriMesh, longest_px: int, widest: bool = False) -> Cavity:
        part = self.document.mould
        width, depth = (float(side) for side in np.ptp(solid.vertices[:, :2], axis=0))
        most = MOST_SAMPLES if longest_px == FULL else PREVIEW_SAMPLES
        pitch = max(part.sample_mm, (max(width, depth) + 2 * part.rim_mm) / most)
        if min(width, depth) < LEAST_SAMPLES * pitch:
            raise BadValueError(
                f"The piece is {width:.3g} × {depth:.3g} mm as it is pulled off, and looked at every {pitch:.3g} mm; "
                "a larger piece, a finer detail or a narrower rim is needed."
            )
        plane = part.plane_mm if part.plane == "typed" else None
        return cavity_for(solid, part.to_core(), pitch, plane, widest)

    def solid_cast(self, longest_px: int) -> TriMesh:
        """The piece, larger by what it shrinks, turned so that it is pulled off upwards.

        Raises:
            BadValueError: there is none yet.
        """
        part = self.document.mould
        if not part.source.document:
            raise BadValueError("Nothing is cast in this mould yet; choose a piece of the shelf.")
        try:
            mesh = self._opens(part.source.document, self._sources).mesh(longest_px)
        except BadPictureError as cause:
            raise BadValueError(f"The piece that is cast cannot be made: {cause}") from cause
        if longest_px == FULL and not analyse(mesh).closed:
            raise BadValueError(
                "The piece that is cast is not closed, so it has no inside to sink; repair it first, or give it a back."
            )
        larger = 1 / (1 - part.shrink)
        return TriMesh(np.ascontiguousarray(mesh.vertices @ PULLS[part.pull].T) * larger, mesh.faces)

    def check(self, progress: Progress = quiet) -> None:
        # Steps and decorations are tried on the finished parts; the parts themselves on a sketch.
        if self.document.is_worked:
            super().check(progress)
        else:
            self.unworked(SKETCH_PX, progress)

    def findings(self, longest_px: int = FULL, progress: Progress = quiet) -> tuple[Finding, ...]:
        if self.document.is_worked:
            return super().findings(longest_px, progress)
        maker = self.document.maker.model_dump(mode="json")
        key = step_key("mould findings", _VERSION, maker, self.unworked_key(SKETCH_PX))
        return self._cache.get(
            key, lambda: (*self.about_itself(progress), *self._too_large(self.unworked(SKETCH_PX).mesh))
        )

    def about_itself(self, progress: Progress) -> tuple[Finding, ...]:
        cavity = self.cavity(SKETCH_PX, progress)
        filled = filled_finding(cavity.filled_mm3, self.filled_share(SKETCH_PX))
        return (*found_plane(self.document.mould, cavity.plane), *filled)

    def filled_share(self, longest_px: int) -> float:
        """How much the mould fills of undercuts and hollows, as a share of the piece."""
        own = abs(volume(self.solid_cast(longest_px)))
        return self.cavity(longest_px).filled_mm3 / max(own, 1e-9)

    def delivered(self, progress: Progress = quiet) -> Slab:
        slab = super().delivered(progress)
        if self.document.light.on or self.document.is_worked:
            return slab
        return Slab(slab.mesh, self.mould(FULL, progress).deviation, self.document.mould.tolerance_mm)

    def facts(self, progress: Progress = quiet) -> MouldFacts:
        """What is measured on the finished parts, before steps and decorations."""
        mould = self.mould(FULL, progress)
        key = step_key("mould facts", _VERSION, None, self.unworked_key(FULL))
        return self._cache.get(key, lambda: measure_mould(mould, self.solid_cast(FULL), self.document.mould.floor_mm))

    def build(self, progress: Progress = quiet) -> tuple[Slab, BuildReport]:
        slab, report = super().build(progress)
        facts, cavity = self.facts(progress), self.cavity(FULL)
        report.mould = MouldReport(
            parts=len(self.mould(FULL).parts),
            plane_mm=round(cavity.plane, 4),
            holds_cm3=round(facts.holds_mm3 / 1000, 3),
            filled_cm3=round(facts.filled_mm3 / 1000, 3),
            least_draft_deg=round(facts.least_draft_deg, 2),
            reaches_in_mm=round(facts.shallower_mm, 5),
        )
        caught = catching(facts, self.document.mould)
        unlined = () if self.mould(FULL).lined else (UNLINED,)
        report.findings = [*report.findings, *(FindingReport.of(each) for each in (*caught, *unlined))]
        return slab, report

    def objects(self) -> list[tuple[str, TriMesh]]:
        """Every part by its name, where nothing was worked on them."""
        if self.document.is_worked or self.document.light.on or len(self.mould(FULL).parts) == 1:
            return []
        return list(self.mould(FULL).parts)


def _short_of(facts: MouldFacts, part: MouldPart) -> float:
    """How far a finished mould is from what is asked: degrees of draft that lack, and what reaches in beyond twice the
    tolerance, in as many degrees."""
    lacking = max(0.0, part.draft_deg - SPARE_DEG - facts.least_draft_deg)
    reaching = max(0.0, facts.shallower_mm - 2 * part.tolerance_mm) / (REACH * part.tolerance_mm)
    return lacking + reaching
