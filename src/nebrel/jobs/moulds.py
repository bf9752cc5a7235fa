"""Moulds of pieces: how they are begun."""

from nebrel.jobs.workshop import Begun, Workshop
from nebrel.piece.evaluation.skinned import SKETCH_PX
from nebrel.piece.kinds.mould.document import MouldDocument, MouldPart
from nebrel.piece.kinds.mould.evaluator import MouldEvaluator
from nebrel.piece.parts.piece_of import PieceOf

# Where an open mould fills so much of a piece and halves fill less, it is cast in two halves at first.
MUCH_FILLED = 0.03
RIM_SHARE, LEAST_RIM_MM = 0.08, 8.0


def mould_of(workshop: Workshop, piece_id: str, title: str | None = None) -> Begun:
    """The document of a mould that follows a piece: open for what is flat, in two halves for what is in the round.

    Raises:
        NotFoundError: the piece is gone.
        NebrelError: it has no solid that can be cast.
    """
    state = workshop.pieces.get(piece_id)
    piece = workshop.opened(workshop.document(state))
    width, depth, _ = piece.evaluator.size_mm
    part = MouldPart(
        source=PieceOf(piece_id=piece_id, document=state.document),
        rim_mm=max(LEAST_RIM_MM, round(RIM_SHARE * max(width, depth), 1)),
    )
    named = (title or f"Mould of {piece.document.title}")[:120]
    made = MouldDocument(title=named, mould=part, maker=piece.document.maker)
    halved = made.model_copy(update={"mould": part.model_copy(update={"kind": "halves"})})
    if MUCH_FILLED < _filled(workshop, made) > _filled(workshop, halved):
        made = halved
    workshop.opened(made).evaluator.check()
    return made.model_dump(mode="json"), f"Mould of {piece.document.title}"[:200]


def _filled(workshop: Workshop, document: MouldDocument) -> float:
    evaluator = workshop.opened(document).evaluator
    assert isinstance(evaluator, MouldEvaluator)
    return evaluator.filled_share(SKETCH_PX)
