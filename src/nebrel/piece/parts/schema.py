"""Parts as a page needs them: words, parameters, limits, units, choices and starting values, read off their classes."""

import types
from collections.abc import Iterable, Iterator
from typing import Any, Literal, Union, get_args, get_origin

from annotated_types import Ge, Gt, Le, Lt, MaxLen
from pydantic import BaseModel
from pydantic.fields import FieldInfo
from pydantic_core import to_jsonable_python

from nebrel.piece.parts.nesting import kind_told, models_in
from nebrel.piece.parts.part import Part

FieldType = Literal["number", "whole", "numbers", "choice", "switch", "colour", "text", "by_hand", "part", "parts"]
_JUST_INSIDE = 0.001
_UNITS = {"_mm": "mm", "_mm2": "mm²", "_deg": "°", "_per_mm": "per mm"}
_TOLD = ("label", "slider", "step", "choices", "hints", "shown")


class PartField(BaseModel):
    """One parameter.

    Attributes:
        title: its full name, as refusals say it.
        label: what stands beside its control.
        type: `numbers` is a list of them; a `part` is nested, `parts` are a list of nested ones.
        unit: `mm`, `mm²`, `px`, `°`, `%` (a share), `tone` (a share of white), or the name of another field that tells.
        slider: its span, where it has one.
        choices: the words that are accepted, with what people call them.
        hints: more about a choice.
        shown: other parameters and the values of theirs with which this one counts.
        most: letters of a text, or entries of a list.
        kinds: of a nested part: its name in the schema, by the `kind` that tells it apart; "" where there is one only.
    """

    name: str
    title: str
    label: str
    type: FieldType
    unit: str = ""
    lowest: float | None = None
    highest: float | None = None
    slider: tuple[float, float] | None = None
    step: float = 0.01
    choices: dict[str, str] = {}
    hints: dict[str, str] = {}
    shown: dict[str, list[str]] = {}
    many_lines: bool = False
    most: int | None = None
    kinds: dict[str, str] = {}


class PartSchema(BaseModel):
    """One kind of part; `defaults` are its parameters when it is new, without those that have to be given."""

    heading: str
    hint: str
    defaults: dict[str, Any]
    fields: list[PartField]


def schemas_of(roots: Iterable[type[Part]], told_elsewhere: type[Part]) -> dict[str, PartSchema]:
    """All parts that documents are made of, by the names of their classes; the documents themselves are among them.

    Those that are `told_elsewhere` are left out, but not what is nested in them.
    """
    found: dict[str, type[Part]] = {}
    waiting = list(roots)
    while waiting:
        part = waiting.pop()
        if found.setdefault(part.__name__, part) is not part:
            raise TypeError(f"Two parts are called {part.__name__}.")
        inside = {nested for info in part.model_fields.values() for nested in _parts_in(info.annotation)}
        waiting += [nested for nested in inside if nested.__name__ not in found]
    return {name: schema_of(part) for name, part in sorted(found.items()) if not issubclass(part, told_elsewhere)}


def schema_of(part: type[Part]) -> PartSchema:
    """One part, without those nested in it."""
    given = {name: info for name, info in part.model_fields.items() if not info.is_required()}
    return PartSchema(
        heading=part.heading,
        hint=part.hint,
        defaults={
            name: to_jsonable_python(info.get_default(call_default_factory=True)) for name, info in given.items()
        },
        fields=[field_of(name, info) for name, info in part.model_fields.items()],
    )


def field_of(name: str, info: FieldInfo) -> PartField:
    """One parameter of a part."""
    extra = info.json_schema_extra if isinstance(info.json_schema_extra, dict) else {}
    title = info.title or name
    kinds = {kind_told(part) or "": part.__name__ for part in _parts_in(info.annotation)}
    return PartField.model_validate(
        {
            "name": name,
            "title": title,
            "label": title,
            "type": _type(info, extra, bool(kinds)),
            "unit": extra.get("unit", next((unit for end, unit in _UNITS.items() if name.endswith(end)), "")),
            "many_lines": bool(extra.get("lines")),
            "kinds": kinds if len(kinds) != 1 else {"": next(iter(kinds.values()))},
            **_limits([*info.metadata, *_item_rules(info.annotation)]),
            **{key: extra[key] for key in _TOLD if extra.get(key) is not None},
        }
    )


def _limits(rules: Iterable[object]) -> dict[str, float]:
    limits: dict[str, Any] = {}
    for rule in rules:
        if isinstance(rule, Ge):
            limits["lowest"] = rule.ge
        elif isinstance(rule, Le):
            limits["highest"] = rule.le
        elif isinstance(rule, Gt) and isinstance(rule.gt, int | float):
            limits["lowest"] = rule.gt + _JUST_INSIDE
        elif isinstance(rule, Lt) and isinstance(rule.lt, int | float):
            limits["highest"] = rule.lt - _JUST_INSIDE
        elif isinstance(rule, MaxLen):
            limits["most"] = rule.max_length
    return limits


def _item_rules(annotation: Any) -> Iterator[object]:
    """Rules of the numbers in a list of them, or in a place."""
    for inside in get_args(annotation) if get_origin(annotation) in (Union, types.UnionType) else [annotation]:
        if get_origin(inside) is tuple:
            for rule in getattr(get_args(inside)[0], "__metadata__", ()):
                yield from rule.metadata if isinstance(rule, FieldInfo) else (rule,)


def _type(info: FieldInfo, extra: dict[str, Any], nested: bool) -> FieldType:
    drawn: dict[str, FieldType] = {"by_hand": "by_hand", "colour": "colour", "choices": "choice"}
    for told, drawn_as in drawn.items():
        if extra.get(told):
            return drawn_as
    if nested:
        return "parts" if get_origin(info.annotation) is tuple else "part"
    annotation = info.annotation
    if get_origin(annotation) in (Union, types.UnionType):
        return "number" if float in get_args(annotation) else "by_hand"
    if get_origin(annotation) is tuple and get_args(annotation)[-1] is Ellipsis and _limits(_item_rules(annotation)):
        return "numbers"
    plain: dict[Any, FieldType] = {bool: "switch", int: "whole", float: "number", str: "text"}
    return plain.get(annotation, "by_hand")


def _parts_in(annotation: object) -> Iterator[type[Part]]:
    """The parts that a field may hold, one, a choice or a list of them."""
    return (model for model in models_in(annotation) if issubclass(model, Part))
