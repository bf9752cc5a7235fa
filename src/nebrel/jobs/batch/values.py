"""What a table says of one piece, set in its document."""

import json
import re
from collections.abc import Callable, Mapping, Sequence
from typing import Any

from nebrel.core.errors import BadValueError, NebrelError
from nebrel.core.units import parse_length
from nebrel.piece.documents.document import Document
from nebrel.piece.registry import parse_document

# Where documents of different kinds keep how wide they are.
WIDTHS = (("body", "width_mm"), ("form", "width_mm"), ("figure", "width_mm"), ("width_mm",))
# What a piece starts from, and what says how its document is written, is not set by a table.
FIXED = ("version", "picture", "drawing", "model")
PATH = re.compile(r"[a-z_]+(\.([a-z_]+|\d+))+")
Plain = dict[str, Any]


def with_values(document: Document, values: Mapping[str, str]) -> Document:
    """The document with what a table says of it.

    Args:
        document: as its recipe makes it.
        values: texts by column: `title`, `width`, `name`, `colour`, or a path in the document like
            `height.rule.relief_mm`.

    Raises:
        BadValueError: a value is not accepted, or there is nothing that it could be set on; one sentence.
    """
    plain = document.model_dump(mode="json")
    for column, value in values.items():
        if column in NAMED:
            NAMED[column](plain, value)
        else:
            _set(plain, column, value)
    try:
        return parse_document(plain)
    except NebrelError as refused:
        raise BadValueError(f"{refused} The table asks for {_told(values)}.") from refused


def refuse_unknown(columns: Sequence[str], name: str) -> None:
    """Refuse columns that could mean nothing.

    Args:
        columns: of a table.
        name: of the table.

    Raises:
        BadValueError: there is such a column.
    """
    unknown = [column for column in columns if column not in NAMED and not _could_be_set(column)]
    if unknown:
        raise BadValueError(
            f"{name} has a column {unknown[0]!r} that says nothing here; picture, {', '.join(NAMED)} and settings by "
            "their place in a recipe, like height.rule.relief_mm, would be accepted."
        )


def _could_be_set(column: str) -> bool:
    names = column.split(".")
    return PATH.fullmatch(column) is not None and names[0] not in FIXED and "blob" not in names


def _title(plain: Plain, value: str) -> None:
    plain["title"] = value


def _width(plain: Plain, value: str) -> None:
    for *path, last in WIDTHS:
        part = plain
        for step in path:
            part = part.get(step) or {}
        if last in part:
            part[last] = parse_length(value)
            return
    raise BadValueError("What the recipe makes has no width of its own, so a column width does not go with it.")


def _name(plain: Plain, value: str) -> None:
    """The text of a lithophane's name plate, or of the recipe's first lettering."""
    parts = plain.get("parts")
    if isinstance(parts, dict) and "name" in parts:
        parts["name"] = {**parts["name"], "on": True, "text": value}
        return
    for op in plain.get("ops") or ():
        if op["kind"] == "lettering":
            op["text"] = value
            return
    raise BadValueError("The recipe has no lettering that a column name could set; one with a name on it would do.")


def _colour(plain: Plain, value: str) -> None:
    plain["paint"] = {"on": True, "colour": value if value.startswith("#") else f"#{value}"}


NAMED: dict[str, Callable[[Plain, str], None]] = {"title": _title, "width": _width, "name": _name, "colour": _colour}


def _set(plain: Plain, column: str, value: str) -> None:
    """A setting by its place, such as `ops.0.radius_mm`."""
    *path, last = column.split(".")
    part: Any = plain
    try:
        for step in path:
            part = part[int(step)] if isinstance(part, list) else part[step]
        key: Any = int(last) if isinstance(part, list) else last
        before = part[key]
    except (KeyError, IndexError, ValueError, TypeError) as cause:
        raise BadValueError(
            f"What the recipe makes has no {column}; a setting that it has would be accepted."
        ) from cause
    part[key] = _as(before, value)


def _as(before: object, value: str) -> object:
    """A text as what stood there: lengths may have a unit."""
    if isinstance(before, str):
        return value
    if isinstance(before, float | int) and not isinstance(before, bool):
        try:
            return parse_length(value)
        except BadValueError:
            return value
    try:
        return json.loads(value)
    except json.JSONDecodeError:
        return {"yes": True, "no": False, "on": True, "off": False}.get(value.lower(), value)


def _told(values: Mapping[str, str]) -> str:
    return ", ".join(f"{column} {value}" for column, value in values.items())
