"""SVG: read by svgelements, written by a few lines of our own."""

import io
import re
from typing import Any

import numpy as np
import svgelements

from nebrel.core.errors import BadDrawingError, TooLargeError
from nebrel.core.region.curves import Curve, Figure, FillRule, Layer, bounds_of
from nebrel.core.region.drawing import Drawing, drawing_of

PPI = 96.0
MM_PER_PX = 25.4 / PPI
MOST_CURVES = 200_000
_LENGTH = re.compile(r"^\s*([-+]?[0-9.]+(?:[eE][-+]?\d+)?)\s*(mm|cm|in|pt|pc|px|q|%|em|ex|rem)?\s*$", re.IGNORECASE)
_PHYSICAL = ("mm", "cm", "in", "pt", "pc", "q")
_ROOT = re.compile(rb"<(?:\w+:)?svg\b[^>]*>", re.DOTALL)
_ATTRIBUTE = r"""\s{}\s*=\s*["']([^"']*)["']"""


def read_svg(data: bytes, name: str, mm_per_unit: float | None = None) -> Drawing:
    """The shapes of an SVG file: filled areas, and strokes as areas of their width.

    Groups, transforms, the view box and fill rules are followed. Hidden shapes are left out; text, pictures, scripts
    and links to other files are named and left out.

    Args:
        data: the file.
        name: what it is called.
        mm_per_unit: what a unit of the view box is, for files that do not say; None takes 96 to the inch.

    Raises:
        BadDrawingError: not SVG, broken, with entities, or without any shape.
        TooLargeError: more curves than are accepted.
    """
    root = _ROOT.search(data)
    if root is None:
        raise BadDrawingError(f"{name} is not an SVG file; please check what it is.")
    if b"<!ENTITY" in data.upper():
        raise BadDrawingError(f"{name} declares XML entities; such files are not accepted.")
    head = root.group().decode("utf-8", "replace")
    size_given = all(_physical(_attribute(head, side)) for side in ("width", "height"))
    remarks = _left_out(data)
    try:
        parsed = svgelements.SVG.parse(io.BytesIO(_drop_empty_size(data, root, size_given)), reify=True, ppi=PPI)
        layers = _layers(parsed, remarks)
    except TooLargeError:
        raise
    except Exception as cause:
        raise BadDrawingError(f"{name} cannot be read as SVG: it is damaged; please export it again.") from cause
    if not any(layer.curves for layer in layers):
        raise BadDrawingError(f"{name} holds no shapes; at least one path, rectangle, circle or line is needed.")
    scale = MM_PER_PX if size_given or mm_per_unit is None else mm_per_unit
    return drawing_of(layers, name, scale, size_given or mm_per_unit is not None, remarks)


def _attribute(head: str, name: str) -> str:
    found = re.search(_ATTRIBUTE.format(name), head)
    return found.group(1) if found else ""


def _physical(length: str) -> bool:
    found = _LENGTH.match(length)
    return found is not None and (found.group(2) or "").lower() in _PHYSICAL


def _drop_empty_size(data: bytes, root: re.Match[bytes], size_given: bool) -> bytes:
    """The file without a size that says nothing, so that a unit of the view box becomes a pixel."""
    if size_given:
        return data
    head = re.sub(rb"""\s(?:width|height)\s*=\s*["'][^"']*["']""", b"", root.group())
    return data[: root.start()] + head + data[root.end() :]


def _left_out(data: bytes) -> list[str]:
    remarks = []
    if re.search(rb"<(?:\w+:)?text\b", data):
        remarks.append("Text was left out; turn it into outlines in the program that it comes from.")
    if re.search(rb"<(?:\w+:)?image\b", data):
        remarks.append("A picture inside the drawing was left out; open it as a file of its own.")
    if re.search(rb"<(?:\w+:)?script\b|\son\w+\s*=", data):
        remarks.append("A script inside the drawing was left out; nothing in a file is run.")
    if re.search(rb"""href\s*=\s*["']\s*(?!#|data:)[^"'\s]""", data):
        remarks.append("Links to other files were left out; nothing is fetched.")
    return remarks


def _layers(parsed: Any, remarks: list[str]) -> list[Layer]:
    curves: dict[tuple[str, FillRule], list[Curve]] = {}
    part = 0
    for element in parsed.elements():
        if not isinstance(element, svgelements.Shape) or _is_hidden(element):
            continue
        path = svgelements.Path(element)
        path.reify()
        path.approximate_arcs_with_cubics()
        part += 1
        subpaths = [_curve(list(subpath), part) for subpath in path.as_subpaths()]
        chains = [curve for curve in subpaths if curve is not None]
        rule: FillRule = "evenodd" if str(element.values.get("fill-rule", "")) == "evenodd" else "nonzero"
        if _is_painted(element.fill):
            curves.setdefault((_colour(element.fill), rule), []).extend(
                Curve(chain.knots, True, None, part) for chain in chains if len(chain.knots) > 1
            )
        width = float(element.stroke_width or 0)
        if _is_painted(element.stroke) and width > 0:
            curves.setdefault((_colour(element.stroke), rule), []).extend(
                Curve(chain.knots, chain.closed, width, part) for chain in chains
            )
        if sum(map(len, curves.values())) > MOST_CURVES:
            raise TooLargeError(f"The drawing holds more than {MOST_CURVES:,} curves, which is the most accepted.")
    return [Layer(colour, tuple(found), rule=rule) for (colour, rule), found in curves.items()]


