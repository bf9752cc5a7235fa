"""Cotangents of the angles of faces, the weights of a surface's Laplacian (Pinkall and Polthier 1993)."""

from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

if TYPE_CHECKING:
    from scipy.sparse import csc_array

_Reals = NDArray[np.float64]


def cotangents_beyond(corners: _Reals) -> _Reals:
    """Of every side of faces the cotangent of the angle opposite to it, float64 (K, 3).

    Args:
        corners: float64 (K, 3, 2) or (K, 3, 3); a side starts at the corner of its number.
    """
    ahead, behind = np.roll(corners, -1, axis=1) - corners, np.roll(corners, 1, axis=1) - corners
    along = (ahead * behind).sum(axis=2)
    square = (ahead**2).sum(axis=2) * (behind**2).sum(axis=2) - along**2
    found: _Reals = np.roll(along / np.sqrt(np.maximum(square, 1e-24)), 1, axis=1)
    return found


def laplacian_of(faces: NDArray[np.int64], weights: _Reals, count: int) -> "csc_array":
    """The sum over sides of weight · (a - b)², a sparse (count, count) matrix.

    Args:
        faces: int64 (K, 3), numbers of places.
        weights: float64 (K, 3), of every side.
    """
    from scipy.sparse import coo_array

    starts, ends, each = faces.ravel(), np.roll(faces, -1, axis=1).ravel(), weights.ravel()
    rows, columns = np.concatenate([starts, ends, starts, ends]), np.concatenate([starts, ends, ends, starts])
    return coo_array((np.concatenate([each, each, -each, -each]), (rows, columns)), shape=(count, count)).tocsc()
