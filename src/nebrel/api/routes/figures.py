"""Figures in the round: few colours, and the filaments that they are printed in."""

from dataclasses import asdict
from pathlib import Path

from nebrel.api.asking.asking import InAsking
from nebrel.api.messages.figures import (
    ComparedDepthFacts,
    FewColoursFacts,
    FilamentEdit,
    FilamentView,
    ModelView,
    ServiceOrderForm,
    ServiceTermsView,
    TakenModel,
    UnsureFacts,
)
from nebrel.api.messages.jobs import JobView
from nebrel.api.messages.previews import Draft
from nebrel.api.serving.context import Context, InContext
from nebrel.api.serving.routes import group
from nebrel.api.views.figures import compared_facts, few_colours_facts, unsure_facts
from nebrel.api.views.pieces import job_of
from nebrel.core.errors import TooLargeError
from nebrel.core.figure.own_network import MOST_BYTES
from nebrel.jobs.depth_service import DepthService, ServiceError
from nebrel.piece.depths.networks import card_of, list_models, model_path
from nebrel.piece.evaluation.abilities import HasDepthSources
from nebrel.store.filaments import Filament

router = group("figures")


@router.post("/pieces/{piece_id}/few-colours")
async def look_at_few_colours(asking: InAsking, piece_id: str, draft: Draft) -> FewColoursFacts | None:
    """Which few colours a draft gets, and what they cost; nothing where it has all of them, or none."""
    return await asking.view(few_colours_facts, piece_id, draft)


@router.post("/pieces/{piece_id}/depth-sources")
async def compare_depths(asking: InAsking, piece_id: str, draft: Draft) -> list[ComparedDepthFacts]:
    """A draft by every source of depth, its own first, with what each differs by."""
    return await asking.view(compared_facts, piece_id, draft)


@router.post("/pieces/{piece_id}/unsure")
async def tell_unsure(asking: InAsking, piece_id: str, draft: Draft) -> UnsureFacts | None:
    """Where the depth of a draft is unsure; nothing where its source cannot tell."""
    return await asking.view(unsure_facts, piece_id, draft)


@router.get("/depth-service")
def tell_service(context: InContext) -> ServiceTermsView:
    """The service that depths may be asked of, and what that costs."""
    simulated = not context.workshop.settings.service_url
    try:
        with DepthService(context.service_url, context.workshop.settings.service_token) as service:
            terms = service.terms()
    except ServiceError as problem:
        return ServiceTermsView(name="The service", simulated=simulated, problem=str(problem))
    return ServiceTermsView(name=terms.name, simulated=simulated, cost=terms.cost, cost_unit=terms.cost_unit)


@router.post("/pieces/{piece_id}/ask-service", status_code=202)
def ask_service(context: InContext, piece_id: str, order: ServiceOrderForm) -> JobView:
    """Have the service make depths of the present revision; asked again, it goes on with the same order."""
    state = context.workshop.pieces.get(piece_id)
    context.workshop.opened(context.workshop.document(state)).having(HasDepthSources)
    payload = {"document": state.document, "url": context.service_url, "gives": order.gives}
    return job_of(context.jobs.submit("service", piece_id, state.revision, payload))


@router.get("/models")
def list_networks(context: InContext) -> list[ModelView]:
    """The networks in the folder of models."""
    return [ModelView(**vars(model)) for model in list_models(_models(context))]


@router.post("/models/{name}/take", status_code=201)
def take_network(context: InContext, name: str) -> TakenModel:
    """Keep a copy of a network, which a piece may name."""
    path = model_path(_models(context), name)
    if path.stat().st_size > MOST_BYTES:
        raise TooLargeError(f"{name} has {path.stat().st_size / 2**20:,.0f} MiB; up to 512 MiB are accepted.")
    beside = path.with_suffix(".json")
    card = card_of(beside.read_bytes() if beside.is_file() else None, beside.name)
    return TakenModel(blob=context.workshop.blobs.add(path.read_bytes()), name=name, card=card)


def _models(context: Context) -> Path:
    return context.workshop.settings.data_dir / "models"


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
