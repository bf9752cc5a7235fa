"""A mesh prepared for looking at: smooth where it is smooth, sharp where it is sharp."""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nebrel.core.jit import compiled
from nebrel.core.mesh.topology import opposite_halfedges, root_of
from nebrel.core.mesh.trimesh import TriMesh

CREASE_DEG = 48.0


@dataclass(frozen=True)
class ShadedMesh:
    """Float32 positions (N, 3) mm and unit normals (N, 3), uint32 faces (M, 3); vertices are split along creases, and
    where colours end. Colours are uint8 (N, 4), or None."""

    positions: NDArray[np.float32]
    normals: NDArray[np.float32]
    faces: NDArray[np.uint32]
    colours: NDArray[np.uint8] | None = None


def shade(mesh: TriMesh, crease_deg: float = CREASE_DEG) -> ShadedMesh:
    """Vertex normals, shared only across edges that bend less than `crease_deg`.

    Faces count by their angle at the vertex (Thürmer and Wüthrich 1998), so that how a wall is cut into triangles, and
    how long they are, does not show.
    """
    faces = mesh.faces.astype(np.int64)
    mate, _ = opposite_halfedges(faces, len(mesh.vertices))
    tints = np.zeros(3 * len(faces), dtype=np.int64)
    if mesh.corner_colours is not None:
        tints[:] = np.ascontiguousarray(mesh.corner_colours).view(np.uint32).ravel()
    group, count = smooth_corners(mesh.vertices, faces, mate, math.cos(math.radians(crease_deg)), tints)
    positions, normals = _gather(mesh.vertices, faces, group, count)
    colours = None
    of_corner = mesh.corner_colours if mesh.colours is None else mesh.colours[mesh.faces]
    if of_corner is not None:
        colours = np.empty((count, 4), dtype=np.uint8)
        colours[group] = of_corner.reshape(-1, 4)
    return ShadedMesh(positions, normals, group.reshape(-1, 3).astype(np.uint32), colours)


@compiled
def _face_normal(vertices, faces, f):
    a, b, c = faces[f, 0], faces[f, 1], faces[f, 2]
    ux, uy, uz = (
        vertices[b, 0] - vertices[a, 0], vertices[b, 1] - vertices[a, 1], vertices[b, 2] - vertices[a, 2]
    )  # fmt: skip
    vx, vy, vz = (
        vertices[c, 0] - vertices[a, 0], vertices[c, 1] - vertices[a, 1], vertices[c, 2] - vertices[a, 2]
    )  # fmt: skip
    return uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx


@compiled
def smooth_corners(vertices, faces, mate, least_cosine, tints):
    """Corners of faces that are one vertex of a smooth surface of one tint: each one's group, and the groups' count."""
    parent = np.arange(3 * len(faces))
    for e in range(len(mate)):
        other = mate[e]
        if other <= e:
            continue
        ax, ay, az = _face_normal(vertices, faces, e // 3)
        bx, by, bz = _face_normal(vertices, faces, other // 3)
        lengths = np.sqrt((ax * ax + ay * ay + az * az) * (bx * bx + by * by + bz * bz))
        if ax * bx + ay * by + az * bz < least_cosine * lengths:
            continue
        e_next = e - 2 if e % 3 == 2 else e + 1
        other_next = other - 2 if other % 3 == 2 else other + 1
        for a, b in ((e, other_next), (e_next, other)):
            if tints[a] != tints[b]:
                continue
            ra, rb = root_of(parent, a), root_of(parent, b)
            if ra != rb:
                parent[rb] = ra
    group = np.full(len(parent), -1, dtype=np.int64)
    count = 0
    for c in range(len(parent)):
        root = root_of(parent, c)
        if group[root] < 0:
            group[root] = count
            count += 1
        group[c] = group[root]
    return group, count


@compiled
def _gather(vertices, faces, group, count):
    positions = np.zeros((count, 3), dtype=np.float32)
    normals = np.zeros((count, 3), dtype=np.float32)
    for f in range(len(faces)):
        x, y, z = _face_normal(vertices, faces, f)
        twice_area = np.sqrt(x * x + y * y + z * z)
        for corner in range(3):
            g = group[3 * f + corner]
            here, ahead, behind = faces[f, corner], faces[f, (corner + 1) % 3], faces[f, (corner + 2) % 3]
            along = 0.0
            for axis in range(3):
                at = vertices[here, axis]
                positions[g, axis] = at
                along += (vertices[ahead, axis] - at) * (vertices[behind, axis] - at)
            if twice_area > 0:
                angle = np.arctan2(twice_area, along) / twice_area
                normals[g, 0] += x * angle
                normals[g, 1] += y * angle
                normals[g, 2] += z * angle
    for g in range(count):
        length = np.sqrt(normals[g, 0] ** 2 + normals[g, 1] ** 2 + normals[g, 2] ** 2)
        if length > 0:
            for axis in range(3):
                normals[g, axis] /= length
    return positions, normals
