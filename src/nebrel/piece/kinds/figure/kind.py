"""The figure in the round as the registry knows it."""

from nebrel.piece.documents.document import Document, PicturedDocument
from nebrel.piece.evaluation.kind import DELIVER, PICTURE, PROOF, Kind, Shape, Station
from nebrel.piece.kinds.figure.document import FigureDocument
from nebrel.piece.kinds.figure.evaluator import FigureEvaluator

CUT_OUT = {"kind": "cut-out", "id": "figure-cut-out"}


def _begin(document: Document, width: float) -> dict[str, object]:
    """A figure needs an outline: what is not cut out of its background is, as far as that is plain."""
    parts: dict[str, object] = {"figure": {"width_mm": max(2.0, width)}}
    if isinstance(document, PicturedDocument) and not any(op.kind == "cut-out" and op.on for op in document.ops):
        parts["ops"] = [*(op.model_dump(mode="json") for op in document.ops), CUT_OUT]
    return parts


FIGURE = Kind(
    name="figure",
    document=FigureDocument,
    evaluator=FigureEvaluator,
    told_by="figure",
    being="is a figure in the round",
    words=lambda _: "Figure in the round",
    width=lambda document: document.figure.width_mm,
    begin=_begin,
    stations=(PICTURE, Station("figure", "Figure", begins=True), Station("surface", "Surface"), PROOF, DELIVER),
    shapes=(Shape("figure", "Figure in the round", {}),),
    shape=lambda _: "figure",
)
