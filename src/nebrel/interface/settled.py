"""Settings kept as recipes: files, plain data, or those that ship."""

import json
from collections.abc import Mapping
from pathlib import Path
from typing import Any

from nebrel.core.errors import BadValueError
from nebrel.interface.reading import read_file
from nebrel.piece.recipes.ready import ready_recipe
from nebrel.piece.recipes.recipe import Recipe, parse_recipe

MOST_BYTES = 64 * 2**20


def recipe_in(recipe: Recipe | Mapping[str, Any] | str | Path) -> Recipe:
    """A recipe: itself, its plain data, the path of its file, or the name of one that ships with Nebrel.

    Raises:
        BadValueError: it is none, or of a version that is not known here.
        NotFoundError: there is neither such a file nor such a name.
    """
    if isinstance(recipe, Recipe):
        return recipe
    if isinstance(recipe, Mapping):
        return parse_recipe(recipe)
    path = Path(recipe)
    if isinstance(recipe, str) and not path.suffix and not path.exists():
        return ready_recipe(recipe)
    try:
        data = json.loads(read_file(path, MOST_BYTES))
    except (UnicodeDecodeError, json.JSONDecodeError) as cause:
        raise BadValueError(f"{path.name} is no recipe; a JSON file that Nebrel wrote of one is needed.") from cause
    return parse_recipe(data)
