"""Outlines written as SVG at true size."""

import numpy as np

from nebrel.core.region.curves import Curve, Figure, bounds_of


def svg_bytes(figure: Figure, frame: tuple[float, float] | None = None, unit: str = "mm") -> bytes:
    """The figure as an SVG file at true size; areas are filled, strokes drawn at their widths.

    Args:
        figure: in millimetres, or in the unit that is named.
        frame: width and height of the page, its lower left corner at the origin; None draws it round the figure.
        unit: what the figure is in; "" for pixels.
    """
    low_x, low_y, high_x, high_y = bounds_of(figure) if frame is None else (0.0, 0.0, *frame)
    width, height = high_x - low_x, high_y - low_y
    lines = [
        '<?xml version="1.0" encoding="UTF-8"?>',
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{_number(width)}{unit}" height="{_number(height)}{unit}" '
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
    sides = curve.sides
    plain = ((sides[:, 0] == sides[:, 1]) & (sides[:, 2] == sides[:, 3])).all(axis=1).tolist()
    placed = np.stack([sides[..., 0] - left, top - sides[..., 1]], axis=2).tolist()
    x, y = placed[0][0]
    words = [f"M{_number(x)} {_number(y)}"]
    for (_, (ax, ay), (bx, by), (x, y)), straight in zip(placed, plain, strict=True):
        end = f"{_number(x)} {_number(y)}"
        words.append(f"L{end}" if straight else f"C{_number(ax)} {_number(ay)} {_number(bx)} {_number(by)} {end}")
    return "".join(words) + ("Z" if curve.closed else "")


def _number(value: float) -> str:
    text = f"{value:.5f}".rstrip("0").rstrip(".")
    return "0" if text == "-0" else text


def _escape(text: str) -> str:
    return text.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")
