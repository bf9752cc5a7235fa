"""Shapes of SVG as chains of cubic Béziers, in px of their own space."""

from collections.abc import Callable
from typing import NamedTuple
from xml.etree.ElementTree import Element

import numpy as np
from fontTools.pens.basePen import AbstractPen
from fontTools.svgLib.path.parser import parse_path
from numpy.typing import NDArray

from nebrel.core.errors import TooLargeError
from nebrel.core.outline_files.svg.document import local
from nebrel.core.outline_files.svg.lengths import Measures, length, numbers
from nebrel.core.region.curves import CIRCLE_HANDLE

MOST_NODES = 1_000_000
_Points = NDArray[np.float64]
Place = tuple[float, float]


class Chain(NamedTuple):
    """One subpath: control points of its sides, float64 (S, 4, 2), and whether it closes on itself."""

    sides: _Points
    closed: bool


class ChainPen(AbstractPen):  # type: ignore[misc]
    """Collects what is drawn as chains; straight sides have their handles on their ends."""

    def __init__(self) -> None:
        self.chains: list[Chain] = []
        self._sides: list[tuple[Place, Place, Place, Place]] = []
        self._begin: Place = (0.0, 0.0)
        self._at: Place = (0.0, 0.0)

    def moveTo(self, pt: Place) -> None:  # noqa: N802
        self._end(False)
        self._begin = self._at = pt

    def lineTo(self, pt: Place) -> None:  # noqa: N802
        self._sides.append((self._at, self._at, pt, pt))
        self._at = pt

    def curveTo(self, *points: Place) -> None:  # noqa: N802
        ahead, behind, end = points
        self._sides.append((self._at, ahead, behind, end))
        self._at = end

    def qCurveTo(self, *points: Place) -> None:  # noqa: N802
        *controls, last = points
        for at, (x, y) in enumerate(controls):
            # Between two controls of a run lies a node in their middle.
            end = last if at == len(controls) - 1 else ((x + controls[at + 1][0]) / 2, (y + controls[at + 1][1]) / 2)
            (ax, ay), (bx, by) = self._at, end
            ahead = ax + (x - ax) * 2 / 3, ay + (y - ay) * 2 / 3
            behind = bx + (x - bx) * 2 / 3, by + (y - by) * 2 / 3
            self.curveTo(ahead, behind, end)

    def closePath(self) -> None:  # noqa: N802
        if self._at != self._begin:
            self.lineTo(self._begin)
        self._end(True)
        self._at = self._begin

    def endPath(self) -> None:  # noqa: N802
        self._end(False)

    def addComponent(self, glyphName: str, transformation: object) -> None:  # noqa: N802, N803
        """Glyphs made of others are drawn through a pen that takes them apart before."""

    def _end(self, closed: bool) -> None:
        if self._sides:
            self.chains.append(Chain(np.array(self._sides, dtype=np.float64), closed))
        self._sides = []


def chains_of(element: Element, own: dict[str, str], measures: Measures) -> list[Chain]:
    """The outline of a basic shape or path; nothing for other elements and for shapes without extent.

    Args:
        element: path, rect, circle, ellipse, line, polyline or polygon.
        own: its style, where geometry may stand as well.
        measures: what its lengths refer to.
    """

    def told(name: str, of: float, otherwise: float = 0.0) -> float:
        return length(own.get(name, element.get(name)), of, measures, otherwise)

    draw = _DRAWN.get(local(element))
    if draw is None:
        return []
    pen = ChainPen()
    draw(element, pen, told, measures)
    pen.endPath()
    return pen.chains


_Told = Callable[..., float]


def _path(element: Element, pen: ChainPen, told: _Told, measures: Measures) -> None:
    text = element.get("d") or ""
    if len(text) > 4 * MOST_NODES and len(numbers(text)) > 6 * MOST_NODES:
        raise TooLargeError(f"A path has more than {MOST_NODES:,} nodes, which is the most accepted.")
    try:
        parse_path(text, pen)
    except (ValueError, IndexError, AssertionError, TypeError, KeyError):
        # What comes before a mistake is drawn, as every viewer does.
        pen.endPath()


