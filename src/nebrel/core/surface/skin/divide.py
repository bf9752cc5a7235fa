"""Long faces of a skin divided, so that it can bend between their ends; what they enclose stays as it is."""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from nebrel.core.jit import compiled
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.topology import opposite_halfedges

MOST_ROUNDS = 80
MOST_FACES = 200_000
# The cosine between normals from which on faces lie in one plane.
FLAT = 1 - 1e-10
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
    most = max(MOST_FACES, 2 * len(mesh.faces))
    for _ in range(MOST_ROUNDS):
        sides = _sides_to_halve(mesh, chosen, longest, axis)
        if not len(sides) or len(mesh.faces) + 2 * len(sides) > most:
            break
        mesh, of = _halved(mesh, sides)
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
    mate, _ = opposite_halfedges(faces, len(mesh.vertices))
    part_of = part_of.copy()
    _turn_flat(mesh.vertices, faces, mate, normals, part_of)
    return replace(mesh, faces=faces.astype(np.uint32)), part_of


@compiled
def _turn_flat(vertices, faces, mate, normals, part_of):
    for _ in range(MOST_ROUNDS):
        turned = 0
        for e in range(3 * len(faces)):
            m = mate[e]
            if m < e:
                continue
            f, g, i, j = e // 3, m // 3, e % 3, m % 3
            n, k = normals[f], normals[g]
            if n[0] * k[0] + n[1] * k[1] + n[2] * k[2] < FLAT:
                continue
            a, b, c, d = faces[f, i], faces[f, (i + 1) % 3], faces[f, (i + 2) % 3], faces[g, (j + 2) % 3]
            if faces[g, j] != b:
                continue
            if _cotangent(vertices, a, c, b) + _cotangent(vertices, b, d, a) > -1e-6:
                continue
            beyond_bc, beyond_ca = mate[3 * f + (i + 1) % 3], mate[3 * f + (i + 2) % 3]
            beyond_ad, beyond_db = mate[3 * g + (j + 1) % 3], mate[3 * g + (j + 2) % 3]
            faces[f, 0], faces[f, 1], faces[f, 2] = a, d, c
            faces[g, 0], faces[g, 1], faces[g, 2] = d, b, c
            for side, other in (
                (3 * f, beyond_ad), (3 * f + 1, 3 * g + 2), (3 * f + 2, beyond_ca), (3 * g, beyond_db), (3 * g + 1, beyond_bc)
            ):  # fmt: skip
                mate[side] = other
                if other >= 0:
                    mate[other] = side
            part_of[g] = part_of[f]
            turned += 1
        if turned == 0:
            return


@compiled
def _cotangent(vertices, a, at, b):
    """Of the angle at `at` between the ways to `a` and `b`."""
    x0, y0, z0 = vertices[a, 0] - vertices[at, 0], vertices[a, 1] - vertices[at, 1], vertices[a, 2] - vertices[at, 2]
    x1, y1, z1 = vertices[b, 0] - vertices[at, 0], vertices[b, 1] - vertices[at, 1], vertices[b, 2] - vertices[at, 2]
    cx, cy, cz = y0 * z1 - z0 * y1, z0 * x1 - x0 * z1, x0 * y1 - y0 * x1
    return (x0 * x1 + y0 * y1 + z0 * z1) / max(np.sqrt(cx * cx + cy * cy + cz * cz), 1e-300)


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
    key = sides[:, 0] * len(mesh.vertices) + sides[:, 1]
    every = mesh.faces.astype(np.int64)
    ahead = np.roll(every, -1, axis=1)
    keys = np.minimum(every, ahead) * len(mesh.vertices) + np.maximum(every, ahead)
    there = np.isin(keys, key)
    face, _ = np.nonzero(there)
    at_key = np.searchsorted(key, keys[there])
    order = np.argsort(at_key, kind="stable")
    first = np.searchsorted(at_key[order], np.arange(len(sides) + 1))
    lengths = _lengths(mesh.vertices[sides[:, 1]] - mesh.vertices[sides[:, 0]], axis)
    longest_first = np.argsort(-lengths, kind="stable")
    return sides[_no_two_of_one(longest_first, first, face[order], np.zeros(len(every), dtype=np.bool_))]


@compiled
def _no_two_of_one(order, first, face, taken):
    """Which sides are halved, bool (K,): in their order, those none of whose faces has one yet."""
    halved = np.zeros(len(order), dtype=np.bool_)
    for side in order:
        free = True
        for at in range(first[side], first[side + 1]):
            if taken[face[at]]:
                free = False
        if free:
            halved[side] = True
            for at in range(first[side], first[side + 1]):
                taken[face[at]] = True
    return halved


def _lengths(ways: _Reals, axis: _Reals | None) -> _Reals:
    """How long ways, (..., 3), are, all in all or along an axis."""
    found: _Reals = np.linalg.norm(ways, axis=-1) if axis is None else np.abs(ways @ axis)
    return found


def _halved(mesh: TriMesh, sides: _Ints) -> tuple[TriMesh, _Ints]:
    """The mesh with a vertex in the middle of each side; and of every face the one that it comes from."""
    faces, known = mesh.faces.astype(np.int64), len(mesh.vertices)
    key = sides[:, 0] * known + sides[:, 1]
    order = np.argsort(key)
    ahead = np.roll(faces, -1, axis=1)
    keys = np.minimum(faces, ahead) * known + np.maximum(faces, ahead)
    found = np.minimum(np.searchsorted(key[order], keys), len(key) - 1)
    hit = key[order][found] == keys
    face, side = np.nonzero(hit)
    middle = known + order[found[face, side]]
    first, second = faces[face].copy(), faces[face].copy()
    each = np.arange(len(face))
    first[each, (side + 1) % 3], second[each, side] = middle, middle
    rest = np.flatnonzero(~hit.any(axis=1))
    of = np.concatenate([rest, face, face])
    made = np.vstack([faces[rest], first, second])
    points = np.vstack([mesh.vertices, mesh.vertices[sides].mean(axis=1)])
    halved = TriMesh(points, made.astype(np.uint32))
    if mesh.colours is not None:
        tints = np.vstack([mesh.colours, np.round(mesh.colours[sides].mean(axis=1)).astype(np.uint8)])
        halved = replace(halved, colours=tints)
    if mesh.corner_colours is not None:
        tints = mesh.corner_colours[of]
        both = mesh.corner_colours[face]
        mixed = np.round((both[each, side].astype(np.float64) + both[each, (side + 1) % 3]) / 2).astype(np.uint8)
        tints[len(rest) + each, (side + 1) % 3] = mixed
        tints[len(rest) + len(face) + each, side] = mixed
        halved = replace(halved, corner_colours=tints)
    return halved, of
