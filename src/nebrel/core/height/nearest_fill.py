"""Samples that are not there take the value of the nearest that is."""

from typing import Any, TypeVar

import numpy as np
from numpy.typing import NDArray

AnyNumber = TypeVar("AnyNumber", bound=np.generic)


def fill_from_nearest(known: NDArray[np.bool_], values: NDArray[AnyNumber]) -> NDArray[AnyNumber]:
    """`values`, (H, W), where `known`, and elsewhere those of the nearest known sample; where none is, as they are."""
    if known.all() or not known.any():
        return values
    return values[nearest_known(known)]


def nearest_known(known: NDArray[np.bool_]) -> tuple[NDArray[Any], ...]:
    """Row and column of the nearest known sample, for every sample, to index arrays of the same shape with."""
    from scipy.ndimage import distance_transform_edt

    return tuple(distance_transform_edt(~known, return_distances=False, return_indices=True))
