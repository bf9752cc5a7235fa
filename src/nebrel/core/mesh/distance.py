"""Distances from points to a mesh, and between two meshes."""

from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nebrel.core.cores import cores
from nebrel.core.jit import compiled, lent
from nebrel.core.mesh.measure import face_areas
from nebrel.core.mesh.nearest import (
    ANY_COSINE,
    ANY_WAY,
    TriangleTree,
    empty_stack,
    nearest_triangle,
    squared_to_triangle,
    triangle_tree,
)
from nebrel.core.mesh.trimesh import TriMesh

POINTS_AT_ONCE = 50_000
# Faces are halved so often at the most, or until no place can be 1 % further off than the furthest that was seen.
_DEEPEST = 3
_SURE = 1.01**2
_MOST_PIECES = 4 * _DEEPEST + 8
# Of the extent: distances below are none.
_NOTHING = 1e-7


@dataclass(frozen=True)
class MeshDeviation:
    """How far two surfaces are apart, mm.

    Attributes:
        max: over both directions, see `measure_between`.
        rms: over both directions, every face by its area.
        beyond: float64 (K, 3) mm, places of either surface that are further from the other than was asked about.
    """

    max: float
    rms: float
    beyond: NDArray[np.float64]


def measure_between(
    original: TriMesh,
    changed: TriMesh,
    progress: Callable[[float], None] = lambda _: None,
    limit: float = np.inf,
) -> MeshDeviation:
    """Deviation of `changed` from `original`, both ways.

    The largest distance is not looked for at corners and middles only. No place of a face is further off than its
    corners are from one triangle of the other surface, because the distance from a triangle is a convex function; so
    most faces need no closer look. Faces that this leaves in doubt are halved, three times at the most: what may be
    missed stands out between places an eighth of a side apart, or is within 1 % of what was found.

    Args:
        original, changed: meshes with at least one face.
        progress: called with the fraction done.
        limit: mm; places further off than this are gathered.
    """
    sides = [
        _samples(changed, original, lambda part: progress(0.3 * part)),
        _samples(original, changed, lambda part: progress(0.3 + 0.3 * part)),
    ]
    extent = float(np.ptp(original.vertices, axis=0).max())
    seen = max(_NOTHING * extent, *(float(np.sqrt(side.squared.max())) for side in sides))
    found = [
        _furthest(sides[0], seen, limit, lambda part: progress(0.6 + 0.2 * part)),
        _furthest(sides[1], seen, limit, lambda part: progress(0.8 + 0.2 * part)),
    ]
    areas = [face_areas(side.mesh) for side in sides]
    squares = sum(float(area @ side.squared[-len(area) :]) for side, area in zip(sides, areas, strict=True))
    return MeshDeviation(
        max=max(furthest for furthest, _ in found),
        rms=float(np.sqrt(squares / max(sum(float(area.sum()) for area in areas), 1e-300))),
        beyond=np.vstack([places for _, places in found]),
    )


@dataclass(frozen=True)
class _Samples:
    """A mesh's vertices and the middles of its faces: the index in the tree of another surface of the triangle nearest
    to each, and the squared distance to it."""

    mesh: TriMesh
    tree: TriangleTree
    which: NDArray[np.int64]
    squared: NDArray[np.float64]


def _samples(mesh: TriMesh, surface: TriMesh, progress: Callable[[float], None]) -> _Samples:
    tree = triangle_tree(surface, with_normals=False)
    return _Samples(mesh, tree, *_search(tree, np.vstack([mesh.vertices, mesh.corners.mean(axis=1)]), progress))


def _furthest(
    samples: _Samples, seen: float, limit: float, progress: Callable[[float], None]
) -> tuple[float, NDArray[np.float64]]:
    """The largest distance of a mesh, at least where it is above `seen`, and the places beyond the limit, (K, 3)."""
    corners, faces = samples.mesh.corners, samples.mesh.faces.astype(np.int64)
    middles = samples.which[len(samples.mesh.vertices) :]
    furthest, at = np.empty(len(faces)), np.empty((len(faces), 3))

    def look(start: int) -> int:
        rows = slice(start, start + POINTS_AT_ONCE)
        near = samples.which[faces[rows]], samples.squared[faces[rows]], middles[rows]
        _look_within(corners[rows], *near, samples.tree, seen**2, limit**2, furthest[rows], at[rows])
        return start

    for start in _in_threads(look, len(faces)):
        progress(min(1.0, (start + POINTS_AT_ONCE) / len(faces)))
    return float(np.sqrt(furthest.max())), at[furthest > limit**2]


def distances_to(
    mesh: TriMesh, points: NDArray[np.float64], progress: Callable[[float], None] = lambda _: None
) -> NDArray[np.float64]:
    """Distance from every point, (K, 3) mm, to the nearest place on the surface of `mesh`, float64 (K,) mm."""
    return np.sqrt(_search(triangle_tree(mesh, with_normals=False), points, progress)[1])


def nearest_faces(mesh: TriMesh, points: NDArray[np.float64]) -> NDArray[np.int64]:
    """The face of `mesh` nearest to every point, (K, 3) mm; int64 (K,)."""
    tree = triangle_tree(mesh, with_normals=False)
    return tree.order[_search(tree, points, lambda _: None)[0]]


def _search(
    tree: TriangleTree, points: NDArray[np.float64], progress: Callable[[float], None]
) -> tuple[NDArray[np.int64], NDArray[np.float64]]:
    """The index in the tree of the triangle nearest to every point, and the squared distance to it."""
    which = np.empty(len(points), dtype=np.int64)
    away = np.empty(len(points), dtype=np.float64)

    def search(start: int) -> int:
        rows = slice(start, start + POINTS_AT_ONCE)
        which[rows], away[rows] = _nearest(np.ascontiguousarray(points[rows]), tree)
        return start

    for start in _in_threads(search, len(points)):
        progress(min(1.0, (start + POINTS_AT_ONCE) / len(points)))
    return which, away


