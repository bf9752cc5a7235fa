"""Parts that a hand tells apart where their picture hardly does."""

from collections.abc import Hashable, Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from nebrel.core.figure.parts import BETWEEN, PictureParts

# A border that a hand told is one where the picture changes by so many times what it usually does, and by so much of
# its tones; that is told as a mean along so many samples.
CLEAR, LEAST, ALONG = 2.0, 0.02, 3.0

_Floats = NDArray[np.float64]
_Mask = NDArray[np.bool_]


def told_apart(parts: PictureParts, guide: _Floats, places: Sequence[tuple[Hashable, _Floats]]) -> PictureParts:
    """Parts whose samples move apart where a hand says different things on either side of an edge.

    Borders are where a flood from all places meets, that rises as the picture changes (Meyer, "Topographic Distance and
    Watershed Lines", 1994). Where no clear change of the picture runs along them they are none.

    Args:
        parts: as the picture shows them.
        guide: float64 (H, W, C) of the picture, 0 to 1.
        places: what is said, such as a kind and a length, and where, float64 (H, W), 0 to 1.
    """
    from scipy import ndimage
    from skimage.segmentation import watershed

    kinds = {said: number for number, said in enumerate(dict.fromkeys(said for said, _ in places), start=1)}
    marks = np.zeros(parts.labels.shape, dtype=np.int32)
    for said, where in places:
        marks[parts.meant(where)] = kinds[said]
    if len(np.unique(marks[marks > 0])) < 2:
        return parts
    squares = [ndimage.gaussian_gradient_magnitude(each, 1.0) ** 2 for each in np.moveaxis(guide, 2, 0)]
    change = np.sqrt(np.sum(squares, axis=0))
    areas = np.zeros(marks.shape, dtype=np.int32)
    usual = np.zeros(marks.shape)
    for label in np.unique(parts.labels[marks > 0]):
        own = parts.labels == label
        areas = np.where(own, watershed(change, np.where(own, marks, 0), mask=own), areas)
        usual[own] = float(np.median(change[own]))
    border = _beside_another(areas)
    weight = np.maximum(ndimage.gaussian_filter(border.astype(np.float64), ALONG), 1e-9)
    along = ndimage.gaussian_filter(np.where(border, change, 0.0), ALONG) / weight
    clear = border & (along > np.maximum(CLEAR * usual, LEAST))
    across, up = parts.across.copy(), parts.up.copy()
    for links, first, second in ((across, np.s_[:, :-1], np.s_[:, 1:]), (up, np.s_[:-1], np.s_[1:])):
        apart = (areas[first] != areas[second]) & clear[first] & clear[second] & (links > 0)
        links[apart] = BETWEEN
    return replace(parts, across=across, up=up)


def _beside_another(areas: NDArray[np.int32]) -> _Mask:
    """Samples beside one of another area, bool (H, W); 0 is none."""
    found = np.zeros(areas.shape, dtype=np.bool_)
    for first, second in ((np.s_[:, :-1], np.s_[:, 1:]), (np.s_[:-1], np.s_[1:])):
        apart = (areas[first] != areas[second]) & (areas[first] > 0) & (areas[second] > 0)
        found[first] |= apart
        found[second] |= apart
    return found
