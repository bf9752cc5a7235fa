"""The settings of every kind of piece, from the classes that hold them."""

from nebrel.api.routes.parts import all_parts
from nebrel.piece.ops.catalogue import catalogue
from nebrel.piece.parts.schema import PartField, PartSchema
from tools.handbook.tables import cell, table

# What all kinds have, or is told on a page of its own.
ELSEWHERE = ("version", "title", "ops", "light", "maker", "printing", "carving", "paint", "picture", "drawing", "model")
KINDS = {"number": "number", "whole": "whole number", "numbers": "numbers", "colour": "colour", "text": "text"}


def settings_of(kind: str) -> str:
    """The parts of a kind of piece and of what is nested in them, each with its settings."""
    told = all_parts()
    document = told.parts[told.documents[kind]]
    seen: set[str] = set()
    text = ""
    for field in document.fields:
        if field.name not in ELSEWHERE:
            text += _part(field, told.parts, seen, 3)
    return text


def ops_table() -> str:
    """Every step that prepares a picture."""
    return table(("step", "what it does"), [(op.title, op.hint) for op in catalogue()])


def _part(field: PartField, parts: dict[str, PartSchema], seen: set[str], level: int) -> str:
    text = ""
    for name in field.kinds.values():
        part = parts.get(name)
        if part is None or name in seen:
            continue
        seen.add(name)
        rows = [(each.label, _span(each), _usual(each, part)) for each in part.fields if _is_told(each)]
        heading = part.heading or (
            field.label if field.label != field.name else field.name.replace("_", " ").capitalize()
        )
        hint = f"{part.hint}\n\n" if part.hint else ""
        if rows:
            text += f"\n{'#' * min(level, 4)} {heading}\n\n{hint}" + table(("setting", "accepted", "usual"), rows)
        for nested in part.fields:
            text += _part(nested, parts, seen, level + 1)
    return text


def _is_told(field: PartField) -> bool:
    return field.type in (*KINDS, "choice", "switch") and field.label != field.name


def _span(field: PartField) -> str:
    if field.type == "choice":
        return "; ".join(
            f"**{cell(words)}**" + (f": {field.hints[name].rstrip('.')}" if name in field.hints else "")
            for name, words in field.choices.items()
        )
    if field.type == "switch":
        return "on or off"
    unit = field.unit if field.unit in ("mm", "mm²", "px", "°", "per mm") else ""
    if field.type in ("number", "whole") and field.lowest is not None and field.highest is not None:
        return f"{field.lowest:g} to {field.highest:g} {unit}".strip()
    return f"{KINDS[field.type]} {f'in {unit}' if unit else ''}".strip()


def _usual(field: PartField, part: PartSchema) -> str:
    usual = part.defaults.get(field.name)
    if usual is None or isinstance(usual, dict | list):
        return ""
    if isinstance(usual, bool):
        return "on" if usual else "off"
    return field.choices.get(str(usual), f"{usual:g}" if isinstance(usual, int | float) else str(usual))
