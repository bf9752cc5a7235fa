"""The largest spheres that fit inside a solid and touch its surface at given places."""

import math
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor

import numpy as np
from numpy.typing import NDArray

from nebrel.core.cores import cores
from nebrel.core.jit import compiled
from nebrel.core.mesh.nearest import empty_stack, nearest_triangle, off_triangle, triangle_tree
from nebrel.core.mesh.trimesh import TriMesh

PLACES_AT_ONCE = 5_000
MOST_STEPS = 40
# The least cosine between the outer normal of a face that stops a sphere and the inner normal of the face it touches:
# within 30 degrees of parallel the two are sides of one wall; beyond that they are a ridge or a corner.
OPPOSITE_COSINE = math.cos(math.radians(30.0))
_TOUCHING = 1e-9


def inscribed_diameters(
    mesh: TriMesh,
    places: NDArray[np.float64],
    inwards: NDArray[np.float64],
    progress: Callable[[float], None] = lambda _: None,
) -> NDArray[np.float64]:
    """Diameters of the largest spheres inside `mesh` that touch it at each place, float64 (K,) mm; infinite where
    nothing lies opposite.

    The shrinking ball of Ma, Bae and Choi, "3D medial axis point approximation using nearest neighbors and the normal
    field" (2012), on exact triangles. Only faces that are parallel within 30 degrees, and look the other way, stop a
    sphere: beside a sharp edge or on a small bump the neighbouring side is no other side of a wall.

    Args:
        mesh: outward; at least one face.
        places: (K, 3) mm on its surface.
        inwards: (K, 3) of length 1, straight into the solid.
        progress: called with the fraction done.
    """
    tree = triangle_tree(mesh)
    largest = 2 * float(np.linalg.norm(np.ptp(mesh.vertices, axis=0)))
    found = np.empty(len(places))

    def fit(start: int) -> int:
        part = slice(start, start + PLACES_AT_ONCE)
        _fit(np.ascontiguousarray(places[part]), np.ascontiguousarray(inwards[part]), largest, tree, found[part])
        return start

    with ThreadPoolExecutor(max_workers=min(8, cores())) as threads:
        for start in threads.map(fit, range(0, len(places), PLACES_AT_ONCE)):
            progress(min(1.0, (start + PLACES_AT_ONCE) / len(places)))
    return found


@compiled
def _fit(places, inwards, largest, tree, found):
    stack = empty_stack()
    for k in range(len(places)):
        px, py, pz = places[k]
        nx, ny, nz = inwards[k]
        radius, bounded = largest, False
        for _ in range(MOST_STEPS):
            middle = (px + radius * nx, py + radius * ny, pz + radius * nz)
            within = radius * radius * (1 - _TOUCHING)
            # The outer normal of a face opposite looks along the inner normal of this one.
            at, _ = nearest_triangle(middle, (nx, ny, nz), OPPOSITE_COSINE, within, tree, stack)
            if at < 0:
                break
            dx, dy, dz = off_triangle(middle, tree.corners, at)
            gx, gy, gz = middle[0] - dx - px, middle[1] - dy - py, middle[2] - dz - pz
            deep = gx * nx + gy * ny + gz * nz
            if deep <= 0.0:
                break
            smaller = (gx * gx + gy * gy + gz * gz) / (2 * deep)
            if smaller >= radius:
                break
            radius, bounded = smaller, True
        found[k] = 2 * radius if bounded else np.inf