def _rectangle(element: Element, pen: ChainPen, told: _Told, measures: Measures) -> None:
    x, y = told("x", measures.width), told("y", measures.height)
    wide, high = told("width", measures.width), told("height", measures.height)
    if wide <= 0 or high <= 0:
        return
    across, down = told("rx", measures.width, -1.0), told("ry", measures.height, -1.0)
    across, down = (down if across < 0 else across), (across if down < 0 else down)
    across, down = min(max(across, 0.0), wide / 2), min(max(down, 0.0), high / 2)
    if across == 0 or down == 0:
        _polygon_through(pen, [(x, y), (x + wide, y), (x + wide, y + high), (x, y + high)], True)
        return
    h, v = across * (1 - CIRCLE_HANDLE), down * (1 - CIRCLE_HANDLE)
    right, foot = x + wide, y + high
    pen.moveTo((x + across, y))
    _line(pen, (right - across, y))
    pen.curveTo((right - h, y), (right, y + v), (right, y + down))
    _line(pen, (right, foot - down))
    pen.curveTo((right, foot - v), (right - h, foot), (right - across, foot))
    _line(pen, (x + across, foot))
    pen.curveTo((x + h, foot), (x, foot - v), (x, foot - down))
    _line(pen, (x, y + down))
    pen.curveTo((x, y + v), (x + h, y), (x + across, y))
    pen.closePath()


def _line(pen: ChainPen, to: Place) -> None:
    if np.hypot(pen._at[0] - to[0], pen._at[1] - to[1]) > 0:
        pen.lineTo(to)


def _round(element: Element, pen: ChainPen, told: _Told, measures: Measures) -> None:
    x, y = told("cx", measures.width), told("cy", measures.height)
    if local(element) == "circle":
        across = down = told("r", measures.diagonal)
    else:
        across, down = told("rx", measures.width, -1.0), told("ry", measures.height, -1.0)
        across, down = (down if across < 0 else across), (across if down < 0 else down)
    if across <= 0 or down <= 0:
        return
    h, v = across * CIRCLE_HANDLE, down * CIRCLE_HANDLE
    pen.moveTo((x + across, y))
    pen.curveTo((x + across, y + v), (x + h, y + down), (x, y + down))
    pen.curveTo((x - h, y + down), (x - across, y + v), (x - across, y))
    pen.curveTo((x - across, y - v), (x - h, y - down), (x, y - down))
    pen.curveTo((x + h, y - down), (x + across, y - v), (x + across, y))
    pen.closePath()


def _segment(element: Element, pen: ChainPen, told: _Told, measures: Measures) -> None:
    pen.moveTo((told("x1", measures.width), told("y1", measures.height)))
    pen.lineTo((told("x2", measures.width), told("y2", measures.height)))


def _points(element: Element, pen: ChainPen, told: _Told, measures: Measures) -> None:
    found = numbers(element.get("points"))
    places = list(zip(found[::2], found[1::2], strict=False))
    if len(places) > MOST_NODES:
        raise TooLargeError(f"A shape has more than {MOST_NODES:,} nodes, which is the most accepted.")
    if len(places) > 1:
        _polygon_through(pen, places, local(element) == "polygon")


def _polygon_through(pen: ChainPen, places: list[Place], closed: bool) -> None:
    pen.moveTo(places[0])
    for place in places[1:]:
        pen.lineTo(place)
    if closed:
        pen.closePath()


_DRAWN: dict[str, Callable[[Element, ChainPen, _Told, Measures], None]] = {
    "path": _path,
    "rect": _rectangle,
    "circle": _round,
    "ellipse": _round,
    "line": _segment,
    "polyline": _points,
    "polygon": _points,
}
