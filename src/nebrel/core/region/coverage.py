"""The outline of what a picture shows."""

from itertools import pairwise

import contourpy
import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import MultiPolygon

from nebrel.core.region.grid import polygons_of

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
    simple = shapely.simplify(outline_at_half(coverage, pitch, STAIRS_SIGMA_PX), SIMPLIFY_PX * pitch)
    return polygons_of(simple)


def outline_at_half(coverage: NDArray[np.float32], pitch: float, soften_px: float = 0.0) -> MultiPolygon:
    """Where `coverage` is at least one half, interpolated between samples; at the border it runs on outside the grid.

    Args:
        coverage: float32 (H, W), top row first.
        pitch: mm between samples; the lower left sample lies at the origin, Y points up.
        soften_px: standard deviation of a Gaussian before, in samples.
    """
    from scipy import ndimage

    padded = np.pad(coverage, PADDING_PX, mode="edge")
    if soften_px > 0:
        padded = ndimage.gaussian_filter(padded, soften_px)
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
    return polygons_of(shapely.make_valid(shapely.MultiPolygon(polygons)))
