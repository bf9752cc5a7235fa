"""Which faults a decorated mesh has that its skin has not."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.crossings import crossing_pairs
from nebrel.core.mesh.topology import Topology, opposite_halfedges
from nebrel.core.surface.displace.raise_mesh import Raised
from nebrel.core.surface.skin.skin import Skin

_Flags = NDArray[np.bool_]
_Ints = NDArray[np.int64]


@dataclass(frozen=True)
class CameWith:
    """Faults that a model has before anything is laid on it: edges with one face, with more than two, with faces that
    look opposite ways, and vertices at which parts only touch."""

    open_edges: int
    crowded_edges: int
    flipped_edges: int
    pinched_vertices: int

    @classmethod
    def of(cls, found: Topology) -> "CameWith":
        """Those of a topology."""
        return cls(found.open_edges, found.crowded_edges, found.flipped_edges, found.pinched_vertices)

    @property
    def words(self) -> str:
        """What there is, for people; empty where there is nothing."""
        counts = [
            (self.open_edges, "open edge", "open edges"),
            (self.crowded_edges, "edge of more than two faces", "edges of more than two faces"),
            (self.flipped_edges, "edge whose faces look opposite ways", "edges whose faces look opposite ways"),
            (self.pinched_vertices, "corner where parts only touch", "corners where parts only touch"),
        ]
        told = [f"{count:,} {one if count == 1 else many}" for count, one, many in counts if count]
        return ", ".join(told[:-1]) + (" and " if len(told) > 1 else "") + told[-1] if told else ""


def faulty_faces(mesh: TriMesh) -> _Flags:
    """Faces, bool (M,), at sides that more than two share or that run the same way on both, and those of no area.

    Nothing can be moved there without tearing the skin.
    """
    _, crowded, same_way = _troubles(mesh)
    corners = mesh.corners
    flat = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1) == 0
    return np.asarray((crowded | same_way).any(axis=1) | flat)


def new_open_sides(skin: Skin, result: Raised) -> int:
    """Sides of the result that have no other face, too many, or one that looks the opposite way, on faces of the skin
    that have none of that kind."""
    came, now = _troubles(skin.mesh), _troubles(result.mesh)
    known = [np.asarray(kind.any(axis=1)) for kind in came]
    new = [kind & ~known[at][result.of_face][:, np.newaxis] for at, kind in enumerate(now)]
    return int(np.logical_or.reduce(new).sum())


def new_crossings(skin: Skin, result: Raised, pairs: _Ints) -> _Ints:
    """Those of the result's pairs of crossing faces, int64 (K, 2), that come from faces that do not cross there."""
    if not len(pairs):
        return pairs
    of = np.sort(result.of_face[pairs], axis=1)
    among = np.zeros(len(skin.faces), dtype=np.bool_)
    among[of.ravel()] = True
    came = np.sort(crossing_pairs(skin.mesh, len(skin.faces) + 1000, among=among), axis=1)
    count = len(skin.faces)
    return pairs[~np.isin(of[:, 0] * count + of[:, 1], came[:, 0] * count + came[:, 1])]


def _troubles(mesh: TriMesh) -> tuple[_Flags, ...]:
    """Sides, bool (M, 3) each, that are open, that more than two faces share, and whose two faces run the same way."""
    faces = mesh.faces.astype(np.int64)
    ahead = np.roll(faces, -1, axis=1)
    key = np.minimum(faces, ahead) * len(mesh.vertices) + np.maximum(faces, ahead)
    _, edge, count = np.unique(key, return_inverse=True, return_counts=True)
    shared = count[edge].reshape(-1, 3)
    mate, _ = opposite_halfedges(faces, len(mesh.vertices))
    start = faces.ravel()
    same_way = ((mate >= 0) & (start[np.maximum(mate, 0)] == start)).reshape(-1, 3)
    return shared == 1, shared > 2, same_way | ((shared == 2) & (mate.reshape(-1, 3) < 0))
