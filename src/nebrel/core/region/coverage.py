"""The outline of what a picture shows."""

from itertools import pairwise

import contourpy
import numpy as np
import shapely
import shapely.affinity
from numpy.typing import NDArray
from shapely.geometry import MultiPolygon

from nebrel.core.errors import TooLargeError
from nebrel.core.region.grid import polygons_of

STAIRS_SIGMA_PX = 0.8
PADDING_PX = 4
SIMPLIFY_PX = 0.05
EDGE_SHARE = 0.15


def region_of_coverage(coverage: NDArray[np.float32], pitch: float) -> MultiPolygon:
    """The area where `coverage` is at least one half, its outline curves that cover of samples what they are covered.

    A hard-edged mask gives a slanting edge and not a stair; corners stay. A mask that is mostly edges, as noise
    is, is followed between its samples instead. At the border of the grid the region runs on outside it, so
    that whoever cuts with it cuts nothing there.

    Args:
        coverage: float32 (H, W), 1 material, 0 blank, top row first.
        pitch: mm between samples; the lower left sample lies at the origin, Y points up.
    """
    if _is_mostly_edges(coverage):
        return _between_samples(coverage, pitch)

    from nebrel.core.region.curves import layer_region
    from nebrel.core.region.trace import Smoothing, trace_level

    try:
        traced = trace_level(coverage, 0.5, pitch, Smoothing(smooth=0.0))
    except TooLargeError:
        return _between_samples(coverage, pitch)
    # Traced pixels begin at their corners, samples lie at their middles.
    half = -pitch / 2
    drawn = shapely.affinity.translate(layer_region(traced.layers[0], SIMPLIFY_PX * pitch), half, half)
    return polygons_of(drawn) if not drawn.is_empty else _between_samples(coverage, pitch)


def _is_mostly_edges(coverage: NDArray[np.float32]) -> bool:
    """Whether more of the samples lie beside an edge than a drawn mask has."""
    inside = coverage >= 0.5
    edges = int((inside[1:] != inside[:-1]).sum()) + int((inside[:, 1:] != inside[:, :-1]).sum())
    return edges > EDGE_SHARE * coverage.size


def _between_samples(coverage: NDArray[np.float32], pitch: float) -> MultiPolygon:
    """The same, drawn between the samples of the coverage softened by less than one; corners are rounded by that."""
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
