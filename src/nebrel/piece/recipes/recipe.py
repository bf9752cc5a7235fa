"""Taking a recipe from a piece, and laying one on another."""

from collections.abc import Mapping
from typing import Any, Literal

from pydantic import Field

from nebrel.core.errors import BadValueError
from nebrel.piece.documents.document import Document, PicturedDocument
from nebrel.piece.parts.part import Part
from nebrel.piece.parts.refusals import parse_part
from nebrel.piece.registry import KINDS, become, kind_of, parse_document, shape_of, shapes_for

# What a piece starts from, what it is called, and what was done by hand at places of its own picture or skin.
OWN = {"version", "title", "picture", "drawing", "model", "strokes", "spots", "order", "decorations"}
LEFT_ANYWHERE = {"strokes", "spots", "order", "box", "laid"}
PLACES = {"places", "chosen"}
OUTLINE_KINDS = {"traced", "drawn"}


class Recipe(Part):
    """The settings of a piece.

    Attributes:
        recipe: version of the file.
        kind, shape: what it makes, by the names of the registry; a kind that is only ever itself has no shape.
        parts: plain data of the document's parts.
        thumbnail: base64 of a PNG that shows what it made.
    """

    recipe: Literal[1] = Field(1, title="Version of the recipe")
    name: str = Field(min_length=1, max_length=80, title="Name of the recipe")
    kind: str = Field(max_length=40, title="Kind of piece")
    shape: str = Field("", max_length=40, title="Shape")
    parts: dict[str, Any] = Field(title="Settings")
    thumbnail: str | None = Field(None, max_length=4_000_000, title="Picture of the recipe")

    @property
    def makes(self) -> str:
        """What people call that."""
        for kind in KINDS:
            if kind.name == self.kind:
                return next((shape.title for shape in kind.shapes if shape.name == self.shape), kind.name.capitalize())
        return self.kind


def recipe_of(document: Document, name: str) -> Recipe:
    """The settings of a piece, without its sources and without what was done by hand at places of theirs."""
    kept = _general(document.model_dump(mode="json", exclude=OWN & set(type(document).model_fields)))
    if isinstance(document, PicturedDocument):
        kept["ops"] = [_general(op.model_dump(mode="json")) for op in document.ops if op.is_general]
    if "mould" in kept:
        del kept["mould"]["source"]
    return Recipe(name=name, kind=kind_of(document).name, shape=shape_of(document), parts=kept)


def parse_recipe(data: object) -> Recipe:
    """A recipe from plain data, such as a file; its settings are tried on a piece that is made up.

    Raises:
        BadValueError: it is none, or is for a kind of piece that is not known here; one sentence.
    """
    if not isinstance(data, Mapping) or "recipe" not in data:
        raise BadValueError("This is no recipe; a JSON file that Nebrel wrote of one would be accepted.")
    recipe = parse_part(Recipe, data)
    kind = next((kind for kind in KINDS if kind.name == recipe.kind), None)
    if kind is None or recipe.shape not in {"", *(shape.name for shape in kind.shapes)}:
        raise BadValueError(
            f"The recipe “{recipe.name}” makes a {recipe.shape or recipe.kind}, that is not known here."
        )
    stand_in = {name: data for name, data in STAND_INS.items() if name in kind.document.model_fields}
    parse_part(kind.document, {**recipe.parts, **stand_in, "title": recipe.name})
    return recipe


def follow(document: Document, recipe: Recipe) -> Document:
    """The piece as a recipe makes it: its sources, its title and what was done to it by hand stay.

    Raises:
        BadValueError: it starts from something that the recipe has no use for.
    """
    changed = _as_kind(document, recipe)
    own = changed.model_dump(mode="json")
    fields = set(type(changed).model_fields) - OWN
    result = {**own, **{name: value for name, value in recipe.parts.items() if name in fields}}
    if isinstance(changed, PicturedDocument):
        by_hand = [op.model_dump(mode="json") for op in changed.ops if not op.is_general]
        result["ops"] = _with_fresh_ids([*by_hand, *recipe.parts.get("ops", [])])
    for name, part in own.items():
        if isinstance(part, dict) and isinstance(result[name], dict):
            result[name] = _with_own(result[name], part)
    if "height" in own and own["height"]["mask"]["blob"]:
        result["height"] = {**result["height"], "mask": own["height"]["mask"]}
    if "mould" in own:
        result["mould"] = {**result["mould"], "source": own["mould"]["source"]}
    return parse_document(result)


def _with_own(made: dict[str, Any], own: dict[str, Any]) -> dict[str, Any]:
    """Plain data of a part with what was done at places of its own piece, however deep."""
    result = {**made, **{name: own[name] for name in LEFT_ANYWHERE & own.keys()}}
    for name, part in own.items():
        if isinstance(part, dict) and isinstance(result.get(name), dict):
            result[name] = _with_own(result[name], part)
    return result


def is_for(recipe: Recipe, document: Document) -> bool:
    """Whether a recipe can be laid on a piece."""
    if recipe.shape:
        return recipe.shape in {shape.name for shape in shapes_for(document)}
    return kind_of(document).name == recipe.kind


def _as_kind(document: Document, recipe: Recipe) -> Document:
    if is_for(recipe, document):
        same = not recipe.shape or shape_of(document) == recipe.shape
        return document if same else become(document, recipe.shape)
    needs = "an outline or a picture" if recipe.kind in OUTLINE_KINDS else "a picture" if recipe.shape else "a model"
    raise BadValueError(
        f"The recipe “{recipe.name}” makes a {recipe.makes.lower()}; it needs {needs}, and this piece "
        f"{kind_of(document).being}."
    )


def _general(data: Any) -> Any:
    """Plain data without files of its own and without what was done at places."""
    if isinstance(data, dict):
        return {name: _general(value) for name, value in data.items() if not _is_own(name, value)}
    if isinstance(data, list):
        return [_general(value) for value in data if not _is_own("", value)]
    return data


def _is_own(name: str, value: Any) -> bool:
    if name in LEFT_ANYWHERE:
        return True
    return isinstance(value, dict) and (
        any(value.get(blob) for blob in ("blob", "behind_blob")) or any(value.get(places) for places in PLACES)
    )


def _with_fresh_ids(ops: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """Ids name ops among those of a piece, so none stands twice."""
    taken: set[str] = set()
    named = []
    for number, op in enumerate(ops):
        own = op.get("id")
        named.append(op if own and own not in taken else {**op, "id": f"{op['kind']}-{number + 1}"})
        taken.add(named[-1]["id"])
    return named


STAND_INS: dict[str, dict[str, object]] = {
    "picture": {
        "blob": "0" * 64, "name": "picture.png", "format": "png", "width_px": 800, "height_px": 600,
        "bit_depth": 8, "channels": "gray",
    },
    "drawing": {"blob": "0" * 64, "name": "drawing.svg", "format": "svg", "size_mm": (80.0, 60.0)},
    "model": {"blob": "0" * 64, "name": "model.stl", "format": "stl", "size_mm": (80.0, 60.0, 40.0), "triangles": 12},
}  # fmt: skip
