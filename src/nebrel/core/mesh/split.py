"""Sides of a mesh parted by new vertices, the faces beside them with them, so that no gaps come of it."""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from nebrel.core.jit import compiled
from nebrel.core.mesh.topology import opposite_halfedges
from nebrel.core.mesh.trimesh import TriMesh

# The cosine between normals from which on faces lie in one plane; and how often all sides are gone through.
FLAT, MOST_PASSES = 1 - 1e-10, 80

_Reals = NDArray[np.float64]
_Ints = NDArray[np.int64]


def sides_apart(mesh: TriMesh, sides: _Ints, weight: _Reals) -> NDArray[np.bool_]:
    """Which of some sides, int64 (K, 2) vertices, the lower number first, are taken so that no face has two of them:
    those of the largest weight, (K,), first; bool (K,)."""
    count = len(mesh.vertices)
    key = sides[:, 0] * count + sides[:, 1]
    order = np.argsort(key)
    keys = _keys(mesh.faces.astype(np.int64), count)
    at = np.minimum(np.searchsorted(key[order], keys), len(key) - 1)
    face, place = np.nonzero(key[order][at] == keys)
    side = order[at[face, place]]
    by_side = np.argsort(side, kind="stable")
    first = np.searchsorted(side[by_side], np.arange(len(sides) + 1))
    taken = np.zeros(len(mesh.faces), dtype=np.bool_)
    return np.asarray(_no_two_of_one(np.argsort(-weight, kind="stable"), first, face[by_side], taken))


@compiled
def _no_two_of_one(order, first, face, taken):
    chosen = np.zeros(len(order), dtype=np.bool_)
    for side in order:
        free = True
        for at in range(first[side], first[side + 1]):
            if taken[face[at]]:
                free = False
        if free:
            chosen[side] = True
            for at in range(first[side], first[side + 1]):
                taken[face[at]] = True
    return chosen


def _keys(faces: _Ints, count: int) -> _Ints:
    """Numbers, (M, 3), that are the same for sides with the same two vertices."""
    ahead = np.roll(faces, -1, axis=1)
    return np.minimum(faces, ahead) * count + np.maximum(faces, ahead)


def split_sides(mesh: TriMesh, sides: _Ints, places: _Reals) -> tuple[TriMesh, _Ints]:
    """The mesh with a vertex at a place of each side, no two of which belong to one face; colours are mixed halfway.

    Args:
        sides: int64 (K, 2), vertices, the lower number first.
        places: float64 (K, 3) mm.

    Returns:
        The mesh, its own vertices first, and of every face the one that it is part of, int64 (M,).
    """
    faces, known = mesh.faces.astype(np.int64), len(mesh.vertices)
    key = sides[:, 0] * known + sides[:, 1]
    order = np.argsort(key)
    keys = _keys(faces, known)
    found = np.minimum(np.searchsorted(key[order], keys), len(key) - 1)
    hit = key[order][found] == keys
    face, side = np.nonzero(hit)
    middle = known + order[found[face, side]]
    first, second = faces[face].copy(), faces[face].copy()
    each = np.arange(len(face))
    first[each, (side + 1) % 3], second[each, side] = middle, middle
    rest = np.flatnonzero(~hit.any(axis=1))
    of = np.concatenate([rest, face, face])
    split = TriMesh(np.vstack([mesh.vertices, places]), np.vstack([faces[rest], first, second]).astype(np.uint32))
    if mesh.colours is not None:
        tints = np.vstack([mesh.colours, np.round(mesh.colours[sides].mean(axis=1)).astype(np.uint8)])
        split = replace(split, colours=tints)
    if mesh.corner_colours is not None:
        tints = mesh.corner_colours[of]
        both = mesh.corner_colours[face]
        mixed = np.round((both[each, side].astype(np.float64) + both[each, (side + 1) % 3]) / 2).astype(np.uint8)
        tints[len(rest) + each, (side + 1) % 3] = mixed
        tints[len(rest) + len(face) + each, side] = mixed
        split = replace(split, corner_colours=tints)
    return split, of


def turn_flat_sides(vertices: _Reals, faces: _Ints, normals: _Reals) -> tuple[_Ints, _Ints]:
    """Faces with sides turned that lie flat, so that no corner lies in the circle of a face beside it (Lawson 1977).

    Args:
        vertices: float64 (N, 3) mm.
        faces: int64 (M, 3).
        normals: float64 (M, 3) of length 1; zeros for faces that stay.

    Returns:
        The faces, and a face as it was that each came from, int64 (M,).
    """
    turned, came = faces.copy(), np.arange(len(faces))
    mate, _ = opposite_halfedges(turned, len(vertices))
    _turn_flat(vertices, turned, mate, normals, came)
    return turned, came


@compiled
def _turn_flat(vertices, faces, mate, normals, came):
    for _ in range(MOST_PASSES):
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
            within = (3 * f + 1, 3 * g + 2)
            for side, other in (
                (3 * f, beyond_ad), (3 * f + 2, beyond_ca), (3 * g, beyond_db), (3 * g + 1, beyond_bc), within
            ):  # fmt: skip
                mate[side] = other
                if other >= 0:
                    mate[other] = side
            came[g] = came[f]
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
