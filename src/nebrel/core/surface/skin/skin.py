"""The skin of a model: its mesh with what every decoration on it needs to know."""

import math
from dataclasses import dataclass, replace
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import BadMeshError
from nebrel.core.jit import compiled
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.cotangents import cotangents_beyond, laplacian_of
from nebrel.core.mesh.nearest import (
    ANY_COSINE,
    ANY_WAY,
    TriangleTree,
    empty_stack,
    nearest_triangle,
    shares_in_triangle,
    triangle_tree,
)
from nebrel.core.mesh.shading import smooth_corners
from nebrel.core.mesh.topology import opposite_halfedges

CREASE_DEG = 38.0
# How far beside a point others are looked at, of its distance from the skin.
ASIDE_SHARE = 0.02
LONGEST_MITRE = 2.01
PULL_TO_MEAN = 0.002
# Normals that differ by less are those of one plane.
FLAT = 1e-5
_Reals = NDArray[np.float64]
_Ints = NDArray[np.int64]


class SkinNet(NamedTuple):
    """Faces that know what lies beyond their sides; see `Skin`."""

    vertices: _Reals
    faces: _Ints
    opposite_halfedges: _Ints
    normals: _Reals


@dataclass(frozen=True)
class Skin:
    """A mesh prepared for decorating.

    Attributes:
        mesh: the model.
        faces: int64 (M, 3), its faces.
        opposite_halfedges: int64 (3 M,), the half-edge on the other side of every half-edge, -1 where there is none.
        normals: float64 (M, 3) of length 1; 0 for faces without area.
        corners: int64 (M, 3): corners of faces that are one vertex of a smooth skin have the same number; a vertex on
            a sharp crease has several.
        offset_vectors: float64 (numbers, 3): where such a corner goes when the skin is raised by 1 mm. Faces around it
            then move by 1 mm along their normals, as far as one place can do that for all of them.
        tree: its faces with an area.
    """

    mesh: TriMesh
    faces: _Ints
    opposite_halfedges: _Ints
    normals: _Reals
    corners: _Ints
    offset_vectors: _Reals
    tree: TriangleTree

    @property
    def net(self) -> SkinNet:
        """What loops need to go from face to face."""
        return SkinNet(self.mesh.vertices, self.faces, self.opposite_halfedges, self.normals)

    @property
    def extent(self) -> float:
        """The longest side of its box, mm."""
        return float(np.ptp(self.mesh.vertices, axis=0).max())


@dataclass(frozen=True)
class SkinPlace:
    """A place on a skin.

    Attributes:
        face: which face it lies in.
        shares: float64 (3,), of the face's corners; they sum to 1.
        point: float64 (3,) mm.
        normal: float64 (3,) of length 1, smooth across faces.
    """

    face: int
    shares: _Reals
    point: _Reals
    normal: _Reals


def skin_of(mesh: TriMesh) -> Skin:
    """The skin of a mesh.

    Raises:
        BadMeshError: no face has an area.
    """
    faces = mesh.faces.astype(np.int64)
    corners = mesh.vertices[faces]
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    doubled = np.linalg.norm(normals, axis=1)
    if not (doubled > 0).any():
        raise BadMeshError("No face of the model has an area, so there is no skin to decorate.")
    normals /= np.where(doubled > 0, doubled, 1.0)[:, np.newaxis]
    opposite, _ = opposite_halfedges(faces, len(mesh.vertices))
    one_tint = np.zeros(3 * len(faces), dtype=np.int64)
    corners, count = smooth_corners(mesh.vertices, faces, opposite, math.cos(math.radians(CREASE_DEG)), one_tint)
    corners = corners.reshape(-1, 3)
    equations = _normal_equations(mesh.vertices, faces, corners, count, normals, doubled)
    sound = np.flatnonzero(doubled > 0)
    tree = triangle_tree(TriMesh(mesh.vertices, mesh.faces[sound]))
    return Skin(mesh, faces, opposite, normals, corners, mitre(*equations), tree._replace(order=sound[tree.order]))


def divided_skin(mesh: TriMesh, first_new: int) -> Skin:
    """The skin of a mesh whose faces were divided, so that what lies within a flat part of it slips with its borders.

    Planes round a corner within a flat part leave open how it slips along it. Left where it is, the corners of a ridge
    close by would run over it; it follows them as evenly as can be (the harmonic field, by cotangents).

    Args:
        mesh: after it was divided.
        first_new: the number of the first vertex that it had not before.
    """
    from scipy.sparse.linalg import splu

    fine = skin_of(mesh)
    count = len(fine.offset_vectors)
    of_corner, of_face = fine.corners.ravel(), np.repeat(fine.normals, 3, axis=0)
    normal, vertex = np.zeros((count, 3)), np.zeros(count, dtype=np.int64)
    normal[of_corner], vertex[of_corner] = of_face, fine.faces.ravel()
    free = (vertex >= first_new) & (normal != 0).any(axis=1)
    free[of_corner[np.abs(normal[of_corner] - of_face).max(axis=1) > FLAT]] = False
    if not free.any():
        return fine
    some = free[fine.corners].any(axis=1)
    laplacian = laplacian_of(fine.corners[some], cotangents_beyond(mesh.vertices[fine.faces[some]]), count)
    inner, vectors = laplacian[free], fine.offset_vectors.copy()
    vectors[free] = splu(inner[:, free], permc_spec="COLAMD").solve(-inner[:, ~free] @ vectors[~free])
    # However much corners slip, a flat part moves by 1 mm.
    short = 1 - np.einsum("ij,ij->i", vectors[free], normal[free])
    vectors[free] += short[:, np.newaxis] * normal[free]
    return replace(fine, offset_vectors=vectors)