def _in_threads(work: Callable[[int], int], count: int) -> Iterator[int]:
    """Call `work` with the first of every portion of `count` things, and give it back when that is done."""
    with ThreadPoolExecutor(max_workers=min(8, cores())) as threads:
        yield from threads.map(work, range(0, count, POINTS_AT_ONCE))


@compiled
def _nearest(points, tree):
    points, tree = lent((points, tree))
    which = np.empty(len(points), dtype=np.int64)
    found = np.empty(len(points), dtype=np.float64)
    stack = empty_stack()
    last = 0
    for k in range(len(points)):
        point = (points[k, 0], points[k, 1], points[k, 2])
        # Samples follow each other in space, so what was nearest to the one before bounds the search.
        first = squared_to_triangle(point, tree.corners, last)
        at, found[k] = nearest_triangle(point, ANY_WAY, ANY_COSINE, first, tree, stack)
        if at >= 0:
            last = at
        which[k] = last
    return which, found


@compiled
def _look_within(corners, which, squared, by_middle, tree, seen, limit, furthest, at):
    """The furthest place of every face, squared, wherever it is further than `seen` or the squared `limit`."""
    corners, which, squared, by_middle, tree, furthest, at = lent(
        (corners, which, squared, by_middle, tree, furthest, at)
    )
    stack = empty_stack()
    places = np.empty((_MOST_PIECES, 9))
    nearest = np.empty((_MOST_PIECES, 3), dtype=np.int64)
    away = np.empty((_MOST_PIECES, 3))
    depths = np.empty(_MOST_PIECES, dtype=np.int64)
    for f in range(len(corners)):
        for k in range(3):
            nearest[0, k], away[0, k] = which[f, k], squared[f, k]
            for axis in range(3):
                places[0, 3 * k + axis] = corners[f, k, axis]
        furthest[f], depths[0], left = -1.0, 0, 1
        while left:
            left -= 1
            for k in range(3):
                if away[left, k] > furthest[f]:
                    furthest[f] = away[left, k]
                    for axis in range(3):
                        at[f, axis] = places[left, 3 * k + axis]
            seen = max(seen, furthest[f])
            enough = min(_SURE * seen, limit)
            if depths[left] == _DEEPEST or _at_most(places, nearest, away, left, tree.corners) <= enough:
                continue
            if depths[left] == 0 and _most_from(places, left, tree.corners, by_middle[f]) <= enough:
                continue
            left = _quarter(places, nearest, away, depths, left, min(seen, limit), tree, stack)


@compiled
def _at_most(places, nearest, away, piece, triangles):
    """A bound on the squared distance of a piece: from one of the triangles nearest to its corners, or by how far any
    place of it is from a corner."""
    longest = 0.0
    for k in range(3):
        a, b = 3 * k, 3 * ((k + 1) % 3)
        side = 0.0
        for axis in range(3):
            side += (places[piece, a + axis] - places[piece, b + axis]) ** 2
        longest = max(longest, side)
    furthest = max(away[piece, 0], away[piece, 1], away[piece, 2])
    least = (furthest**0.5 + (longest / 3) ** 0.5) ** 2
    for k in range(3):
        least = min(least, _most_from(places, piece, triangles, nearest[piece, k]))
    return least


@compiled
def _most_from(places, piece, triangles, triangle):
    """The largest squared distance of a piece from one triangle."""
    most = 0.0
    for k in range(0, 9, 3):
        point = (places[piece, k], places[piece, k + 1], places[piece, k + 2])
        most = max(most, squared_to_triangle(point, triangles, triangle))
    return most


@compiled
def _quarter(places, nearest, away, depths, piece, known, tree, stack):
    """Put the four parts of the topmost piece in its place; gives how many pieces there are.

    The new corners' distances are looked for only where they might be above what is known.
    """
    middle = piece + 4
    depth = depths[piece] + 1
    for k in range(3):
        a, b = 3 * k, 3 * ((k + 1) % 3)
        for axis in range(3):
            places[middle, a + axis] = (places[piece, a + axis] + places[piece, b + axis]) / 2
        point = (places[middle, a], places[middle, a + 1], places[middle, a + 2])
        found, best = nearest[piece, k], np.inf
        for other in range(3):
            squared = squared_to_triangle(point, tree.corners, nearest[piece, other])
            if squared < best:
                found, best = nearest[piece, other], squared
        if best > known:
            nearer, best = nearest_triangle(point, ANY_WAY, ANY_COSINE, best, tree, stack)
            found = nearer if nearer >= 0 else found
        nearest[middle, k], away[middle, k] = found, best
    for k in range(3):
        part, before = piece + 1 + k, (k + 2) % 3
        _copy_corner(places, nearest, away, piece, k, part, 0)
        _copy_corner(places, nearest, away, middle, k, part, 1)
        _copy_corner(places, nearest, away, middle, before, part, 2)
        depths[part] = depth
    for k in range(3):
        _copy_corner(places, nearest, away, middle, k, piece, k)
    depths[piece] = depth
    return piece + 4


@compiled
def _copy_corner(places, nearest, away, piece, corner, to, as_corner):
    for axis in range(3):
        places[to, 3 * as_corner + axis] = places[piece, 3 * corner + axis]
    nearest[to, as_corner], away[to, as_corner] = nearest[piece, corner], away[piece, corner]
