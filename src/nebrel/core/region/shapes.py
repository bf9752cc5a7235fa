"""Outlines that a panel can have, as curves."""

import math
from typing import Literal

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import MultiPolygon

from nebrel.core.errors import BadValueError
from nebrel.core.region.grid import polygons_of

Shape = Literal["rectangle", "rounded", "ellipse", "polygon"]
CHORD_MM = 0.005
FEWEST_SEGMENTS = 16
MOST_SEGMENTS = 2000
_CORNERS = ((1.0, 1.0, 0.0), (0.0, 1.0, 0.5), (0.0, 0.0, 1.0), (1.0, 0.0, 1.5))


def shape_region(shape: Shape, width: float, depth: float, corner: float = 5.0, sides: int = 6) -> MultiPolygon:
    """A shape that fills the box from the origin to (`width`, `depth`), mm.

    Curves are chains of chords no further than 5 µm from them.

    Args:
        shape: `rounded` is a rectangle with corners of radius `corner`; `polygon` has `sides` equal sides, one of them
            below, stretched to fill the box.
        width, depth: mm.
        corner: mm, for `rounded`.
        sides: 3 or more, for `polygon`.

    Raises:
        BadValueError: corners too large for the box, or too few sides.
    """
    if shape == "rectangle":
        points = np.array([[0, 0], [width, 0], [width, depth], [0, depth]], dtype=np.float64)
    elif shape == "rounded":
        points = _round_rectangle(width, depth, corner)
    elif shape == "ellipse":
        turns = np.linspace(0, 2 * math.pi, segments_of(max(width, depth) / 2, 2 * math.pi), endpoint=False)
        points = np.column_stack([width / 2 * (1 + np.cos(turns)), depth / 2 * (1 + np.sin(turns))])
    else:
        points = _polygon(width, depth, sides)
    return shapely.MultiPolygon([shapely.Polygon(points)])


def disc(x: float, y: float, diameter: float) -> MultiPolygon:
    """A round region, mm."""
    turns = np.linspace(0, 2 * math.pi, segments_of(diameter / 2, 2 * math.pi), endpoint=False)
    ring = np.column_stack([x + diameter / 2 * np.cos(turns), y + diameter / 2 * np.sin(turns)])
    return shapely.MultiPolygon([shapely.Polygon(ring)])


def capsule(x: float, y: float, end_x: float, end_y: float, width: float) -> MultiPolygon:
    """A slot with round ends between two points, mm."""
    quarter = max(4, segments_of(width / 2, math.pi / 2))
    return polygons_of(shapely.LineString([(x, y), (end_x, end_y)]).buffer(width / 2, quad_segs=quarter))


def segments_of(radius: float, turn: float) -> int:
    """How many chords an arc of `turn` radians needs to stay within 5 µm of the circle; a multiple of four, so that a
    whole turn touches its box."""
    step = 2 * math.acos(max(-1.0, 1 - CHORD_MM / max(radius, CHORD_MM)))
    least = FEWEST_SEGMENTS * turn / (2 * math.pi)
    return 4 * math.ceil(np.clip(turn / step, least, MOST_SEGMENTS) / 4)


def _round_rectangle(width: float, depth: float, corner: float) -> NDArray[np.float64]:
    if not 0 < 2 * corner <= min(width, depth) + 1e-9:
        raise BadValueError(
            f"The corner radius is {corner:g} mm on a piece of {width:.1f} × {depth:.1f} mm; more than 0 and up to "
            f"{min(width, depth) / 2:.1f} mm would be accepted."
        )
    arc = np.linspace(0, math.pi / 2, segments_of(corner, math.pi / 2) + 1)
    parts = []
    for right, upper, start in _CORNERS:
        x = width - corner if right else corner
        y = depth - corner if upper else corner
        turns = start * math.pi + arc
        parts.append(np.column_stack([x + corner * np.cos(turns), y + corner * np.sin(turns)]))
    return np.vstack(parts)


def _polygon(width: float, depth: float, sides: int) -> NDArray[np.float64]:
    if sides < 3:
        raise BadValueError(f"A polygon of {sides} sides is asked for; 3 or more would be accepted.")
    turns = -math.pi / 2 + math.pi / sides + 2 * math.pi * np.arange(sides) / sides
    points = np.column_stack([np.cos(turns), np.sin(turns)])
    low, high = points.min(axis=0), points.max(axis=0)
    return (points - low) / (high - low) * (width, depth)
