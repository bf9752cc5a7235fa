"""Targets of lightness."""

from dataclasses import asdict

from nebrel.api.messages.pieces import LightTargetEdit, LightTargetView
from nebrel.api.serving.context import InContext
from nebrel.api.serving.routes import group
from nebrel.store.targets import LightTarget

router = group("targets")


@router.get("/light-targets")
def list_targets(context: InContext) -> list[LightTargetView]:
    """The targets to choose from."""
    return [_view(target) for target in context.workshop.targets.all()]


@router.post("/light-targets", status_code=201)
def add_target(context: InContext, target: LightTargetEdit) -> LightTargetView:
    """Keep a further target."""
    return _view(context.workshop.targets.add(target.name, target.by, target.amount))


@router.put("/light-targets/{target_id}")
def change_target(context: InContext, target_id: int, target: LightTargetEdit) -> LightTargetView:
    """Change a target."""
    return _view(context.workshop.targets.change(target_id, target.name, target.by, target.amount))


@router.delete("/light-targets/{target_id}", status_code=204)
def drop_target(context: InContext, target_id: int) -> None:
    """Remove a target; pieces made with it stay as they are."""
    context.workshop.targets.drop(target_id)


def _view(target: LightTarget) -> LightTargetView:
    return LightTargetView.model_validate(asdict(target))
