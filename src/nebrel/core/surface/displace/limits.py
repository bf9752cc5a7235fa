"""How deep a decoration may go: before the skin folds over itself, and before the wall becomes too thin."""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from nebrel.core.mesh.rays import first_hits
from nebrel.core.surface.subdivide.carving import Carving

LEFT_OF_FACE = 0.15
SAME = 1e-6
STARTS_INSIDE = 1e-5
_Reals = NDArray[np.float64]


@dataclass(frozen=True)
class Limited:
    """What had to be limited.

    Attributes:
        corners: how many corners of pieces.
        by: the most that was taken off, mm.
        where: (x, y, z) mm of that place, or None.
        left: for walls, mm of wall under the deepest place that was kept.
        area: mm² of the skin on which it is less than asked.
    """

    corners: int
    by: float
    where: tuple[float, float, float] | None
    left: float = np.inf
    area: float = 0.0


def limit_folds(carving: Carving) -> Limited:
    """Take depths back to where every face of the skin that is moved keeps its side and part of its size."""
    skin, count = carving.skin, carving.count
    deep = (carving.pieces.corner_depth[:count] != 0).any(axis=1)
    faces = np.unique(carving.pieces.face_of[:count][deep])
    if not len(faces):
        return Limited(0, 0.0, None)
    points, offset_vectors = skin.mesh.vertices[skin.faces[faces]], skin.offset_vectors[skin.corners[faces]]
    one, two = points[:, 1] - points[:, 0], points[:, 2] - points[:, 0]
    go_one, go_two = offset_vectors[:, 1] - offset_vectors[:, 0], offset_vectors[:, 2] - offset_vectors[:, 0]
    normal = skin.normals[faces]

    def part(a: _Reals, b: _Reals) -> _Reals:
        return np.asarray(np.einsum("ij,ij->i", np.cross(a, b), normal))

    constant = part(one, two)
    linear = part(go_one, two) + part(one, go_two)
    square = part(go_one, go_two)
    up, down = _first_zeros((1 - LEFT_OF_FACE) * constant, linear, square)
    vertices = len(skin.mesh.vertices)
    highest, lowest = np.full(vertices, np.inf), np.full(vertices, np.inf)
    for corner in range(3):
        np.minimum.at(highest, skin.faces[faces, corner], up)
        np.minimum.at(lowest, skin.faces[faces, corner], down)
    shares = carving.pieces.corner_share[:count]
    whole = np.concatenate([1 - shares.sum(axis=2, keepdims=True), shares], axis=2)
    of_piece = skin.faces[carving.pieces.face_of[:count]]
    with np.errstate(invalid="ignore"):
        most = np.einsum("pci,pi->pc", whole, np.minimum(highest, 1e6)[of_piece])
        least = np.einsum("pci,pi->pc", whole, np.minimum(lowest, 1e6)[of_piece])
    depths = carving.pieces.corner_depth[:count].copy()
    carving.pieces.corner_depth[:count] = np.maximum(-least, np.minimum(depths, most))
    return taken_back(carving, depths, carving.pieces.corner_depth[:count])


def _first_zeros(constant: _Reals, linear: _Reals, square: _Reals) -> tuple[_Reals, _Reals]:
    """The smallest t above 0 where c + b t + a t² is 0, and the smallest for -t; infinite where there is none."""
    with np.errstate(divide="ignore", invalid="ignore"):
        under = np.sqrt(linear**2 - 4 * square * constant)
        steady = np.abs(square) * np.abs(constant) < 1e-9 * linear**2
        roots = np.stack(
            [np.where(steady, -constant / linear, (-linear + sign * under) / (2 * square)) for sign in (1, -1)]
        )
    up = np.where(roots > 0, roots, np.inf).min(axis=0)
    down = np.where(roots < 0, -roots, np.inf).min(axis=0)
    return up, down


def limit_to_wall(carving: Carving, thinnest: float) -> Limited:
    """Take sunk depths back to where the wall behind keeps `thinnest` mm, as far as it has them."""
    count = carving.count
    depths = carving.pieces.corner_depth[:count]
    sunk = depths < 0
    if not sunk.any():
        return Limited(0, 0.0, None)
    wall = wall_behind(carving, np.unique(carving.pieces.corner_vertex[:count][sunk]), carving.positions())
    room = np.maximum(wall[carving.pieces.corner_vertex[:count]] - thinnest, 0.0)
    allowed = np.where(sunk, np.maximum(depths, -room), depths)
    behind = wall[carving.pieces.corner_vertex[:count]] + allowed
    left = float(behind[sunk & np.isfinite(behind)].min(initial=np.inf))
    limited = taken_back(carving, depths.copy(), allowed)
    carving.pieces.corner_depth[:count] = allowed
    return replace(limited, left=left)


def wall_behind(carving: Carving, vertices: NDArray[np.int64], positions: tuple[_Reals, _Reals]) -> _Reals:
    """Wall from some vertices on the skin straight inwards to the other side, in mm of depth, float64 (V,).

    Infinite for the others, and where nothing lies behind.
    """
    points, offset_vectors = positions
    inwards = -offset_vectors[vertices]
    per_mm = np.maximum(np.linalg.norm(inwards, axis=1), 1e-12)
    nearest = np.full(len(vertices), STARTS_INSIDE * carving.skin.extent)
    found = np.full(len(points), np.inf)
    hits = first_hits(carving.skin.mesh, points[vertices], inwards / per_mm[:, np.newaxis], nearest)
    found[vertices] = hits / per_mm
    return found


def taken_back(carving: Carving, asked: _Reals, allowed: _Reals) -> Limited:
    """What is less than asked, of the depths at the corners of pieces, float64 (K, 3) mm each."""
    gone = np.abs(asked - allowed)
    if not (gone > SAME).any():
        return Limited(0, 0.0, None)
    at = np.unravel_index(int(np.argmax(gone)), gone.shape)
    points, _ = carving.positions()
    corners = points[carving.pieces.corner_vertex[: carving.count]]
    x, y, z = corners[at]
    one, two = corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
    areas = np.linalg.norm(np.cross(one, two), axis=1) / 2
    area = float(areas @ (gone > SAME).mean(axis=1))
    return Limited(int((gone > SAME).sum()), float(gone.max()), (float(x), float(y), float(z)), area=area)
