"""Normals of a front, and the front that has given normals."""

import numpy as np
from numpy.typing import NDArray

# How firmly the front stays where it was against how firmly it takes its slopes from normals, per sample.
ANCHOR = 5e-4
# Steeper than this no normal is believed: the outline rounds away there.
LEAST_FACING = 0.12

_Floats = NDArray[np.float64]


def normals_of(front: _Floats, pitch: float) -> _Floats:
    """Unit normals, float64 (H, W, 3): X right, Y up, Z towards the viewer.

    Args:
        front: float64 (H, W) mm, top row first.
        pitch: mm from sample to sample.
    """
    down, across = np.gradient(front, pitch)
    normals = np.dstack([-across, down, np.ones_like(front)])
    return np.asarray(normals / np.linalg.norm(normals, axis=2, keepdims=True))


def integrated(
    normals: _Floats, anchor: _Floats, inside: NDArray[np.bool_], pitch: float, trust: _Floats, firm: float = ANCHOR
) -> _Floats:
    """The front whose slopes are those of normals, held weakly to where it was: screened Poisson.

    The least squares of the differences between samples beside each other against the slopes, by how much both are
    trusted, and of the distance from the anchor (after Nehab and others, "Efficiently Combining Positions and Normals
    for Precise 3D Geometry", 2005).

    Args:
        normals: float64 (H, W, 3), unit.
        anchor: float64 (H, W) mm, where the front was.
        inside: bool (H, W), where it is.
        pitch: mm from sample to sample.
        trust: float64 (H, W), how much each normal counts, 0 to 1; differences of the anchor count for the rest.
        firm: weight of the anchor.

    Returns:
        float64 (H, W) mm; the anchor outside.
    """
    from scipy import sparse
    from scipy.sparse.linalg import spsolve

    count = int(inside.sum())
    if count == 0:
        return anchor.copy()
    number = np.full(inside.shape, -1, dtype=np.int64)
    number[inside] = np.arange(count)
    facing = np.maximum(normals[..., 2], LEAST_FACING)
    slopes = {1: -normals[..., 0] / facing * pitch, 0: normals[..., 1] / facing * pitch}
    rows, columns, values = [], [], []
    right = firm * anchor[inside]
    diagonal = np.full(count, firm)
    for axis, slope in slopes.items():
        one, other = _beside(number, axis)
        both = (one >= 0) & (other >= 0)
        one, other = one[both], other[both]
        believed, held = (_between(each, axis)[both] for each in (trust, slope))
        was = np.diff(anchor, axis=axis)[both]
        wanted = believed * held + (1 - believed) * was
        diagonal += np.bincount(one, minlength=count) + np.bincount(other, minlength=count)
        right += np.bincount(other, wanted, count) - np.bincount(one, wanted, count)
        rows += [one, other]
        columns += [other, one]
        values += [np.full(len(one), -1.0)] * 2
    here = np.arange(count)
    matrix = sparse.csc_matrix(
        (
            np.concatenate([*values, diagonal]),
            (np.concatenate([*rows, here]), np.concatenate([*columns, here])),
        )
    )
    found = anchor.copy()
    found[inside] = spsolve(matrix, right, permc_spec="MMD_AT_PLUS_A")
    return found


def _beside(values: NDArray[np.int64], axis: int) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    last = values.shape[axis] - 1
    return np.take(values, range(last), axis=axis), np.take(values, range(1, last + 1), axis=axis)


def _between(values: _Floats, axis: int) -> _Floats:
    last = values.shape[axis] - 1
    return (np.take(values, range(last), axis=axis) + np.take(values, range(1, last + 1), axis=axis)) / 2
