"""Decorations joined to a model by an exact boolean, where moving the skin alone would run it through itself."""

import numpy as np
from numpy.typing import NDArray

from nebrel.core.csg.boolean import cleanup, solid_of
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.crossings import crossing_pairs
from nebrel.core.mesh.topology import analyse
from nebrel.core.surface.displace.raise_mesh import Raised
from nebrel.core.surface.subdivide.carving import Carving

HIDDEN_MM = 0.02
SLACK_MM = 0.002
_Ints = NDArray[np.int64]


def join_by_boolean(carving: Carving) -> Raised | None:
    """The model with raised parts added and sunk parts taken off, or None where that makes no sound solid.

    Parts reach `HIDDEN_MM` to the other side of the skin, so that no two faces coincide.
    """
    skin = carving.skin
    topology = analyse(skin.mesh)
    if not (topology.closed and topology.manifold and topology.flipped_edges == 0):
        return None
    solid = solid_of(skin.mesh)
    if solid.is_empty() or solid.volume() <= 0:
        return None
    depths = carving.pieces.corner_depth[: carving.count]
    for sign in (1.0, -1.0):
        part = _part(carving, np.flatnonzero((sign * depths > 0).any(axis=1)), sign)
        if part is None:
            continue
        tool = solid_of(part)
        if tool.is_empty():
            return None
        solid = solid + tool if sign > 0 else solid - tool
    if solid.is_empty():
        return None
    mesh = cleanup(solid, SLACK_MM)
    topology = analyse(mesh)
    if not (topology.closed and topology.manifold):
        return None
    known, of_face = _as_they_came(skin.mesh, mesh)
    order = np.concatenate([np.flatnonzero(known), np.flatnonzero(~known)])
    mesh = TriMesh(mesh.vertices, mesh.faces[order])
    fresh = np.arange(len(order)) >= known.sum()
    if len(crossing_pairs(mesh, 1, among=fresh)):
        return None
    piece, deep = _nearest_piece(carving, mesh, fresh)
    return Raised(
        mesh=mesh,
        untouched=int(known.sum()),
        of_face=np.where(fresh, carving.pieces.face_of[np.maximum(piece, 0)], of_face[order]),
        depths=deep,
        wall=np.zeros(len(order), dtype=bool),
        piece=piece,
    )


def _part(carving: Carving, pieces: _Ints, sign: float) -> TriMesh | None:
    """The closed solid between the moved skin and a little to the other side of it, over some pieces."""
    if not len(pieces):
        return None
    points, offset_vectors = carving.positions()
    vertices, local = np.unique(carving.pieces.corner_vertex[pieces], return_inverse=True)
    local = local.reshape(-1, 3)
    # One depth a vertex: where pieces of the part jump, the deeper one counts.
    depth = np.zeros(len(vertices))
    deep = np.maximum(sign * carving.pieces.corner_depth[pieces], 0.0)
    np.maximum.at(depth, local.ravel(), deep.ravel())
    top = points[vertices] + sign * depth[:, np.newaxis] * offset_vectors[vertices]
    bottom = points[vertices] - sign * HIDDEN_MM * offset_vectors[vertices]
    count = len(vertices)
    inner = carving.pieces.neighbour[pieces]
    marked = np.zeros(carving.count, dtype=bool)
    marked[pieces] = True
    piece, side = np.nonzero(~((inner >= 0) & marked[np.maximum(inner, 0)]))
    a, b = local[piece, side], local[piece, (side + 1) % 3]
    walls = np.vstack([np.column_stack([b, a, a + count]), np.column_stack([b, a + count, b + count])])
    faces = np.vstack([local, local[:, ::-1] + count, walls])
    if sign < 0:
        faces = faces[:, ::-1]
    return TriMesh(np.vstack([top, bottom]), faces.astype(np.uint32))


def _as_they_came(before: TriMesh, after: TriMesh) -> tuple[NDArray[np.bool_], _Ints]:
    """Which faces of one mesh another has too, corner for corner, and which they are there."""
    low = before.vertices.astype(np.float32).astype(np.float64)
    every, index = np.unique(np.vstack([low, after.vertices]), axis=0, return_inverse=True)
    del every
    index = index.ravel()
    old = _roll(index[: len(low)][before.faces])
    new = _roll(index[len(low) :][after.faces])
    order = np.lexsort(old.T[::-1])
    known = {tuple(face): int(at) for face, at in zip(old[order].tolist(), order.tolist(), strict=True)}
    found = np.array([known.get(tuple(face), -1) for face in new.tolist()], dtype=np.int64)
    return found >= 0, found


def _roll(faces: NDArray[np.int64]) -> _Ints:
    """Faces with their lowest corner first."""
    first = np.argmin(faces, axis=1)
    at = (first[:, np.newaxis] + np.arange(3)) % 3
    return np.take_along_axis(faces, at, axis=1)


def _nearest_piece(carving: Carving, mesh: TriMesh, fresh: NDArray[np.bool_]) -> tuple[_Ints, NDArray[np.float64]]:
    """For every new face a piece that it lies over, -1 for none, and depths that tell moved faces from others."""
    from scipy.spatial import cKDTree

    points, offset_vectors = carving.positions()
    count = carving.count
    moved = (
        points[carving.pieces.corner_vertex[:count]]
        + carving.pieces.corner_depth[:count][..., np.newaxis] * offset_vectors[carving.pieces.corner_vertex[:count]]
    ).mean(axis=1)
    centres = mesh.corners[fresh].mean(axis=1)
    piece = np.full(len(mesh.faces), -1, dtype=np.int64)
    depths = np.zeros((len(mesh.faces), 3))
    if len(centres):
        _, at = cKDTree(moved).query(centres)
        piece[fresh] = at
        depths[fresh] = carving.pieces.corner_depth[:count][at]
    return piece, depths
