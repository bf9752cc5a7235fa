"""Putting the sample pieces on an empty shelf, one after another, and going on where a stop broke off."""

import json
from collections.abc import Callable
from pathlib import Path

from nebrel.demo.scenario import (
    DRAWINGS,
    MODELS,
    SAMPLES,
    SHEETS,
    WHOLES,
    SampleDrawing,
    SampleModel,
    SamplePiece,
    SampleSheet,
    SampleWhole,
)
from nebrel.jobs.assemblies import begin_together
from nebrel.jobs.library import Library
from nebrel.jobs.sheets import LineOfText, start_on_sheet
from nebrel.jobs.workshop import Workshop, open_workshop
from nebrel.piece.evaluation.abilities import TakesPieces
from nebrel.piece.registry import Piece, merge, parse_document
from nebrel.settings import Settings
from nebrel.store.pieces import PieceState

# Names of the pieces that are drawn, while some are still to come.
LEFT = "demo.json"
COMPLETE = "The Fernhollow pieces are all there."
INCOMPLETE = "The Fernhollow pieces could not all be drawn; what stands above tells why."
Told = Callable[[str, int], None]


def load_demo(settings: Settings, told: Told = lambda _id, _revision: None) -> int:
    """Draw the Fernhollow pieces, unless the shelf ever held others; returns how many were added.

    Args:
        settings: of the data folder.
        told: called with id and revision of every piece as soon as it is on the shelf.
    """
    workshop, begun = open_workshop(settings), settings.data_dir / LEFT
    try:
        drawn = _read_drawn(begun)
        if workshop.pieces.count() and drawn is None:
            return 0
        done, added = list(drawn or ()), 0
        for sample in (*DRAWINGS, *MODELS, *WHOLES, *SHEETS, *SAMPLES):
            if sample.title in done:
                continue
            print(f"Drawing {sample.title} …", flush=True)
            piece_id, revision = _put(workshop, sample)
            told(piece_id, revision)
            done.append(sample.title)
            begun.write_text(json.dumps(done), encoding="utf-8")
            added += 1
        begun.unlink(missing_ok=True)
        return added
    finally:
        workshop.close()


def _read_drawn(begun: Path) -> list[str] | None:
    """What an earlier start drew before it was stopped, or None where none was."""
    return list(json.loads(begun.read_text(encoding="utf-8"))) if begun.exists() else None


def _put(
    workshop: Workshop, sample: SamplePiece | SampleDrawing | SampleModel | SampleSheet | SampleWhole
) -> tuple[str, int]:
    if isinstance(sample, SampleSheet):
        return _put_sheet(workshop, sample)
    if isinstance(sample, SampleWhole):
        return _put_whole(workshop, sample)
    if isinstance(sample, SampleModel):
        return _put_model(workshop, sample)
    if isinstance(sample, SampleDrawing):
        state = workshop.start_drawing(sample.file(), sample.file_name, None, sample.title, parts=sample.parts)
        Library(workshop).keep(workshop.piece(state.id), sample.motif, sample.tags)
    else:
        state = workshop.start_piece(sample.file(), sample.file_name, sample.title, **sample.parts)
        state = _lay(workshop, state, sample.laid) if sample.laid else state
    _look_at(workshop.piece(state.id))
    return state.id, state.revision


def _lay(workshop: Workshop, state: PieceState, laid: tuple[tuple[str, dict[str, object]], ...]) -> PieceState:
    """A panel with other pieces of the shelf laid on it, as a second revision."""
    by_title = {str(each.document["title"]): each for each in workshop.pieces.all()}
    document = workshop.document(state)
    for title, how in laid:
        other = by_title[title]
        piece = workshop.opened(document)
        taken = merge(document, piece.having(TakesPieces).with_piece(other.id, other.document))
        reliefs = taken.model_dump(mode="json")["height"]["laid"]
        last = {**reliefs[-1], **how, "rule": {**reliefs[-1]["rule"], **dict(how.get("rule", {}))}}  # type: ignore[call-overload]
        document = merge(document, {"height": {"laid": [*reliefs[:-1], last]}})
    return workshop.pieces.revise(state.id, state.revision, document.model_dump(mode="json"), "Laid on")


def _put_model(workshop: Workshop, model: SampleModel) -> tuple[str, int]:
    """A piece that starts from a model, with its decorations as a second revision."""
    state = workshop.start_model(model.file(), model.file_name, title=model.title)
    if model.decorations:
        library, motifs = Library(workshop), {motif.name: motif for motif in workshop.motifs.found()}
        laid = [
            {"id": f"laid-{number}", **parts, **library.art_of(motifs[name], follow=True)}
            for number, (name, parts) in enumerate(model.decorations, start=1)
        ]
        document = merge(workshop.document(state), {"decorations": laid})
        state = workshop.pieces.revise(state.id, state.revision, document.model_dump(mode="json"), "Laid on")
    _look_at(workshop.piece(state.id))
    return state.id, state.revision


def _put_sheet(workshop: Workshop, sheet: SampleSheet) -> tuple[str, int]:
    """A piece on a sheet of its own, with what is drawn on it as a second revision."""
    state = start_on_sheet(workshop, sheet.size, sheet.ground, sheet.title, LineOfText(sheet.text, "round", 1.0, 17.0))
    document = workshop.document(state)
    own = document.model_dump(mode="json")["ops"]
    drawn = merge(document, {"ops": [*own, *sheet.ops]})
    state = workshop.pieces.revise(state.id, state.revision, drawn.model_dump(mode="json"), "Drawn on")
    _look_at(workshop.piece(state.id))
    return state.id, state.revision


def _put_whole(workshop: Workshop, whole: SampleWhole) -> tuple[str, int]:
    """Pieces that are on the shelf put together with ready parts, which come first."""
    by_title = {str(state.document["title"]): state.id for state in workshop.pieces.all()}
    state = begin_together(workshop, [by_title[title] for title, _ in whole.pieces], whole.title)
    document = workshop.document(state).model_dump(mode="json")
    parts = [
        {**part, "how": "join", "x_mm": 0, "y_mm": 0, **more}
        for part, (_, more) in zip(document["assembly"], whole.pieces, strict=True)
    ]
    made = parse_document({**document, "assembly": [*whole.ready, *parts]})
    state = workshop.pieces.revise(state.id, state.revision, made.model_dump(mode="json"), "Set on its base")
    _look_at(workshop.piece(state.id))
    return state.id, state.revision


def _look_at(piece: Piece) -> None:
    """Work out what the shelf shows of a piece, so that it opens at once."""
    piece.evaluator.thumbnail()
    _ = piece.evaluator.size_mm
