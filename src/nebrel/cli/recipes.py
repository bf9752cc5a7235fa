"""`--recipe FILE` of `nebrel make …`: settings kept from a piece, with what options say beside them."""

from __future__ import annotations

import inspect
from collections.abc import Callable, Mapping
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any, TypeVar

import typer

from nebrel.core.errors import BadValueError

if TYPE_CHECKING:
    from nebrel.piece.documents.document import Document

RecipeOption = Annotated[
    Path | None,
    typer.Option("--recipe", help="Settings kept as a recipe, a JSON file; options beside it change them."),
]
AnyDocument = TypeVar("AnyDocument", bound="Document")


def by_recipe(
    command: Callable[..., int],
    given: Mapping[str, Any],
    document_of: Callable[[Mapping[str, Any]], AnyDocument],
) -> AnyDocument:
    """The document that options ask for, or that of a recipe with what options change of it.

    Args:
        command: the function of the command; its defaults tell which options were left as they are.
        given: its options by name, `recipe` among them.
        document_of: the document that options ask for.

    Raises:
        BadValueError: the file is no recipe, or makes something else.
    """
    asked = document_of(given)
    if given["recipe"] is None:
        return asked

    from nebrel.interface.settled import recipe_in
    from nebrel.piece.recipes.recipe import follow
    from nebrel.piece.registry import merge

    path: Path = given["recipe"]
    recipe = recipe_in(path)
    plain = document_of({**given, **_defaults(command, given)})
    made = follow(plain, recipe)
    own, other = _what(plain), _what(made)
    if own != other:
        raise BadValueError(f"{path.name} makes a {recipe.makes.lower()}; `nebrel make {other}` would take it.")
    change = _difference(plain.model_dump(mode="json"), asked.model_dump(mode="json"))
    # The name of the file to write says the format, whatever the recipe's was.
    change["delivery"] = asked.delivery.model_dump(mode="json")
    result = merge(made, change)
    assert isinstance(result, type(asked))
    return result


def _defaults(command: Callable[..., int], given: Mapping[str, Any]) -> dict[str, Any]:
    parameters = inspect.signature(command).parameters.values()
    own = given.keys() - {"recipe"}
    return {each.name: each.default for each in parameters if each.default is not each.empty and each.name in own}


def _what(document: Document) -> str:
    """The command that makes such pieces."""
    from nebrel.piece.registry import kind_of, shape_of

    named = {"panel": "relief", "raised": "outline"}
    shape = shape_of(document) or kind_of(document).name
    return named.get(shape, shape)


def _difference(plain: dict[str, Any], asked: dict[str, Any]) -> dict[str, Any]:
    """The merge patch from one to the other."""
    change: dict[str, Any] = {}
    for name in plain.keys() | asked.keys():
        one, other = plain.get(name), asked.get(name)
        if isinstance(one, dict) and isinstance(other, dict) and one.get("kind") == other.get("kind"):
            if found := _difference(one, other):
                change[name] = found
        elif one != other:
            change[name] = other
    return change
