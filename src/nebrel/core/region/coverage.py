"""The outline of what a picture shows."""

from itertools import pairwise

import contourpy
import numpy as np
import shapely
from numpy.typing import NDArray
from scipy import ndimage
from shapely.geometry import MultiPolygon

STAIRS_SIGMA_PX = 0.8
PADDING_PX = 4
SIMPLIFY_PX = 0.05


def region_of_coverage(coverage: NDArray[np.float32], pitch: float) -> MultiPolygon:
    """The area where `coverage` is at least one half, its outline drawn between the samples.

    Coverage is softened by less than a pixel first, so that a hard-edged mask gives a slanting edge and not a stair;
    corners are rounded by about that much. At the border of the grid the region runs on outside it, so that whoever
    cuts with it cuts nothing there.

    Args:
        coverage: float32 (H, W), 1 material, 0 blank, top row first.
        pitch: mm between samples; the lower left sample lies at the origin, Y points up.
    """
    padded = ndimage.gaussian_filter(np.pad(coverage, PADDING_PX, mode="edge"), STAIRS_SIGMA_PX)
    padded[[0, -1], :] = 0
    padded[:, [0, -1]] = 0
    outlines = contourpy.contour_generator(z=padded, fill_type=contourpy.FillType.OuterOffset, name="serial").filled(
        0.5, 2.0
    )
    last_row = coverage.shape[0] - 1
    polygons = []
    for points, offsets in zip(*outlines, strict=True):
        placed = np.column_stack([points[:, 0] - PADDING_PX, last_row - (points[:, 1] - PADDING_PX)]) * pitch
        rings = [placed[start:end] for start, end in pairwise(offsets)]
        polygons.append(shapely.Polygon(rings[0], rings[1:]))
    simple = shapely.simplify(shapely.make_valid(shapely.MultiPolygon(polygons)), SIMPLIFY_PX * pitch)
    parts = [part for part in shapely.get_parts(simple) if part.geom_type == "Polygon" and part.area > 0]
    return shapely.MultiPolygon(parts)
