"""Holes of a mesh, and patches over them."""

import manifold3d
import numpy as np
import shapely
from numpy.typing import NDArray

from nebrel.core.jit import compiled
from nebrel.core.mesh.topology import opposite_halfedges

LONGEST_LOOP = 20_000
# Longer outlines that are not flat are filled only as they are seen along their normal.
LONGEST_CURVED = 240
# How far corners of a flat outline may lie off its plane, of its length, and normals of one plane apart.
FLAT_SHARE, SAME_PLANE = 1e-4, 1e-6
_Reals = NDArray[np.float64]
_Ints = NDArray[np.int64]


def fill_holes(vertices: _Reals, faces: _Ints, beside: _Ints | None = None) -> tuple[list[_Ints], int, int]:
    """Patches, each int64 (K, 3), for the holes of `faces`; how many holes were filled and how many were not.

    A flat outline is filled in its plane, together with those that lie within it, as at the end of a tube; one that is
    not flat by the triangles of least area between its corners (Barequet and Sharir 1995), or, if it is long, by those
    that it has seen along its normal. No patch has an edge within it that is there already, in `beside`, int64 (K, 3),
    or in `faces` themselves.
    """
    known = _Sides(faces if beside is None else beside, len(vertices))
    loops = [loop for loop in hole_loops(faces, len(vertices)) if len(loop) >= 3]
    patches, filled = [], 0
    for group in _in_one_plane(vertices, loops):
        patch = _flat_patch(vertices, group)
        if patch is not None and known.among(patch, group):
            patch = None
        if patch is None and len(group) == 1 and len(group[0]) <= LONGEST_CURVED:
            patch = _curved_patch(vertices, group[0], known)
        if patch is not None:
            patches.append(patch)
            filled += len(group)
    return patches, filled, len(loops) - filled


def hole_loops(faces: _Ints, vertices: int) -> list[_Ints]:
    """Outlines of holes, running so that a patch along them agrees with the faces around; none meets itself."""
    mate, _ = opposite_halfedges(faces, vertices)
    sides = np.flatnonzero(mate < 0)
    starts, ends = faces.ravel()[sides], np.roll(faces, -1, axis=1).ravel()[sides]
    key = np.minimum(starts, ends) * vertices + np.maximum(starts, ends)
    _, back, count = np.unique(key, return_inverse=True, return_counts=True)
    following: dict[int, list[int]] = {}
    for a, b in zip(starts[count[back] == 1].tolist(), ends[count[back] == 1].tolist(), strict=True):
        following.setdefault(b, []).append(a)
    loops = []
    while following:
        at = next(iter(following))
        path, place = [at], {at: 0}
        while at in following:
            onwards = following[at]
            ahead = onwards.pop()
            if not onwards:
                del following[at]
            at = ahead
            if at not in place:
                place[at] = len(path)
                path.append(at)
                continue
            # Holes that touch at a corner are holes of their own.
            loops.append(np.array(path[place[at] :], dtype=np.int64))
            for gone in path[place[at] + 1 :]:
                del place[gone]
            del path[place[at] + 1 :]
    return loops


def _in_one_plane(vertices: _Reals, loops: list[_Ints]) -> list[list[_Ints]]:
    """Outlines, each with those that run the other way within it in its plane."""
    planes = [_plane(vertices[loop]) for loop in loops]
    normals, middles = (np.array([plane[part] for plane in planes]).reshape(-1, 3) for part in (0, 1))
    flat = np.array([off <= FLAT_SHARE for _, _, off in planes], dtype=bool)
    spans = np.array([_span(vertices[loop]) for loop in loops])
    alone = np.ones(len(loops), dtype=bool)
    groups = []
    for number in sorted(np.flatnonzero(flat).tolist(), key=lambda each: -spans[each]):
        if not alone[number]:
            continue
        alone[number] = False
        normal, middle = normals[number], middles[number]
        within = [loops[number]]
        near = np.abs((middles - middle) @ normal) <= FLAT_SHARE * spans[number]
        others = np.flatnonzero(alone & flat & near & (normals @ normal < SAME_PLANE - 1))
        axes = _axes(normal)
        outline = shapely.Polygon((vertices[loops[number]] - middle) @ axes.T)
        for other in others.tolist() if outline.is_valid else []:
            if outline.contains(shapely.Point((vertices[loops[other][0]] - middle) @ axes.T)):
                within.append(loops[other])
                alone[other] = False
        groups.append(within)
    return groups + [[loops[each]] for each in np.flatnonzero(alone & ~flat).tolist()]


