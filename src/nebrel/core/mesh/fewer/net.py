"""Triangles that hang together and can be taken apart: what the collapse of edges works on."""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from nebrel.core.jit import compiled, inlined
from nebrel.core.mesh.fewer.flats import at_rims
from nebrel.core.mesh.topology import border_halfedges, fans_round, opposite_halfedges

FREE, ON_RIM, ON_BORDER, TANGLED, FIXED = 0, 1, 2, 3, 4
_UNSEEN = -1


class Net(NamedTuple):
    """A mesh while edges of it collapse. Half-edge `h` runs from corner `h` to the next corner of face `h // 3`.

    Attributes:
        places: float64 (N, 3), vertices.
        corners: int32 (3 M,), the vertex of every corner.
        kinds: int8 (N,), `FREE`; `ON_RIM` of a flat part or `ON_BORDER`, which move along those only; `TANGLED`, where
            faces do not form one fan; or `FIXED`, which no edge takes away.
        flats: int32 (M,), the flat part that a face belongs to, -1 for none.
        quadrics: float64 (N, 10), the sum of squared distances to planes, see `quadric.py`.
        following: int32 (3 M,), the next corner of the same vertex, in a ring.
        first: int32 (N,), some corner of every vertex, -1 for none.
        gone: bool (M,), faces that have collapsed.
    """

    places: NDArray[np.float64]
    corners: NDArray[np.int32]
    kinds: NDArray[np.int8]
    flats: NDArray[np.int32]
    quadrics: NDArray[np.float64]
    following: NDArray[np.int32]
    first: NDArray[np.int32]
    gone: NDArray[np.bool_]


def net_of(
    places: NDArray[np.float64], faces: NDArray[np.int64], flats: NDArray[np.int32], fixed: NDArray[np.bool_]
) -> Net:
    """The net over vertices, (N, 3), and faces, (M, 3), without quadrics yet; `fixed`, bool (N,), stay as they are."""
    opposite, _ = opposite_halfedges(faces, len(places))
    fans = fans_round(faces, opposite, len(places))
    kinds = np.where(at_rims(faces, flats, len(places)), ON_RIM, FREE).astype(np.int8)
    ends = np.roll(faces, -1, axis=1).ravel()
    border = border_halfedges(faces, opposite, len(places))
    crowded = np.setdiff1d(np.flatnonzero(opposite < 0), border)
    for halfedges, kind in ((border, ON_BORDER), (crowded, TANGLED)):
        kinds[faces.ravel()[halfedges]] = kind
        kinds[ends[halfedges]] = kind
    kinds[fans > 1] = TANGLED
    kinds[fixed] = FIXED
    corners = np.ascontiguousarray(faces.ravel(), dtype=np.int32)
    following, first = _rings(corners, len(places))
    quadrics, gone = np.zeros((len(places), 10)), np.zeros(len(faces), np.bool_)
    return Net(places, corners, kinds, flats, quadrics, following, first, gone)


@compiled
def _rings(corners, vertex_count):
    first = np.full(vertex_count, _UNSEEN, dtype=np.int32)
    following = np.empty(len(corners), dtype=np.int32)
    for c in range(len(corners)):
        v = corners[c]
        if first[v] < 0:
            first[v], following[c] = c, c
        else:
            following[c] = following[first[v]]
            following[first[v]] = c
    return following, first


@inlined
def has_corner(net, start, vertex):
    """Whether the face whose first corner is `start` has a corner at `vertex`."""
    corners = net.corners
    return corners[start] == vertex or corners[start + 1] == vertex or corners[start + 2] == vertex


@inlined
def take_face(net, start):
    """Take a face away, out of the rings of its vertices."""
    for c in range(start, start + 3):
        before = c
        while net.following[before] != c:
            before = net.following[before]
        vertex = net.corners[c]
        net.following[before] = net.following[c]
        if net.first[vertex] == c:
            net.first[vertex] = before if before != c else _UNSEEN
    net.gone[start // 3] = True


@inlined
def join_rings(net, kept, lost):
    """Make all corners of one vertex corners of another."""
    first, other = net.first[kept], net.first[lost]
    net.first[lost] = _UNSEEN
    if other < 0:
        return
    c = other
    while True:
        net.corners[c] = kept
        c = net.following[c]
        if c == other:
            break
    if first < 0:
        net.first[kept] = other
    else:
        net.following[first], net.following[other] = net.following[other], net.following[first]