def over_faces(skin: Skin, faces: _Ints) -> Skin:
    """The same skin, on which places are looked for among some of its faces only."""
    sound = faces[(skin.normals[faces] != 0).any(axis=1)]
    tree = triangle_tree(TriMesh(skin.mesh.vertices, skin.mesh.faces[sound]))
    return replace(skin, tree=tree._replace(order=sound[tree.order]))


def mitre(matrix: _Reals, right: _Reals) -> _Reals:
    """Where places go so that planes around them move by 1 mm: least squares, damped towards the mean of the normals.

    Args:
        matrix: float64 (K, 3, 3), sums of n nᵀ over the planes round each place.
        right: float64 (K, 3), sums of n.

    Returns:
        Float64 (K, 3), not longer than `LONGEST_MITRE`.
    """
    lengths = np.linalg.norm(right, axis=1, keepdims=True)
    mean = right / np.where(lengths > 0, lengths, 1.0)
    weight = np.maximum(np.trace(matrix, axis1=1, axis2=2), 1e-300)[:, np.newaxis]
    damped = matrix / weight[..., np.newaxis] + PULL_TO_MEAN * np.eye(3)
    found: _Reals = np.linalg.solve(damped, (right / weight + PULL_TO_MEAN * mean)[..., np.newaxis])[..., 0]
    reach = np.linalg.norm(found, axis=1, keepdims=True)
    found *= np.minimum(1.0, LONGEST_MITRE / np.maximum(reach, 1e-300))
    found[lengths[:, 0] == 0] = 0.0
    return found


@compiled
def _normal_equations(vertices, faces, corners, count, normals, doubled):
    """Sums over the faces round every smooth corner, weighed by angle and size."""
    matrix = np.zeros((count, 3, 3), dtype=np.float64)
    right = np.zeros((count, 3), dtype=np.float64)
    for f in range(len(faces)):
        if doubled[f] == 0.0:
            continue
        n = normals[f]
        for i in range(3):
            at, ahead, behind = faces[f, i], faces[f, (i + 1) % 3], faces[f, (i + 2) % 3]
            one, two = vertices[ahead] - vertices[at], vertices[behind] - vertices[at]
            angle = np.arctan2(doubled[f], one[0] * two[0] + one[1] * two[1] + one[2] * two[2])
            weight = angle * np.sqrt(doubled[f])
            group = corners[f, i]
            for r in range(3):
                right[group, r] += weight * n[r]
                for c in range(3):
                    matrix[group, r, c] += weight * n[r] * n[c]
    return matrix, right


def place_on(skin: Skin, point: _Reals, facing: _Reals | None = None) -> SkinPlace:
    """The place of the skin that is nearest to `point`, float64 (3,) mm.

    With `facing`, float64 (3,), only faces that look the same way are taken, where there are any.
    """
    there = _three(point)
    at = -1 if facing is None else _nearest_face(there, _three(facing), 0.0, skin.tree)
    if at < 0:
        at = _nearest_face(there, ANY_WAY, ANY_COSINE, skin.tree)
    second, third = shares_in_triangle(there, skin.tree.corners, at)
    return place_in(skin, int(skin.tree.order[at]), np.array([1.0 - second - third, second, third]))


def apart_from_others(skin: Skin, point: _Reals) -> float:
    """How far the places are from each other that are nearest to a point and to others a hair beside it, mm.

    In the middle of a ball, or halfway through a wall, no place of the skin is nearer than another.
    """
    home = place_on(skin, point).point
    step = ASIDE_SHARE * max(float(np.linalg.norm(home - point)), 1e-9)
    ways = np.vstack([np.eye(3), -np.eye(3)])
    return max(float(np.linalg.norm(place_on(skin, point + step * way).point - home)) for way in ways)


def place_in(skin: Skin, face: int, shares: _Reals) -> SkinPlace:
    """The place of given shares in a face."""
    corners = skin.faces[face]
    normal = shares @ skin.offset_vectors[skin.corners[face]]
    length = float(np.linalg.norm(normal))
    normal = normal / length if length > 1e-9 else skin.normals[face]
    return SkinPlace(face, shares, shares @ skin.mesh.vertices[corners], normal)


def _three(values: _Reals) -> tuple[float, float, float]:
    x, y, z = np.asarray(values, dtype=np.float64)
    return float(x), float(y), float(z)


@compiled
def _nearest_face(point, facing, least, tree):
    return nearest_triangle(point, facing, least, np.inf, tree, empty_stack())[0]
