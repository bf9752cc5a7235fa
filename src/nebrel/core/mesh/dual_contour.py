"""A surface over a lattice: dual contouring.

A vertex in every lattice cell that the surface passes, placed where the planes of the crossings on the cell's edges
meet, so sharp edges stay (Ju, Losasso, Schaefer and Warren, "Dual Contouring of Hermite Data", 2002); one quad around
every lattice edge that is crossed. Lattice points that would make the surface touch itself are filled first, and cells
that the surface passes twice get two vertices (Nielson, "Dual Marching Cubes", 2004), so the result is closed and
2-manifold.
"""

from collections.abc import Callable
from itertools import pairwise
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from nebrel.core.jit import compiled
from nebrel.core.mesh.crossings import crossing_pairs
from nebrel.core.mesh.lattice import Crossings
from nebrel.core.mesh.trimesh import TriMesh

PULL, EVEN = 2e-3, 1e6
MOST_ROUNDS = 6
MOST_CROSSINGS = 20_000
INSIDE_CELL = 0.02
# Corner i of a cell lies at the bits of i: 1 in X, 2 in Y, 4 in Z. Edges: axis, then the two bits across.
_EDGES = [(axis, low) for axis in range(3) for low in range(8) if not low & (1 << axis)]


class Hermite(NamedTuple):
    """A solid on a lattice: which points are inside, and where lines between them cross its surface.

    Attributes:
        inside: bool (X, Y, Z), nothing on the border; it is changed where the surface would touch itself.
        crossings: those along X, Y and Z, as of a `Lattice`; `face` names the normal.
        normals: of each of them, float64 (K, 3), outward, of length 1.
    """

    inside: NDArray[np.bool_]
    crossings: tuple[Crossings, Crossings, Crossings]
    normals: tuple[NDArray[np.float64], NDArray[np.float64], NDArray[np.float64]]


def dual_contour(
    solid: Hermite,
    to_mm: Callable[[NDArray[np.float64]], NDArray[np.float64]],
    keep_edges: bool = True,
    progress: Callable[[float], None] = lambda _: None,
) -> TriMesh:
    """The surface of a solid on a lattice, closed.

    Args:
        solid: at least one point inside.
        to_mm: takes places in lattice units, float64 (N, 3), to mm.
        keep_edges: place vertices on sharp edges and corners; otherwise between the crossings, which is smoother.
        progress: called with the fraction done.
    """
    inside = solid.inside
    _fill_touching(inside)
    patch_of_edge, patches = _patches()
    first_vertex, count = _number(inside, patches)
    progress(0.2)
    sums = np.zeros((count, 13))
    quads = []
    for axis, (crossings, normals) in enumerate(zip(solid.crossings, solid.normals, strict=True)):
        quads.append(_edges(inside, axis, crossings, normals, first_vertex, patch_of_edge, sums))
        progress(0.2 + 0.2 * (axis + 1))
    cell_of = np.empty((count, 3), dtype=np.int64)
    _cells(inside, first_vertex, patches, cell_of)
    even, sharp = (_place_vertices(sums, cell_of, pull) for pull in (EVEN, PULL if keep_edges else EVEN))
    return _keep_uncrossed(sharp, even, np.vstack(quads), to_mm)


def _keep_uncrossed(
    sharp: NDArray[np.float64],
    even: NDArray[np.float64],
    quads: NDArray[np.int64],
    to_mm: Callable[[NDArray[np.float64]], NDArray[np.float64]],
) -> TriMesh:
    """Triangles on the sharp places, on the even ones where they would pass through each other."""
    points = sharp
    for _ in range(MOST_ROUNDS):
        vertices = to_mm(points).astype(np.float32).astype(np.float64)
        mesh = TriMesh(vertices, _split(vertices, quads))
        crossing = crossing_pairs(mesh, MOST_CROSSINGS)
        if len(crossing) == 0:
            break
        points = points.copy()
        moved = mesh.faces[crossing.ravel()].ravel()
        points[moved] = even[moved]
    return mesh


