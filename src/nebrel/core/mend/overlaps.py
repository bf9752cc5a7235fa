"""One surface round all material: shells that pass through each other or lie within each other, folds of one shell."""

from dataclasses import dataclass

import manifold3d
import numpy as np
from numpy.typing import NDArray

from nebrel.core.csg.boolean import cleanup, mesh_of, solid_of
from nebrel.core.mend.faults import repeated_faces
from nebrel.core.mesh.colouring import colour_like
from nebrel.core.mesh.compact import drop_unused
from nebrel.core.mesh.crossings import crossing_pairs
from nebrel.core.mesh.holes import fill_holes
from nebrel.core.mesh.nesting import Nesting, nesting_of, shell_numbers
from nebrel.core.mesh.shells import Shell, part_of, shells_of, together
from nebrel.core.mesh.topology import analyse, fans_round, opposite_halfedges
from nebrel.core.mesh.trimesh import TriMesh

MOST_CROSSINGS, MOST_SHELLS, MOST_PLACES = 100_000, 2000, 300
MOST_RINGS = 5
MERGE_SHARE = 1e-6
# A fold that needs more of the mesh cut out is left.
MOST_CUT_OUT = 0.3
_Ints = NDArray[np.int64]


@dataclass(frozen=True)
class Joined:
    """A mesh whose surface encloses its material once, as far as that could be had.

    Attributes:
        mesh: the result.
        joined: shells that were joined with others they passed through.
        inner: shells that bounded no material and are gone; cavities, and what lies in them, stay.
    """

    mesh: TriMesh
    joined: int
    inner: int


def joined_by_winding(mesh: TriMesh, crossing: bool = True) -> Joined:
    """Closed shells that cross made one solid, and those dropped that have material, or none, on both sides.

    There is material where outward shells wind round a place more often than inward ones do. Open shells stay. Where
    none of its faces is known to be `crossing` another, they are not looked for.
    """
    shells = shells_of(mesh)
    if not 1 < len(shells) <= MOST_SHELLS:
        return Joined(mesh, 0, 0)
    nesting = nesting_of(mesh, shells)
    crossing_faces = crossing_pairs(mesh, MOST_CROSSINGS) if crossing else np.empty((0, 2), dtype=np.int64)
    groups = _crossing_groups(shell_numbers(mesh, shells)[crossing_faces], shells, nesting)
    solids, joined = [], 0
    gone: set[int] = set()
    for group in groups:
        solid = _united(mesh, [shells[number] for number in group])
        if solid is not None:
            solids.append(colour_like(solid, mesh))
            joined += len(group)
            gone |= set(group)
    through = {number for group in groups for number in group}
    alike = [number for number, by in enumerate(nesting.bounds) if not by and shells[number].closed]
    inner = len(set(alike) - through)
    gone |= set(alike) - through
    if not gone or (len(gone) == len(shells) and not solids):
        return Joined(mesh, 0, 0)
    kept = [shells[number].faces for number in range(len(shells)) if number not in gone]
    parts = [part_of(mesh, np.concatenate(kept))] if kept else []
    return Joined(together([*parts, *solids]), joined, inner)


def _crossing_groups(crossing: _Ints, shells: list[Shell], nesting: Nesting) -> list[list[int]]:
    """Numbers of closed shells that pass through each other, together: `crossing` ones, or of which one lies partly
    within the other, as where the corners of one lie in the plane of the other all along."""
    from scipy.sparse import coo_array
    from scipy.sparse.csgraph import connected_components

    pairs = np.vstack([crossing, nesting.partly])
    closed = np.array([shell.closed for shell in shells])
    pairs = pairs[(pairs[:, 0] != pairs[:, 1]) & closed[pairs].all(axis=1)]
    if not len(pairs):
        return []
    links = coo_array((np.ones(len(pairs), dtype=np.int8), (pairs[:, 0], pairs[:, 1])), (len(shells), len(shells)))
    _, group = connected_components(links, directed=False)
    return [np.flatnonzero(group == name).tolist() for name in np.unique(group[pairs])]


def _united(mesh: TriMesh, shells: list[Shell]) -> TriMesh | None:
    """What outward shells hold without what inward ones do; None where one of them is no solid."""
    outward = [solid_of(part_of(mesh, shell.faces)) for shell in shells if shell.volume_mm3 > 0]
    turned = TriMesh(mesh.vertices, mesh.faces[:, ::-1].copy())
    cavities = [solid_of(part_of(turned, shell.faces)) for shell in shells if shell.volume_mm3 <= 0]
    if any(part.status() != manifold3d.Error.NoError for part in (*outward, *cavities)) or not outward:
        return None
    solid = manifold3d.Manifold.batch_boolean(outward, manifold3d.OpType.Add)
    for cavity in cavities:
        solid -= cavity
    if solid.is_empty():
        return None
    extent = float(np.ptp(mesh.vertices, axis=0).max())
    whole = mesh_of(solid)
    return cleanup(solid, MERGE_SHARE * extent) if len(whole.faces) else None