def _span(points: _Reals) -> float:
    """The longest side of the box of some points, mm."""
    return float(np.ptp(points, axis=0).max())


def _plane(points: _Reals) -> tuple[_Reals, _Reals, float]:
    """The normal of an outline (Newell), its middle, and how far it lies off that plane, of its length."""
    middle = points.mean(axis=0)
    off = points - middle
    normal = np.cross(off, np.roll(off, -1, axis=0)).sum(axis=0)
    length = float(np.linalg.norm(normal))
    if length == 0:
        return np.zeros(3), middle, np.inf
    normal /= length
    return normal, middle, float(np.abs(off @ normal).max() / max(_span(points), 1e-300))


def _axes(normal: _Reals) -> _Reals:
    across = np.cross(normal, np.eye(3)[np.abs(normal).argmin()])
    across /= np.linalg.norm(across)
    return np.stack([across, np.cross(normal, across)])


def _flat_patch(vertices: _Reals, group: list[_Ints]) -> _Ints | None:
    """Triangles of outlines as they are seen along the normal of the first; None where they cross themselves there."""
    normal, middle, _ = _plane(vertices[group[0]])
    corners = np.concatenate(group)
    if not normal.any() or len(corners) > LONGEST_LOOP:
        return None
    axes = _axes(normal)
    flat = [(vertices[loop] - middle) @ axes.T for loop in group]
    triangles = np.asarray(manifold3d.triangulate(flat, -1.0, False), dtype=np.int64)
    return corners[triangles] if len(triangles) == len(corners) - 2 + 2 * (len(group) - 1) else None


def _curved_patch(vertices: _Reals, loop: _Ints, known: "_Sides") -> _Ints | None:
    """The triangles of least area between the corners of an outline; no side of theirs is there already."""
    triangles = _least_area(vertices[loop], known.between(loop))
    return loop[triangles] if len(triangles) == len(loop) - 2 else None


class _Sides:
    """The sides of faces, to be asked for."""

    def __init__(self, faces: _Ints, vertices: int) -> None:
        self._vertices = vertices
        self._keys = np.unique(self._key(faces, np.roll(faces, -1, axis=1)))

    def among(self, patch: _Ints, loops: list[_Ints]) -> bool:
        """Whether a side within a patch is there already; those along its outlines are."""
        own = np.unique(self._key(patch, np.roll(patch, -1, axis=1)))
        outlines = np.concatenate([self._key(loop, np.roll(loop, -1)) for loop in loops])
        return bool(self._there(np.setdiff1d(own, outlines)).any())

    def between(self, loop: _Ints) -> NDArray[np.bool_]:
        """Which corners of an outline have a side between them already, bool (N, N)."""
        return self._there(self._key(loop[:, np.newaxis], loop[np.newaxis]))

    def _key(self, one: _Ints, other: _Ints) -> _Ints:
        return np.minimum(one, other) * self._vertices + np.maximum(one, other)

    def _there(self, keys: _Ints) -> NDArray[np.bool_]:
        if not len(self._keys):
            return np.zeros(keys.shape, dtype=np.bool_)
        at = np.minimum(np.searchsorted(self._keys, keys), len(self._keys) - 1)
        return np.asarray(self._keys[at] == keys)


@compiled
def _least_area(points, taken):
    count = len(points)
    least = np.full((count, count), np.inf, dtype=np.float64)
    by = np.full((count, count), -1, dtype=np.int64)
    for i in range(count - 1):
        least[i, i + 1] = 0.0
    for gap in range(2, count):
        for i in range(count - gap):
            k = i + gap
            # The last one is closed by the side of the outline from its end to its start.
            if taken[i, k] and not (i == 0 and k == count - 1):
                continue
            for j in range(i + 1, k):
                below = least[i, j] + least[j, k]
                if below >= least[i, k]:
                    continue
                a, b = points[j] - points[i], points[k] - points[i]
                x, y, z = a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]
                whole = below + np.sqrt(x * x + y * y + z * z)
                if whole < least[i, k]:
                    least[i, k], by[i, k] = whole, j
    found = np.empty((max(count - 2, 0), 3), dtype=np.int64)
    stack = [(0, count - 1)]
    made = 0
    while len(stack) > 0:
        i, k = stack.pop()
        if k - i < 2:
            continue
        j = by[i, k]
        if j < 0:
            return found[:0]
        found[made, 0], found[made, 1], found[made, 2] = i, j, k
        made += 1
        stack.append((i, j))
        stack.append((j, k))
    return found[:made]