def _patches() -> tuple[NDArray[np.int8], NDArray[np.int8]]:
    """For each of the 256 ways in which corners are inside: the patch of each edge, and how many patches there are."""
    patch_of_edge = np.full((256, 12), -1, dtype=np.int8)
    counts = np.zeros(256, dtype=np.int8)
    sides = [(axis, bit) for axis in range(3) for bit in (0, 1)]
    for signs in range(256):
        crossed = [edge for edge, (axis, low) in enumerate(_EDGES) if _in(signs, low) != _in(signs, low | 1 << axis)]
        parent = {edge: edge for edge in crossed}
        for axis, bit in sides:
            on_side = [edge for edge in crossed if all((corner >> axis) & 1 == bit for corner in _ends(edge))]
            for one, other in pairwise(on_side):
                parent[_root(parent, other)] = _root(parent, one)
        names: dict[int, int] = {}
        for edge in crossed:
            patch_of_edge[signs, edge] = names.setdefault(_root(parent, edge), len(names))
        counts[signs] = len(names)
    return patch_of_edge, counts


def _in(signs: int, corner: int) -> bool:
    return bool(signs >> corner & 1)


def _ends(edge: int) -> tuple[int, int]:
    axis, low = _EDGES[edge]
    return low, low | 1 << axis


def _root(parent: dict[int, int], edge: int) -> int:
    while parent[edge] != edge:
        edge = parent[edge]
    return edge


class _Cells(NamedTuple):
    """Of every cell its first vertex, and by its signs and an edge, which of its vertices that edge belongs to.

    Attributes:
        first_vertex: int32 (X, Y, Z).
        patch_of_edge: int8 (256, 12).
        edge_numbers: int64 (3, 8), number of an edge by its axis and lower corner.
    """

    first_vertex: NDArray[np.int32]
    patch_of_edge: NDArray[np.int8]
    edge_numbers: NDArray[np.int64]


def _edges(
    inside: NDArray[np.bool_],
    axis: int,
    crossings: Crossings,
    normals: NDArray[np.float64],
    first_vertex: NDArray[np.int32],
    patch_of_edge: NDArray[np.int8],
    sums: NDArray[np.float64],
) -> NDArray[np.int64]:
    ahead = np.moveaxis(inside, axis, 2)
    count = int(np.count_nonzero(ahead[:, :, 1:] != ahead[:, :, :-1]))
    quads = np.empty((count, 4), dtype=np.int64)
    edge_numbers = np.full((3, 8), -1, dtype=np.int64)
    for number, (along, low) in enumerate(_EDGES):
        edge_numbers[along, low] = number
    _quads(inside, axis, crossings, normals, _Cells(first_vertex, patch_of_edge, edge_numbers), sums, quads)
    return quads


def _split(vertices: NDArray[np.float64], quads: NDArray[np.int64]) -> NDArray[np.uint32]:
    """Triangles of quads, along the shorter diagonal."""
    a, b, c, d = (vertices[quads[:, i]] for i in range(4))
    across = np.linalg.norm(a - c, axis=1) <= np.linalg.norm(b - d, axis=1)
    one = np.where(across[:, np.newaxis], quads[:, [0, 1, 2]], quads[:, [0, 1, 3]])
    two = np.where(across[:, np.newaxis], quads[:, [0, 2, 3]], quads[:, [1, 2, 3]])
    faces: NDArray[np.uint32] = np.vstack([one, two]).astype(np.uint32)
    return faces


def _place_vertices(sums: NDArray[np.float64], cell_of: NDArray[np.int64], pull: float) -> NDArray[np.float64]:
    """Where the planes of every patch meet, held to the middle of its crossings by `pull`, and inside its cell."""
    middle = sums[:, :3] / sums[:, 3:4]
    matrix = np.empty((len(sums), 3, 3))
    for row, column, place in ((0, 0, 4), (0, 1, 5), (0, 2, 6), (1, 1, 7), (1, 2, 8), (2, 2, 9)):
        matrix[:, row, column] = matrix[:, column, row] = sums[:, place]
    right = sums[:, 10:13] - np.einsum("nij,nj->ni", matrix, middle)
    matrix += pull * np.eye(3) * np.maximum(1.0, sums[:, 3])[:, np.newaxis, np.newaxis]
    placed = middle + np.linalg.solve(matrix, right[..., np.newaxis])[..., 0]
    return np.clip(placed, cell_of + INSIDE_CELL, cell_of + 1 - INSIDE_CELL)


@compiled
def _signs(inside, x, y, z):
    signs = 0
    for corner in range(8):
        if inside[x + (corner & 1), y + (corner >> 1 & 1), z + (corner >> 2 & 1)]:
            signs |= 1 << corner
    return signs


@compiled
def _number(inside, patches):
    """The number of each cell's first vertex, and how many vertices there are."""
    nx, ny, nz = inside.shape
    first = np.full((nx - 1, ny - 1, nz - 1), -1, dtype=np.int32)
    count = 0
    for x in range(nx - 1):
        for y in range(ny - 1):
            for z in range(nz - 1):
                own = patches[_signs(inside, x, y, z)]
                if own > 0:
                    first[x, y, z] = count
                    count += own
    return first, count


