"""How far upright walls of a finished mesh are from the straight edges that they were asked to follow."""

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import MultiPolygon

from nebrel.core.mesh import TriMesh
from nebrel.core.region.rings import following, rings_of

UPRIGHT = 1e-6
BESIDE_MM = 1e-6
_Reals = NDArray[np.float64]


def measure_walls(mesh: TriMesh, region: MultiPolygon, height: float) -> tuple[float, float]:
    """Largest and RMS distance, mm, between a prism and what it was asked to be; infinite where it has no walls.

    Measured from the ends and middles of all walls, seen from above, to the nearest edge of the region; from the
    corners and the middles of sides of the region to the nearest wall; and of every vertex from the nearer of foot and
    top.

    Args:
        mesh: its lowest corner at the origin.
        region: straight edges, mm, wherever it lies.
        height: mm.
    """
    asked, made = _edges(region), _walls(mesh)
    if not len(made):
        return float("inf"), float("inf")
    z = mesh.vertices[:, 2]
    at_made, at_asked = _ends_and_middles(made), _ends_and_middles(asked)
    away = np.concatenate(
        [
            _to_nearest(at_made, at_asked, asked),
            _to_nearest(at_asked, at_made, made),
            np.minimum(np.abs(z), np.abs(z - height)),
        ]
    )
    return float(away.max()), float(np.sqrt((away**2).mean()))


def _edges(region: MultiPolygon) -> _Reals:
    """Edges of a region whose lowest corner is moved to the origin, (K, 2, 2)."""
    rings = rings_of(region)
    places = np.concatenate(rings)
    ahead = places[following([len(ring) for ring in rings])]
    return np.stack([places, ahead], axis=1) - places.min(axis=0)


def _walls(mesh: TriMesh) -> _Reals:
    """Upright faces as lines seen from above, (K, 2, 2)."""
    corners = mesh.corners
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    upright = np.abs(normals[:, 2]) <= UPRIGHT * np.maximum(np.linalg.norm(normals, axis=1), 1e-300)
    flat = corners[upright, :, :2]
    ahead = np.roll(flat, -1, axis=1)
    longest = np.linalg.norm(ahead - flat, axis=2).argmax(axis=1)
    each = np.arange(len(flat))
    return np.stack([flat[each, longest], ahead[each, longest]], axis=1)


def _to_nearest(places: _Reals, there: _Reals, lines: _Reals) -> _Reals:
    """Distances from places to the nearest of lines, whose ends and middles are `there`."""
    from scipy.spatial import cKDTree

    # Next to an end or the middle of another the way to that is told; only for the rest the nearest is looked for.
    away = np.asarray(cKDTree(there).query(places, distance_upper_bound=BESIDE_MM, workers=-1)[0])
    elsewhere = np.isinf(away)
    if elsewhere.any():
        tree = shapely.STRtree(shapely.linestrings(lines))
        asked = shapely.points(places[elsewhere])
        away[elsewhere] = tree.query_nearest(asked, return_distance=True, all_matches=False)[1]
    return away


def _ends_and_middles(lines: _Reals) -> _Reals:
    """Each once; as complex numbers they are sorted in a tenth of the time (`np.unique` would hash them)."""
    x, y = np.concatenate([lines.reshape(-1, 2), lines.mean(axis=1)]).T
    places = np.sort(x + 1j * y)
    found = places[np.concatenate([[True], places[1:] != places[:-1]])]
    return np.column_stack([found.real, found.imag])
