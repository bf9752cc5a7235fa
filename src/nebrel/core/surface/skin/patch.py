"""Which faces round a place belong to a patch that can be laid flat, and which faces a person means."""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nebrel.core.heap import sift_down, sift_up
from nebrel.core.jit import compiled
from nebrel.core.mesh.nearest import off_corners
from nebrel.core.surface.skin.skin import Skin, SkinPlace

MOST_FACES = 400_000
# From where on an edge is sharp enough to be the end of a skin, and how large parts are that edges enclose by chance.
RIM_DEG, GRAIN_SHARE = 50.0, 0.03
_Ints = NDArray[np.int64]
_Reals = NDArray[np.float64]


@dataclass(frozen=True)
class Patch:
    """Faces that hang together round a place.

    Attributes:
        faces: int64 (K,), the face of the place first, then by their distance from it.
        whole: whether nothing nearer than asked was left out because the skin met itself or was too large.
        open_edge: whether the skin ends within the reach.
    """

    faces: _Ints
    whole: bool
    open_edge: bool


def disc_round(
    skin: Skin, place: SkinPlace, reach: float, most: int = MOST_FACES, within: _Ints | None = None
) -> Patch:
    """Faces within `reach` mm of a place, straight through space, grown so that they always form one disc.

    Where the front meets itself, as it does behind a cylinder, faces are left out, so the patch can be laid flat.

    Args:
        within: numbers of the faces that may be taken; beyond them the skin counts as ended.
    """
    net = skin.net
    if within is not None:
        known = np.zeros(len(skin.faces), dtype=np.bool_)
        known[within] = True
        opposite = skin.opposite_halfedges
        net = net._replace(opposite_halfedges=np.where(known[opposite // 3] & (opposite >= 0), opposite, -1))
    faces, whole, open_edge = _grow(net, place.face, place.point, reach, most, True, -2.0)
    return Patch(faces, bool(whole), bool(open_edge))


def all_round(skin: Skin, place: SkinPlace, reach: float, most: int = MOST_FACES) -> Patch:
    """Faces within `reach` mm of a place that hang together with it, whatever shape they form."""
    faces, whole, open_edge = _grow(skin.net, place.face, place.point, reach, most, False, -2.0)
    return Patch(faces, bool(whole), bool(open_edge))


def smooth_round(
    skin: Skin,
    face: int,
    most_deg: float,
    point: _Reals | None = None,
    reach: float = math.inf,
    most: int = MOST_FACES,
) -> _Ints:
    """Faces that can be reached from `face` without passing an edge that bends by more than `most_deg`, int64 (K,).

    Those within `reach` mm of `point`, which is the middle of the face where none is given, the nearest first.
    """
    centre = skin.mesh.vertices[skin.faces[face]].mean(axis=0) if point is None else point
    faces, _, _ = _grow(skin.net, face, centre, reach, most, False, math.cos(math.radians(most_deg)))
    return np.asarray(faces)


def up_to_rim(skin: Skin, place: SkinPlace, reach: float, most: int = MOST_FACES) -> _Ints:
    """Faces within `reach` mm of a place up to the sharp edges round it, int64 (K,), the nearest first.

    Small parts that sharp edges enclose, as grains of a rough scan are, belong to what is round them.
    """
    smooth = smooth_round(skin, place.face, RIM_DEG, place.point, reach, most)
    every = all_round(skin, place, reach, most).faces
    beyond = every[~np.isin(every, smooth)]
    if not len(beyond):
        return smooth
    part = _parts(skin, beyond)
    sides = skin.mesh.vertices[skin.faces[beyond]]
    areas = np.linalg.norm(np.cross(sides[:, 1] - sides[:, 0], sides[:, 2] - sides[:, 0]), axis=1) / 2
    grains = np.bincount(part, areas) <= (GRAIN_SHARE * reach) ** 2
    return np.concatenate([smooth, beyond[grains[part]]])


def hanging_together(skin: Skin, face: int, faces: _Ints) -> _Ints:
    """Those of `faces` that can be reached from `face`, one of them, over the others."""
    part = _parts(skin, faces)
    return faces[part == part[int(np.flatnonzero(faces == face)[0])]]


def _parts(skin: Skin, faces: _Ints) -> _Ints:
    """Numbers, int64 (K,), that are the same for faces that hang together by sides."""
    from scipy.sparse import coo_array
    from scipy.sparse.csgraph import connected_components

    local = np.full(len(skin.faces), -1, dtype=np.int64)
    local[faces] = np.arange(len(faces))
    opposite = skin.opposite_halfedges.reshape(-1, 3)[faces].ravel()
    near = np.where(opposite >= 0, local[opposite // 3], -1)
    linked = np.flatnonzero(near >= 0)
    pairs = coo_array((np.ones(len(linked)), (linked // 3, near[linked])), shape=(len(faces), len(faces)))
    return np.asarray(connected_components(pairs, directed=False)[1], dtype=np.int64)


@compiled
def _stays_disc(face, faces, opposite_halfedges, state, known):
    """Whether a patch with this face added is a disc still: it shares two sides, or one and no vertex."""
    shared, apart = 0, -1
    for i in range(3):
        other = opposite_halfedges[3 * face + i]
        if other >= 0 and state[other // 3] == 2:
            shared += 1
            apart = faces[face, (i + 2) % 3]
    # A face between three others would close the skin.
    return shared == 2 or (shared == 1 and not known[apart])


@compiled
def _grow(net, first, point, reach, most, as_disc, least_cosine):
    """Faces by distance; with `as_disc` one is taken only where the patch stays a disc."""
    vertices, faces, opposite_halfedges, normals = net
    taken = np.empty(1024, dtype=np.int64)
    count = 0
    # 1 waits, 2 is taken.
    state = np.zeros(len(faces), dtype=np.int8)
    known = np.zeros(len(vertices), dtype=np.bool_)
    # The nearest face first: a heap of those with the least negative distance.
    heap = np.empty(len(faces), dtype=np.int64)
    place = np.empty(len(faces), dtype=np.int64)
    nearness = np.empty(len(faces), dtype=np.float64)
    heap[0], nearness[first], size = first, 0.0, 1
    state[first] = 1
    whole, open_edge = True, False
    while size > 0:
        face = heap[0]
        size -= 1
        heap[0] = heap[size]
        sift_down(heap, place, nearness, 0, size)
        state[face] = 0
        if count and as_disc and not _stays_disc(face, faces, opposite_halfedges, state, known):
            whole = False
            continue
        if count >= most:
            whole = False
            break
        if count == len(taken):
            taken = np.concatenate((taken, np.empty_like(taken)))
        taken[count] = face
        count += 1
        state[face] = 2
        for i in range(3):
            known[faces[face, i]] = True
        for i in range(3):
            other = opposite_halfedges[3 * face + i]
            if other < 0:
                open_edge = True
                continue
            near = other // 3
            if state[near] != 0:
                continue
            n, m = normals[face], normals[near]
            if least_cosine > -2 and n[0] * m[0] + n[1] * m[1] + n[2] * m[2] < least_cosine:
                continue
            dx, dy, dz = off_corners(
                point, vertices[faces[near, 0]], vertices[faces[near, 1]], vertices[faces[near, 2]]
            )
            away = dx * dx + dy * dy + dz * dz
            if away > reach * reach:
                continue
            heap[size], nearness[near] = near, -away
            sift_up(heap, place, nearness, size)
            size += 1
            state[near] = 1
    return taken[:count].copy(), whole, open_edge
