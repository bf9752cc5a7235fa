"""Large flat parts of a surface, which stay flat: what a thing stands on, backs, plates."""

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import correlate

from nebrel.core.jit import compiled
from nebrel.core.mesh.topology import opposite_halfedges
from nebrel.core.mesh.trimesh import TriMesh

NO_FLAT = -1
# Of all area, what makes a part large. Of the extent, how far its corners may be off its plane.
LARGE, OFF = 0.02, 1e-6
# Ways to look are told apart by cells, so many along each side of a cube about all of them.
CELLS = 64


def flats_of(mesh: TriMesh) -> NDArray[np.int32]:
    """The large flat part that each face belongs to, -1 for none, int32 (M,)."""
    faces = mesh.faces.astype(np.int64)
    areas, cells = _areas_and_ways(mesh.vertices, faces)
    large, extent = LARGE * float(areas.sum()), float(np.ptp(mesh.vertices, axis=0).max())
    # Whatever lies in one plane looks one way: where few faces look, no large part begins.
    looking = np.bincount(cells, areas, CELLS**3).reshape(CELLS, CELLS, CELLS)
    many = correlate(looking, np.ones((3, 3, 3)), mode="constant").ravel() >= large
    seeds = np.flatnonzero(many[cells])
    if not len(seeds):
        return np.full(len(faces), NO_FLAT, dtype=np.int32)
    opposite, _ = opposite_halfedges(faces, len(mesh.vertices))
    # The largest faces tell a plane best.
    seeds = seeds[np.argsort(-areas[seeds], kind="stable")]
    return _grown(mesh.vertices, faces, opposite, seeds, areas, large, OFF * extent)


@compiled
def _areas_and_ways(vertices, faces):
    """The area of every face, and the cell that its normal lies in."""
    areas, cells = np.empty(len(faces)), np.zeros(len(faces), dtype=np.int64)
    for f in range(len(faces)):
        a, b, c = vertices[faces[f, 0]], vertices[faces[f, 1]], vertices[faces[f, 2]]
        e0, e1, e2 = b[0] - a[0], b[1] - a[1], b[2] - a[2]
        g0, g1, g2 = c[0] - a[0], c[1] - a[1], c[2] - a[2]
        x, y, z = e1 * g2 - e2 * g1, e2 * g0 - e0 * g2, e0 * g1 - e1 * g0
        length = np.sqrt(x * x + y * y + z * z)
        areas[f] = length / 2
        if length > 0:
            for along in (x, y, z):
                cells[f] = CELLS * cells[f] + min(int((along / length + 1) * (CELLS / 2)), CELLS - 1)
    return areas, cells


@compiled
def _grown(vertices, faces, opposite, seeds, areas, large, off):
    part_of = np.full(len(faces), NO_FLAT, dtype=np.int32)
    seen = np.zeros(len(faces), dtype=np.bool_)
    todo = np.empty(len(faces), dtype=np.int64)
    parts = 0
    for seed in seeds:
        if seen[seed] or areas[seed] <= 0:
            continue
        a, b, c = vertices[faces[seed, 0]], vertices[faces[seed, 1]], vertices[faces[seed, 2]]
        normal = np.cross(b - a, c - a)
        normal /= np.sqrt((normal * normal).sum())
        todo[0], count, at, area = seed, 1, 0, 0.0
        seen[seed] = True
        while at < count:
            face = todo[at]
            at += 1
            area += areas[face]
            for h in range(3 * face, 3 * face + 3):
                other = opposite[h] // 3
                if opposite[h] < 0 or seen[other]:
                    continue
                far = 0.0
                for k in range(3):
                    away = 0.0
                    for axis in range(3):
                        away += normal[axis] * (vertices[faces[other, k], axis] - a[axis])
                    far = max(far, abs(away))
                if far <= off:
                    seen[other] = True
                    todo[count] = other
                    count += 1
        if area >= large:
            for k in range(count):
                part_of[todo[k]] = parts
            parts += 1
    return part_of


def at_rims(faces: NDArray[np.int64], flats: NDArray[np.int32], count: int) -> NDArray[np.bool_]:
    """Which of `count` vertices are where a flat part meets another or what is not flat, bool (N,)."""
    if not (flats > NO_FLAT).any():
        return np.zeros(count, dtype=np.bool_)
    lowest, highest = _lowest_and_highest(faces, flats, count)
    return np.asarray((highest != NO_FLAT) & (lowest != highest))


@compiled
def _lowest_and_highest(faces, flats, count):
    lowest = np.full(count, np.iinfo(np.int32).max, dtype=np.int32)
    highest = np.full(count, NO_FLAT, dtype=np.int32)
    for f in range(len(faces)):
        for corner in range(3):
            v = faces[f, corner]
            lowest[v], highest[v] = min(lowest[v], flats[f]), max(highest[v], flats[f])
    return lowest, highest
