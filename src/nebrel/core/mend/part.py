"""Parts that touch along an edge or at a point only, taken apart by a hair."""

import numpy as np
from numpy.typing import NDArray

from nebrel.core.mend.weld import grain_of
from nebrel.core.mesh.crossings import crossing_pairs
from nebrel.core.mesh.topology import fans_of_corners, opposite_halfedges
from nebrel.core.mesh.trimesh import TriMesh

# How far what touched is taken apart, mm, and at least, in what a float32 can tell apart.
APART_MM, APART_GRAINS = 1e-3, 16.0
# Fans whose normals sum to less look every way, so there is none in which they could be drawn back.
LEAST_NORMAL = 0.05
# Faces round an edge that are nearer to each other lie on each other, radians.
SAME_ANGLE = 1e-5
MOST_TRIES = 6
_Reals = NDArray[np.float64]
_Ints = NDArray[np.int64]


def parted(mesh: TriMesh, most: float | None = None) -> tuple[TriMesh, int]:
    """The mesh with each fan of faces round a vertex given a vertex of its own, drawn back into its material.

    At an edge of more than two faces, those belong together that hold material between them; where that does not come
    out even, they stay together. What would cross something once it is drawn back stays too.

    Args:
        mesh: outward.
        most: mm that corners are drawn back by; 0 for none at all.

    Returns:
        The mesh, and how many vertices were parted.
    """
    made, count = _parted(mesh, most)
    if most == 0:
        return made, count
    # Where both ends of an edge hang together otherwise, its middle can still be parted.
    halved = _halved_where_crowded(made)
    if halved is made:
        return made, count
    again, more = _parted(halved, most)
    return (again, count + more) if more else (made, count)


