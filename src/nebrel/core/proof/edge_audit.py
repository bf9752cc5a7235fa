"""How far the walls of a finished relief are from where its picture shows the edges."""

from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from nebrel.core.mesh import TriMesh

UPRIGHT = 1e-6
# Walls along the outline, mm.
FLUSH = 1e-4
# A place that no wall comes so near to, in samples, belongs to an edge that a mask, a frame or a hole took away.
BESIDE_PX = 2.0


@dataclass(frozen=True)
class EdgeMeasure:
    """Upright walls inside of a relief.

    Attributes:
        walls: how long they are, seen from above, mm.
        rms, max: how far places where the picture shows an edge are from them, mm.
    """

    walls: float
    rms: float
    max: float


def audit_edges(
    mesh: TriMesh, shown: NDArray[np.float64], pitch: float, upright_within: float = UPRIGHT
) -> EdgeMeasure | None:
    """Measure the upright walls of a finished mesh; None where none of them stands where an edge is shown.

    Args:
        mesh: of a relief, its picture lying over X and Y.
        shown: float64 (N, 2) mm, places where the picture tells that edges run.
        pitch: mm between samples.
        upright_within: how far walls may lean, as the sine of their angle.
    """
    corners = mesh.vertices[mesh.faces.astype(np.int64)]
    normal = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    upright = np.abs(normal[:, 2]) <= upright_within * np.linalg.norm(normal, axis=1)
    low, high = mesh.vertices[:, :2].min(axis=0), mesh.vertices[:, :2].max(axis=0)
    flat = corners[upright][:, :, :2]
    outer = (np.abs(flat - low) <= FLUSH).all(axis=1) | (np.abs(flat - high) <= FLUSH).all(axis=1)
    inner = ~outer.any(axis=1)
    walls = shapely.linestrings(flat[inner])
    if not len(walls) or not len(shown):
        return None
    tree, places = shapely.STRtree(walls), shapely.points(shown)
    reach = BESIDE_PX * pitch
    near, distance = tree.query_nearest(places, max_distance=reach, return_distance=True, all_matches=False)
    if not near.size:
        return None
    beside = np.unique(tree.query(places, predicate="dwithin", distance=reach)[1])
    length = shapely.union_all(walls[beside], grid_size=FLUSH).length
    return EdgeMeasure(float(length), float(np.sqrt(np.mean(distance**2))), float(distance.max()))
