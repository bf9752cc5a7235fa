"""What is put together, as the registry knows it."""

from functools import partial

from nebrel.piece.evaluation.kind import BODY, DELIVER, PROOF, Kind, Station
from nebrel.piece.kinds.assembly.document import AssemblyDocument
from nebrel.piece.kinds.assembly.evaluator import AssemblyEvaluator, Opens


def assembly_kind(opens: Opens) -> Kind[AssemblyDocument]:
    """The kind; `opens` gives the evaluator of a part's document, of whatever kind that is."""
    return Kind(
        name="assembly",
        document=AssemblyDocument,
        evaluator=partial(AssemblyEvaluator, opens=opens),
        told_by="assembly",
        being="is put together of parts",
        words=lambda document: f"Put together of {len(document.assembly)}",
        width=lambda _: 100.0,
        begin=lambda _document, _width: {},
        stations=(Station("parts", "Parts", begins=True), BODY, PROOF, DELIVER),
    )
