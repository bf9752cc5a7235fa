"""From the recipe of what is put together to its mesh."""

import uuid
from collections.abc import Callable
from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from nebrel.core.csg.put_together import RGBA, PlacedSolid, PutTogether, put_together
from nebrel.core.csg.stands import make_stand
from nebrel.core.errors import NebrelError
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.shells import together
from nebrel.core.proof import Finding
from nebrel.core.region.lettering import lettering_runs
from nebrel.piece.evaluation.abilities import TakesPieces
from nebrel.piece.evaluation.cache import step_key
from nebrel.piece.evaluation.evaluator import PieceEvaluator, Progress, quiet
from nebrel.piece.evaluation.prepare import FULL
from nebrel.piece.evaluation.shown import Plan, Size, three
from nebrel.piece.evaluation.skinned import SKETCH_PX
from nebrel.piece.evaluation.solid import SolidEvaluator
from nebrel.piece.evaluation.sources import Sources
from nebrel.piece.kinds.assembly.document import AssemblyDocument, PlacedPart, ReadyPart, part_of_piece
from nebrel.piece.kinds.assembly.findings import meeting_findings, objects_lost
from nebrel.piece.kinds.assembly.placing import stood
from nebrel.piece.ops.compose import font_file
from nebrel.piece.parts.model_steps import Worked
from nebrel.piece.parts.paint import rgba_of
from nebrel.piece.parts.piece_of import PieceOf

Opens = Callable[[dict[str, Any], Sources], PieceEvaluator[Any]]
PLACING, JOINING = "Placing the parts", "Putting them together"
_VERSION = 1


class AssemblyEvaluator(SolidEvaluator[AssemblyDocument], TakesPieces):
    """Puts parts together, then works on the whole as on a model.

    Args:
        document, sources: as of all evaluators.
        opens: gives the evaluator of the document of a part.
    """

    looked_px = FULL
    what = "whole"

    def __init__(self, document: AssemblyDocument, sources: Sources, opens: Opens) -> None:
        super().__init__(document, sources)
        self._opens = opens

    def with_piece(self, piece_id: str, document: dict[str, Any]) -> dict[str, object]:
        """On top of what is there, in its middle."""
        there = self.document.assembly
        middle = (there[0].x_mm, there[0].y_mm) if there else (0.0, 0.0)
        part = part_of_piece(0, str(document.get("title", "Part")), piece_id, document, middle)
        added = part.model_copy(update={"id": f"part-{uuid.uuid4().hex[:8]}", "stands": "on"})
        return {"assembly": [each.model_dump(mode="json") for each in (*there, added)]}

    def with_document(self, document: AssemblyDocument) -> "AssemblyEvaluator":
        return AssemblyEvaluator(document, self._sources, self._opens)

    @property
    def unworked_size(self) -> Size:
        key = step_key("assembly size", _VERSION, None, self.unworked_key(SKETCH_PX))
        return self._kept_size(key, lambda: self.unworked(SKETCH_PX).mesh)

    @property
    def shown_parts(self) -> list[PlacedPart]:
        """Those that are switched on."""
        return [part for part in self.document.assembly if part.on]

    def unworked(self, longest_px: int, progress: Progress = quiet) -> Worked:
        if longest_px == FULL:
            whole = self.whole(progress)
            count = len(self.solids(FULL))
            return Worked(whole.mesh, f"{count:,} part{'s' if count != 1 else ''} put together")

        def sketch() -> Worked:
            solids = self.solids(longest_px, progress)
            try:
                mesh = put_together(solids).mesh
            except NebrelError:
                # Sketches of pieces need not be closed; then they are shown beside each other.
                mesh = together([TriMesh(each.mesh.vertices, each.mesh.faces) for each in solids])
            return Worked(mesh, "")

        return self._cache.get(self.unworked_key(longest_px), sketch)

    def unworked_key(self, longest_px: int) -> str:
        parts = [part.model_dump(mode="json", exclude={"id", "on", "name"}) for part in self.shown_parts]
        return step_key("assembly", _VERSION, [parts, longest_px])

    def whole(self, progress: Progress = quiet) -> PutTogether:
        """All parts put together, of their finished solids."""

        def make() -> PutTogether:
            solids = self.solids(FULL, progress)
            progress(JOINING, 0.5)
            return put_together(solids)

        return self._cache.get(self.unworked_key(FULL), make)

    def solids(self, longest_px: int, progress: Progress = quiet) -> list[PlacedSolid]:
        """Every part and copy where it stands, in order."""
        shown = self.shown_parts
        key = step_key("placed parts", _VERSION, None, self.unworked_key(longest_px))

        def place() -> list[PlacedSolid]:
            standing: list[PlacedSolid] = []
            for number, part in enumerate(shown):
                progress(PLACING, number / len(shown))
                below = [each.mesh for each in standing if each.how != "cut"]
                for mesh in stood(part, self.source_of(part, longest_px), below):
                    standing.append(PlacedSolid(mesh, part.how, _rgba(part), part.name))
            return standing

        return self._cache.get(key, place)

    def source_of(self, part: PlacedPart, longest_px: int) -> TriMesh:
        """The mesh of what a part is, before it is placed."""
        if isinstance(part.source, PieceOf):
            evaluator = self._opens(part.source.document, self._sources)
            return evaluator.painted(evaluator.mesh(longest_px))
        key = step_key("ready part", _VERSION, part.source.model_dump(mode="json"))
        source = part.source
        return self._cache.get(key, lambda: _made_ready(source))

    def about_itself(self, progress: Progress) -> tuple[Finding, ...]:
        solids = self.solids(FULL)
        low = three(np.vstack([each.mesh.vertices for each in solids]).min(axis=0))
        ids = [part.id for part in self.shown_parts for _ in range(part.copies)]
        found = meeting_findings(self.whole(progress), solids, ids, low)
        lost = self.document.objects == "each" and self.document.is_worked
        return (objects_lost(), *found) if lost else found

    def plan(self, longest_px: int, upto: str | None = None, progress: Progress = quiet) -> Plan:
        """As of a model; places of parts are told in its frame."""
        found = super().plan(longest_px, upto, progress)
        (left, low, _), (width, depth, _) = self.low_corner(longest_px), found.size
        return replace(
            found, from_source=np.array([[1 / width, 0, -left / width], [0, 1 / depth, -low / depth], [0, 0, 1]])
        )

    def objects(self) -> list[tuple[str, TriMesh]]:
        """Name and mesh of every part that is delivered as an object of its own; empty where the whole is one."""
        if self.document.objects == "one" or self.document.is_worked:
            return []
        solids = [each for each in self.solids(FULL) if each.how != "cut"]
        cutters = [each for each in self.solids(FULL) if each.how == "cut"]
        made = []
        for each in solids:
            around = cutters if each.how == "join" else []
            made.append((each.name, put_together([each, *around]).mesh))
        return made


def _made_ready(part: ReadyPart) -> TriMesh:
    runs: tuple[NDArray[np.float64], ...] = ()
    if part.text.strip() and part.shape in ("plate", "disc", "plinth"):
        found = lettering_runs(part.text, font_file(part.font), part.letter_mm)
        up = 0.0 if part.shape == "plinth" else part.letter_up_mm
        runs = tuple(run + np.array([0.0, up]) for run in found)
    return make_stand(part.shape, (part.width_mm, part.depth_mm, part.height_mm), runs, part.raised_mm)


def _rgba(part: PlacedPart) -> RGBA | None:
    return rgba_of(part.colour) if part.colour_on else None
