"""Long faces of a skin divided, so that it can bend between their ends; what they enclose stays as it is."""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from nebrel.core.jit import compiled
from nebrel.core.mesh import TriMesh

MOST_ROUNDS = 80
MOST_FACES = 200_000
_Reals = NDArray[np.float64]
_Ints = NDArray[np.int64]


def divided(mesh: TriMesh, faces: _Ints, longest: float, axis: _Reals | None = None) -> tuple[TriMesh, _Ints]:
    """The mesh with sides of some faces halved until none is longer than `longest` mm, or that along an axis.

    Faces beyond such a side are divided with it, so no gaps come of it.

    Args:
        faces: int64 (K,), numbers of the faces.
        longest: mm.
        axis: float64 (3,) of length 1.

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
    return mesh, part_of


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
