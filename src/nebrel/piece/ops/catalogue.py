"""The picture ops as a page needs them: words, parameters, limits and starting values, read off the op classes."""

import types
from typing import Any, Literal, Union, get_args, get_origin

from annotated_types import Ge, Le
from pydantic import BaseModel
from pydantic.fields import FieldInfo

from nebrel.piece.ops import KNOWN, Op
from nebrel.piece.ops.base import Group, Tool

FieldType = Literal["number", "whole", "choice", "switch", "colour", "text", "by_hand"]
_SHARED = ("kind", "id", "on")


class OpField(BaseModel):
    """One parameter.

    Attributes:
        unit: `mm`, `mm²`, `px`, `°`, `%` (a share), `tone` (a share of white), or the name of another field that tells.
        slider: its span, where it has one.
        shown: other parameters and the values of theirs with which this one counts.
    """

    name: str
    title: str
    type: FieldType
    unit: str = ""
    lowest: float | None = None
    highest: float | None = None
    slider: tuple[float, float] | None = None
    step: float = 0.01
    choices: dict[str, str] = {}
    shown: dict[str, list[str]] = {}
    many_lines: bool = False


class OpKind(BaseModel):
    """One kind of op; `defaults` are its parameters when it is added."""

    kind: str
    group: Group
    title: str
    hint: str
    tool: Tool | None
    defaults: dict[str, Any]
    fields: list[OpField]


def catalogue() -> list[OpKind]:
    """All kinds, in the order in which they are offered."""
    return [_kind(op) for op in KNOWN]


def _kind(op: type[Op]) -> OpKind:
    fields = [_field(name, info) for name, info in op.model_fields.items() if name not in _SHARED]
    kind = op.model_fields["kind"].default
    defaults = op(kind=kind).model_dump(mode="json", exclude={"id", "on", "kind"})
    return OpKind(
        kind=kind, group=op.group, title=op.title, hint=op.hint, tool=op.tool, defaults=defaults, fields=fields
    )


def _field(name: str, info: FieldInfo) -> OpField:
    extra = info.json_schema_extra if isinstance(info.json_schema_extra, dict) else {}
    limits: dict[str, Any] = {}
    for rule in info.metadata:
        if isinstance(rule, Ge):
            limits["lowest"] = rule.ge
        elif isinstance(rule, Le):
            limits["highest"] = rule.le
    told = {key: extra[key] for key in ("unit", "slider", "step", "choices", "shown") if extra.get(key) is not None}
    return OpField.model_validate(
        {
            "name": name,
            "title": info.title or name,
            "type": _type(info, extra),
            "many_lines": bool(extra.get("lines")),
            **limits,
            **told,
        }
    )


def _type(info: FieldInfo, extra: dict[str, Any]) -> FieldType:
    if extra.get("by_hand"):
        return "by_hand"
    if extra.get("choices"):
        return "choice"
    if extra.get("colour"):
        return "colour"
    if get_origin(info.annotation) in (Union, types.UnionType):
        return "number" if float in get_args(info.annotation) else "by_hand"
    if info.annotation is bool:
        return "switch"
    if info.annotation is int:
        return "whole"
    return "text" if info.annotation is str else "number"
