"""Recipes of pieces, with pictures of what they make."""

import base64

from nebrel.api.views.look import Look
from nebrel.jobs.lookers import Room
from nebrel.piece.recipes.recipe import Recipe, recipe_of
from nebrel.piece.recipes.sample import shown_on_sample


def recipe_from(look: Look, name: str) -> Recipe:
    """The settings of a piece, with a picture of it."""
    picture = base64.b64encode(look.piece.evaluator.thumbnail()).decode()
    return recipe_of(look.piece.document, name).model_copy(update={"thumbnail": picture})


def sample_png(room: Room, recipe: Recipe) -> bytes:
    """What a recipe makes of the sample."""
    return shown_on_sample(recipe, room.workshop.sources)
