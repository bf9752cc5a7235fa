"""Moulds as the registry knows them."""

from functools import partial

from nebrel.piece.evaluation.kind import BODY, DELIVER, PROOF, Kind, Station
from nebrel.piece.kinds.mould.document import MouldDocument
from nebrel.piece.kinds.mould.evaluator import MouldEvaluator, Opens

WORDS = {"open": "Open mould", "halves": "Mould in two halves", "die": "Die"}


def mould_kind(opens: Opens) -> Kind[MouldDocument]:
    """The kind; `opens` gives the evaluator of the document of what is cast, of whatever kind that is."""
    return Kind(
        name="mould",
        document=MouldDocument,
        evaluator=partial(MouldEvaluator, opens=opens),
        told_by="mould",
        being="is a mould of another piece",
        words=lambda document: WORDS[document.mould.kind],
        width=lambda _: 100.0,
        begin=lambda _document, _width: {},
        stations=(Station("mould", "Mould", begins=True), BODY, PROOF, DELIVER),
    )
