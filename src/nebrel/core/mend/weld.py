"""Corners along open edges that miss each other by a hair become one."""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from nebrel.core.mesh.compact import drop_unused
from nebrel.core.mesh.topology import analyse, opposite_halfedges
from nebrel.core.mesh.trimesh import TriMesh

# Where no tolerance is given, so many times what a float32 can tell apart at the corner furthest from the origin.
GRAINS = (4.0, 32.0, 256.0, 1024.0)
MOST_OF_EXTENT = 1e-4


def grain_of(mesh: TriMesh) -> float:
    """What a float32 can tell apart at the corner that is furthest from the origin, mm."""
    return float(np.spacing(np.float32(np.abs(mesh.vertices).max())))


def welded_openings(mesh: TriMesh, tolerance: float | None = None) -> tuple[TriMesh, int, float]:
    """The mesh with corners of open edges joined that are nearer than a tolerance; all others stay as they are.

    Faces that lose a side by this go. Without a tolerance the smallest is taken, of a few that files are written with,
    that leaves the fewest edges open.

    Returns:
        The mesh, how many corners were joined, and the tolerance, mm.
    """
    if tolerance is not None:
        made, joined = _welded(mesh, tolerance)
        return made, joined, tolerance
    topology = analyse(mesh)
    fewest, best = topology.open_edges + topology.crowded_edges, (mesh, 0, 0.0)
    grain, extent = grain_of(mesh), float(np.ptp(mesh.vertices, axis=0).max())
    for grains in GRAINS:
        within = grains * grain
        if not topology.open_edges or within > MOST_OF_EXTENT * extent:
            break
        made, joined = _welded(mesh, within)
        if joined == best[1]:
            continue
        found = analyse(made)
        if found.open_edges + found.crowded_edges < fewest:
            fewest, best = found.open_edges + found.crowded_edges, (made, joined, within)
        if not found.open_edges:
            break
    return best


def open_corners(faces: NDArray[np.int64], vertices: int) -> NDArray[np.bool_]:
    """Which vertices lie on an edge without exactly two faces, bool (N,)."""
    mate, _ = opposite_halfedges(faces, vertices)
    found = np.zeros(vertices, dtype=bool)
    sides = np.flatnonzero(mate < 0)
    found[faces.ravel()[sides]] = True
    found[np.roll(faces, -1, axis=1).ravel()[sides]] = True
    return found


def _welded(mesh: TriMesh, tolerance: float) -> tuple[TriMesh, int]:
    from scipy.sparse import coo_array
    from scipy.sparse.csgraph import connected_components
    from scipy.spatial import cKDTree

    faces = mesh.faces.astype(np.int64)
    among = np.flatnonzero(open_corners(faces, len(mesh.vertices)))
    if not len(among):
        return mesh, 0
    pairs = cKDTree(mesh.vertices[among]).query_pairs(tolerance, output_type="ndarray")
    if not len(pairs):
        return mesh, 0
    links = coo_array((np.ones(len(pairs), dtype=np.int8), (pairs[:, 0], pairs[:, 1])), (len(among), len(among)))
    _, group = connected_components(links, directed=False)
    _, first = np.unique(group, return_index=True)
    target = np.arange(len(mesh.vertices))
    target[among] = among[first[group]]
    faces = target[faces]
    whole = (faces[:, 0] != faces[:, 1]) & (faces[:, 1] != faces[:, 2]) & (faces[:, 2] != faces[:, 0])
    kept = mesh if mesh.corner_colours is None else replace(mesh, corner_colours=None)
    return drop_unused(kept, faces[whole])[0], int((target != np.arange(len(target))).sum())
