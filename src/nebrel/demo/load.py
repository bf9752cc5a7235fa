"""Putting the sample pieces on an empty shelf."""

from nebrel.demo.scenario import DRAWINGS, MODELS, SAMPLES, SampleModel
from nebrel.jobs.library import Library
from nebrel.jobs.workshop import Workshop, open_workshop
from nebrel.piece.parts.document import Document
from nebrel.piece.registry import Piece, merged
from nebrel.settings import Settings


def load_demo(settings: Settings) -> int:
    """Draw the Fernhollow pieces, unless the shelf ever held one; returns how many were added."""
    workshop = open_workshop(settings)
    try:
        if workshop.pieces.count():
            return 0
        for drawing in DRAWINGS:
            print(f"Drawing {drawing.title} …", flush=True)
            state = workshop.start_drawing(drawing.file(), drawing.file_name, None, drawing.title, **drawing.parts)
            piece = workshop.piece(state.id)
            _look_at(piece)
            Library(workshop).keep(piece, drawing.motif, drawing.tags)
        for model in MODELS:
            print(f"Making {model.title} …", flush=True)
            _look_at(workshop.opened(_decorated(workshop, model)))
        for sample in SAMPLES:
            print(f"Drawing {sample.title} …", flush=True)
            state = workshop.start_piece(sample.file(), sample.file_name, sample.title, **sample.parts)
            _look_at(workshop.piece(state.id))
        return len(SAMPLES) + len(MODELS) + len(DRAWINGS)
    finally:
        workshop.close()


def _decorated(workshop: Workshop, model: SampleModel) -> Document:
    """A piece that starts from a model, with its decorations as a second revision."""
    state = workshop.start_model(model.file(), model.file_name, title=model.title)
    document = workshop.document(state)
    if not model.decorations:
        return document
    library, motifs = Library(workshop), {motif.name: motif for motif in workshop.motifs.found()}
    laid = [
        {"id": f"laid-{number}", **parts, **library.art_of(motifs[name], follow=True)}
        for number, (name, parts) in enumerate(model.decorations, start=1)
    ]
    document = merged(document, {"decorations": laid})
    workshop.pieces.revise(state.id, state.revision, document.model_dump(mode="json"), "Laid on")
    return document


def _look_at(piece: Piece) -> None:
    """Work out what the shelf shows of a piece, so that it opens at once."""
    piece.evaluator.thumbnail()
    _ = piece.evaluator.size_mm
