"""Figures in the round: few colours, and the filaments that they are printed in."""

from dataclasses import asdict

from fastapi import APIRouter

from nebrel.api.messages.figures import FewColoursFacts, FilamentEdit, FilamentView
from nebrel.api.messages.previews import Draft
from nebrel.api.serving.context import InContext
from nebrel.api.views.figures import few_colours_facts
from nebrel.piece.evaluation.abilities import HasFewColours
from nebrel.store.filaments import Filament

router = APIRouter(tags=["figures"])


@router.post("/pieces/{piece_id}/few-colours")
def look_at_few_colours(context: InContext, piece_id: str, draft: Draft) -> FewColoursFacts | None:
    """Which few colours a draft gets, and what they cost; nothing where it has all of them, or none."""
    found = context.drafted(piece_id, draft).having(HasFewColours).few_colours()
    return None if found is None else few_colours_facts(found)


@router.get("/filaments")
def list_filaments(context: InContext) -> list[FilamentView]:
    """The filaments to choose from."""
    return [_view(filament) for filament in context.workshop.filaments.all()]


@router.post("/filaments", status_code=201)
def add_filament(context: InContext, filament: FilamentEdit) -> FilamentView:
    """Keep a further filament."""
    return _view(context.workshop.filaments.add(filament.name, filament.colour))


@router.put("/filaments/{filament_id}")
def change_filament(context: InContext, filament_id: int, filament: FilamentEdit) -> FilamentView:
    """Change a filament; pieces keep what they were made with."""
    return _view(context.workshop.filaments.change(filament_id, filament.name, filament.colour))


@router.delete("/filaments/{filament_id}", status_code=204)
def drop_filament(context: InContext, filament_id: int) -> None:
    """Remove a filament; pieces keep what they were made with."""
    context.workshop.filaments.drop(filament_id)


def _view(filament: Filament) -> FilamentView:
    return FilamentView.model_validate(asdict(filament))
