"""What a solid looks like where it is cut."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import BadValueError
from nebrel.core.height import HeightField
from nebrel.core.mesh import TriMesh


@dataclass(frozen=True)
class Profile:
    """The asked-for upper surface along a line.

    Attributes:
        along: float64 (K,) mm from the start of the line.
        up: float64 (K,) mm above z = 0; NaN where the line runs over a blank or outside the piece.
    """

    along: NDArray[np.float64]
    up: NDArray[np.float64]


def cut_mesh(
    mesh: TriMesh, start: tuple[float, float], end: tuple[float, float], tilt_deg: float = 0.0, lift: float = 0.0
) -> list[NDArray[np.float64]]:
    """Closed outlines of the mesh in a plane through a line.

    Args:
        mesh: closed and consistently oriented; gaps leave open outlines.
        start, end: mm in X and Y, at least a micrometre apart.
        tilt_deg: how far the plane leans from the upright, 90 for a level one.
        lift: height of the line, mm.

    Returns:
        Outlines float64 (K, 2): mm along the line from `start`, mm upwards in the plane, from the line's foot on z = 0
        when the plane is upright. The solid lies to the left of each.
    """
    direction, _ = _line(start, end)
    tilt = np.radians(tilt_deg)
    beside = np.array([-direction[1], direction[0], 0.0])
    along = np.array([*direction, 0.0])
    up = np.cos(tilt) * np.array([0.0, 0.0, 1.0]) + np.sin(tilt) * beside
    away = np.cos(tilt) * beside - np.sin(tilt) * np.array([0.0, 0.0, 1.0])
    origin = np.array([*start, lift])
    outlines = cut_plane(mesh, origin, along, up, away)
    foot = np.array([0.0, lift * np.cos(tilt)])
    return [outline + foot for outline in outlines]


def cut_plane(
    mesh: TriMesh,
    origin: NDArray[np.float64],
    along: NDArray[np.float64],
    up: NDArray[np.float64],
    away: NDArray[np.float64],
) -> list[NDArray[np.float64]]:
    """Outlines of the mesh in any plane, in its own coordinates; `along`, `up` and `away` are unit vectors, the plane
    is spanned by the first two."""
    offset = mesh.vertices - origin
    distance = offset @ away
    points = np.column_stack([offset @ along, offset @ up])
    above = distance >= 0
    face_sides = above[mesh.faces]
    cut = mesh.faces[face_sides.any(axis=1) & ~face_sides.all(axis=1)].astype(np.int64)
    following: dict[tuple[int, int], tuple[int, int]] = {}
    for face in cut.tolist():
        entry = leave = (0, 0)
        for i in range(3):
            a, b = face[i], face[(i + 1) % 3]
            if above[a] and not above[b]:
                leave = (min(a, b), max(a, b))
            elif above[b] and not above[a]:
                entry = (min(a, b), max(a, b))
        following[entry] = leave
    outlines = []
    while following:
        first, here = following.popitem()
        edges = [first]
        while here != first and here in following:
            edges.append(here)
            here = following.pop(here)
        if here != first:
            edges.append(here)
        pairs = np.array(edges)
        share = distance[pairs[:, 0]] / (distance[pairs[:, 0]] - distance[pairs[:, 1]])
        outlines.append(points[pairs[:, 0]] + share[:, np.newaxis] * (points[pairs[:, 1]] - points[pairs[:, 0]]))
    return outlines


def target_profile(
    field: HeightField,
    backing: float,
    start: tuple[float, float],
    end: tuple[float, float],
    samples: int = 600,
) -> Profile:
    """The surface that was asked for along a line, interpolated bilinearly between samples."""
    direction, length = _line(start, end)
    along = np.linspace(0.0, length, samples)
    x = (start[0] + along * direction[0]) / field.pitch
    y = (field.depth - (start[1] + along * direction[1])) / field.pitch
    rows, columns = field.heights.shape
    slack = 1e-6
    inside = (x >= -slack) & (y >= -slack) & (x <= columns - 1 + slack) & (y <= rows - 1 + slack)
    left = np.clip(np.floor(x), 0, columns - 2).astype(np.int64)
    top = np.clip(np.floor(y), 0, rows - 2).astype(np.int64)
    fx, fy = np.clip(x - left, 0, 1), np.clip(y - top, 0, 1)
    heights = field.heights.astype(np.float64, copy=False)
    upper = heights[top, left] * (1 - fx) + heights[top, left + 1] * fx
    lower = heights[top + 1, left] * (1 - fx) + heights[top + 1, left + 1] * fx
    nearest = field.material[
        np.clip(np.round(y), 0, rows - 1).astype(int), np.clip(np.round(x), 0, columns - 1).astype(int)
    ]
    up = np.where(inside & nearest, backing + upper * (1 - fy) + lower * fy, np.nan)
    return Profile(along=along, up=up)


def _line(start: tuple[float, float], end: tuple[float, float]) -> tuple[NDArray[np.float64], float]:
    vector = np.asarray(end, dtype=np.float64) - np.asarray(start, dtype=np.float64)
    length = float(np.hypot(*vector))
    if not np.isfinite(length) or length < 1e-3:
        raise BadValueError(f"The section line is {length:g} mm long; at least 0.001 mm is needed.")
    return vector / length, length