@compiled
def _cells(inside, first_vertex, patches, cell_of):
    nx, ny, nz = first_vertex.shape
    for x in range(nx):
        for y in range(ny):
            for z in range(nz):
                if first_vertex[x, y, z] >= 0:
                    for patch in range(patches[_signs(inside, x, y, z)]):
                        vertex = first_vertex[x, y, z] + patch
                        cell_of[vertex, 0], cell_of[vertex, 1], cell_of[vertex, 2] = x, y, z


@compiled
def _fill_touching(inside):
    """Fill points until no square of four has just its two opposite corners inside."""
    nx, ny, nz = inside.shape
    changed = True
    while changed:
        changed = False
        for x in range(1, nx - 2):
            for y in range(1, ny - 2):
                for z in range(1, nz - 2):
                    here = inside[x, y, z]
                    if inside[x + 1, y + 1, z] == here and inside[x + 1, y, z] != here and inside[x, y + 1, z] != here:
                        inside[x, y, z] = inside[x + 1, y, z] = True
                        changed = True
                    here = inside[x, y, z]
                    if inside[x + 1, y, z + 1] == here and inside[x + 1, y, z] != here and inside[x, y, z + 1] != here:
                        inside[x, y, z] = inside[x + 1, y, z] = True
                        changed = True
                    here = inside[x, y, z]
                    if inside[x, y + 1, z + 1] == here and inside[x, y + 1, z] != here and inside[x, y, z + 1] != here:
                        inside[x, y, z] = inside[x, y + 1, z] = True
                        changed = True


@compiled
def _quads(inside, axis, crossings, normals, cells, sums, quads):
    first, at, face, _ = crossings
    first_vertex, patch_of_edge, edge_numbers = cells
    shape = inside.shape
    u, v = (1, 2) if axis == 0 else ((0, 2) if axis == 1 else (0, 1))
    made = 0
    point = np.empty(3)
    here = np.empty(3, dtype=np.int64)
    cell = np.empty(3, dtype=np.int64)
    for i in range(shape[u]):
        for j in range(shape[v]):
            line = i * shape[v] + j
            k = first[line]
            for z in range(shape[axis] - 1):
                here[u], here[v], here[axis] = i, j, z
                low = inside[here[0], here[1], here[2]]
                here[axis] = z + 1
                high = inside[here[0], here[1], here[2]]
                here[axis] = z
                while k < first[line + 1] and at[k] < z:
                    k += 1
                if low == high:
                    continue
                place, hit = z + 0.5, -1
                m = k
                while m < first[line + 1] and at[m] <= z + 1:
                    place, hit = at[m], face[m]
                    if low:
                        break
                    m += 1
                point[u], point[v], point[axis] = i, j, place
                for turn in range(4):
                    du, dv = (0, 0) if turn == 0 else ((1, 0) if turn == 1 else ((1, 1) if turn == 2 else (0, 1)))
                    cell[u], cell[v], cell[axis] = i - 1 + du, j - 1 + dv, z
                    corner = ((1 - du) << u) | ((1 - dv) << v)
                    signs = _signs(inside, cell[0], cell[1], cell[2])
                    patch = patch_of_edge[signs, edge_numbers[axis, corner]]
                    vertex = first_vertex[cell[0], cell[1], cell[2]] + patch
                    quads[made, turn] = vertex
                    _add(sums[vertex], point, normals[hit] if hit >= 0 else normals[0], hit >= 0)
                # Counter-clockwise in (u, v) looks along the axis, but for Y, whose other axes stand the other way.
                if low == (axis == 1):
                    quads[made, 1], quads[made, 3] = quads[made, 3], quads[made, 1]
                made += 1


@compiled
def _add(held, point, normal, known):
    for axis in range(3):
        held[axis] += point[axis]
    held[3] += 1
    if not known:
        return
    away = normal[0] * point[0] + normal[1] * point[1] + normal[2] * point[2]
    held[4] += normal[0] * normal[0]
    held[5] += normal[0] * normal[1]
    held[6] += normal[0] * normal[2]
    held[7] += normal[1] * normal[1]
    held[8] += normal[1] * normal[2]
    held[9] += normal[2] * normal[2]
    for axis in range(3):
        held[10 + axis] += normal[axis] * away
