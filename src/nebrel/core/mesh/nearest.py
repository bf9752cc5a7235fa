"""The nearest place of a mesh: one walk through a tree of boxes for everything that asks for it."""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from nebrel.core.jit import compiled
from nebrel.core.mesh.bounds_tree import LEAF_SIZE, build_tree
from nebrel.core.mesh.trimesh import TriMesh

# As `facing` and `least` of `nearest_triangle`: faces that look any way.
ANY_WAY = (0.0, 0.0, 0.0)
ANY_COSINE = -2.0
_DEEPEST = 128


class TriangleTree(NamedTuple):
    """Triangles in the order of the leaves of a tree of boxes over them, as kernels read them.

    Attributes:
        corners: float64 (M, 9) mm, three corners a triangle.
        normals: float64 (M, 3) of length 1; 0 for triangles without area; empty if not made.
        low, high: float32, the boxes of a `BoundsTree`.
        first_leaf: index of the first leaf box.
        order: int64 (M,), which face of the mesh each triangle is.
    """

    corners: NDArray[np.float64]
    normals: NDArray[np.float64]
    low: NDArray[np.float32]
    high: NDArray[np.float32]
    first_leaf: int
    order: NDArray[np.int64]


def triangle_tree(mesh: TriMesh, with_normals: bool = True) -> TriangleTree:
    """The tree over all faces of `mesh`, which has at least one.

    Without normals it is made sooner, and only triangles that look any way can be asked for.
    """
    tree = build_tree(mesh)
    corners = np.ascontiguousarray(mesh.corners[tree.order].reshape(-1, 9))
    normals = np.empty((0, 3))
    if with_normals:
        normals = np.cross(corners[:, 3:6] - corners[:, :3], corners[:, 6:] - corners[:, :3])
        doubled = np.linalg.norm(normals, axis=1)
        normals /= np.where(doubled > 0, doubled, 1.0)[:, np.newaxis]
    return TriangleTree(corners, normals, tree.low, tree.high, tree.first_leaf, tree.order)


@compiled
def empty_stack():
    """Room for one walk at a time."""
    return np.empty(_DEEPEST, dtype=np.int64), np.empty(_DEEPEST, dtype=np.float64)


@compiled
def nearest_triangle(point, facing, least, within, tree, stack):
    """Index in the tree of the triangle nearest to `point`, and its squared distance.

    Args:
        point: (x, y, z) mm.
        facing, least: only triangles whose normal times `facing` is more than `least` are taken.
        within: only triangles whose squared distance is below this.
        tree: a `TriangleTree`.
        stack: from `empty_stack`.

    Returns:
        (-1, within) when there is none.
    """
    nodes, reach = stack
    # Taken out once: numba counts references where a record is handed on.
    corners, normals, low, high, first_leaf, _ = tree
    best, found = within, -1
    nodes[0], reach[0], top = 0, 0.0, 1
    while top:
        top -= 1
        node = nodes[top]
        if reach[top] >= best:
            continue
        if node >= first_leaf:
            start = (node - first_leaf) * LEAF_SIZE
            for i in range(start, min(start + LEAF_SIZE, len(corners))):
                if least > ANY_COSINE and times_normal(normals, i, facing) <= least:
                    continue
                away = squared_to_triangle(point, corners, i)
                if away < best:
                    best, found = away, i
            continue
        left, right = 2 * node + 1, 2 * node + 2
        to_left, to_right = _squared_to_box(point, low, high, left), _squared_to_box(point, low, high, right)
        if to_left < to_right:
            left, right, to_left, to_right = right, left, to_right, to_left
        if to_left < best:
            nodes[top], reach[top] = left, to_left
            top += 1
        if to_right < best:
            nodes[top], reach[top] = right, to_right
            top += 1
    return found, best


@compiled
def times_normal(normals, i, facing):
    """How much triangle `i` looks a way, the cosine of the angle between."""
    return normals[i, 0] * facing[0] + normals[i, 1] * facing[1] + normals[i, 2] * facing[2]


