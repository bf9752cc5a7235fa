"""Changing single nodes of a curve."""

from dataclasses import replace
from typing import Literal

import numpy as np

from nebrel.core.errors import BadValueError
from nebrel.core.region.curves import Curve, Figure, is_straight


def move_node(curve: Curve, node: int, x: float, y: float) -> Curve:
    """A node and its handles moved by (`x`, `y`) mm."""
    knots = curve.knots.copy()
    knots[node % len(knots)] += (x, y)
    return replace(curve, knots=knots)


def insert_node(curve: Curve, side: int, share: float = 0.5) -> Curve:
    """A node set into a side without changing its course (de Casteljau)."""
    points, t = curve.sides[side % len(curve.sides)], share
    if is_straight(points):
        place = points[0] + t * (points[3] - points[0])
        return replace(curve, knots=np.insert(curve.knots, side + 1, [place, place, place], axis=0))
    one = points[:-1] + t * np.diff(points, axis=0)
    two = one[:-1] + t * np.diff(one, axis=0)
    middle = two[0] + t * (two[1] - two[0])
    knots = np.insert(curve.knots, side + 1, [two[0], middle, two[1]], axis=0)
    knots[side, 2] = one[0]
    knots[(side + 2) % len(knots), 0] = one[2]
    return replace(curve, knots=knots)


def remove_node(curve: Curve, node: int) -> Curve:
    """A node taken out; the sides beside it become one.

    Raises:
        BadValueError: too few nodes would be left.
    """
    least = 3 if curve.closed else 2
    if len(curve.knots) <= least:
        raise BadValueError(f"The outline has only {len(curve.knots)} nodes; at least {least} must stay.")
    return replace(curve, knots=np.delete(curve.knots, node % len(curve.knots), axis=0))


def set_node_kind(curve: Curve, node: int, kind: Literal["corner", "smooth"]) -> Curve:
    """A node made a corner with straight sides, or smooth along the line between its neighbours."""
    knots, at = curve.knots.copy(), node % len(curve.knots)
    if kind == "corner":
        knots[at, 0] = knots[at, 2] = knots[at, 1]
        return replace(curve, knots=knots)
    before, after = knots[at - 1, 1], knots[(at + 1) % len(knots), 1]
    way = (after - before) / max(float(np.linalg.norm(after - before)), 1e-12)
    place = knots[at, 1]
    knots[at, 0] = place - way * np.linalg.norm(place - before) / 3
    knots[at, 2] = place + way * np.linalg.norm(after - place) / 3
    return replace(curve, knots=knots)


def nearest_node(figure: Figure, x: float, y: float) -> tuple[int, int]:
    """Curve and node nearest to a place.

    Raises:
        BadValueError: the figure has no curves.
    """
    nearest = [(float(np.hypot(*(curve.nodes - (x, y)).T).min()), number) for number, curve in enumerate(figure.curves)]
    if not nearest:
        raise BadValueError("There are no outlines left to choose from.")
    number = min(nearest)[1]
    return number, int(np.hypot(*(figure.curves[number].nodes - (x, y)).T).argmin())


def nearest_side(curve: Curve, x: float, y: float, steps: int = 100) -> tuple[int, float]:
    """The side of a curve that passes nearest to a place, and the share of it at which it does."""
    t = np.linspace(0, 1, steps + 1)[1:-1, np.newaxis, np.newaxis]
    a, b, c, d = curve.sides.swapaxes(0, 1)
    points = (1 - t) ** 3 * a + 3 * (1 - t) ** 2 * t * b + 3 * (1 - t) * t**2 * c + t**3 * d
    away = np.hypot(points[..., 0] - x, points[..., 1] - y)
    at, side = np.unravel_index(int(away.argmin()), away.shape)
    return int(side), float(t[at, 0, 0])
