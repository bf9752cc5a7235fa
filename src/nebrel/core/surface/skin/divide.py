"""Long faces of a skin divided, so that it can bend between their ends; what they enclose stays as it is."""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.split import sides_apart, split_sides, turn_flat_sides

MOST_ROUNDS = 80
MOST_FACES = 200_000
_Reals = NDArray[np.float64]
_Ints = NDArray[np.int64]


def divided(
    mesh: TriMesh, faces: _Ints, longest: float, axis: _Reals | None = None, turning: bool = False
) -> tuple[TriMesh, _Ints]:
    """The mesh with sides of some faces halved until none is longer than `longest` mm, or that along an axis.

    Faces beyond such a side are divided with it, so no gaps come of it.

    Args:
        faces: int64 (K,), numbers of the faces.
        longest: mm.
        axis: float64 (3,) of length 1.
        turning: whether sides between faces of one plane may be turned as well, so that narrow faces become round ones
            (Lawson 1977); far fewer come of it.

    Returns:
        The mesh, and of every face of it the one that it is part of, int64 (M,).
    """
    chosen = np.zeros(len(mesh.faces), dtype=np.bool_)
    chosen[faces] = True
    part_of = np.arange(len(mesh.faces))
    most = max((2 if turning else 1) * MOST_FACES, 2 * len(mesh.faces))
    for _ in range(MOST_ROUNDS):
        sides = _sides_to_halve(mesh, chosen, longest, axis)
        if not len(sides) or len(mesh.faces) + 2 * len(sides) > most:
            break
        mesh, of = split_sides(mesh, sides, mesh.vertices[sides].mean(axis=1))
        chosen, part_of = chosen[of], part_of[of]
        if turning and mesh.corner_colours is None:
            mesh, part_of = _turned_flat(mesh, chosen, part_of)
    return mesh, part_of


def _turned_flat(mesh: TriMesh, chosen: NDArray[np.bool_], part_of: _Ints) -> tuple[TriMesh, _Ints]:
    """The mesh with sides turned that lie flat among chosen faces, so that no corner lies in the circle of a face."""
    faces, corners = mesh.faces.astype(np.int64), mesh.corners
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    length = np.linalg.norm(normals, axis=1, keepdims=True)
    normals = np.where(length > 0, normals / np.maximum(length, 1e-300), 0.0)
    normals[~chosen] = 0.0
    turned, came = turn_flat_sides(mesh.vertices, faces, normals)
    return replace(mesh, faces=turned.astype(np.uint32)), part_of[came]


def _sides_to_halve(mesh: TriMesh, chosen: NDArray[np.bool_], longest: float, axis: _Reals | None) -> _Ints:
    """Vertices (K, 2) of sides that are too long, the longest of theirs, no two of one face."""
    at = np.flatnonzero(chosen)
    starts = mesh.faces[at].astype(np.int64)
    ends = np.roll(starts, -1, axis=1)
    along = _lengths(mesh.vertices[ends] - mesh.vertices[starts], axis)
    worst = along.argmax(axis=1)
    each = np.arange(len(at))
    long = along[each, worst] > longest
    sides = np.sort(np.stack([starts[each, worst], ends[each, worst]], axis=1)[long], axis=1)
    sides = np.unique(sides, axis=0)
    if not len(sides):
        return sides
    return sides[sides_apart(mesh, sides, _lengths(mesh.vertices[sides[:, 1]] - mesh.vertices[sides[:, 0]], axis))]


def _lengths(ways: _Reals, axis: _Reals | None) -> _Reals:
    """How long ways, (..., 3), are, all in all or along an axis."""
    found: _Reals = np.linalg.norm(ways, axis=-1) if axis is None else np.abs(ways @ axis)
    return found
