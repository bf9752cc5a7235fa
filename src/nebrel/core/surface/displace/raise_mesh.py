"""From pieces with depths to a mesh: moved, with walls where the depth jumps, closed where the skin was."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.compact import drop_unused
from nebrel.core.surface.subdivide.carving import Carving

SAME_MM = 2e-3
MOST_ROUNDS = 4
MOST_HALVINGS = 12
_Reals = NDArray[np.float64]
_Ints = NDArray[np.int64]


@dataclass(frozen=True)
class Raised:
    """A decorated mesh.

    Attributes:
        mesh: faces that are as they came first, in their order, then what is new.
        untouched: how many faces are as they came.
        of_face: int64 (M,): the face of the skin that every face comes from.
        depths: float64 (M, 3) mm over the skin of every corner; a wall's corners lie between.
        wall: bool (M,): whether a face is a wall at a jump of depth.
        piece: int64 (M,): the piece that a face is, or that a wall belongs to; -1 outside the carving.
    """

    mesh: TriMesh
    untouched: int
    of_face: _Ints
    depths: _Reals
    wall: NDArray[np.bool_]
    piece: _Ints


def part_crossing_depths(carving: Carving) -> None:
    """New vertices where the depths of both sides of an edge change places, so that no wall crosses itself there."""
    count = carving.count
    piece, side, _, (one, two) = _jumps(carving)
    ahead = (side + 1) % 3
    changing = (one * two < 0) & (np.minimum(np.abs(one), np.abs(two)) > SAME_MM)
    starts, ends = (
        carving.pieces.corner_vertex[piece, side][changing],
        carving.pieces.corner_vertex[piece, ahead][changing],
    )
    shares = (one / np.where(one == two, 1.0, one - two))[changing]
    for start, end, near, share in zip(
        starts.tolist(), ends.tolist(), piece[changing].tolist(), shares.tolist(), strict=True
    ):
        # An earlier cut may have moved the side to another piece.
        for at in (near, *carving.pieces.neighbour[near].tolist(), *range(count, carving.count)):
            corners = carving.pieces.corner_vertex[at].tolist() if at >= 0 else []
            if start in corners and end in corners:
                first = corners.index(start)
                if corners[(first + 1) % 3] == end:
                    carving.split(at, first, share)
                else:
                    carving.split(at, corners.index(end), 1 - share)
                break


def part_twisted_walls(carving: Carving, tolerance: float) -> None:
    """New vertices on sides where a wall of two triangles would be off the wall that is meant by more than `tolerance`.

    Feet of a wall that go different ways, as on the ridges of a cone of few sides, make it a twisted quad, of which
    two triangles miss the middle by a quarter of the difference.
    """
    for _ in range(MOST_HALVINGS):
        piece, side, beyond, jumps = _jumps(carving)
        walls = np.flatnonzero(np.abs(jumps).min(axis=0) > tolerance)
        if not len(walls):
            return
        points, offset_vectors = carving.positions()
        piece, side, beyond = piece[walls], side[walls], beyond[walls]
        start, end = (carving.pieces.corner_vertex[piece, corner] for corner in (side, (side + 1) % 3))
        apart, along = offset_vectors[end] - offset_vectors[start], points[end] - points[start]
        # Feet that go apart along the wall leave it flat.
        along /= np.maximum(np.linalg.norm(along, axis=1, keepdims=True), 1e-300)
        apart -= np.einsum("ij,ij->i", apart, along)[:, np.newaxis] * along
        off = np.abs(jumps[:, walls]).min(axis=0) * np.linalg.norm(apart, axis=1) / 4
        found = np.flatnonzero(off > tolerance)
        used: set[int] = set()
        halved: list[tuple[int, int]] = []
        for at in found.tolist():
            both = {int(piece[at]), int(beyond[at])}
            if not used & both:
                used |= both
                halved.append((int(piece[at]), int(side[at])))
        if not halved:
            return
        for which, corner in halved:
            carving.split(which, corner, 0.5)


def _jumps(carving: Carving) -> tuple[_Ints, _Ints, _Ints, _Reals]:
    """Every side that two pieces share: the piece, its side, the piece beyond, and by how much the depth here is above
    that beyond where the side starts and ends, mm (2, K)."""
    count = carving.count
    beyond = carving.pieces.neighbour[:count]
    piece, side = np.nonzero(beyond > np.arange(count)[:, np.newaxis])
    other = beyond[piece, side]
    found = []
    for corner in (side, (side + 1) % 3):
        vertex = carving.pieces.corner_vertex[piece, corner]
        at = np.argmax(carving.pieces.corner_vertex[other] == vertex[:, np.newaxis], axis=1)
        found.append(carving.pieces.corner_depth[piece, corner] - carving.pieces.corner_depth[other, at])
    return piece, side, other, np.array(found)


def raise_skin(carving: Carving, positions: tuple[_Reals, _Reals]) -> Raised:
    """The decorated mesh of a carving, whose positions are given; new coordinates are rounded to float32."""
    points, offset_vectors = positions
    count, known = carving.count, len(carving.skin.mesh.vertices)
    vertices, depths = carving.pieces.corner_vertex[:count], carving.pieces.corner_depth[:count].copy()
    for _ in range(MOST_ROUNDS):
        group, level, of_vertex = _levels(vertices, depths)
        walls = _walls(carving, group, level)
        crowded = _find_crowded(walls, level, of_vertex)
        if not len(crowded):
            break
        # Where four walls meet in one upright line, the place is given one depth.
        for vertex in crowded.tolist():
            at = vertices == vertex
            depths[at] = depths[at][np.argmax(np.abs(depths[at]))]
    where = points[of_vertex] + level[:, np.newaxis] * offset_vectors[of_vertex]
    still = (level == 0) & (of_vertex < known)
    rounded = where.astype(np.float32).astype(np.float64)
    every = np.vstack([carving.skin.mesh.vertices, rounded])
    number = np.where(still, of_vertex, known + np.arange(len(level)))
    faces = number[group]
    wall_faces, wall_of, wall_depths = _wall_faces(walls, number, level)
    alone = (np.bincount(carving.pieces.face_of[:count], minlength=len(carving.skin.faces)) == 1)[
        carving.pieces.face_of[:count]
    ]
    as_it_came = alone & (faces == vertices).all(axis=1)
    kept = np.ones(len(carving.skin.faces), dtype=bool)
    kept[carving.pieces.face_of[:count][~as_it_came]] = False
    # Pieces that are whole faces are told apart from faces outside the carving by their number.
    piece_of = np.full(len(carving.skin.faces), -1, dtype=np.int64)
    piece_of[carving.pieces.face_of[:count][as_it_came]] = np.flatnonzero(as_it_came)
    old, fresh = np.flatnonzero(kept), np.flatnonzero(~as_it_came)
    all_faces = np.vstack([carving.skin.faces[old], faces[fresh], wall_faces])
    mesh, _ = drop_unused(TriMesh(every, carving.skin.mesh.faces), all_faces)
    return Raised(
        mesh=mesh,
        untouched=len(old),
        of_face=np.concatenate([old, carving.pieces.face_of[:count][fresh], carving.pieces.face_of[:count][wall_of]]),
        depths=np.vstack([np.zeros((len(old), 3)), level[group[fresh]], wall_depths]),
        wall=np.concatenate([np.zeros(len(old) + len(fresh), dtype=bool), np.ones(len(wall_of), dtype=bool)]),
        piece=np.concatenate([piece_of[old], fresh, wall_of]),
    )


def _levels(vertices: _Ints, depths: _Reals) -> tuple[_Ints, _Reals, _Ints]:
    """Corners at the same vertex and depth: the number of every corner's group, and each group's depth and vertex."""
    flat, deep = vertices.ravel(), depths.ravel()
    order = np.lexsort((deep, flat))
    new = np.ones(len(order), dtype=bool)
    new[1:] = (flat[order][1:] != flat[order][:-1]) | (np.diff(deep[order]) > SAME_MM)
    number = np.cumsum(new) - 1
    group = np.empty(len(order), dtype=np.int64)
    group[order] = number
    starts = np.flatnonzero(new)
    low = np.minimum.reduceat(deep[order], starts)
    high = np.maximum.reduceat(deep[order], starts)
    level = np.where((low <= SAME_MM / 2) & (high >= -SAME_MM / 2), 0.0, (low + high) / 2)
    return group.reshape(-1, 3), level, flat[order][starts]


def _walls(carving: Carving, group: _Ints, level: _Reals) -> _Ints:
    """Sides where the depth jumps: whose wall it is, and groups of the side's start and end here and beyond, (K, 5).

    A wall belongs to the piece that is further from the skin.
    """
    count = carving.count
    beyond = carving.pieces.neighbour[:count]
    piece, side = np.nonzero(beyond > np.arange(count)[:, np.newaxis])
    other = beyond[piece, side]
    ahead = (side + 1) % 3
    a, b = carving.pieces.corner_vertex[piece, side], carving.pieces.corner_vertex[piece, ahead]
    at_a = np.argmax(carving.pieces.corner_vertex[other] == a[:, np.newaxis], axis=1)
    at_b = np.argmax(carving.pieces.corner_vertex[other] == b[:, np.newaxis], axis=1)
    here_a, here_b, there_a, there_b = group[piece, side], group[piece, ahead], group[other, at_a], group[other, at_b]
    jumps = (here_a != there_a) | (here_b != there_b)
    beyond_is_further = np.abs(level[there_a] + level[there_b]) > np.abs(level[here_a] + level[here_b])
    return np.column_stack([np.where(beyond_is_further, other, piece), here_a, here_b, there_a, there_b])[jumps]


def _find_crowded(walls: _Ints, level: _Reals, of_vertex: _Ints) -> _Ints:
    """Vertices where more than two walls share an upright line."""
    if not len(walls):
        return np.empty(0, dtype=np.int64)
    low = np.concatenate([np.minimum(walls[:, 1], walls[:, 3]), np.minimum(walls[:, 2], walls[:, 4])])
    high = np.concatenate([np.maximum(walls[:, 1], walls[:, 3]), np.maximum(walls[:, 2], walls[:, 4])])
    # Groups of one vertex are numbered upwards, so a wall covers the steps between its two.
    change = np.bincount(low, minlength=len(level) + 1) - np.bincount(high, minlength=len(level) + 1)
    covering = np.cumsum(change)
    return np.unique(of_vertex[np.flatnonzero(covering[: len(level)] > 2)])


def _wall_faces(walls: _Ints, number: _Ints, level: _Reals) -> tuple[_Ints, _Ints, _Reals]:
    """Triangles of walls, the piece that each belongs to, and the depths of their corners."""
    if not len(walls):
        return np.empty((0, 3), dtype=np.int64), np.empty(0, dtype=np.int64), np.empty((0, 3))
    triangles: list[tuple[int, int, int]] = []
    owners: list[int] = []
    plain = (np.abs(walls[:, 1] - walls[:, 3]) <= 1) & (np.abs(walls[:, 2] - walls[:, 4]) <= 1)
    quads = walls[plain]
    first = np.column_stack([quads[:, 2], quads[:, 1], quads[:, 3]])[quads[:, 1] != quads[:, 3]]
    second = np.column_stack([quads[:, 2], quads[:, 3], quads[:, 4]])[quads[:, 2] != quads[:, 4]]
    for piece, here_a, here_b, there_a, there_b in walls[~plain].tolist():
        chain_a = _chain(here_a, there_a)
        chain_b = _chain(here_b, there_b)
        i = j = 0
        while i < len(chain_a) - 1 or j < len(chain_b) - 1:
            down_a = i < len(chain_a) - 1 and (
                j == len(chain_b) - 1 or (i + 1) * (len(chain_b) - 1) <= (j + 1) * (len(chain_a) - 1)
            )
            if down_a:
                triangles.append((chain_b[j], chain_a[i], chain_a[i + 1]))
                i += 1
            else:
                triangles.append((chain_b[j], chain_a[i], chain_b[j + 1]))
                j += 1
            owners.append(piece)
    groups = np.vstack([first, second, np.array(triangles, dtype=np.int64).reshape(-1, 3)])
    owner = np.concatenate(
        [quads[quads[:, 1] != quads[:, 3], 0], quads[quads[:, 2] != quads[:, 4], 0], np.array(owners, dtype=np.int64)]
    )
    return number[groups], owner, level[groups]


def _chain(start: int, end: int) -> list[int]:
    """Groups from one to another, every one between included."""
    return list(range(start, end + 1)) if start <= end else list(range(start, end - 1, -1))
