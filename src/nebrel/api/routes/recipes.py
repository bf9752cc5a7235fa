"""Recipes: kept settings of pieces, laid on others, as files."""

import base64
import binascii

from fastapi import Response
from starlette.concurrency import run_in_threadpool

from nebrel.api.asking.asking import InAsking
from nebrel.api.messages.choices import RecipeFile, RecipeName, RecipeOrder, RecipeView
from nebrel.api.messages.pieces import PieceView
from nebrel.api.serving.context import Context, InContext
from nebrel.api.serving.routes import group
from nebrel.api.views.recipes import recipe_from, sample_png
from nebrel.core.errors import BadValueError, ConflictError, NotFoundError
from nebrel.jobs import edits
from nebrel.piece.documents.document import Document
from nebrel.piece.recipes.ready import READY_RECIPES
from nebrel.piece.recipes.recipe import Recipe, is_for, parse_recipe
from nebrel.store.kept_parts import KeptPart

router = group("recipes")
READY = "ready-"
LASTING = {"Cache-Control": "private, max-age=86400"}


@router.get("/recipes")
def list_recipes(context: InContext, piece_id: str | None = None) -> list[RecipeView]:
    """Those that are always there, then those that were kept; with a piece, which of them fit it."""
    pieces = context.workshop.pieces
    document = None if piece_id is None else context.workshop.document(pieces.get(piece_id))
    ready = [_view(f"{READY}{at}", recipe, document) for at, recipe in enumerate(READY_RECIPES)]
    return ready + [_view(str(kept.id), _recipe(kept), document) for kept in context.workshop.recipes.all()]


@router.post("/recipes", status_code=201)
async def keep_recipe(asking: InAsking, order: RecipeName) -> RecipeView:
    """Keep the settings of a piece, with a picture of it."""
    recipe = await asking.view(recipe_from, order.piece_id, None, order.name.strip())
    return await run_in_threadpool(_keep, asking.context, recipe)


@router.post("/recipe-files", status_code=201)
def bring_recipe(context: InContext, file: dict[str, object]) -> RecipeView:
    """Keep a recipe from a file; refused in one sentence when it is none."""
    recipe = parse_recipe(file)
    if recipe.thumbnail is not None:
        _picture_in(recipe)
    return _keep(context, recipe)


@router.get("/recipes/{key}/file")
def get_recipe_file(context: InContext, key: str) -> RecipeFile:
    """A recipe as a file holds it."""
    return RecipeFile.model_validate(_named(context, key).model_dump())


@router.get("/recipes/{key}/thumbnail.png", response_class=Response)
async def show_recipe(asking: InAsking, key: str) -> Response:
    """The piece that it was kept from, or what it makes of a sample."""
    recipe = await run_in_threadpool(_named, asking.context, key)
    kept = recipe.thumbnail is not None
    picture = _picture_in(recipe) if kept else await asking.shown(sample_png, recipe.name, recipe)
    return Response(picture, media_type="image/png", headers=LASTING)


@router.delete("/recipes/{key}", status_code=204)
def drop_recipe(context: InContext, key: str) -> None:
    """Forget a recipe; pieces stay as they are."""
    if key.startswith(READY):
        raise ConflictError("This recipe is always there; those that you kept can be forgotten.")
    context.workshop.recipes.drop(_number(key))


@router.post("/pieces/{piece_id}/recipe", status_code=201)
async def follow_recipe(asking: InAsking, piece_id: str, order: RecipeOrder) -> PieceView:
    """Make the piece by a recipe, as a new revision."""
    recipe = await run_in_threadpool(_named, asking.context, order.key)
    made = await asking.decided(edits.follow_recipe, piece_id, piece_id, order.base, recipe)
    return await asking.revised(piece_id, order.base, made, f"By the recipe {recipe.name}")


def _keep(context: Context, recipe: Recipe) -> RecipeView:
    if any(recipe.name.lower() == ready.name.lower() for ready in READY_RECIPES):
        raise ConflictError(f"There is a recipe named {recipe.name} already; another name is needed.")
    kept = context.workshop.recipes.add(recipe.name, recipe.model_dump(exclude={"name"}))
    return _view(str(kept.id), recipe, None)


def _named(context: Context, key: str) -> Recipe:
    if not key.startswith(READY):
        return _recipe(context.workshop.recipes.get(_number(key)))
    at = _number(key.removeprefix(READY))
    if at >= len(READY_RECIPES):
        raise NotFoundError("There is no such recipe.")
    return READY_RECIPES[at]


def _recipe(kept: KeptPart) -> Recipe:
    return Recipe.model_validate({"name": kept.name, **kept.facts})


def _view(key: str, recipe: Recipe, document: Document | None) -> RecipeView:
    fits = document is None or is_for(recipe, document)
    return RecipeView(key=key, name=recipe.name, makes=recipe.makes, ready=key.startswith(READY), fits=fits)


def _picture_in(recipe: Recipe) -> bytes:
    try:
        data = base64.b64decode(recipe.thumbnail or "", validate=True)
    except (binascii.Error, ValueError) as cause:
        raise BadValueError("The picture of the recipe cannot be read; a file that Nebrel wrote is needed.") from cause
    if not data.startswith(b"\x89PNG"):
        raise BadValueError("The picture of the recipe is no PNG; a file that Nebrel wrote is needed.")
    return data


def _number(key: str) -> int:
    if not key.isdigit():
        raise NotFoundError("There is no such recipe.")
    return int(key)
