"""The bound on both sides: no place of the old surface is further from the new one, nor of the new from the old.

Samples of the old surface are handed on from face to face as edges collapse (after Ciampalini, Cignoni, Montani,
Scopigno, "Multiresolution decimation based on global error", 1997); centres of the faces that a collapse makes and
places along their edges, where the new surface stands out furthest, are looked for on the old one.
"""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from nebrel.core.jit import compiled
from nebrel.core.mesh.fewer.net import FREE, has_corner
from nebrel.core.mesh.nearest import (
    ANY_COSINE,
    ANY_WAY,
    TriangleTree,
    empty_stack,
    nearest_triangle,
    squared_to_triangle,
    triangle_tree,
)
from nebrel.core.mesh.topology import opposite_halfedges
from nebrel.core.mesh.trimesh import TriMesh

_LARGEST_RING = 1024
# A sample stays with a face that is so near, as a share of the squared bound, without looking for a nearer one.
_NEAR_ENOUGH = 0.25
_END = -1
# Places along an edge are no further apart than this, of the mean edge of the old surface, and at least three.
_PITCH = 0.25


class Samples(NamedTuple):
    """Samples of the old surface, each with a face of the new one that is near.

    Attributes:
        places: float64 (S, 3).
        heads: int32 (M,), the first sample of every face, -1 for none.
        after: int32 (S,), the next sample of the same face.
        near: int64 (M,), for every face an index in `tree` near it.
        tree: the old surface.
        pitch: how far places along an edge that is looked for on it are apart at the most.
    """

    places: NDArray[np.float64]
    heads: NDArray[np.int32]
    after: NDArray[np.int32]
    near: NDArray[np.int64]
    tree: TriangleTree
    pitch: float


class Ring(NamedTuple):
    """The faces round an edge as they would be after its collapse, and where their samples would go.

    Attributes:
        faces: int64 (R,); triangles: float64 (R, 9), their corners.
        moved: int32 (S,), samples; onto: int32 (S,), their faces.
        counts: int64 (2,), how many faces and samples there are.
        nodes, reach: room for a walk through a tree.
    """

    faces: NDArray[np.int64]
    triangles: NDArray[np.float64]
    moved: NDArray[np.int32]
    onto: NDArray[np.int32]
    counts: NDArray[np.int64]
    nodes: NDArray[np.int64]
    reach: NDArray[np.float64]


