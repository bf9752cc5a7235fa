"""Solids whose height depends on how far inside an outline a place lies: frames, bevelled and drafted edges."""

from collections.abc import Callable
from itertools import pairwise

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import MultiPolygon
from shapely.geometry.base import BaseGeometry

from nebrel.core.errors import BadValueError
from nebrel.core.mesh import TriMesh
from nebrel.core.outline_solid.dividing import divide
from nebrel.core.outline_solid.facets import FacetBuilder, plane_triangles
from nebrel.core.region.grid import grid_for, on_grid, polygons_of

MITRE_LIMIT = 4.0
ROUND = 12
# What stands lower would vanish in a float32.
LEAST_MM = 1e-3
_Profile = list[tuple[float, float]]


def inset(region: BaseGeometry, by: float) -> MultiPolygon:
    """The region without the strip of `by` mm along its edge, corners kept sharp; negative lets it grow."""
    return polygons_of(region.buffer(-by, join_style="mitre", mitre_limit=MITRE_LIMIT))


def loft(region: MultiPolygon, profile: _Profile, hollow: bool = False) -> TriMesh:
    """A closed solid on z = 0 over `region`, whose top rises with the distance from the edge along `profile`.

    The offset curves of the edge at the distances of the profile are joined by constrained Delaunay triangles, so
    slopes are exact where edges are straight, and within the chord of the curve elsewhere.

    Args:
        region: mm.
        profile: (distance inwards, height) in mm, distances strictly rising from 0, heights of at least 0, only the
            first one 0.
        hollow: leave out what lies further in than the last distance; otherwise it is flat at the last height.

    Raises:
        BadValueError: nothing of the region is left at the last distance.
    """
    grid = _grid(region)
    rings = [on_grid(region if away == 0 else inset(region, away), grid) for away, _ in profile]
    if rings[-1].is_empty:
        raise BadValueError(
            f"The outline is narrower than {2 * profile[-1][0]:g} mm; a narrower edge or a wider piece is needed."
        )
    return _join(rings, [float(height) for _, height in profile], grid, hollow)


def mound(region: MultiPolygon, height: float, reach: float, steps: int) -> TriMesh:
    """A closed solid on z = 0 that is `height` mm tall over `region` and falls evenly to 0 over `reach` mm around it.

    Corners of the region become rounded outside. Where flanks meet in a gap, its floor is true within one of `steps`.
    """
    grid = _grid(region.buffer(reach))
    away = [reach * (1 - step / steps) for step in range(steps + 1)]
    rings = [on_grid(polygons_of(region.buffer(by, quad_segs=ROUND)) if by else region, grid) for by in away]
    return _join(rings, [height * step / steps for step in range(steps + 1)], grid, False)


def rounded(
    region: MultiPolygon,
    away: list[float],
    along: float,
    height_at: Callable[[NDArray[np.float64]], NDArray[np.float64]],
    chord: float,
    hollow: bool = False,
) -> TriMesh:
    """A closed solid on z = 0 over `region`, whose top is as high as a function of the place tells, and 0 at the edge.

    Offset curves of the edge are joined by constrained Delaunay triangles, whose sides are halved where the middle is
    not true yet; so ridges and narrow places are followed as well.

    Args:
        region: mm.
        away: distances inwards of the offset curves to begin with, mm, strictly rising from 0.
        along: how far corners on them are from one another at the most, mm.
        height_at: of float64 (N, 2) places, mm.
        chord: how far the middle of a side may be off, mm.
        hollow: leave out what lies further in than the last distance, where the height is 0 again.
    """
    grid = _grid(region)
    rings = [
        on_grid(polygons_of(shapely.segmentize(region.buffer(-by, quad_segs=ROUND) if by else region, along)), grid)
        for by in away
    ]
    bands = [polygons_of(outer.difference(inner)) for outer, inner in pairwise(rings)]
    corners = plane_triangles(bands if hollow else [*bands, rings[-1]])
    places, index = np.unique(corners.reshape(-1, 2), axis=0, return_inverse=True)
    ground = shapely.get_coordinates(rings[0] if not hollow else shapely.GeometryCollection([rings[0], rings[-1]]))
    down = np.isin(places @ [1.0, 1j], ground @ [1.0, 1j])
    levels = np.where(down, 0.0, np.maximum(height_at(places), LEAST_MM))
    found, heights, faces = divide(places, levels, index.reshape(-1, 3), height_at, chord)
    made = FacetBuilder(grid)
    made.add(np.column_stack([found, np.maximum(heights, 0.0)])[faces])
    made.flat(polygons_of(rings[0].difference(rings[-1])) if hollow else rings[0], 0.0, upward=False)
    return made.mesh()


def _grid(region: BaseGeometry) -> float:
    return grid_for(max(abs(bound) for bound in region.bounds))


def _join(rings: list[MultiPolygon], heights: list[float], grid: float, hollow: bool) -> TriMesh:
    made = FacetBuilder(grid)
    for outer, inner, low, high in zip(rings, rings[1:], heights, heights[1:], strict=False):
        made.slope(polygons_of(outer.difference(inner)), inner, low, high)
    if hollow:
        made.wall(rings[-1], heights[-1], 0.0, outward=False)
        made.flat(polygons_of(rings[0].difference(rings[-1])), 0.0, upward=False)
    else:
        made.flat(rings[-1], heights[-1], upward=True)
        made.flat(rings[0], 0.0, upward=False)
    if heights[0] > 0:
        made.wall(rings[0], heights[0], 0.0, outward=True)
    return made.mesh()


def prism(region: MultiPolygon, low: float, high: float) -> TriMesh:
    """The upright solid over `region` from z = `low` to `high`, mm."""
    made = FacetBuilder(_grid(region))
    placed = on_grid(region, made.grid)
    made.slab(placed, high, low)
    return made.mesh()
