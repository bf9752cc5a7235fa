"""Options that say where depth comes from, and what is said of it by hand."""

from __future__ import annotations

import json as jsons
from pathlib import Path

from nebrel.core.errors import BadValueError
from nebrel.core.units import parse_length
from nebrel.interface.reading import read_file

DEPTH_BLOB = "d" * 64
PICTURES = (".png", ".tif", ".tiff", ".webp", ".bmp", ".jpg", ".jpeg", ".gif", ".avif", ".heic", ".jxl", ".exr")
# Depths that need no file.
COMPUTED = ("swell", "learned", "light")
MOST_NETWORK_BYTES, MOST_CARD_BYTES = 512 * 2**20, 2**16
MOST_STROKE_BYTES = 8 * 2**20
STROKES_EXAMPLE = '[{"kind": "nearer", "amount_mm": 6, "places": [[0.4, 0.5], [0.5, 0.6]]}]'


def depth_of(option: str, given: str, span: float, near: str) -> tuple[dict[str, object], dict[str, bytes]]:
    """The depth part that an option asks for, and the files that it names."""
    if given in COMPUTED:
        return {"kind": given}, {}
    path = Path(given)
    if path.suffix.lower() == ".onnx":
        from nebrel.piece.depths.networks import card_of

        data = read_file(path, MOST_NETWORK_BYTES)
        beside = path.with_suffix(".json")
        card = card_of(read_file(beside, MOST_CARD_BYTES) if beside.is_file() else None, beside.name)
        own = {"kind": "own", "blob": DEPTH_BLOB, "name": path.name, "span_mm": span, "card": card.model_dump()}
        return own, {DEPTH_BLOB: data}
    if path.suffix.lower() not in PICTURES:
        raise BadValueError(
            f"{option} is “{given}”; swell, light, learned, depths.png or model.onnx would be accepted."
        )
    part = {"kind": "picture", "blob": DEPTH_BLOB, "name": path.name, "span_mm": span, "near": near}
    return part, {DEPTH_BLOB: read_file(path, "picture_bytes")}


def strokes_of(path: Path) -> dict[str, object]:
    """Strokes and the order of parts from a file: a list of strokes, or an object with either; the pressure of a place
    may be left out."""
    try:
        told = jsons.loads(read_file(path, MOST_STROKE_BYTES))
    except (ValueError, UnicodeDecodeError) as cause:
        raise BadValueError(f"{path.name} is not JSON; {STROKES_EXAMPLE} would be accepted.") from cause
    strokes, order = (told.get("strokes", []), told.get("order", [])) if isinstance(told, dict) else (told, [])
    lists = [each for each in (strokes, order) if isinstance(each, list)]
    if len(lists) < 2 or not all(isinstance(each, dict) for each in (*lists[0], *lists[1])):
        raise BadValueError(f"{path.name} holds no list of strokes; {STROKES_EXAMPLE} would be accepted.")
    pressed = [{**each, "places": [_pressed(place) for place in each.get("places") or []]} for each in lists[0]]
    return {"strokes": pressed, "order": lists[1]}


def _pressed(place: object) -> object:
    return [*place, 1.0] if isinstance(place, list) and len(place) == 2 else place


def fine_of(given: str) -> dict[str, object]:
    """Strength and radius of fine tones, as in 0.3:3; dark ones stand tall where the strength is below 0."""
    strength, _, radius = given.partition(":")
    tall = "dark" if strength.startswith("-") else "bright"
    part: dict[str, object] = {"strength_mm": parse_length(strength.removeprefix("-")), "tall": tall}
    return {**part, **({"radius_mm": parse_length(radius)} if radius else {})}
