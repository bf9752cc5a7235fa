"""One solid of shells that pass through each other, lie within each other, or through themselves."""

from collections.abc import Callable
from dataclasses import dataclass

import manifold3d
import numpy as np
from numpy.typing import NDArray

from nebrel.core.csg.boolean import cleanup, solid_of
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.colouring import colour_like
from nebrel.core.mesh.crossings import crossing_pairs
from nebrel.core.mesh.repair import repair
from nebrel.core.mesh.shells import Shell, part_of, shells_of
from nebrel.core.mesh.topology import analyse

MOST_CROSSINGS = 100_000
MOST_RINGS = 4
MERGE_SHARE = 1e-6


@dataclass(frozen=True)
class Merged:
    """A mesh without crossings, as far as that could be had, and what was done.

    Attributes:
        mesh: the result.
        joined: shells that were joined with others they passed through.
        inner: shells that lay wholly within another and are gone; cavities stay.
        recut: faces that were cut out where the surface passed through itself, and closed again.
        left: pairs of faces that still cross.
    """

    mesh: TriMesh
    joined: int
    inner: int
    recut: int
    left: int


def without_crossings(mesh: TriMesh, progress: Callable[[float], None] = lambda _: None) -> Merged:
    """Shells that overlap joined to one, inner ones dropped, folds cut out and closed.

    Overlapping shells are joined by exact booleans. Where a single shell passes through itself, the faces that cross
    are cut out, a little further at each attempt, and the gap is filled; the rest of the mesh stays as it was. What is
    still left can be made anew by `remeshed`.

    Args:
        mesh: outward.
        progress: called with the fraction done.
    """
    crossing = crossing_pairs(mesh, MOST_CROSSINGS, lambda part: progress(0.3 * part))
    shells = shells_of(mesh)
    joined = inner = recut = 0
    overlapping = len(shells) > 1 and all(shell.closed for shell in shells) and analyse(mesh).manifold
    if overlapping and (len(crossing) > 0 or _some_inside(shells)):
        union, joined, inner = _unite(mesh, shells)
        if joined or inner:
            mesh = colour_like(union, mesh)
            crossing = crossing_pairs(mesh, MOST_CROSSINGS)
    progress(0.6)
    if len(crossing) > 0:
        mesh, recut = _refold(mesh, crossing)
        crossing = crossing_pairs(mesh, MOST_CROSSINGS)
    progress(1.0)
    return Merged(mesh, joined, inner, recut, len(crossing))


def _some_inside(shells: list[Shell]) -> bool:
    for shell in shells[1:]:
        if shell.volume_mm3 > 0 and ((shells[0].low <= shell.low) & (shells[0].high >= shell.high)).all():
            return True
    return False


def _unite(mesh: TriMesh, shells: list[Shell]) -> tuple[TriMesh, int, int]:
    outer = [solid_of(part_of(mesh, shell.faces)) for shell in shells if shell.volume_mm3 > 0]
    cavities = [
        solid_of(part_of(TriMesh(mesh.vertices, mesh.faces[:, ::-1].copy()), shell.faces))
        for shell in shells
        if shell.volume_mm3 < 0
    ]
    if any(part.status() != manifold3d.Error.NoError for part in (*outer, *cavities)):
        return mesh, 0, 0
    solid = manifold3d.Manifold.batch_boolean(outer, manifold3d.OpType.Add)
    for cavity in cavities:
        solid -= cavity
    if solid.is_empty():
        return mesh, 0, 0
    extent = float(np.ptp(mesh.vertices, axis=0).max())
    left = sum(part.volume() > 0 for part in solid.decompose())
    inner = sum(
        1
        for at, part in enumerate(outer)
        if any(other is not part and (part - other).is_empty() for other in outer[:at] + outer[at + 1 :])
    )
    joined = max(0, len(outer) - inner - left)
    return cleanup(solid, MERGE_SHARE * extent), joined + (1 if joined else 0), inner


def _refold(mesh: TriMesh, crossing: np.ndarray) -> tuple[TriMesh, int]:
    """The mesh with the faces that cross cut out and the gap filled, or as it was when that does not help."""
    bad: NDArray[np.bool_] = np.zeros(len(mesh.faces), dtype=bool)
    bad[crossing.ravel()] = True
    before = len(crossing)
    for _ in range(MOST_RINGS):
        if bad.all():
            break
        mended = repair(part_of(mesh, np.flatnonzero(~bad)))
        if mended.left_open == 0 and analyse(mended.mesh).manifold:
            left = len(crossing_pairs(mended.mesh, before))
            if left == 0:
                return mended.mesh, int(bad.sum())
        touched = np.zeros(len(mesh.vertices), dtype=bool)
        touched[mesh.faces[bad].ravel()] = True
        bad = np.asarray(touched[mesh.faces].any(axis=1))
    return mesh, 0