def samples_of(mesh: TriMesh) -> Samples:
    """The vertices, middles of edges and centres of faces of a mesh, each on a face that it is part of."""
    faces, corners = mesh.faces.astype(np.int64), mesh.corners
    opposite, _ = opposite_halfedges(faces, len(mesh.vertices))
    once = np.flatnonzero(opposite < np.arange(len(opposite)))
    middles = ((corners + np.roll(corners, -1, axis=1)) / 2).reshape(-1, 3)[once]
    of_vertex = np.zeros(len(mesh.vertices), dtype=np.int64)
    of_vertex[faces] = np.arange(len(faces))[:, np.newaxis]
    places = np.vstack([mesh.vertices, middles, corners.mean(axis=1)])
    of_face = np.concatenate([of_vertex, once // 3, np.arange(len(faces))])
    tree = triangle_tree(mesh, with_normals=False)
    near = np.empty(len(faces), dtype=np.int64)
    near[tree.order] = np.arange(len(faces))
    heads, after = _chains(of_face, len(faces))
    pitch = _PITCH * float(np.linalg.norm(corners - np.roll(corners, -1, axis=1), axis=2).mean())
    return Samples(places, heads, after, near, tree, pitch)


def no_samples() -> Samples:
    """None, for a collapse without a bound."""
    speck = TriMesh(np.zeros((3, 3)), np.array([[0, 1, 2]], np.uint32))
    tree = triangle_tree(speck, with_normals=False)
    none = np.empty(0, dtype=np.int32)
    return Samples(np.empty((0, 3)), none, none, np.empty(0, dtype=np.int64), tree, 1.0)


def of_faces(samples: Samples, kept: NDArray[np.int64]) -> Samples:
    """The samples of the faces that are left, renumbered."""
    if not len(samples.heads):
        return samples
    return samples._replace(heads=samples.heads[kept], near=samples.near[kept])


def empty_ring(samples: Samples) -> Ring:
    """Room for one ring."""
    count = len(samples.places)
    moved, onto = np.empty(count, dtype=np.int32), np.empty(count, dtype=np.int32)
    faces = np.empty(_LARGEST_RING, dtype=np.int64)
    return Ring(faces, np.empty((_LARGEST_RING, 9)), moved, onto, np.zeros(2, np.int64), *empty_stack())


@compiled
def _chains(of_face, face_count):
    heads = np.full(face_count, _END, dtype=np.int32)
    after = np.empty(len(of_face), dtype=np.int32)
    for k in range(len(of_face)):
        after[k] = heads[of_face[k]]
        heads[of_face[k]] = k
    return heads, after


@compiled
def stays_within(net, samples, ring, u, v, place, squared):
    """Whether the bound holds where the edge from u to v collapses to `place`; `ring` is what would be then."""
    ring.counts[0] = ring.counts[1] = 0
    if not (_gather(net, ring, u, v, place) and _gather(net, ring, v, u, place)):
        return False
    if ring.counts[0] == 0 or not _new_on_old(net, samples, ring, u, v, place, squared):
        return False
    return _old_on_new(net, samples, ring, u, u, squared) and _old_on_new(net, samples, ring, v, u, squared)


@compiled
def hand_on(samples, ring):
    """Give the samples to the faces that `stays_within` found for them."""
    for r in range(ring.counts[0]):
        samples.heads[ring.faces[r]] = _END
    for k in range(ring.counts[1]):
        sample, face = ring.moved[k], ring.onto[k]
        samples.after[sample] = samples.heads[face]
        samples.heads[face] = sample


@compiled
def _gather(net, ring, moved, other, place):
    places, corners, following, triangles = net.places, net.corners, net.following, ring.triangles
    c = net.first[moved]
    while True:
        start = c // 3 * 3
        if not has_corner(net, start, other):
            r = ring.counts[0]
            if r == len(ring.faces):
                return False
            ring.faces[r] = start // 3
            a, b = corners[start + (c - start + 1) % 3], corners[start + (c - start + 2) % 3]
            for k in range(3):
                triangles[r, k], triangles[r, 3 + k], triangles[r, 6 + k] = place[k], places[a, k], places[b, k]
            ring.counts[0] = r + 1
        c = following[c]
        if c == net.first[moved]:
            return True


@compiled
def _new_on_old(net, samples, ring, u, v, place, squared):
    tree, stack, triangles = samples.tree, (ring.nodes, ring.reach), ring.triangles
    # Inside, the second side of a face is the first side of the next.
    both_sides = net.kinds[u] != FREE or net.kinds[v] != FREE
    hint = _near(place, samples.near[ring.faces[0]], tree, stack, squared)
    if hint < 0:
        return False
    for r in range(ring.counts[0]):
        face = ring.faces[r]
        x1, y1, z1 = triangles[r, 3], triangles[r, 4], triangles[r, 5]
        x2, y2, z2 = triangles[r, 6], triangles[r, 7], triangles[r, 8]
        x0, y0, z0 = place
        centre = ((x0 + x1 + x2) / 3, (y0 + y1 + y2) / 3, (z0 + z1 + z2) / 3)
        near = _near(centre, samples.near[face], tree, stack, squared)
        if near < 0:
            return False
        if not _side_near(place, (x1, y1, z1), near, samples.pitch, tree, stack, squared):
            return False
        if both_sides and not _side_near(place, (x2, y2, z2), near, samples.pitch, tree, stack, squared):
            return False
        samples.near[face] = near
    return True


@compiled
def _side_near(start, end, hint, pitch, tree, stack, squared):
    """Whether places along a side, no further apart than the pitch, are within the bound."""
    along = (end[0] - start[0], end[1] - start[1], end[2] - start[2])
    length = (along[0] ** 2 + along[1] ** 2 + along[2] ** 2) ** 0.5
    parts = 2 * (2 + int(length / (2 * pitch)))
    for part in range(1, parts):
        t = part / parts
        place = (start[0] + t * along[0], start[1] + t * along[1], start[2] + t * along[2])
        hint = _near(place, hint, tree, stack, squared)
        if hint < 0:
            return False
    return True


@compiled
def _near(point, hint, tree, stack, squared):
    """An index in the tree of a triangle within the bound of a point, -1 for none."""
    if squared_to_triangle(point, tree.corners, hint) <= squared:
        return hint
    return nearest_triangle(point, ANY_WAY, ANY_COSINE, squared, tree, stack)[0]


@compiled
def _old_on_new(net, samples, ring, of, u, squared):
    """Find faces of the ring for the samples at the vertex `of`; those that are also at u were found with u."""
    places, triangles = samples.places, ring.triangles
    c = net.first[of]
    while True:
        start = c // 3 * 3
        if of == u or not has_corner(net, start, u):
            guess = _index_of(ring, start // 3)
            k = samples.heads[start // 3]
            while k >= 0:
                point = (places[k, 0], places[k, 1], places[k, 2])
                best = squared_to_triangle(point, triangles, guess)
                if best > _NEAR_ENOUGH * squared:
                    for r in range(ring.counts[0]):
                        away = squared_to_triangle(point, triangles, r)
                        if away < best:
                            best, guess = away, r
                            if best <= _NEAR_ENOUGH * squared:
                                break
                    if best > squared:
                        return False
                ring.moved[ring.counts[1]], ring.onto[ring.counts[1]] = k, ring.faces[guess]
                ring.counts[1] += 1
                k = samples.after[k]
        c = net.following[c]
        if c == net.first[of]:
            return True


@compiled
def _index_of(ring, face):
    for r in range(ring.counts[0]):
        if ring.faces[r] == face:
            return r
    return 0
