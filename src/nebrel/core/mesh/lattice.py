"""Where a mesh crosses the lines of a cubic lattice, and which lattice points lie inside it."""

from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import BadValueError
from nebrel.core.jit import compiled
from nebrel.core.mesh.trimesh import TriMesh

MOST_POINTS = 60_000_000
BORDER = 2
# The lattice starts at an odd place, so that corners on whole millimetres do not lie on its lines.
ODD = np.array([0.0173205, 0.0223607, 0.0264575])


class Crossings(NamedTuple):
    """Crossings with the lines along one axis, line by line, rising.

    Attributes:
        first: int64 (lines + 1,), where each line's crossings start.
        at: float64 (K,), place along the axis in lattice units.
        face: int64 (K,).
        leaving: bool (K,), whether the line leaves the solid there.
    """

    first: NDArray[np.int64]
    at: NDArray[np.float64]
    face: NDArray[np.int64]
    leaving: NDArray[np.bool_]


@dataclass(frozen=True)
class Lattice:
    """A mesh on a lattice.

    Attributes:
        origin: float64 (3,) mm of lattice point (0, 0, 0).
        spacing: mm.
        inside: bool (X, Y, Z).
        crossings: those along X, Y and Z; lines along an axis are numbered by the other two, the earlier first.
    """

    origin: NDArray[np.float64]
    spacing: float
    inside: NDArray[np.bool_]
    crossings: tuple[Crossings, Crossings, Crossings]


def lattice_of(mesh: TriMesh, spacing: float) -> Lattice:
    """`mesh` on a lattice with points `spacing` mm apart.

    A point is inside where the mesh winds round it at least once, seen along at least two of the three axes; so shells
    that overlap are one, shells within others vanish, and a small hole does not let everything out.

    Raises:
        BadValueError: the lattice would have more than 60 million points.
    """
    low, high = mesh.vertices.min(axis=0), mesh.vertices.max(axis=0)
    shape = np.ceil((high - low) / spacing).astype(np.int64) + 2 * BORDER + 1
    if float(np.prod(shape.astype(np.float64))) > MOST_POINTS:
        least = spacing * (float(np.prod(shape.astype(np.float64))) / MOST_POINTS) ** (1 / 3)
        sides = " × ".join(f"{side:.0f}" for side in high - low)
        raise BadValueError(
            f"A voxel of {spacing:g} mm is too fine for a piece of {sides} mm; {least:.3g} mm or more is accepted."
        )
    origin = low - (BORDER + ODD) * spacing
    points = (mesh.vertices - origin) / spacing
    faces = mesh.faces.astype(np.int64)
    crossings, votes = [], np.zeros(tuple(shape), dtype=np.int8)
    for axis in range(3):
        u, v = (other for other in range(3) if other != axis)
        counts = np.zeros(shape[u] * shape[v] + 1, dtype=np.int64)
        counted = Crossings(counts, np.empty(0), np.empty(0, np.int64), np.empty(0, np.bool_))
        _scan(points, faces, axis, shape[v], counted)
        first = np.concatenate([[0], np.cumsum(counts[:-1])])
        total = int(first[-1])
        at, face = np.empty(total), np.empty(total, dtype=np.int64)
        leaving = np.empty(total, dtype=np.bool_)
        _scan(points, faces, axis, shape[v], Crossings(first.copy(), at, face, leaving))
        line = np.repeat(np.arange(len(first) - 1), np.diff(first))
        order = np.lexsort((at, line))
        found = Crossings(first, at[order], face[order], leaving[order])
        crossings.append(found)
        _vote(found.first, found.at, found.leaving, np.moveaxis(votes, (u, v, axis), (0, 1, 2)))
    return Lattice(origin, spacing, votes >= 2, (crossings[0], crossings[1], crossings[2]))


@compiled
def _beside(points, a, b, u, v, x, y):
    """On which side of the edge a-b a line is; the same number, negated, whichever way the edge is named."""
    if a < b:
        return (points[b, u] - points[a, u]) * (y - points[a, v]) - (points[b, v] - points[a, v]) * (x - points[a, u])
    return -((points[a, u] - points[b, u]) * (y - points[b, v]) - (points[a, v] - points[b, v]) * (x - points[b, u]))


@compiled
def _scan(points, faces, axis, lines_v, found):
    """Count crossings per line in `found.first`, or, once there is room, put them where it points to."""
    slots, at, face, leaving = found
    u, v = (1, 2) if axis == 0 else ((0, 2) if axis == 1 else (0, 1))
    counting = len(at) == 0
    flipped = axis == 1
    for f in range(len(faces)):
        a, b, c = faces[f, 0], faces[f, 1], faces[f, 2]
        area = (points[b, u] - points[a, u]) * (points[c, v] - points[a, v]) - (points[b, v] - points[a, v]) * (
            points[c, u] - points[a, u]
        )
        if area == 0:
            continue
        low_u = int(np.ceil(min(points[a, u], points[b, u], points[c, u])))
        high_u = int(np.floor(max(points[a, u], points[b, u], points[c, u])))
        low_v = int(np.ceil(min(points[a, v], points[b, v], points[c, v])))
        high_v = int(np.floor(max(points[a, v], points[b, v], points[c, v])))
        for x in range(low_u, high_u + 1):
            for y in range(low_v, high_v + 1):
                wa = _beside(points, b, c, u, v, x, y)
                wb = _beside(points, c, a, u, v, x, y)
                wc = _beside(points, a, b, u, v, x, y)
                least, most = min(wa, wb, wc), max(wa, wb, wc)
                if least < 0 < most:
                    continue
                # On an edge: the face on the side towards falling u, then falling v, takes it.
                on_edge = wa == 0 or wb == 0 or wc == 0
                if on_edge and not _takes_edge(points, (a, b, c), (u, v), wa, wb):
                    continue
                line = x * lines_v + y
                if counting:
                    slots[line] += 1
                    continue
                place = slots[line]
                slots[line] += 1
                at[place] = (wa * points[a, axis] + wb * points[b, axis] + wc * points[c, axis]) / (wa + wb + wc)
                face[place] = f
                # The normal looks along the axis where the projection turns counter-clockwise (the other way for Y).
                leaving[place] = (area > 0) != flipped


@compiled
def _takes_edge(points, corners, across, wa, wb):
    a, b, c = corners
    u, v = across
    middle_u = (points[a, u] + points[b, u] + points[c, u]) / 3
    middle_v = (points[a, v] + points[b, v] + points[c, v]) / 3
    if wa == 0:
        p, q = b, c
    elif wb == 0:
        p, q = c, a
    else:
        p, q = a, b
    run, rise = points[q, u] - points[p, u], points[q, v] - points[p, v]
    if rise != 0:
        return middle_u < points[p, u] + run * (middle_v - points[p, v]) / rise
    return middle_v < points[p, v]


@compiled
def _vote(first, at, leaving, votes):
    """Add one to every point round which the mesh winds, seen along the last axis of `votes`."""
    across, along, deep = votes.shape
    for x in range(across):
        for y in range(along):
            line = x * along + y
            winding, k = 0, first[line]
            for z in range(deep):
                while k < first[line + 1] and at[k] < z:
                    winding += -1 if leaving[k] else 1
                    k += 1
                if winding > 0:
                    votes[x, y, z] += 1
