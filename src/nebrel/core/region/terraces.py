"""Terraces as regions: neighbours share their border, corner for corner."""

from collections.abc import Callable

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import MultiPolygon

from nebrel.core.region.coverage import outline_at_half
from nebrel.core.region.grid import grid_for, polygons_of

SIMPLIFY_PX = 0.03


def terrace_cells(
    coverage: Callable[[int], NDArray[np.float32]],
    count: int,
    pitch: float,
    outline: MultiPolygon,
    slack: float = 0.0,
) -> list[tuple[int, shapely.Polygon]]:
    """The parts into which terraces divide `outline`, each with the number of its terrace.

    Args:
        coverage: for terrace 1 to `count` - 1, float32 (H, W): 1 on it and above, 0 below; falling with the number.
        count: how many terraces there are.
        pitch: mm between samples, the lower left one at the origin.
        outline: mm; what lies outside is left out.
        slack: mm by which borders may be off for having fewer corners.

    Returns:
        Polygons with corners on the grid for the outline's extent; every two that touch share all corners there.
    """
    above = [outline_at_half(coverage(terrace), pitch) for terrace in range(1, count)]
    low_x, low_y, high_x, high_y = outline.bounds
    grid = grid_for(max(abs(low_x), abs(low_y), high_x, high_y))
    around = outline.envelope.buffer(4 * pitch, join_style="mitre")
    nested: list[MultiPolygon] = [shapely.MultiPolygon([around])]
    for region in above:
        nested.append(polygons_of(shapely.intersection(nested[-1], region, grid_size=grid)))
    bands = []
    for here, further in zip(nested, [*nested[1:], shapely.MultiPolygon()], strict=True):
        bands.append(polygons_of(shapely.difference(here, further, grid_size=grid)))
    shown = [number for number, band in enumerate(bands) if not band.is_empty]
    simple = shapely.coverage_simplify(
        np.array([bands[number] for number in shown]), max(SIMPLIFY_PX * pitch, slack), simplify_boundary=False
    )
    lines = shapely.union_all([outline.boundary, *(part.boundary for part in simple)], grid_size=grid)
    faces = shapely.get_parts(shapely.polygonize(shapely.get_parts(shapely.node(lines))))
    places = shapely.point_on_surface(faces)
    shapely.prepare(simple)
    cells = []
    inside = shapely.contains(outline, places)
    terrace = np.full(len(faces), -1)
    for number, part in zip(shown, simple, strict=True):
        terrace[shapely.contains(part, places)] = number
    for face, number, wanted in zip(faces, terrace, inside, strict=True):
        if wanted and face.area > 0:
            cells.append((max(0, int(number)), face))
    return cells
