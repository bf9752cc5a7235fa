"""The skin of a model: its mesh with what every decoration on it needs to know."""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import BadMeshError
from nebrel.core.jit import compiled
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.bounds_tree import LEAF_SIZE, BoundsTree, build_tree
from nebrel.core.mesh.shading import smooth_corners
from nebrel.core.mesh.topology import half_edge_mates

CREASE_DEG = 38.0
LONGEST_MITRE = 1.6
PULL_TO_MEAN = 0.002
_DEEPEST = 128
_Reals = NDArray[np.float64]
_Ints = NDArray[np.int64]


@dataclass(frozen=True)
class Skin:
    """A mesh prepared for decorating.

    Attributes:
        mesh: the model.
        faces: int64 (M, 3), its faces.
        mates: int64 (3 M,), the half-edge on the other side of every half-edge, -1 where there is none.
        normals: float64 (M, 3) of length 1; 0 for faces without area.
        corners: int64 (M, 3): corners of faces that are one vertex of a smooth skin have the same number; a vertex on
            a sharp crease has several.
        ways: float64 (numbers, 3): where such a corner goes when the skin is raised by 1 mm. Faces around it then move
            by 1 mm along their normals, as far as one place can do that for all of them.
        tree: boxes over the faces.
    """

    mesh: TriMesh
    faces: _Ints
    mates: _Ints
    normals: _Reals
    corners: _Ints
    ways: _Reals
    tree: BoundsTree

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
    mates, _ = half_edge_mates(faces, len(mesh.vertices))
    one_tint = np.zeros(3 * len(faces), dtype=np.int64)
    corners, count = smooth_corners(mesh.vertices, faces, mates, math.cos(math.radians(CREASE_DEG)), one_tint)
    corners = corners.reshape(-1, 3)
    equations = _normal_equations(mesh.vertices, faces, corners, count, normals, doubled)
    return Skin(mesh, faces, mates, normals, corners, mitred(*equations), build_tree(mesh))


def mitred(matrix: _Reals, right: _Reals) -> _Reals:
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
    there = np.asarray(point, dtype=np.float64)
    wanted = np.zeros(3) if facing is None else np.asarray(facing, dtype=np.float64)
    face, shares = -1, np.zeros(3)
    for direction in (wanted, np.zeros(3)):
        face, shares = _nearest_face(
            there, direction, skin.mesh.vertices, skin.faces, skin.normals,
            skin.tree.order, skin.tree.low, skin.tree.high, skin.tree.first_leaf,
        )  # fmt: skip
        if face >= 0:
            break
    return place_in(skin, int(face), shares)


def place_in(skin: Skin, face: int, shares: _Reals) -> SkinPlace:
    """The place of given shares in a face."""
    corners = skin.faces[face]
    normal = shares @ skin.ways[skin.corners[face]]
    length = float(np.linalg.norm(normal))
    normal = normal / length if length > 1e-9 else skin.normals[face]
    return SkinPlace(face, shares, shares @ skin.mesh.vertices[corners], normal)


@compiled
def _nearest_face(point, facing, vertices, faces, normals, order, low, high, first_leaf):
    """Number of the nearest face with an area, and the shares of its corners."""
    stack = np.empty(_DEEPEST, dtype=np.int64)
    reach = np.empty(_DEEPEST, dtype=np.float64)
    best, found = np.inf, -1
    shares = np.zeros(3, dtype=np.float64)
    stack[0], reach[0], top = 0, 0.0, 1
    asked = facing[0] != 0.0 or facing[1] != 0.0 or facing[2] != 0.0
    while top:
        top -= 1
        node = stack[top]
        if reach[top] >= best:
            continue
        if node >= first_leaf:
            start = (node - first_leaf) * LEAF_SIZE
            for i in range(start, min(start + LEAF_SIZE, len(order))):
                f = order[i]
                n = normals[f]
                if n[0] == 0.0 and n[1] == 0.0 and n[2] == 0.0:
                    continue
                if asked and n[0] * facing[0] + n[1] * facing[1] + n[2] * facing[2] <= 0.0:
                    continue
                away, b0, b1, b2 = _to_face(point, vertices[faces[f, 0]], vertices[faces[f, 1]], vertices[faces[f, 2]])
                if away < best:
                    best, found = away, f
                    shares[0], shares[1], shares[2] = b0, b1, b2
            continue
        for child in (2 * node + 1, 2 * node + 2):
            gap = 0.0
            for axis in range(3):
                beyond = max(low[child, axis] - point[axis], 0.0, point[axis] - high[child, axis])
                gap += beyond * beyond
            if gap < best and top < _DEEPEST:
                stack[top], reach[top] = child, gap
                top += 1
    return found, shares


@compiled
def _to_face(p, a, b, c):
    """Squared distance of a point from a triangle, and the shares of the corners of the nearest place in it."""
    ab, ac, ap = b - a, c - a, p - a
    d1, d2 = (ab * ap).sum(), (ac * ap).sum()
    if d1 <= 0 and d2 <= 0:
        return (ap * ap).sum(), 1.0, 0.0, 0.0
    bp = p - b
    d3, d4 = (ab * bp).sum(), (ac * bp).sum()
    if d3 >= 0 and d4 <= d3:
        return (bp * bp).sum(), 0.0, 1.0, 0.0
    cp = p - c
    d5, d6 = (ab * cp).sum(), (ac * cp).sum()
    if d6 >= 0 and d5 <= d6:
        return (cp * cp).sum(), 0.0, 0.0, 1.0
    vc = d1 * d4 - d3 * d2
    vb = d5 * d2 - d1 * d6
    va = d3 * d6 - d5 * d4
    s, t = 0.0, 0.0
    if vc <= 0 and d1 >= 0 and d3 <= 0:
        s = d1 / (d1 - d3)
    elif vb <= 0 and d2 >= 0 and d6 <= 0:
        t = d2 / (d2 - d6)
    elif va <= 0 and d4 - d3 >= 0 and d5 - d6 >= 0:
        t = (d4 - d3) / ((d4 - d3) + (d5 - d6))
        s = 1.0 - t
    else:
        whole = va + vb + vc
        s, t = vb / whole, vc / whole
    gone = ap - s * ab - t * ac
    return (gone * gone).sum(), 1.0 - s - t, s, t
