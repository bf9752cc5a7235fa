"""Where straight lines meet a mesh."""

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor

import numpy as np
from numpy.typing import NDArray

from nebrel.core.cores import cores
from nebrel.core.jit import compiled
from nebrel.core.mesh.bounds_tree import LEAF_SIZE, build_tree
from nebrel.core.mesh.trimesh import TriMesh

RAYS_AT_ONCE = 20_000
_DEEPEST = 128


def first_hits(
    mesh: TriMesh,
    origins: NDArray[np.float64],
    directions: NDArray[np.float64],
    nearest: NDArray[np.float64],
    progress: Callable[[float], None] = lambda _: None,
) -> NDArray[np.float64]:
    """Distance along each ray to the first face that it meets, float64 (K,) mm; infinite where it meets none.

    Möller and Trumbore, "Fast, Minimum Storage Ray/Triangle Intersection" (1997), over a tree of boxes.

    Args:
        mesh: at least one face.
        origins: (K, 3) mm.
        directions: (K, 3), of length 1.
        nearest: (K,) mm; faces nearer than this are passed through, so that a ray leaves the face it starts on.
        progress: called with the fraction done.
    """
    tree = build_tree(mesh)
    faces = mesh.faces.astype(np.int64)
    found = np.empty(len(origins))

    def cast(start: int) -> int:
        part = slice(start, start + RAYS_AT_ONCE)
        _cast(
            np.ascontiguousarray(origins[part]), np.ascontiguousarray(directions[part]), nearest[part],
            mesh.vertices, faces, tree, found[part],
        )  # fmt: skip
        return start

    with ThreadPoolExecutor(max_workers=min(8, cores())) as threads:
        for start in threads.map(cast, range(0, len(origins), RAYS_AT_ONCE)):
            progress(min(1.0, (start + RAYS_AT_ONCE) / len(origins)))
    return found


@compiled
def _cast(origins, directions, nearest, vertices, faces, tree, found):
    order, low, high, first_leaf = tree
    stack = np.empty(_DEEPEST, dtype=np.int64)
    reach = np.empty(_DEEPEST, dtype=np.float64)
    for k in range(len(origins)):
        o, d = origins[k], directions[k]
        best = np.inf
        stack[0], reach[0], top = 0, 0.0, 1
        while top:
            top -= 1
            node = stack[top]
            if reach[top] >= best:
                continue
            if node >= first_leaf:
                start = (node - first_leaf) * LEAF_SIZE
                for i in range(start, min(start + LEAF_SIZE, len(order))):
                    f = order[i]
                    at = meets_triangle(o, d, vertices[faces[f, 0]], vertices[faces[f, 1]], vertices[faces[f, 2]])
                    if nearest[k] < at < best:
                        best = at
                continue
            left, right = 2 * node + 1, 2 * node + 2
            to_left, to_right = to_box(o, d, low[left], high[left]), to_box(o, d, low[right], high[right])
            if to_left < to_right:
                left, right, to_left, to_right = right, left, to_right, to_left
            if to_left < best:
                stack[top], reach[top] = left, to_left
                top += 1
            if to_right < best:
                stack[top], reach[top] = right, to_right
                top += 1
        found[k] = best


@compiled
def to_box(o, d, low, high):
    """Distance along the ray to where it enters a box, infinite when it passes it."""
    if low[0] > high[0]:
        return np.inf
    enter, leave = 0.0, np.inf
    for axis in range(3):
        if abs(d[axis]) < 1e-15:
            if o[axis] < low[axis] or o[axis] > high[axis]:
                return np.inf
            continue
        one, two = (low[axis] - o[axis]) / d[axis], (high[axis] - o[axis]) / d[axis]
        enter, leave = max(enter, min(one, two)), min(leave, max(one, two))
        if enter > leave:
            return np.inf
    return enter


@compiled
def meets_triangle(o, d, a, b, c):
    """Distance along the ray to a triangle, or -1."""
    e0, e1, e2 = b[0] - a[0], b[1] - a[1], b[2] - a[2]
    g0, g1, g2 = c[0] - a[0], c[1] - a[1], c[2] - a[2]
    p0, p1, p2 = d[1] * g2 - d[2] * g1, d[2] * g0 - d[0] * g2, d[0] * g1 - d[1] * g0
    turn = e0 * p0 + e1 * p1 + e2 * p2
    if turn == 0.0:
        return -1.0
    t0, t1, t2 = o[0] - a[0], o[1] - a[1], o[2] - a[2]
    u = (t0 * p0 + t1 * p1 + t2 * p2) / turn
    if u < -1e-9 or u > 1 + 1e-9:
        return -1.0
    q0, q1, q2 = t1 * e2 - t2 * e1, t2 * e0 - t0 * e2, t0 * e1 - t1 * e0
    v = (d[0] * q0 + d[1] * q1 + d[2] * q2) / turn
    if v < -1e-9 or u + v > 1 + 1e-9:
        return -1.0
    return (g0 * q0 + g1 * q1 + g2 * q2) / turn