@compiled
def _squared_to_box(point, low, high, node):
    dx = max(low[node, 0] - point[0], 0.0, point[0] - high[node, 0])
    dy = max(low[node, 1] - point[1], 0.0, point[1] - high[node, 1])
    dz = max(low[node, 2] - point[2], 0.0, point[2] - high[node, 2])
    return dx * dx + dy * dy + dz * dz


@compiled
def squared_to_triangle(point, corners, i):
    """Squared distance from a point to triangle `i` of `corners`, (M, 9)."""
    dx, dy, dz = off_triangle(point, corners, i)
    return dx * dx + dy * dy + dz * dz


@compiled
def off_triangle(point, corners, i):
    """(x, y, z) mm from the nearest place on triangle `i` of `corners`, (M, 9), to a point."""
    return off_corners(point, *_corners_of(corners, i))


@compiled
def shares_in_triangle(point, corners, i):
    """Shares of the second and third corner in the place of triangle `i` of `corners`, (M, 9), nearest to a point."""
    return shares_between(point, *_corners_of(corners, i))


@compiled
def _corners_of(corners, i):
    return (
        (corners[i, 0], corners[i, 1], corners[i, 2]),
        (corners[i, 3], corners[i, 4], corners[i, 5]),
        (corners[i, 6], corners[i, 7], corners[i, 8]),
    )


@compiled
def off_corners(point, a, b, c):
    """(x, y, z) mm from the nearest place on the triangle a, b, c to a point."""
    s, t = shares_between(point, a, b, c)
    return (
        point[0] - a[0] - s * (b[0] - a[0]) - t * (c[0] - a[0]),
        point[1] - a[1] - s * (b[1] - a[1]) - t * (c[1] - a[1]),
        point[2] - a[2] - s * (b[2] - a[2]) - t * (c[2] - a[2]),
    )


@compiled
def shares_between(point, a, b, c):
    """Shares of `b` and `c` in the place of the triangle a, b, c that is nearest to a point.

    Ericson, Real-Time Collision Detection (2005), 5.1.5.
    """
    ab0, ab1, ab2 = b[0] - a[0], b[1] - a[1], b[2] - a[2]
    ac0, ac1, ac2 = c[0] - a[0], c[1] - a[1], c[2] - a[2]
    ap0, ap1, ap2 = point[0] - a[0], point[1] - a[1], point[2] - a[2]
    d1 = ab0 * ap0 + ab1 * ap1 + ab2 * ap2
    d2 = ac0 * ap0 + ac1 * ap1 + ac2 * ap2
    s, t = 0.0, 0.0
    if d1 > 0 or d2 > 0:
        bp0, bp1, bp2 = ap0 - ab0, ap1 - ab1, ap2 - ab2
        d3 = ab0 * bp0 + ab1 * bp1 + ab2 * bp2
        d4 = ac0 * bp0 + ac1 * bp1 + ac2 * bp2
        cp0, cp1, cp2 = ap0 - ac0, ap1 - ac1, ap2 - ac2
        d5 = ab0 * cp0 + ab1 * cp1 + ab2 * cp2
        d6 = ac0 * cp0 + ac1 * cp1 + ac2 * cp2
        va, vb, vc = d3 * d6 - d5 * d4, d5 * d2 - d1 * d6, d1 * d4 - d3 * d2
        if d3 >= 0 and d4 <= d3:
            s = 1.0
        elif d6 >= 0 and d5 <= d6:
            t = 1.0
        elif vc <= 0 and d1 >= 0 and d3 <= 0:
            s = d1 / (d1 - d3) if d1 != d3 else 0.0
        elif vb <= 0 and d2 >= 0 and d6 <= 0:
            t = d2 / (d2 - d6) if d2 != d6 else 0.0
        elif va <= 0 and d4 - d3 >= 0 and d5 - d6 >= 0:
            whole = (d4 - d3) + (d5 - d6)
            t = (d4 - d3) / whole if whole > 0 else 0.0
            s = 1.0 - t
        else:
            whole = va + vb + vc
            if whole != 0:
                s, t = vb / whole, vc / whole
    return s, t
