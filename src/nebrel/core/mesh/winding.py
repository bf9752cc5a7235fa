"""How often parts of a mesh wind round a place, and what room they hold together.

A ray from a place leaves a closed part once more often than it enters it where the place lies inside (Jacobson, Kavan
and Sorkine-Hornung 2013, for meshes without holes).
"""

import numpy as np
from numpy.typing import NDArray

from nebrel.core.jit import compiled
from nebrel.core.mesh.bounds_tree import LEAF_SIZE, build_tree
from nebrel.core.mesh.rays import meets_triangle, to_box
from nebrel.core.mesh.trimesh import TriMesh

# Rays in ways that no drawing program aligns faces or edges with.
WAYS = np.array([[0.4371, 0.6123, 0.6589], [-0.7013, 0.5217, 0.4857], [0.2791, -0.8231, 0.4943]])
MOST_HITS = 4096
_Reals = NDArray[np.float64]
_Ints = NDArray[np.int64]


def windings(mesh: TriMesh, part_of_face: _Ints, points: _Reals, own: _Ints) -> list[dict[int, int]]:
    """Which parts wind round each point, and how often: 1 inside an outward one, -1 inside one that looks inwards.

    The most common answer of three rays. Parts that are open answer what a ray happens to meet.

    Args:
        mesh: all parts.
        part_of_face: int64 (M,), which part every face belongs to.
        points: float64 (K, 3) mm.
        own: int64 (K,), the part that each point lies on, which is not counted; -1 where there is none.
    """
    if not len(points):
        return []
    tree = build_tree(mesh)
    faces = mesh.faces.astype(np.int64)
    answers: list[list[dict[int, int]]] = []
    for way in WAYS / np.linalg.norm(WAYS, axis=1, keepdims=True):
        found = []
        for point, mine in zip(points, own.tolist(), strict=True):
            hits, signs = _passed(point, way, mesh.vertices, faces, tree)
            parts = part_of_face[hits]
            names, at = np.unique(parts, return_inverse=True)
            sums = np.bincount(at, signs, len(names)).astype(np.int64)
            found.append({int(n): int(s) for n, s in zip(names, sums, strict=True) if s and n != mine})
        answers.append(found)
    return [_common(three) for three in zip(*answers, strict=True)]


def _common(answers: tuple[dict[int, int], ...]) -> dict[int, int]:
    """What at least two of three answers say of every part."""
    parts = {part for answer in answers for part in answer}
    middle = {part: sorted(answer.get(part, 0) for answer in answers)[1] for part in parts}
    return {part: often for part, often in middle.items() if often}


@compiled
def _passed(origin, way, vertices, faces, tree):
    """Faces that a ray passes through, and 1 for those that it leaves, -1 for those that it enters."""
    order, low, high, first_leaf = tree
    stack = np.empty(128, dtype=np.int64)
    hits = np.empty(MOST_HITS, dtype=np.int64)
    signs = np.empty(MOST_HITS, dtype=np.float64)
    count, stack[0], top = 0, 0, 1
    while top:
        top -= 1
        node = stack[top]
        if to_box(origin, way, low[node], high[node]) == np.inf:
            continue
        if node < first_leaf:
            stack[top], stack[top + 1] = 2 * node + 1, 2 * node + 2
            top += 2
            continue
        start = (node - first_leaf) * LEAF_SIZE
        for i in range(start, min(start + LEAF_SIZE, len(order))):
            f = order[i]
            a, b, c = vertices[faces[f, 0]], vertices[faces[f, 1]], vertices[faces[f, 2]]
            if meets_triangle(origin, way, a, b, c) <= 0.0 or count == MOST_HITS:
                continue
            e, g = b - a, c - a
            turn = (
                (e[1] * g[2] - e[2] * g[1]) * way[0]
                + (e[2] * g[0] - e[0] * g[2]) * way[1]
                + (e[0] * g[1] - e[1] * g[0]) * way[2]
            )
            hits[count], signs[count] = f, 1.0 if turn > 0 else -1.0
            count += 1
    return hits[:count], signs[:count]
