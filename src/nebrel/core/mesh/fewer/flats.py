"""Large flat parts of a surface, which stay flat: what a thing stands on, backs, plates."""

import numpy as np
from numpy.typing import NDArray

from nebrel.core.jit import compiled
from nebrel.core.mesh.measure import face_areas
from nebrel.core.mesh.topology import opposite_halfedges
from nebrel.core.mesh.trimesh import TriMesh

NO_FLAT = -1
# Of all area, what makes a part large. Of the extent, how far its corners may be off its plane.
LARGE, OFF = 0.02, 1e-6


def flats_of(mesh: TriMesh) -> NDArray[np.int32]:
    """The large flat part that each face belongs to, -1 for none, int32 (M,)."""
    faces = mesh.faces.astype(np.int64)
    opposite, _ = opposite_halfedges(faces, len(mesh.vertices))
    areas = face_areas(mesh)
    extent = float(np.ptp(mesh.vertices, axis=0).max())
    # The largest faces tell a plane best.
    order = np.argsort(-areas, kind="stable")
    return _grown(mesh.vertices, faces, opposite, order, areas, LARGE * float(areas.sum()), OFF * extent)


@compiled
def _grown(vertices, faces, opposite, order, areas, large, off):
    part_of = np.full(len(faces), NO_FLAT, dtype=np.int32)
    seen = np.zeros(len(faces), dtype=np.bool_)
    todo = np.empty(len(faces), dtype=np.int64)
    parts = 0
    for seed in order:
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
    lowest = np.full(count, np.iinfo(np.int32).max, dtype=np.int32)
    highest = np.full(count, NO_FLAT, dtype=np.int32)
    for corner in range(3):
        np.minimum.at(lowest, faces[:, corner], flats)
        np.maximum.at(highest, faces[:, corner], flats)
    return np.asarray((highest != NO_FLAT) & (lowest != highest))
