"""Evaluators over sources that tests hold in their hands."""

from collections.abc import Callable

from nebrel.piece.documents.document import Document
from nebrel.piece.evaluation.cache import ResultCache
from nebrel.piece.evaluation.evaluator import PieceEvaluator
from nebrel.piece.evaluation.sources import Sources
from nebrel.piece.registry import open_piece

Evaluate = Callable[[Document], PieceEvaluator]


def evaluate_over(read: Callable[[str], bytes], cache: ResultCache) -> Evaluate:
    """Gives the evaluator of any document over the same sources and results."""
    sources = Sources(read, cache)
    return lambda document: open_piece(document, sources).evaluator
