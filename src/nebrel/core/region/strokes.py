"""Strokes as areas: caps, joins with their limit, dashes."""

from dataclasses import dataclass, replace

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import MultiPolygon
from shapely.ops import substring

from nebrel.core.errors import TooLargeError
from nebrel.core.region.curves import Curve, flatten, quarter_segments
from nebrel.core.region.grid import polygons_of

MOST_DASHES = 50_000
# Corners that turn by less are those of a curve in pieces.
CORNER_DEG = 3.0
_Points = NDArray[np.float64]


@dataclass(frozen=True)
class Stroke:
    """How a line is drawn, lengths in the units of its curve.

    Attributes:
        width: of the pen.
        cap, join: how it ends, and how it goes round corners.
        limit: up to how many times its width a sharp corner reaches; beyond that it is cut off.
        dashes, offset: lengths drawn and left out in turn, and where in them the line begins.
    """

    width: float
    cap: str = "butt"
    join: str = "miter"
    limit: float = 4.0
    dashes: tuple[float, ...] = ()
    offset: float = 0.0

    @property
    def is_round(self) -> bool:
        """Whether it is what a round pen draws in one go."""
        return self.cap == "round" and self.join == "round" and not self.dashes

    def scaled(self, by: float) -> "Stroke":
        """The same in other units."""
        dashes = tuple(by * dash for dash in self.dashes)
        return replace(self, width=by * self.width, dashes=dashes, offset=by * self.offset)


def stroked(curve: Curve, stroke: Stroke, chord: float) -> MultiPolygon:
    """The area of a stroke along a curve, arcs no further than `chord` off.

    Raises:
        TooLargeError: more dashes than are accepted.
    """
    points = flatten(curve, chord)
    points = points[np.append(True, np.hypot(*np.diff(points, axis=0).T) > 0)]
    closed = curve.closed and len(points) > 2
    if len(points) < 2:
        return _dot(points[0], curve, stroke, chord)
    if closed and (points[0] == points[-1]).all():
        points = points[:-1]
    if not stroke.dashes:
        return _one(points, closed, stroke, chord)
    line = shapely.LineString(np.vstack([points, points[:1]]) if closed else points)
    if 2 * line.length / sum(stroke.dashes) * len(stroke.dashes) > MOST_DASHES:
        raise TooLargeError(f"A line has more than {MOST_DASHES:,} dashes, which is the most accepted.")
    drawn = [
        _one(piece, False, stroke, chord) if len(piece) > 1 else _dot(piece[0], curve, stroke, chord)
        for piece in _dashed(line, stroke)
    ]
    return polygons_of(shapely.union_all(drawn))


def _dashed(line: shapely.LineString, stroke: Stroke) -> list[_Points]:
    whole = sum(stroke.dashes)
    at, pieces, drawn, number = -(stroke.offset % whole), [], True, 0
    while at < line.length:
        end = at + stroke.dashes[number % len(stroke.dashes)]
        if drawn and end >= 0 and (end > 0 or at == 0):
            pieces.append(shapely.get_coordinates(substring(line, max(at, 0.0), min(end, line.length))))
        at, drawn, number = end, not drawn, number + 1
    return pieces


def _dot(place: _Points, curve: Curve, stroke: Stroke, chord: float) -> MultiPolygon:
    """What a line without length draws: its caps."""
    half = stroke.width / 2
    if stroke.cap == "round":
        return polygons_of(shapely.Point(place).buffer(half, quad_segs=quarter_segments(half, chord)))
    if stroke.cap == "square":
        return polygons_of(shapely.box(*(place - half), *(place + half)))
    return MultiPolygon()


def _one(points: _Points, closed: bool, stroke: Stroke, chord: float) -> MultiPolygon:
    half = stroke.width / 2
    cap = {"round": "round", "square": "square"}.get(stroke.cap, "flat")
    line = shapely.LinearRing(points) if closed else shapely.LineString(points)
    arcs = quarter_segments(half, chord)
    if stroke.join == "round":
        return polygons_of(line.buffer(half, quad_segs=arcs, cap_style=cap, join_style="round"))
    sharp = _corners(points, closed) if stroke.join != "bevel" else []
    if all(reach <= stroke.limit for *_, reach in sharp) and stroke.join != "bevel":
        found = line.buffer(half, quad_segs=arcs, cap_style=cap, join_style="mitre", mitre_limit=max(stroke.limit, 1.0))
        return polygons_of(found)
    # Beyond the limit a corner is cut off straight, while the others keep their tips.
    cut = line.buffer(half, quad_segs=arcs, cap_style=cap, join_style="bevel")
    tips = [_tip(place, before, after, half) for place, before, after, reach in sharp if reach <= stroke.limit]
    return polygons_of(shapely.union_all([cut, *tips]))


def _corners(points: _Points, closed: bool) -> list[tuple[_Points, _Points, _Points, float]]:
    """Corners with the directions before and after them, and how many times the width their tips reach."""
    ring = np.vstack([points[-1:], points, points[:1]]) if closed else points
    steps = np.diff(ring, axis=0)
    ways = steps / np.hypot(steps[:, 0], steps[:, 1])[:, None]
    before, after, places = ways[:-1], ways[1:], ring[1:-1]
    cosine = np.clip((before * after).sum(axis=1), -1, 1)
    reach = 1 / np.maximum(np.sqrt((1 + cosine) / 2), 1e-9)
    sharp = np.flatnonzero(np.degrees(np.arccos(cosine)) > CORNER_DEG)
    return [(places[at], before[at], after[at], float(reach[at])) for at in sharp]


def _tip(place: _Points, before: _Points, after: _Points, half: float) -> shapely.Polygon:
    side = 1.0 if before[0] * after[1] - before[1] * after[0] < 0 else -1.0
    one = place + side * half * np.array([-before[1], before[0]])
    other = place + side * half * np.array([-after[1], after[0]])
    middle = (one + other) / 2 - place
    size = float(np.hypot(*middle))
    if size < 1e-12:
        return shapely.Polygon()
    return shapely.Polygon([place, one, place + middle * (half / size) ** 2, other])