def _is_hidden(element: Any) -> bool:
    values = element.values
    return values.get("display") == "none" or values.get("visibility") in ("hidden", "collapse")


def _is_painted(paint: Any) -> bool:
    return paint is not None and paint.value is not None and paint.opacity != 0


def _colour(paint: Any) -> str:
    return f"#{paint.red:02x}{paint.green:02x}{paint.blue:02x}"


def _curve(segments: list[Any], part: int) -> Curve | None:
    """One subpath, Y turned up; None when it has no length."""
    sides, closed = [], False
    for segment in segments:
        if isinstance(segment, svgelements.Move):
            continue
        start, end = _point(segment.start), _point(segment.end)
        if isinstance(segment, svgelements.Close):
            closed = True
            if np.hypot(*(start - end)) < 1e-9:
                continue
            sides.append((start, start, end, end))
        elif isinstance(segment, svgelements.CubicBezier):
            sides.append((start, _point(segment.control1), _point(segment.control2), end))
        elif isinstance(segment, svgelements.QuadraticBezier):
            control = _point(segment.control)
            sides.append((start, start + (control - start) * 2 / 3, end + (control - end) * 2 / 3, end))
        else:
            sides.append((start, start, end, end))
    if not sides:
        return None
    if not closed and len(sides) > 1 and np.hypot(*(sides[0][0] - sides[-1][3])) < 1e-9:
        closed = True
    count = len(sides) if closed else len(sides) + 1
    knots = np.empty((count, 3, 2))
    knots[0, 0] = sides[0][0]
    for at, (start, ahead, behind, end) in enumerate(sides):
        knots[at, 1], knots[at, 2] = start, ahead
        knots[(at + 1) % count, 0] = behind
        if at + 1 == len(sides) and not closed:
            knots[-1, 1] = knots[-1, 2] = end
    return Curve(knots, closed, None, part)


def _point(place: Any) -> np.ndarray:
    return np.array([float(place.x), -float(place.y)])


def svg_bytes(figure: Figure) -> bytes:
    """The figure as an SVG file in millimetres at true size; areas are filled, strokes drawn at their widths."""
    low_x, low_y, high_x, high_y = bounds_of(figure)
    width, height = high_x - low_x, high_y - low_y
    lines = [
        '<?xml version="1.0" encoding="UTF-8"?>',
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{_number(width)}mm" height="{_number(height)}mm" '
        f'viewBox="0 0 {_number(width)} {_number(height)}">',
    ]
    for layer in figure.layers:
        gray = 0 if layer.tone is None else round(255 * layer.tone)
        paint = f"#{gray:02x}{gray:02x}{gray:02x}" if gray < 250 else "#f4f4f4"
        lines.append(f"<g><title>{_escape(layer.name)}</title>")
        parts: dict[int, list[Curve]] = {}
        for curve in layer.curves:
            if curve.width is None and curve.closed:
                parts.setdefault(curve.part, []).append(curve)
            else:
                stroke = _number(curve.width or 0.1)
                lines.append(
                    f'<path d="{_path(curve, low_x, high_y)}" fill="none" stroke="{paint}" stroke-width="{stroke}" '
                    'stroke-linecap="round" stroke-linejoin="round"/>'
                )
        for edges in parts.values():
            drawn = "".join(_path(curve, low_x, high_y) for curve in edges)
            lines.append(f'<path d="{drawn}" fill="{paint}" fill-rule="{layer.rule}"/>')
        lines.append("</g>")
    lines.append("</svg>\n")
    return "\n".join(lines).encode()


def _path(curve: Curve, left: float, top: float) -> str:
    placed = [[(_number(x - left), _number(top - y)) for x, y in side] for side in curve.sides.tolist()]
    words = [f"M{placed[0][0][0]} {placed[0][0][1]}"]
    for start, ahead, behind, end in placed:
        if start == ahead and behind == end:
            words.append(f"L{end[0]} {end[1]}")
        else:
            words.append(f"C{ahead[0]} {ahead[1]} {behind[0]} {behind[1]} {end[0]} {end[1]}")
    return "".join(words) + ("Z" if curve.closed else "")


def _number(value: float) -> str:
    text = f"{value:.5f}".rstrip("0").rstrip(".")
    return "0" if text == "-0" else text


def _escape(text: str) -> str:
    return text.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")
