"""What can be wrong with a mesh, counted."""

from dataclasses import asdict, dataclass

import numpy as np
from numpy.typing import NDArray

from nebrel.core.mesh.alike import found_in, place_keys, row_keys
from nebrel.core.mesh.crossings import crossing_pairs
from nebrel.core.mesh.measure import area, face_heights, size, volume
from nebrel.core.mesh.topology import Topology, analyse
from nebrel.core.mesh.trimesh import TriMesh
from nebrel.core.mesh.weld import weld_vertices

MOST_CROSSINGS = 100_000
FLAT_SHARE = 1e-10
LEAST_PART = 0.02
_Flags = NDArray[np.bool_]


@dataclass(frozen=True)
class Faults:
    """Counts of what is wrong, as a file would hold the mesh: corners at one place of a float32 are one."""

    open_edges: int
    crowded_edges: int
    flipped_edges: int
    pinched_points: int
    degenerate_faces: int
    duplicate_faces: int
    self_crossings: int

    @property
    def total(self) -> int:
        """All of them; 0 for a mesh without a fault of these kinds."""
        return sum(asdict(self).values())

    def worse_than(self, other: "Faults") -> list[str]:
        """Names of the counts that are higher than those of `other`."""
        before = asdict(other)
        return [name for name, count in asdict(self).items() if count > before[name]]


@dataclass(frozen=True)
class Measured:
    """A mesh as it is written, its faults, and what it measures.

    Attributes:
        mesh: corners at one place of a float32 joined.
        faults: counted.
        size: mm.
        volume_mm3: by signed volumes of its faces.
        area_mm2: of its faces.
        parts: shells that are no debris beside the largest.
    """

    mesh: TriMesh
    faults: Faults
    size: tuple[float, float, float]
    volume_mm3: float
    area_mm2: float
    parts: int


def measure(mesh: TriMesh, before: Measured | None = None) -> Measured:
    """Count the faults of a mesh.

    Args:
        mesh: to be counted.
        before: the same mesh before it was changed; then crossings are looked for among what has changed only.
    """
    written = weld_vertices(mesh)
    mesh = mesh if len(written.vertices) == len(mesh.vertices) else written
    topology, duplicates = analyse(mesh), _duplicates(mesh)
    x, y, z = size(mesh)
    return Measured(
        mesh,
        Faults(
            topology.open_edges,
            topology.crowded_edges,
            topology.flipped_edges,
            topology.pinched_vertices,
            int((flat_faces(mesh)).sum()),
            duplicates,
            _crossings(mesh, None if duplicates else before),
        ),
        (float(x), float(y), float(z)),
        volume(mesh),
        area(mesh),
        _parts(mesh, topology),
    )


def _parts(mesh: TriMesh, topology: Topology) -> int:
    """How many shells are at least 2 % as large as the largest."""
    if topology.shells == 1:
        return 1
    order = np.argsort(topology.shell_of_face, kind="stable")
    starts = np.concatenate([[0], np.cumsum(np.bincount(topology.shell_of_face))[:-1]])
    corners = mesh.vertices[mesh.faces[order]]
    low = np.minimum.reduceat(corners.min(axis=1), starts)
    sizes = np.linalg.norm(np.maximum.reduceat(corners.max(axis=1), starts) - low, axis=1)
    return int((sizes >= LEAST_PART * sizes.max()).sum())


def _duplicates(mesh: TriMesh) -> int:
    """How many faces more there are than there would be with every three corners once."""
    repeated = mesh.faces[repeated_faces(mesh)]
    return len(repeated) - len(np.unique(np.sort(repeated, axis=1), axis=0)) if len(repeated) else 0


def flat_faces(mesh: TriMesh) -> _Flags:
    """Faces without an area: lower than 1e-10 of the extent of the mesh; bool (M,)."""
    extent = float(np.ptp(mesh.vertices, axis=0).max())
    return np.asarray(face_heights(mesh) <= FLAT_SHARE * extent)


def repeated_faces(mesh: TriMesh) -> _Flags:
    """Faces that have their three corners in common with another, bool (M,)."""
    key = row_keys(mesh.faces.astype(np.uint64))
    order = np.argsort(key)
    same = key[order][1:] == key[order][:-1]
    found = np.zeros(len(key), dtype=bool)
    found[order[1:][same]] = True
    found[order[:-1][same]] = True
    return found


def _face_keys(mesh: TriMesh) -> NDArray[np.uint64]:
    """A number for every face by where its corners lie."""
    return row_keys(place_keys(mesh.vertices)[mesh.faces])


def _crossings(mesh: TriMesh, before: Measured | None) -> int:
    """How many pairs of faces cross, at most `MOST_CROSSINGS`; from what they were, where little has changed."""
    # Of faces that are there twice, one that goes cannot be told from the one that stays.
    if before is None or before.faults.duplicate_faces or before.faults.self_crossings >= MOST_CROSSINGS:
        return len(crossing_pairs(mesh, MOST_CROSSINGS))
    now, then = _face_keys(mesh), _face_keys(before.mesh)
    fresh, gone = ~found_in(now, then), ~found_in(then, now)
    known = before.faults.self_crossings
    if fresh.mean() > 0.5:
        return len(crossing_pairs(mesh, MOST_CROSSINGS))
    gained = len(crossing_pairs(mesh, MOST_CROSSINGS, among=fresh)) if fresh.any() else 0
    lost = len(crossing_pairs(before.mesh, MOST_CROSSINGS, among=gone)) if gone.any() and known else 0
    return known - lost + gained
