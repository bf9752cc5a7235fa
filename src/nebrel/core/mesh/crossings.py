"""Faces of one mesh that pass through each other.

Pairs come from a tree of boxes; each pair is judged by signs of volumes (Guigue and Devillers 2003 in spirit): an edge
of one face crosses the other when its ends lie strictly on different sides of that face and its line passes strictly
inside it. Volumes below the rounding error of their own computation count as touching, not as crossing, so neighbours
and faces that merely meet are never reported. Faces in one plane cross when their interiors overlap.
"""

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor

import numpy as np
from numpy.typing import NDArray

from nebrel.core.cores import cores
from nebrel.core.jit import compiled
from nebrel.core.mesh.bounds_tree import LEAF_SIZE, build_tree, face_boxes
from nebrel.core.mesh.trimesh import TriMesh

SPANS = 64
TREE_SHARE = 0.1


def crossing_pairs(
    mesh: TriMesh,
    most: int = 1000,
    progress: Callable[[float], None] = lambda _: None,
    among: NDArray[np.bool_] | None = None,
) -> NDArray[np.int64]:
    """Pairs of faces that cross each other, int64 (K, 2), at most `most` of them.

    With `among`, bool (M,), only pairs with at least one of those faces are looked for.

    Limits: faces that share all three vertices are duplicates and are not judged here; degenerate faces cross nothing.
    """
    if len(mesh.faces) < 2:
        return np.empty((0, 2), dtype=np.int64)
    tree = build_tree(mesh)
    faces = mesh.faces.astype(np.int64)
    boxes = face_boxes(mesh.vertices, faces, tree.order)
    progress(TREE_SHARE)
    wanted = np.ones(len(faces), dtype=bool) if among is None else among
    leaves = -(-len(faces) // LEAF_SIZE)
    starts = np.linspace(0, leaves, SPANS + 1).astype(np.int64)

    def search(span: int) -> NDArray[np.int64]:
        given = (mesh.vertices, faces, boxes, wanted, among is None)
        return _search(given, tree, starts[span], starts[span + 1], most)

    found: list[NDArray[np.int64]] = []
    with ThreadPoolExecutor(max_workers=min(8, cores())) as threads:
        for span, pairs in enumerate(threads.map(search, range(SPANS))):
            found.append(pairs)
            progress(TREE_SHARE + (1 - TREE_SHARE) * (span + 1) / SPANS)
    return np.vstack(found)[:most]


@compiled
def _search(given, tree, first, last, most):
    """Pairs of which one face is in the leaves from `first` to before `last`. The tree is gone down once for each.

    A pair of two wanted faces is found from the one that comes first in the tree's order. Where all are wanted, parts
    of the tree that lie before a leaf are not gone down for it.
    """
    vertices, faces, boxes, wanted, all_wanted = given
    order, low, high, first_leaf = tree
    pairs = np.empty((most, 2), dtype=np.int64)
    count = 0
    stack = np.empty((128, 2), dtype=np.int64)
    above = np.empty(64, dtype=np.int64)
    depth = 0
    while (1 << (depth + 1)) - 1 <= first_leaf:
        depth += 1
    for leaf in range(first, last):
        begin, end = leaf * LEAF_SIZE, min((leaf + 1) * LEAF_SIZE, len(order))
        asked = all_wanted
        for place in range(begin, end):
            asked = asked or wanted[order[place]]
        own = first_leaf + leaf
        node = own
        for level in range(depth, -1, -1):
            above[level] = node
            node = (node - 1) // 2
        size = 1 if asked else 0
        stack[0, 0], stack[0, 1] = 0, 0
        while size > 0:
            size -= 1
            node, level = stack[size, 0], stack[size, 1]
            if (
                (all_wanted and node < above[level])
                or low[node, 0] > high[own, 0]
                or high[node, 0] < low[own, 0]
                or low[node, 1] > high[own, 1]
                or high[node, 1] < low[own, 1]
                or low[node, 2] > high[own, 2]
                or high[node, 2] < low[own, 2]
            ):
                continue
            if node < first_leaf:
                stack[size, 0], stack[size, 1] = 2 * node + 1, level + 1
                stack[size + 1, 0], stack[size + 1, 1] = 2 * node + 2, level + 1
                size += 2
                continue
            start = (node - first_leaf) * LEAF_SIZE
            for other_place in range(start, min(start + LEAF_SIZE, len(order))):
                g = order[other_place]
                for place in range(begin, end):
                    f = order[place]
                    if not wanted[f] or (other_place <= place and wanted[g]):
                        continue
                    if _boxes_meet(boxes, place, other_place) and _cross(vertices, faces, f, g):
                        pairs[count, 0], pairs[count, 1] = f, g
                        count += 1
                        if count == most:
                            return pairs
    return pairs[:count]


@compiled
def _boxes_meet(boxes, i, j):
    return not (
        boxes[i, 0] > boxes[j, 3]
        or boxes[j, 0] > boxes[i, 3]
        or boxes[i, 1] > boxes[j, 4]
        or boxes[j, 1] > boxes[i, 4]
        or boxes[i, 2] > boxes[j, 5]
        or boxes[j, 2] > boxes[i, 5]
    )


@compiled
def _side(a, b, c, d):
    """Sign of the volume of a, b, c, d; 0 when it is below its rounding error."""
    ux, uy, uz = a[0] - d[0], a[1] - d[1], a[2] - d[2]
    vx, vy, vz = b[0] - d[0], b[1] - d[1], b[2] - d[2]
    wx, wy, wz = c[0] - d[0], c[1] - d[1], c[2] - d[2]
    p, q, r = vx * wy, vy * wx, vy * wz
    s, t, o = vz * wy, vz * wx, vx * wz
    volume = uz * (p - q) + ux * (r - s) + uy * (t - o)
    bound = 1e-14 * (abs(uz) * (abs(p) + abs(q)) + abs(ux) * (abs(r) + abs(s)) + abs(uy) * (abs(t) + abs(o)))
    if volume > bound:
        return 1
    if volume < -bound:
        return -1
    return 0


@compiled
def _pierces(p, q, a, b, c):
    """Whether the line through p and q passes inside the triangle or strictly across one of its edges."""
    x, y, z = _side(p, q, a, b), _side(p, q, b, c), _side(p, q, c, a)
    if (x == 0) + (y == 0) + (z == 0) > 1:
        return False
    return (x >= 0 and y >= 0 and z >= 0) or (x <= 0 and y <= 0 and z <= 0)


@compiled
def _point(vertices, i):
    return (vertices[i, 0], vertices[i, 1], vertices[i, 2])


@compiled
def _cross(vertices, faces, f, g):
    f0, f1, f2 = faces[f, 0], faces[f, 1], faces[f, 2]
    g0, g1, g2 = faces[g, 0], faces[g, 1], faces[g, 2]
    g0_shared = g0 in (f0, f1, f2)
    g1_shared = g1 in (f0, f1, f2)
    g2_shared = g2 in (f0, f1, f2)
    shared = g0_shared + g1_shared + g2_shared
    if shared >= 3:
        return False
    a, b, c = _point(vertices, f0), _point(vertices, f1), _point(vertices, f2)
    d, e, h = _point(vertices, g0), _point(vertices, g1), _point(vertices, g2)
    sd = 0 if g0_shared else _side(a, b, c, d)
    se = 0 if g1_shared else _side(a, b, c, e)
    sh = 0 if g2_shared else _side(a, b, c, h)
    in_plane = sd == 0 and se == 0 and sh == 0
    if not in_plane and ((sd >= 0 and se >= 0 and sh >= 0) or (sd <= 0 and se <= 0 and sh <= 0)):
        return False
    sa = 0 if f0 in (g0, g1, g2) else _side(d, e, h, a)
    sb = 0 if f1 in (g0, g1, g2) else _side(d, e, h, b)
    sc = 0 if f2 in (g0, g1, g2) else _side(d, e, h, c)
    # The same is asked both ways, so that the answer is the same whichever face comes first.
    if sa == 0 and sb == 0 and sc == 0:
        if in_plane:
            return _overlap_in_plane(a, b, c, d, e, h)
    elif (sa >= 0 and sb >= 0 and sc >= 0) or (sa <= 0 and sb <= 0 and sc <= 0):
        return False
    if shared == 2:
        return False
    return (
        (sd * se < 0 and _pierces(d, e, a, b, c))
        or (se * sh < 0 and _pierces(e, h, a, b, c))
        or (sh * sd < 0 and _pierces(h, d, a, b, c))
        or (sa * sb < 0 and _pierces(a, b, d, e, h))
        or (sb * sc < 0 and _pierces(b, c, d, e, h))
        or (sc * sa < 0 and _pierces(c, a, d, e, h))
    )


@compiled
def _overlap_in_plane(a, b, c, d, e, h):
    """Whether two triangles of one plane overlap by more than an edge: no edge of either separates them."""
    nx = (b[1] - a[1]) * (c[2] - a[2]) - (b[2] - a[2]) * (c[1] - a[1])
    ny = (b[2] - a[2]) * (c[0] - a[0]) - (b[0] - a[0]) * (c[2] - a[2])
    nz = (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0])
    if nx == 0 and ny == 0 and nz == 0:
        return False
    u, v = 0, 1
    if abs(nx) >= abs(ny) and abs(nx) >= abs(nz):
        u, v = 1, 2
    elif abs(ny) >= abs(nz):
        u, v = 0, 2
    return not _separates((a, b, c), (d, e, h), u, v) and not _separates((d, e, h), (a, b, c), u, v)


@compiled
def _separates(one, other, u, v):
    a, b, c = one
    d, e, h = other
    own = _turn(a, b, c, u, v)
    if own == 0:
        return True
    for i in range(3):
        if i == 0:
            p, q = a, b
        elif i == 1:
            p, q = b, c
        else:
            p, q = c, a
        if own * _turn(p, q, d, u, v) <= 0 and own * _turn(p, q, e, u, v) <= 0 and own * _turn(p, q, h, u, v) <= 0:
            return True
    return False


@compiled
def _turn(a, b, c, u, v):
    left, right = (b[u] - a[u]) * (c[v] - a[v]), (b[v] - a[v]) * (c[u] - a[u])
    turn = left - right
    bound = 1e-14 * (abs(left) + abs(right))
    return 1 if turn > bound else (-1 if turn < -bound else 0)
