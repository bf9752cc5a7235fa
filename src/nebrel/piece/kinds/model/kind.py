"""The model from elsewhere as the registry knows it."""

from nebrel.piece.evaluation.kind import BODY, DELIVER, PROOF, Kind
from nebrel.piece.kinds.model.document import ModelDocument
from nebrel.piece.kinds.model.evaluator import ModelEvaluator


def _words(document: ModelDocument) -> str:
    return "Decorated model" if any(each.on for each in document.decorations) else "Model"


MODEL = Kind(
    name="model",
    document=ModelDocument,
    evaluator=ModelEvaluator,
    told_by="model",
    being="starts from a model",
    words=_words,
    width=lambda document: document.model.size_mm[0],
    begin=lambda _document, _width: {},
    stations=(BODY, PROOF, DELIVER),
)