def without_folds(mesh: TriMesh) -> tuple[TriMesh, int]:
    """The mesh with faces cut out where a shell passes through itself, or where more faces meet than can, and closed
    again; how many faces went.

    Every place is tried by itself, a ring of faces further at each attempt, and stays as it was where none helps.
    """
    faces = mesh.faces.astype(np.int64)
    crossing, shell = crossing_pairs(mesh, MOST_CROSSINGS), analyse(mesh).shell_of_face
    # Shells that pass through each other are to be joined; cut out there, a part would come off.
    crossing = crossing[shell[crossing[:, 0]] == shell[crossing[:, 1]]]
    pairs = np.vstack([crossing, _crowding(faces, len(mesh.vertices))])
    if not len(pairs):
        return mesh, 0
    cutting = _Cutting(mesh, faces)
    for place in _places(faces, pairs)[:MOST_PLACES]:
        cutting.cut_out(place)
    if not cutting.patches:
        return mesh, 0
    kept = np.vstack([faces[~cutting.gone], *cutting.patches])
    return drop_unused(mesh, kept)[0], int(cutting.gone.sum())


def _crowding(faces: _Ints, vertices: int) -> _Ints:
    """Pairs of faces at edges of more than two faces, and at vertices of more than one fan, (K, 2)."""
    mate, _ = opposite_halfedges(faces, vertices)
    pinched = np.flatnonzero(fans_round(faces, mate, vertices) > 1)
    at = np.flatnonzero(np.isin(faces, pinched).any(axis=1))
    return np.column_stack([at, at])


def _places(faces: _Ints, pairs: _Ints) -> list[_Ints]:
    """Faces that cross, those together that cross or touch each other; int64 (K,) each."""
    from scipy.sparse import coo_array
    from scipy.sparse.csgraph import connected_components

    bad = np.unique(pairs)
    local = np.searchsorted(bad, pairs)
    corners, number = np.unique(faces[bad], return_inverse=True)
    rows = np.concatenate([local[:, 0], np.repeat(np.arange(len(bad)), 3)])
    columns = np.concatenate([local[:, 1], len(bad) + number.ravel()])
    count = len(bad) + len(corners)
    links = coo_array((np.ones(len(rows), dtype=np.int8), (rows, columns)), (count, count))
    _, group = connected_components(links, directed=False)
    return [bad[group[: len(bad)] == name] for name in np.unique(group[: len(bad)])]


class _Cutting:
    """Places of a mesh cut out and closed again.

    Attributes:
        gone: bool (M,), faces that were cut out.
        patches: int64 (K, 3) each, over what was cut out.
    """

    def __init__(self, mesh: TriMesh, faces: _Ints) -> None:
        self._mesh, self._faces = mesh, faces
        first, second, third = (mesh.vertices[faces[:, corner]] for corner in range(3))
        self._low = np.minimum(np.minimum(first, second), third)
        self._high = np.maximum(np.maximum(first, second), third)
        self.gone: NDArray[np.bool_] = np.zeros(len(faces), dtype=bool)
        self.patches: list[_Ints] = []

    def cut_out(self, place: _Ints) -> None:
        """Cut faces out, and those around them as far as a patch needs it; leave them where none fits."""
        faces = self._faces
        cut = np.zeros(len(faces), dtype=bool)
        cut[place] = True
        touched = np.zeros(len(self._mesh.vertices), dtype=bool)
        for _ in range(MOST_RINGS):
            if (cut & self.gone).any() or cut.mean() > MOST_CUT_OUT:
                return
            touched[faces[cut]] = True
            wider = touched[faces].any(axis=1)
            beside = np.vstack([faces[wider & ~cut & ~self.gone], *self.patches])
            made, _, left_open = fill_holes(self._mesh.vertices, faces[cut][:, ::-1], beside)
            if made and not left_open:
                patch = np.vstack(made)
                if self._fits(cut, patch):
                    self.gone |= cut
                    self.patches.append(patch)
                    return
            cut = cut | wider

    def _fits(self, cut: NDArray[np.bool_], patch: _Ints) -> bool:
        """Whether a patch crosses nothing, repeats nothing, and no edge or corner of it has too many faces."""
        corners = self._mesh.vertices[patch].reshape(-1, 3)
        low, high = corners.min(axis=0), corners.max(axis=0)
        near = ~cut & ~self.gone & (self._low <= high).all(axis=1) & (self._high >= low).all(axis=1)
        both = np.vstack([patch, self._faces[near], *self.patches])
        local, _ = drop_unused(self._mesh, both)
        among = np.arange(len(both)) < len(patch)
        if repeated_faces(local)[among].any() or len(crossing_pairs(local, 1, among=among)):
            return False
        touching = np.isin(both, patch).any(axis=1)
        around = drop_unused(self._mesh, both[touching])[0]
        mate, _ = opposite_halfedges(around.faces.astype(np.int64), len(around.vertices))
        fans = fans_round(around.faces.astype(np.int64), mate, len(around.vertices))
        inner = np.isin(np.unique(both[touching]), patch)
        return bool(analyse(around).crowded_edges == 0 and (fans[inner] == 1).all())