def _parted(mesh: TriMesh, most: float | None) -> tuple[TriMesh, int]:
    faces = mesh.faces.astype(np.int64)
    mate, _ = opposite_halfedges(faces, len(mesh.vertices))
    mate = mate.copy()
    kept_together = _pair_crowded(mesh.vertices, faces, mate)
    fan = fans_of_corners(faces, mate)
    fan = _joined_fans(fan, faces, kept_together)
    held = np.zeros(len(mesh.vertices), dtype=bool)
    apart = 0.0 if most == 0 else max(APART_MM if most is None else most, APART_GRAINS * grain_of(mesh))
    for _ in range(MOST_TRIES):
        made, several = _with_own_vertices(mesh, faces, np.where(held[faces.ravel()], -1 - faces.ravel(), fan), apart)
        if not several.any() or apart == 0:
            break
        moved: NDArray[np.bool_] = np.asarray(several[made.faces].any(axis=1))
        pairs = crossing_pairs(made, among=moved)
        known = crossing_pairs(mesh, among=moved) if len(pairs) else pairs
        if len(pairs) <= len(known):
            break
        before, after = (each.min(axis=1) * len(faces) + each.max(axis=1) for each in (known, pairs))
        fresh = np.setdiff1d(after, before)
        at = np.unique(np.concatenate([fresh // len(faces), fresh % len(faces)]))
        back = np.unique(faces[at][several[made.faces[at]]])
        if not len(back):
            return mesh, 0
        held[back] = True
    else:
        return mesh, 0
    count = len(np.unique(faces.ravel()[several[made.faces.ravel()]]))
    return (made, count) if count else (mesh, 0)


def _with_own_vertices(mesh: TriMesh, faces: _Ints, fan: _Ints, apart: float) -> tuple[TriMesh, NDArray[np.bool_]]:
    """The mesh with a vertex for every fan, and which of them share their place with others before they are moved."""
    _, corner, number = np.unique(fan, return_index=True, return_inverse=True)
    number, count = number.ravel(), len(corner)
    of_vertex = faces.ravel()[corner]
    several: NDArray[np.bool_] = np.bincount(of_vertex, minlength=len(mesh.vertices))[of_vertex] > 1
    vertices = mesh.vertices[of_vertex]
    if apart and several.any():
        corners = mesh.vertices[faces]
        ahead, behind = np.roll(corners, -1, axis=1) - corners, np.roll(corners, 1, axis=1) - corners
        normals = np.cross(ahead, behind)
        length = np.linalg.norm(normals, axis=2)
        angles = np.arctan2(length, (ahead * behind).sum(axis=2))
        normals *= (angles / np.maximum(length, 1e-300))[..., np.newaxis]
        weight = np.maximum(np.bincount(number, angles.ravel(), count), 1e-300)
        mean: _Reals = np.stack([np.bincount(number, normals[..., axis].ravel(), count) for axis in range(3)], axis=1)
        mean = mean / weight[:, np.newaxis]
        long = np.linalg.norm(mean, axis=1, keepdims=True)
        back = np.where(long > LEAST_NORMAL, -mean / np.maximum(long, 1e-300), 0.0)
        vertices = vertices + np.where(several[:, np.newaxis], apart * back, 0.0)
    colours = None if mesh.colours is None else mesh.colours[of_vertex]
    return TriMesh(vertices, number.reshape(-1, 3).astype(np.uint32), colours), several


def _joined_fans(fan: _Ints, faces: _Ints, together: list[_Ints]) -> _Ints:
    """Fans with those made one that meet at both ends of edges whose faces stay together."""
    from scipy.sparse import coo_array
    from scipy.sparse.csgraph import connected_components

    links = []
    for sides in together:
        ends = np.concatenate([sides, sides // 3 * 3 + (sides % 3 + 1) % 3])
        for vertex in np.unique(faces.ravel()[ends]):
            there = fan[ends[faces.ravel()[ends] == vertex]]
            links.append(np.column_stack([np.full(len(there), there[0]), there]))
    if not links:
        return fan
    pairs = np.vstack(links)
    graph = coo_array((np.ones(len(pairs), dtype=np.int8), (pairs[:, 0], pairs[:, 1])), (len(fan), len(fan)))
    _, name = connected_components(graph, directed=False)
    return np.asarray(name[fan], dtype=np.int64)


def _crowded(faces: _Ints, mate: _Ints, vertices: int) -> list[_Ints]:
    """Half-edges of every edge with more than two faces, int64 (K,) each."""
    sides = np.flatnonzero(mate < 0)
    starts, ends = faces.ravel()[sides], np.roll(faces, -1, axis=1).ravel()[sides]
    key = np.minimum(starts, ends) * vertices + np.maximum(starts, ends)
    order = np.argsort(key, kind="stable")
    found = np.split(sides[order], np.flatnonzero(np.diff(key[order])) + 1)
    return [each for each in found if len(each) > 2]


def _pair_crowded(vertices: _Reals, faces: _Ints, mate: _Ints) -> list[_Ints]:
    """Partners for the half-edges of crowded edges, in `mate`: the next one round the edge, across material; and the
    half-edges of every edge where that does not come out even."""
    uneven = []
    for sides in _crowded(faces, mate, len(vertices)):
        starts, ends = faces.ravel()[sides], np.roll(faces, -1, axis=1).ravel()[sides]
        rising = starts < ends
        low, high = int(min(starts[0], ends[0])), int(max(starts[0], ends[0]))
        angle = np.round(_angles_round(vertices, low, high, faces.ravel()[_third(sides)]) / SAME_ANGLE) * SAME_ANGLE
        # Where two solids share a side, the one behind it ends there before the one ahead begins.
        turn = np.lexsort((~rising, angle % (2 * np.pi - SAME_ANGLE / 2)))
        around, up = sides[turn], rising[turn]
        # Seen along the edge, material lies after a face that runs against it, and before one that runs along it.
        pairs = [at for at in range(len(around)) if not up[at] and up[(at + 1) % len(around)]]
        if 2 * len(pairs) != len(around):
            uneven.append(sides)
            continue
        for at in pairs:
            one, other = around[at], around[(at + 1) % len(around)]
            mate[one], mate[other] = other, one
    return uneven


def _halved_where_crowded(mesh: TriMesh) -> TriMesh:
    """The mesh with edges of more than two faces halved; as it is where there are none."""
    faces = mesh.faces.astype(np.int64)
    mate, _ = opposite_halfedges(faces, len(mesh.vertices))
    crowded = _crowded(faces, mate, len(mesh.vertices))
    for sides in crowded:
        ends = np.unique(np.concatenate([faces.ravel()[sides], faces.ravel()[sides // 3 * 3 + (sides % 3 + 1) % 3]]))
        mesh = _halved(mesh, ends)
    return mesh


def _halved(mesh: TriMesh, ends: _Ints) -> TriMesh:
    """The mesh with one edge halved in all of its faces."""
    around = np.flatnonzero(np.isin(mesh.faces, ends).sum(axis=1) == 2)
    if not len(around):
        return mesh
    middle = mesh.vertices[ends].mean(axis=0).astype(np.float32).astype(np.float64)
    number, fresh = len(mesh.vertices), []
    for face in mesh.faces[around].tolist():
        third = next(at for at, vertex in enumerate(face) if vertex not in ends)
        a, b, c = face[third - 2], face[third - 1], face[third]
        fresh += [(a, number, c), (number, b, c)]
    faces = np.vstack([np.delete(mesh.faces, around, axis=0), np.array(fresh, dtype=np.uint32)])
    colours = None if mesh.colours is None else np.vstack([mesh.colours, mesh.colours[ends[:1]]])
    return TriMesh(np.vstack([mesh.vertices, middle]), faces, colours)


def _third(sides: _Ints) -> _Ints:
    """The corner of a face that a half-edge does not touch."""
    return sides // 3 * 3 + (sides % 3 + 2) % 3


def _angles_round(vertices: _Reals, low: int, high: int, third: _Ints) -> _Reals:
    """Where corners lie round an edge, radians, counter-clockwise seen with it coming towards the eye."""
    way = vertices[high] - vertices[low]
    along = way / max(float(np.linalg.norm(way)), 1e-300)
    off = vertices[third] - vertices[low]
    off -= (off @ along)[:, np.newaxis] * along
    one = off[0] / max(float(np.linalg.norm(off[0])), 1e-300)
    found: _Reals = np.arctan2(off @ np.cross(along, one), off @ one)
    return found
