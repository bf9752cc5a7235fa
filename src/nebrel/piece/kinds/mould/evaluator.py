"""From the recipe of a mould to its parts."""

from collections.abc import Callable
from typing import Any

import numpy as np

from nebrel.core.errors import BadPictureError, BadValueError
from nebrel.core.heightfield.slab import Slab
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.measure import volume
from nebrel.core.mesh.shells import together
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
from nebrel.piece.kinds.mould.document import MouldDocument
from nebrel.piece.kinds.mould.findings import catching, filled_finding, found_plane
from nebrel.piece.parts.model_steps import Worked
from nebrel.piece.parts.piece_of import instead
from nebrel.piece.relief_reports import MouldReport
from nebrel.piece.report import BuildReport, FindingReport

Opens = Callable[[dict[str, Any], Sources], PieceEvaluator[Any]]
SINKING = "Sinking the piece into the mould"
# Samples along the longer side: of previews, and at the most.
PREVIEW_SAMPLES, MOST_SAMPLES = 300, 1600
# What becomes of x, y and z where casts are pulled off another way than upwards.
PULLS = {
    "up": np.eye(3),
    "front": np.array([[1.0, 0, 0], [0, 0, 1], [0, -1, 0]]),
    "side": np.array([[0, 1.0, 0], [0, 0, 1], [1, 0, 0]]),
}
_VERSION = 1


class MouldEvaluator(SolidEvaluator[MouldDocument], TakesPieces):
    """Sinks a piece into a mould, then works on that as on a model.

    Args:
        document, sources: as of all evaluators.
        opens: gives the evaluator of the document of the piece.
    """

    looked_px = FULL
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
            if longest_px != FULL:
                return sketch_mould(cavity, wish)
            return build_mould(cavity, wish, part.tolerance_mm, progress)

        return self._cache.get(step_key("mould parts", _VERSION, None, self.unworked_key(longest_px)), make)

    def cavity(self, longest_px: int, progress: Progress = quiet) -> Cavity:
        """What it is hollow of."""
        part = self.document.mould

        def make() -> Cavity:
            progress(SINKING, 0.0)
            solid = self.solid_cast(longest_px)
            longest = float(np.ptp(solid.vertices[:, :2], axis=0).max())
            most = MOST_SAMPLES if longest_px == FULL else PREVIEW_SAMPLES
            pitch = max(part.sample_mm, longest / most)
            return cavity_for(solid, part.to_core(), pitch, part.plane_mm if part.plane == "typed" else None)

        return self._cache.get(step_key("cavity", _VERSION, None, self.unworked_key(longest_px)), make)

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
        larger = 1 / (1 - part.shrink)
        return TriMesh(np.ascontiguousarray(mesh.vertices @ PULLS[part.pull].T) * larger, mesh.faces)

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
        report.findings = [*report.findings, *(FindingReport.of(each) for each in caught)]
        return slab, report

    def objects(self) -> list[tuple[str, TriMesh]]:
        """Every part by its name, where nothing was worked on them."""
        if self.document.is_worked or self.document.light.on or len(self.mould(FULL).parts) == 1:
            return []
        return list(self.mould(FULL).parts)
