"""How the faces of a mesh hang together."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nebrel.core.jit import compiled
from nebrel.core.mesh.trimesh import TriMesh

OPEN, PAIRED, CROWDED, FLIPPED = 0, 1, 2, 3


@dataclass(frozen=True)
class Topology:
    """Counts over the edges and vertices of a mesh.

    Attributes:
        open_edges: edges with one face.
        crowded_edges: edges with three faces or more.
        flipped_edges: edges whose two faces run along them in the same direction.
        pinched_vertices: vertices whose faces form more than one fan.
        shells: parts that hang together by edges.
        shell_of_face: int64 (M,), the shell that each face belongs to.
        open_shells: bool (shells,), whether a shell has an edge without a single partner.
    """

    open_edges: int
    crowded_edges: int
    flipped_edges: int
    pinched_vertices: int
    shells: int
    shell_of_face: NDArray[np.int64]
    open_shells: NDArray[np.bool_]

    @property
    def closed(self) -> bool:
        """No edge has a single face."""
        return self.open_edges == 0

    @property
    def manifold(self) -> bool:
        """Every edge has at most two faces, and the faces round every vertex form one fan."""
        return self.crowded_edges == 0 and self.pinched_vertices == 0


def analyse(mesh: TriMesh) -> Topology:
    """The topology of `mesh`, faces joined where they share vertex numbers; weld first when a file repeats vertices."""
    faces = mesh.faces.astype(np.int64)
    mate, kinds = opposite_halfedges(faces, len(mesh.vertices))
    shell_of_face, shells = _components(mate, len(faces))
    open_shells = np.zeros(shells, dtype=bool)
    open_shells[shell_of_face[np.flatnonzero(mate < 0) // 3]] = True
    return Topology(
        open_edges=int(kinds[OPEN]),
        crowded_edges=int(kinds[CROWDED]),
        flipped_edges=int(kinds[FLIPPED]),
        pinched_vertices=int((fans_round(faces, mate, len(mesh.vertices)) > 1).sum()),
        shells=shells,
        shell_of_face=shell_of_face,
        open_shells=open_shells,
    )


@compiled
def opposite_halfedges(faces, vertex_count):
    """Half-edge on the other side of every half-edge, -1 where there is none or more than one."""
    corners = faces.ravel()
    count = len(corners)
    first = np.full(vertex_count + 1, 0, dtype=np.int64)
    for e in range(count):
        following = e - 2 if e % 3 == 2 else e + 1
        first[min(corners[e], corners[following]) + 1] += 1
    for v in range(vertex_count):
        first[v + 1] += first[v]
    fill = first.copy()
    bucket = np.empty(count, dtype=np.int64)
    for e in range(count):
        following = e - 2 if e % 3 == 2 else e + 1
        low = min(corners[e], corners[following])
        bucket[fill[low]] = e
        fill[low] += 1
    mate = np.full(count, -1, dtype=np.int64)
    kinds = np.zeros(4, dtype=np.int64)
    seen = np.zeros(count, dtype=np.bool_)
    for v in range(vertex_count):
        for i in range(first[v], first[v + 1]):
            if seen[i]:
                continue
            e = bucket[i]
            high = max(corners[e], corners[e - 2 if e % 3 == 2 else e + 1])
            same, other = 1, -1
            for j in range(i + 1, first[v + 1]):
                g = bucket[j]
                if max(corners[g], corners[g - 2 if g % 3 == 2 else g + 1]) == high:
                    seen[j] = True
                    same += 1
                    other = g
            if same == 1:
                kinds[OPEN] += 1
            elif same > 2:
                kinds[CROWDED] += 1
            else:
                kinds[FLIPPED if corners[e] == corners[other] else PAIRED] += 1
                mate[e], mate[other] = other, e
    return mate, kinds


def border_halfedges(faces: NDArray[np.int64], opposite: NDArray[np.int64], vertices: int) -> NDArray[np.int64]:
    """Half-edges whose edge has this one face only, int64 (K,); those of edges with three faces or more are none.

    Args:
        faces: (M, 3); opposite: (3 M,), see `opposite_halfedges`; vertices: how many there are.
    """
    unpaired = np.flatnonzero(opposite < 0)
    starts, ends = faces.ravel()[unpaired], np.roll(faces, -1, axis=1).ravel()[unpaired]
    edges = np.minimum(starts, ends) * vertices + np.maximum(starts, ends)
    _, which, times = np.unique(edges, return_inverse=True, return_counts=True)
    return np.asarray(unpaired[times[which] == 1])


@compiled
def root_of(parent, i):
    while parent[i] != i:
        parent[i] = parent[parent[i]]
        i = parent[i]
    return i


@compiled
def _components(mate, face_count):
    parent = np.arange(face_count)
    for e in range(len(mate)):
        if mate[e] > e:
            a, b = root_of(parent, e // 3), root_of(parent, mate[e] // 3)
            if a != b:
                parent[b] = a
    names = np.full(face_count, -1, dtype=np.int64)
    label = np.empty(face_count, dtype=np.int64)
    count = 0
    for face in range(face_count):
        root = root_of(parent, face)
        if names[root] < 0:
            names[root] = count
            count += 1
        label[face] = names[root]
    return label, count


@compiled
def fans_round(faces, mate, vertex_count):
    """How many fans the faces round every vertex form: corners are joined across every paired edge that they touch."""
    corners = faces.ravel()
    fan = fans_of_corners(faces, mate)
    fans = np.zeros(vertex_count, dtype=np.int64)
    for c in range(len(corners)):
        if fan[c] == c:
            fans[corners[c]] += 1
    return fans


@compiled
def fans_of_corners(faces, mate):
    """The fan that each corner belongs to, by the number of one of its corners."""
    corners = faces.ravel()
    parent = np.arange(len(corners))
    for e in range(len(mate)):
        other = mate[e]
        if other > e:
            e_next = e - 2 if e % 3 == 2 else e + 1
            other_next = other - 2 if other % 3 == 2 else other + 1
            if corners[e] == corners[other]:
                pairs = ((e, other), (e_next, other_next))
            else:
                pairs = ((e, other_next), (e_next, other))
            for a, b in pairs:
                ra, rb = root_of(parent, a), root_of(parent, b)
                if ra != rb:
                    parent[rb] = ra
    for c in range(len(corners)):
        parent[c] = root_of(parent, c)
    return parent
