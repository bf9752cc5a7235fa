"""Plain data taken as a part of a document, or refused in one sentence for the person who typed it."""

from typing import TypeVar

from pydantic import BaseModel, ValidationError

from nebrel.core.errors import BadValueError
from nebrel.piece.parts.nesting import kind_told, models_in
from nebrel.piece.parts.part import COLOUR_PATTERN

Model = TypeVar("Model", bound=BaseModel)


def parse_part(kind: type[Model], data: object) -> Model:
    """A document, or one part of one, from plain data, refused with one sentence when it is not valid."""
    try:
        return kind.model_validate(data)
    except ValidationError as cause:
        raise BadValueError(sentence_of(cause, kind)) from cause


def sentence_of(error: ValidationError, kind: type[BaseModel]) -> str:
    """The first fault of a validation, in one sentence for the person who typed it."""
    fault = error.errors(include_url=False)[0]
    place = [part for part in fault["loc"] if isinstance(part, str)]
    what, rules = _field_of(place, kind)
    given = fault.get("input")
    unit = " mm" if place and place[-1].endswith("_mm") else ""
    limits = fault.get("ctx", {})
    if fault["type"] in ("greater_than_equal", "less_than_equal"):
        low, high = _bounds_in(rules)
        return f"{what} is {_plain(given)}{unit}; {_plain(low)} to {_plain(high)}{unit} would be accepted."
    if fault["type"] in ("finite_number", "float_parsing", "float_type"):
        return f"{what} is {_plain(given)}; a number{' in millimetres' if unit else ''} would be accepted."
    if fault["type"] == "literal_error":
        return f"{what} is {_plain(given)}; {limits['expected']} would be accepted."
    if fault["type"] == "string_pattern_mismatch" and limits["pattern"] == COLOUR_PATTERN:
        return f"{what} is {_plain(given)}; a colour like #ffe0b3 would be accepted."
    if fault["type"] == "string_too_short":
        return f"{what} is empty; at least one letter is needed."
    if fault["type"] == "string_too_long":
        return f"{what} is too long; up to {limits['max_length']} letters are accepted."
    if fault["type"] == "missing":
        return f"{what} is missing; it must be given."
    if fault["type"] == "extra_forbidden":
        return f"{'.'.join(place)} is not part of a piece; please check its spelling."
    return f"{what}: {fault['msg']}."


def _plain(value: object) -> str:
    if isinstance(value, int | float):
        return f"{value:,.12g}".replace("inf", "infinite").replace("nan", "not a number")
    return f"“{value}”"


def _field_of(place: list[str], kind: type[BaseModel]) -> tuple[str, list[object]]:
    """Title and rules of the field at a place; between fields stand the kinds of list items that validation names."""
    models: dict[str, type[BaseModel]] = {"": kind}
    title, rules = place[-1] if place else "The piece", []
    for part in place:
        model = models.get("")
        if model is None and part in models:
            models = {"": models[part]}
            continue
        if model is None or part not in model.model_fields:
            break
        field = model.model_fields[part]
        title, rules = field.title or part.replace("_", " ").capitalize(), list(field.metadata)
        found = list(models_in(field.annotation))
        models = {"": found[0]} if len(found) == 1 else {kind_told(each) or each.__name__: each for each in found}
    return title, rules


def _bounds_in(rules: list[object]) -> tuple[float, float]:
    low, high = 0.0, float("inf")
    for rule in rules:
        low = getattr(rule, "ge", low)
        high = getattr(rule, "le", high)
    return low, high
