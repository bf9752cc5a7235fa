"""Maps of a patch to the plane: unfolded face by face, and as rigid as possible.

The latter after Liu et al., "A Local/Global Approach to Mesh Parameterization", 2008.
"""

import numpy as np
from numpy.typing import NDArray

from nebrel.core.jit import compiled
from nebrel.core.mesh.cotangents import cotangents_beyond, laplacian_of
from nebrel.core.surface.parameterize.chart import flattened_alone

ROUNDS = 12
SETTLED = 1e-5
LEAST_WEIGHT = 0.02
_Reals = NDArray[np.float64]
_Ints = NDArray[np.int64]


@compiled
def _unfold(flat, faces, plane, known):
    """Lay faces down one after the other beside those that lie already; `faces` come in the order of their growth."""
    left = True
    while left:
        left = False
        moved = False
        for f in range(len(faces)):
            count = 0
            for i in range(3):
                count += known[faces[f, i]]
            if count == 3:
                continue
            if count < 2:
                left = True
                continue
            i = 0
            while known[faces[f, i]]:
                i += 1
            a, b = (i + 1) % 3, (i + 2) % 3
            ax, ay = plane[faces[f, a], 0], plane[faces[f, a], 1]
            ex, ey = plane[faces[f, b], 0] - ax, plane[faces[f, b], 1] - ay
            gx, gy = flat[f, b, 0] - flat[f, a, 0], flat[f, b, 1] - flat[f, a, 1]
            px, py = flat[f, i, 0] - flat[f, a, 0], flat[f, i, 1] - flat[f, a, 1]
            square = max(gx * gx + gy * gy, 1e-300)
            along, across = (px * gx + py * gy) / square, (gx * py - gy * px) / square
            plane[faces[f, i], 0] = ax + along * ex - across * ey
            plane[faces[f, i], 1] = ay + along * ey + across * ex
            known[faces[f, i]] = True
            moved = True
        if not moved:
            return


def unrolled(points: _Reals, faces: _Ints) -> _Reals:
    """A map that is exact where the patch can be unrolled, however coarse its faces are."""
    flat = flattened_alone(points[faces])
    plane, known = np.zeros((len(points), 2)), np.zeros(len(points), dtype=np.bool_)
    plane[faces[0]], known[faces[0]] = flat[0], True
    _unfold(flat, faces, plane, known)
    return plane


def as_rigid_as_possible(points: _Reals, faces: _Ints, plane: _Reals) -> _Reals:
    """The map whose faces are turned and shifted and changed otherwise as little as can be."""
    from scipy.sparse.linalg import splu

    if len(points) < 4:
        return plane
    flat = flattened_alone(points[faces])
    ahead = np.roll(flat, -1, axis=1) - flat
    weights = np.clip(cotangents_beyond(flat), LEAST_WEIGHT, 1e3)
    starts, ends = faces.ravel(), np.roll(faces, -1, axis=1).ravel()
    laplacian = laplacian_of(faces, weights, len(points))
    solver = splu(laplacian[1:, 1:], permc_spec="COLAMD")
    sides = weights[..., np.newaxis] * ahead
    for _ in range(ROUNDS):
        laid = np.roll(plane[faces], -1, axis=1) - plane[faces]
        # The best turn of every face, as cosine and sine.
        together = np.einsum("fsi,fsj->fij", sides, laid)
        cosine = together[:, 0, 0] + together[:, 1, 1]
        sine = together[:, 0, 1] - together[:, 1, 0]
        length = np.maximum(np.hypot(cosine, sine), 1e-300)
        cosine, sine = (cosine / length)[:, np.newaxis], (sine / length)[:, np.newaxis]
        wished = np.stack(
            [cosine * sides[..., 0] - sine * sides[..., 1], sine * sides[..., 0] + cosine * sides[..., 1]], 2
        )
        right = np.zeros_like(plane)
        for axis in range(2):
            pull = wished[..., axis].ravel()
            right[:, axis] = np.bincount(ends, pull, len(points)) - np.bincount(starts, pull, len(points))
        before, plane = plane, np.zeros_like(plane)
        plane[1:] = solver.solve(right[1:])
        plane += before.mean(axis=0) - plane.mean(axis=0)
        if np.abs(plane - before).max() < SETTLED * max(float(np.ptp(plane, axis=0).max()), 1e-12):
            break
    return plane
