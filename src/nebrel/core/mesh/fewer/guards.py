"""Which edges may collapse: the surface stays as it hangs together, and no face turns over or grows needle thin."""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from nebrel.core.jit import inlined
from nebrel.core.mesh.fewer.flats import NO_FLAT, OFF
from nebrel.core.mesh.fewer.net import FIXED, ON_BORDER, TANGLED, has_corner
from nebrel.core.mesh.fewer.vectors import cross, dot, minus

# A face turns by no more than 78 degrees at once. Height over longest side below which it may not get thinner still.
_LEAST_COSINE = 0.2
_THIN = 0.01


class Marks(NamedTuple):
    """Which vertices were met in a walk.

    Attributes:
        last: int32 (N,), the number of the walk that met a vertex last.
        walk: int32 (1,), the number of walks so far.
    """

    last: NDArray[np.int32]
    walk: NDArray[np.int32]


def no_marks(vertices: int) -> Marks:
    """Marks over so many vertices."""
    return Marks(np.zeros(vertices, dtype=np.int32), np.zeros(1, dtype=np.int32))


@inlined
def keeps_whole(net, marks, u, v):
    """Whether the surface hangs together after the edge from u to v has collapsed as it did before.

    The link condition (Dey, Edelsbrunner, Guha, Nekhayev, "Topology preserving edge contraction", 1999): what both ends
    have for neighbours is across their shared faces. Where neither end has a single fan there is nothing to keep.
    """
    kinds, corners, following = net.kinds, net.corners, net.following
    if kinds[u] == FIXED and kinds[v] == FIXED:
        return False
    if kinds[u] == TANGLED and kinds[v] == TANGLED:
        return True
    marks.walk[0] += 2
    met, counted = marks.walk[0], marks.walk[0] + 1
    shared = beside_u = beside_v = common = 0
    c = net.first[u]
    while True:
        start = c // 3 * 3
        beside_u += 1
        shared += has_corner(net, start, v)
        for k in range(start, start + 3):
            marks.last[corners[k]] = met
        c = following[c]
        if c == net.first[u]:
            break
    marks.last[u] = marks.last[v] = counted
    c = net.first[v]
    while True:
        start = c // 3 * 3
        beside_v += 1
        for k in range(start, start + 3):
            if marks.last[corners[k]] == met:
                marks.last[corners[k]] = counted
                common += 1
        c = following[c]
        if c == net.first[v]:
            break
    if shared != common or shared == 0 or shared > 2:
        return False
    if shared == 2:
        return (kinds[u] < ON_BORDER or kinds[v] < ON_BORDER) and (beside_u > 3 or beside_v > 3)
    return beside_u > 1 or beside_v > 1


@inlined
def turns_over(net, u, v, place):
    """Whether a face beside the edge from u to v turns too far, gets too thin or leaves its flat part, when both go to
    `place`."""
    return _turns_at(net, u, v, place) or _turns_at(net, v, u, place)


@inlined
def _turns_at(net, moved, other, place):
    places, corners, following = net.places, net.corners, net.following
    at = (places[moved, 0], places[moved, 1], places[moved, 2])
    c = net.first[moved]
    while True:
        start = c // 3 * 3
        if not has_corner(net, start, other):
            a, b = corners[start + (c - start + 1) % 3], corners[start + (c - start + 2) % 3]
            origin = (places[a, 0], places[a, 1], places[a, 2])
            side = minus((places[b, 0], places[b, 1], places[b, 2]), origin)
            old, new = minus(at, origin), minus(place, origin)
            if _turns(side, old, new):
                return True
            if net.flats[start // 3] != NO_FLAT and _off_plane(side, old, new) > OFF:
                return True
        c = following[c]
        if c == net.first[moved]:
            return False


@inlined
def _turns(side, old, new):
    before, after = cross(side, old), cross(side, new)
    squared_before, squared_after, both = dot(before, before), dot(after, after), dot(before, after)
    if squared_before > 0 and (both <= 0 or both * both < _LEAST_COSINE**2 * squared_before * squared_after):
        return True
    longest_after = _longest(side, new)
    if squared_after >= _THIN**2 * longest_after * longest_after:
        return False
    longest_before = _longest(side, old)
    return squared_after * longest_before * longest_before < squared_before * longest_after * longest_after


@inlined
def _off_plane(side, old, new):
    normal = cross(side, old)
    length = dot(normal, normal) ** 0.5
    return abs(dot(normal, new)) / length if length > 0 else 0.0


@inlined
def _longest(a, b):
    across = minus(a, b)
    return max(dot(a, a), dot(b, b), dot(across, across))
