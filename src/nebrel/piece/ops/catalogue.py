"""The picture ops as a page needs them: words, parameters, limits and starting values, read off the op classes."""

from typing import Any

from pydantic import BaseModel

from nebrel.piece.ops import KNOWN, Op
from nebrel.piece.ops.base import Group, Tool
from nebrel.piece.parts.schema import PartField, field_of

_SHARED = ("kind", "id", "on")


class OpKind(BaseModel):
    """One kind of op; `defaults` are its parameters when it is added."""

    kind: str
    group: Group
    title: str
    hint: str
    tool: Tool | None
    defaults: dict[str, Any]
    fields: list[PartField]


def catalogue() -> list[OpKind]:
    """All kinds, in the order in which they are offered."""
    return [_kind(op) for op in KNOWN]


def _kind(op: type[Op]) -> OpKind:
    fields = [field_of(name, info) for name, info in op.model_fields.items() if name not in _SHARED]
    kind = op.model_fields["kind"].default
    defaults = op(kind=kind).model_dump(mode="json", exclude={"id", "on", "kind"})
    return OpKind(
        kind=kind, group=op.group, title=op.title, hint=op.hint, tool=op.tool, defaults=defaults, fields=fields
    )
