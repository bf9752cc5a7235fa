"""Parts of a figure as a picture shows them: areas between its edges."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from nebrel.core.figure.silhouette import Silhouette

# Samples beside each other whose colours differ by less are of one area, 0 to 1.
JOINED = 0.05
# A sample that differs from one beside it by as much lies on an edge, and joins nothing.
STEEP = 0.12
# A smaller area is a mark on what lies round it, and no part of its own, unless a stroke means it.
SMALL_SHARE, MEANT_SHARE = 0.015, 0.3
# A part with less of a stroke than this is not meant by it.
BRUSHED_SHARE = 0.2
# How much passes between parts, and at the least within one; how fast what passes fades within one, by colour.
BETWEEN, LEAST_WITHIN, FADING = 1e-4, 0.1, 0.08
# How firmly parts that no stroke is on stay where they are.
STILL = 0.05
HELD = 1e3

_Floats = NDArray[np.float64]
_Kind = TypeVar("_Kind", np.int32, np.bool_)


@dataclass(frozen=True)
class PictureParts:
    """The parts of a figure.

    Attributes:
        labels: int32 (H, W), which part every sample is of; -1 outside.
        across, up: float64 (H, W - 1) and (H - 1, W), how much two samples beside each other move together, 0 to 1.
    """

    labels: NDArray[np.int32]
    across: _Floats
    up: _Floats

    def meant(self, stroke: _Floats) -> NDArray[np.bool_]:
        """Bool (H, W), where a stroke, float64 (H, W), is on parts that it means: what it only brushes is left out."""
        under = (stroke >= 0.5) & (self.labels >= 0)
        if not under.any():
            return under
        counts = np.bincount(self.labels[under], minlength=int(self.labels.max()) + 1)
        meant = counts >= min(BRUSHED_SHARE * int(under.sum()), int(counts.max()))
        return under & meant[self.labels]


def find_parts(silhouette: Silhouette, guide: _Floats, strokes: Sequence[_Floats]) -> PictureParts:
    """Tell parts by the edges of the picture.

    Args:
        silhouette: of the figure.
        guide: float64 (H, W, C) of the picture on the grid, 0 to 1.
        strokes: where each stroke is, float64 (H, W), 0 to 1.
    """
    from scipy import ndimage

    inside = silhouette.inside
    steps = [np.sqrt((np.diff(guide, axis=axis) ** 2).sum(axis=2)) for axis in (1, 0)]
    # Along an edge that is nearly level, samples on it differ little: through them areas would run into each other.
    steep = _steepest(steps[0], steps[1]) >= STEEP
    across, up = (
        (step < JOINED) & ~_side(steep, axis, 0) & ~_side(steep, axis, 1)
        for axis, step in ((1, steps[0]), (0, steps[1]))
    )
    areas = _areas(inside, across, up)
    sizes = np.bincount(areas[inside])
    own = sizes >= max(1.0, SMALL_SHARE * inside.sum())
    for stroke in strokes:
        under = areas[(stroke >= 0.5) & inside]
        if len(under):
            own |= np.bincount(under, minlength=len(sizes)) >= MEANT_SHARE * len(under)
    labels = np.full(inside.shape, -1, dtype=np.int32)
    labels[inside] = np.where(own[areas[inside]], areas[inside], -1)
    if not own.any():
        labels[inside] = 0
    row, column = ndimage.distance_transform_edt(labels < 0, return_distances=False, return_indices=True)
    labels = np.where(inside, labels[row, column], -1).astype(np.int32)
    weights = []
    for axis, step in ((1, steps[0]), (0, steps[1])):
        one, other = (_side(labels, axis, first) for first in (0, 1))
        within = np.maximum(LEAST_WITHIN, np.exp(-((step / FADING) ** 2)))
        weights.append(np.where((one < 0) | (other < 0), 0.0, np.where(one == other, within, BETWEEN)))
    return PictureParts(labels, weights[0], weights[1])


def spread(parts: PictureParts, held: _Floats, values: _Floats, reach: float) -> _Floats:
    """Values that strokes give, carried over the parts under them; they fade to 0 with the distance.

    The least squares of differences between samples beside each other, by how much they move together, of what is
    held to its value, and of a pull to 0 that is weak within parts that a stroke is on (Levin, Lischinski and Weiss,
    "Colorization using Optimization", 2004; Lischinski and others, "Interactive Local Adjustment of Tonal Values",
    2006).

    Args:
        parts: of the figure.
        held: float64 (H, W), how firmly each sample is held to its value, 0 to 1.
        values: float64 (H, W).
        reach: how far a value goes where nothing stops it, cells.

    Returns:
        float64 (H, W); 0 outside.
    """
    from scipy import sparse
    from scipy.sparse.linalg import spsolve

    inside = parts.labels >= 0
    count = int(inside.sum())
    number = np.full(inside.shape, -1, dtype=np.int64)
    number[inside] = np.arange(count)
    one = np.concatenate([number[:, :-1].ravel(), number[:-1].ravel()])
    other = np.concatenate([number[:, 1:].ravel(), number[1:].ravel()])
    weight = np.concatenate([parts.across.ravel(), parts.up.ravel()])
    one, other, weight = one[weight > 0], other[weight > 0], weight[weight > 0]
    touched = np.isin(parts.labels[inside], np.unique(parts.labels[inside & (held > 0)]))
    firm = HELD * held[inside]
    diagonal = np.bincount(one, weight, count) + np.bincount(other, weight, count) + firm
    diagonal += np.where(touched, 1 / reach**2, STILL)
    here = np.arange(count)
    matrix = sparse.csc_matrix(
        (
            np.concatenate([-weight, -weight, diagonal]),
            (np.concatenate([one, other, here]), np.concatenate([other, one, here])),
        )
    )
    found = np.zeros(inside.shape)
    found[inside] = spsolve(matrix, firm * values[inside], permc_spec="MMD_AT_PLUS_A")
    return found


def _steepest(across: _Floats, up: _Floats) -> _Floats:
    """The greatest difference of every sample from those beside it, float64 (H, W)."""
    found = np.zeros((across.shape[0], up.shape[1]))
    for one, steps in ((found[:, :-1], across), (found[:, 1:], across), (found[:-1], up), (found[1:], up)):
        np.maximum(one, steps, out=one)
    return found


def _side(values: NDArray[_Kind], axis: int, first: int) -> NDArray[_Kind]:
    return np.take(values, range(first, values.shape[axis] - 1 + first), axis=axis)


def _areas(inside: NDArray[np.bool_], across: NDArray[np.bool_], up: NDArray[np.bool_]) -> NDArray[np.int32]:
    """Which area every sample is of, int32 (H, W), by which of them hang together; 0 outside too."""
    from scipy import sparse
    from scipy.sparse.csgraph import connected_components

    number = np.full(inside.shape, -1, dtype=np.int64)
    number[inside] = np.arange(int(inside.sum()))
    one = np.concatenate([number[:, :-1].ravel(), number[:-1].ravel()])
    other = np.concatenate([number[:, 1:].ravel(), number[1:].ravel()])
    joined = np.concatenate([across.ravel(), up.ravel()]) & (one >= 0) & (other >= 0)
    links = (np.ones(int(joined.sum()), dtype=np.int8), (one[joined], other[joined]))
    found = connected_components(sparse.coo_matrix(links, shape=(int(inside.sum()),) * 2), directed=False)[1]
    areas = np.zeros(inside.shape, dtype=np.int32)
    areas[inside] = found
    return areas
