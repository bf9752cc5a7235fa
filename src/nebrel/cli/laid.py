"""Reliefs that `nebrel make relief` lays on the heights."""

from __future__ import annotations

import json as jsons
from hashlib import sha256
from pathlib import Path

from nebrel.core.errors import BadValueError
from nebrel.interface.reading import read_file

MOST_BYTES, MOST_RELIEFS = 8 * 2**20, 40
EXAMPLE = '[{"picture": "crest.png", "width_mm": 30, "x_share": 0.5, "y_share": 0.6, "rule": {"relief_mm": 1.5}}]'


def laid_of(path: Path) -> tuple[list[dict[str, object]], dict[str, bytes]]:
    """Reliefs from a JSON file, and the pictures that they name beside it.

    Each has `picture`, and what else the part of a document has: `rule`, `left_out`, `x_share`, `y_share`, `width_mm`,
    `turn_deg`, `mirror`, `blend`, `blend_mm`, `lift_mm`, `name`.

    Raises:
        BadValueError: it is no such file.
    """
    try:
        told = jsons.loads(read_file(path, MOST_BYTES))
    except (ValueError, UnicodeDecodeError) as cause:
        raise BadValueError(f"{path.name} is not JSON; {EXAMPLE} would be accepted.") from cause
    if not isinstance(told, list) or len(told) > MOST_RELIEFS or not all(_names_picture(each) for each in told):
        raise BadValueError(
            f"{path.name} holds no list of up to {MOST_RELIEFS} reliefs, each with its picture; {EXAMPLE} would be "
            "accepted."
        )
    parts: list[dict[str, object]] = []
    files: dict[str, bytes] = {}
    for number, each in enumerate(told, 1):
        named = Path(each["picture"])
        data = read_file(named if named.is_absolute() else path.parent / named, "picture_bytes")
        blob = sha256(data).hexdigest()
        files[blob] = data
        own = {key: value for key, value in each.items() if key != "picture"}
        source = {"kind": "picture", "blob": blob, "name": named.name[-255:]}
        parts.append({"id": f"laid-{number}", "name": named.stem[:80] or "Relief", **own, "source": source})
    return parts, files


def _names_picture(each: object) -> bool:
    return isinstance(each, dict) and isinstance(each.get("picture"), str) and each["picture"] != ""
