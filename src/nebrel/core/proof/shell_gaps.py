"""How near the parts of a mesh come to each other."""

from itertools import combinations

import numpy as np
from numpy.typing import NDArray

from nebrel.core.mesh.distance import distances_to
from nebrel.core.mesh.shells import Shell, part_of
from nebrel.core.mesh.trimesh import TriMesh

# More pairs than this are not measured.
MOST_PAIRS = 2_000
# Along edges, places are no further apart than this share of the mesh's extent, while they are not more than so many.
STEP_SHARE, MOST_STEPS = 1 / 64, 64
_Boxes = tuple[NDArray[np.float64], NDArray[np.float64]]


def near_pairs(mesh: TriMesh, shells: list[Shell], within: float) -> tuple[NDArray[np.int64], NDArray[np.float64]]:
    """Pairs of shells that come within `within` mm of each other, int64 (K, 2), and how near they come, float64 (K,).

    Looked at are the corners of each and places along its edges, against the faces of the other: where two surfaces lie
    on each other, an edge of one runs over the other. Of pairs whose boxes are near, the first 2,000 are looked at.
    """
    low, high = np.array([shell.low for shell in shells]), np.array([shell.high for shell in shells])
    step = STEP_SHARE * float((high.max(axis=0) - low.min(axis=0)).max())
    asked = [
        (one, other)
        for one, other in combinations(range(len(shells)), 2)
        if (low[one] <= high[other] + within).all() and (low[other] <= high[one] + within).all()
    ][:MOST_PAIRS]
    boxes = {at: _face_boxes(mesh, shells[at]) for at in {at for pair in asked for at in pair}}
    found, gaps = [], []
    for one, other in asked:
        common = np.maximum(low[one], low[other]) - within, np.minimum(high[one], high[other]) + within
        parts = [part_of(mesh, shells[at].faces[_reach_into(boxes[at], *common)]) for at in (one, other)]
        gap = min(_gap(parts[0], parts[1], within, step), _gap(parts[1], parts[0], within, step))
        if gap <= within:
            found.append((one, other))
            gaps.append(gap)
    return np.array(found, dtype=np.int64).reshape(-1, 2), np.array(gaps, dtype=np.float64)


def _face_boxes(mesh: TriMesh, shell: Shell) -> _Boxes:
    """Low and high sides of the boxes of a shell's faces, (3, K) each."""
    corners = mesh.vertices[mesh.faces[shell.faces]]
    return np.ascontiguousarray(corners.min(axis=1).T), np.ascontiguousarray(corners.max(axis=1).T)


def _reach_into(boxes: _Boxes, low: NDArray[np.float64], high: NDArray[np.float64]) -> NDArray[np.int64]:
    """Which of some boxes reach into another."""
    found = np.flatnonzero((boxes[0][0] <= high[0]) & (boxes[1][0] >= low[0]))
    for axis in (1, 2):
        found = found[(boxes[0][axis, found] <= high[axis]) & (boxes[1][axis, found] >= low[axis])]
    return found


def _gap(one: TriMesh, other: TriMesh, within: float, step: float) -> float:
    """From places of one to the faces of the other; infinite where none is in its box."""
    if not len(one.faces) or not len(other.faces):
        return np.inf
    low, high = other.vertices.min(axis=0) - within, other.vertices.max(axis=0) + within
    places = _along_edges(one, step)
    places = places[((places >= low) & (places <= high)).all(axis=1)]
    return float(distances_to(other, places).min(initial=np.inf)) if len(places) else np.inf


def _along_edges(mesh: TriMesh, step: float) -> NDArray[np.float64]:
    """Corners, and places between them along every edge, (K, 3) mm."""
    ends = mesh.vertices[np.unique(np.sort(mesh.faces[:, [[0, 1], [1, 2], [2, 0]]].reshape(-1, 2)), axis=0)]
    lengths = np.linalg.norm(ends[:, 1] - ends[:, 0], axis=1)
    counts = np.clip(np.ceil(lengths / step), 1, MOST_STEPS).astype(np.int64)
    edge = np.repeat(np.arange(len(ends)), counts)
    nth = np.arange(len(edge)) - np.repeat(np.cumsum(counts) - counts, counts)
    share = (nth / counts[edge])[:, np.newaxis]
    return np.vstack([mesh.vertices, ends[edge, 0] * (1 - share) + ends[edge, 1] * share])
