"""What layers tell of every face of a solid: how many lines fit there, and whether support touches it."""

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from nebrel.core.layers.slices import Slices
from nebrel.core.layers.study import LayerStudy
from nebrel.core.layers.support import places_within
from nebrel.core.layers.walls import MOST_LINES
from nebrel.core.mesh import TriMesh

# Faces that lean further over are no sides of walls: cosine.
LYING = 0.7
# Lines are looked up as far away as this, in lines.
NEAR = 1.5


def lines_over_faces(mesh: TriMesh, study: LayerStudy, line: float) -> NDArray[np.float64]:
    """How many printed lines the wall behind each face takes, `MOST_LINES` for that and more.

    Args:
        mesh: as it was studied, its lowest corner at the origin.
        study: of its layers.
        line: mm that a printed line is wide.

    Returns:
        float64 (M,), NaN for faces that lie.
    """
    normals, _ = _normals(mesh)
    middles = mesh.corners.mean(axis=1)
    layers = layers_of(study.slices, middles[:, 2])
    found = np.full(len(middles), np.nan)
    upright = np.abs(normals[:, 2]) < LYING
    for layer, faces in _by_layer(layers, np.flatnonzero(upright)):
        places = study.places[layer]
        if not len(places.points):
            continue
        far, nearest = cKDTree(places.points).query(middles[faces, :2], distance_upper_bound=NEAR * line)
        hit = np.isfinite(far)
        found[faces[hit]] = np.minimum(places.wide[np.asarray(nearest)[hit]] / line, MOST_LINES)
    return found


def support_on_faces(mesh: TriMesh, study: LayerStudy) -> NDArray[np.bool_]:
    """Which faces support touches, from below where they hang and from above where it stands on them, bool (M,).

    Args:
        mesh: as it was studied, its lowest corner at the origin.
        study: of its layers.
    """
    normals, _ = _normals(mesh)
    middles = mesh.corners.mean(axis=1)
    slices, hanging = study.slices, study.hanging
    found = np.zeros(len(middles), dtype=bool)
    last = len(slices.sections) - 1
    # Undersides are seen from the layer that begins above them, upper sides from below the layer that ends there.
    for faces, offset, regions in (
        (np.flatnonzero(normals[:, 2] < -1e-3), 0, hanging.regions),
        (np.flatnonzero(normals[:, 2] > 1e-3), 1, hanging.standing),
    ):
        layers = np.clip(layers_of(slices, middles[:, 2]) + offset, 0, last)
        for layer, some in _by_layer(layers, faces):
            # A face may end a layer below or above where its region begins.
            for near in {layer, min(layer + 1, last)}:
                if not regions[near].is_empty():
                    found[some] |= places_within(regions[near], middles[some, :2])
    return found


def layers_of(slices: Slices, up: NDArray[np.float64]) -> NDArray[np.int64]:
    """In which layer heights over the plate lie, int64."""
    found: NDArray[np.int64] = np.asarray(np.searchsorted(slices.bounds, up, side="right")) - 1
    return np.asarray(np.clip(found, 0, len(slices.sections) - 1), dtype=np.int64)


def _by_layer(layers: NDArray[np.int64], faces: NDArray[np.int64]) -> list[tuple[int, NDArray[np.int64]]]:
    """Faces of each layer that has some."""
    order = faces[np.argsort(layers[faces], kind="stable")]
    numbers, firsts = np.unique(layers[order], return_index=True)
    return list(zip(numbers.tolist(), np.split(order, firsts[1:]), strict=True))


def _normals(mesh: TriMesh) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    corners = mesh.corners
    doubled = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    length = np.linalg.norm(doubled, axis=1)
    return doubled / np.maximum(length, 1e-300)[:, np.newaxis], length / 2
