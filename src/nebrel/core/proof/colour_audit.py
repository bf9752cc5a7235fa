"""What colours a finished mesh has: read off its corners, not from how it was made."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nebrel.core.colour.oklab import oklab_of
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.measure import face_areas


@dataclass(frozen=True)
class ColourAudit:
    """Colours of a mesh whose triangles have one each.

    Attributes:
        colours: uint8 (N, 3), the one with the largest area first.
        labels: int64 (M,), which of them each triangle has.
        areas: float64 (N,) mm².
        patches: how many areas of one colour hang together by edges.
        smallest: mm² of the smallest of them.
        error: mean distance from the colours before, in OKLab, by area.
    """

    colours: NDArray[np.uint8]
    labels: NDArray[np.int64]
    areas: NDArray[np.float64]
    patches: int
    smallest: float
    error: float


def audit_colours(mesh: TriMesh, before: NDArray[np.float64]) -> ColourAudit | None:
    """Colours, patches and error of a mesh, or None where a triangle has more than one colour.

    Args:
        mesh: with colours at corners.
        before: float64 (M, 3), what every triangle's colour was, in OKLab.
    """
    tints = mesh.corner_colours
    if tints is None or (tints != tints[:, :1]).any():
        return None
    areas = face_areas(mesh)
    colours, labels = np.unique(tints[:, 0, :3], axis=0, return_inverse=True)
    labels = labels.ravel()
    sums = np.bincount(labels, areas).astype(np.float64)
    order = np.argsort(-sums)
    place = np.empty(len(order), dtype=np.int64)
    place[order] = np.arange(len(order))
    patches = np.bincount(_patches(mesh, labels), areas)
    off = np.linalg.norm(oklab_of(tints[:, 0, :3]) - before, axis=1)
    return ColourAudit(
        colours[order],
        place[labels],
        sums[order],
        len(patches),
        float(patches.min()),
        float((off * areas).sum() / max(float(areas.sum()), 1e-300)),
    )


def _patches(mesh: TriMesh, labels: NDArray[np.int64]) -> NDArray[np.int64]:
    """Which patch each triangle is of, by edges that two triangles of one colour share."""
    from scipy import sparse
    from scipy.sparse.csgraph import connected_components

    edges = np.sort(mesh.faces[:, [[0, 1], [1, 2], [2, 0]]].reshape(-1, 2).astype(np.int64), axis=1)
    of_face = np.repeat(np.arange(len(labels)), 3)
    order = np.lexsort((edges[:, 1], edges[:, 0], labels[of_face]))
    one, other = of_face[order[:-1]], of_face[order[1:]]
    shared = (edges[order[:-1]] == edges[order[1:]]).all(axis=1) & (labels[one] == labels[other])
    links = sparse.coo_matrix((np.ones(int(shared.sum()), np.int8), (one[shared], other[shared])), (len(labels),) * 2)
    return np.asarray(connected_components(links, directed=False)[1], dtype=np.int64)
