"""Rays through meshes, one at a time and face by face: slow, plain, and no kin of the product's own measuring."""

import numba
import numpy as np
from numpy.typing import NDArray

from nebrel.core.mesh import TriMesh

REACH_MM = 6.0


def wall_along(mesh: TriMesh, places: NDArray[np.float64], ways: NDArray[np.float64]) -> NDArray[np.float64]:
    """Material within 6 mm on either side of places along unit directions, (N,) mm; a ray enters and leaves."""
    corners = mesh.vertices[mesh.faces.astype(np.int64)]
    return _along(corners, corners.min(axis=1), corners.max(axis=1), places, ways)


@numba.njit(cache=True, parallel=True)
def _along(corners, low, high, places, ways):
    made = np.zeros(len(places))
    for ray in numba.prange(len(places)):
        o, d = places[ray], ways[ray]
        first_x, last_x = o[0] - REACH_MM * abs(d[0]), o[0] + REACH_MM * abs(d[0])
        first_y, last_y = o[1] - REACH_MM * abs(d[1]), o[1] + REACH_MM * abs(d[1])
        first_z, last_z = o[2] - REACH_MM * abs(d[2]), o[2] + REACH_MM * abs(d[2])
        for f in range(len(corners)):
            if low[f, 0] > last_x or high[f, 0] < first_x or low[f, 1] > last_y or high[f, 1] < first_y:
                continue
            if low[f, 2] > last_z or high[f, 2] < first_z:
                continue
            a = corners[f, 0]
            u, v = corners[f, 1] - a, corners[f, 2] - a
            p0, p1, p2 = d[1] * v[2] - d[2] * v[1], d[2] * v[0] - d[0] * v[2], d[0] * v[1] - d[1] * v[0]
            turned = u[0] * p0 + u[1] * p1 + u[2] * p2
            if abs(turned) < 1e-14:
                continue
            t0, t1, t2 = o[0] - a[0], o[1] - a[1], o[2] - a[2]
            first = (t0 * p0 + t1 * p1 + t2 * p2) / turned
            if first < 0 or first > 1:
                continue
            q0, q1, q2 = t1 * u[2] - t2 * u[1], t2 * u[0] - t0 * u[2], t0 * u[1] - t1 * u[0]
            second = (d[0] * q0 + d[1] * q1 + d[2] * q2) / turned
            if second < 0 or first + second > 1:
                continue
            away = (v[0] * q0 + v[1] * q1 + v[2] * q2) / turned
            if abs(away) <= REACH_MM:
                # The face turns towards where the ray comes from when it enters.
                made[ray] += -away if turned > 0 else away
    return made


def hits_along(
    mesh: TriMesh, origins: NDArray[np.float64], ways: NDArray[np.float64], reach: float = 60.0
) -> NDArray[np.float64]:
    """Distance along unit directions to the first face met within `reach` mm, (N,) mm; infinite where there is none."""
    corners = mesh.vertices[mesh.faces.astype(np.int64)]
    return _first(corners, corners.min(axis=1), corners.max(axis=1), origins, np.ascontiguousarray(ways), reach)


@numba.njit(cache=True, parallel=True)
def _first(corners, low, high, origins, ways, reach):
    met = np.full(len(origins), np.inf)
    for ray in numba.prange(len(origins)):
        o, d = origins[ray], ways[ray]
        e = o + reach * d
        for f in range(len(corners)):
            if low[f, 0] > max(o[0], e[0]) or high[f, 0] < min(o[0], e[0]):
                continue
            if low[f, 1] > max(o[1], e[1]) or high[f, 1] < min(o[1], e[1]):
                continue
            if low[f, 2] > max(o[2], e[2]) or high[f, 2] < min(o[2], e[2]):
                continue
            a = corners[f, 0]
            u, v = corners[f, 1] - a, corners[f, 2] - a
            p0, p1, p2 = d[1] * v[2] - d[2] * v[1], d[2] * v[0] - d[0] * v[2], d[0] * v[1] - d[1] * v[0]
            turned = u[0] * p0 + u[1] * p1 + u[2] * p2
            if abs(turned) < 1e-14:
                continue
            t0, t1, t2 = o[0] - a[0], o[1] - a[1], o[2] - a[2]
            first = (t0 * p0 + t1 * p1 + t2 * p2) / turned
            q0, q1, q2 = t1 * u[2] - t2 * u[1], t2 * u[0] - t0 * u[2], t0 * u[1] - t1 * u[0]
            second = (d[0] * q0 + d[1] * q1 + d[2] * q2) / turned
            if first < -1e-9 or second < -1e-9 or first + second > 1 + 1e-9:
                continue
            away = (v[0] * q0 + v[1] * q1 + v[2] * q2) / turned
            if 0 < away < met[ray]:
                met[ray] = away
    return met
