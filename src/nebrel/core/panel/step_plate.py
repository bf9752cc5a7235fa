"""The step plate: flat terraces with upright walls, closed by construction."""

import numpy as np
import shapely
from numpy.typing import NDArray

from nebrel.core.mesh import TriMesh
from nebrel.core.outline_solid.facets import FacetBuilder, flat_triangles
from nebrel.core.region.grid import grid_for
from nebrel.core.region.rings import rings_of

_Place = tuple[float, float]


def step_plate(cells: list[tuple[int, shapely.Polygon]], levels: NDArray[np.float64]) -> TriMesh:
    """A closed solid on z = 0 with one flat face over every cell and upright walls between them.

    Where more than two cells meet, their walls share the upright edge there, cut at every level that meets it.

    Args:
        cells: (terrace, polygon in mm) that share all corners with their neighbours, as `terrace_cells` gives them.
        levels: float64 (K,) mm above z = 0 of every terrace, all above 0.
    """
    extent = max(abs(bound) for bound in shapely.MultiPolygon([cell for _, cell in cells]).bounds)
    made = FacetBuilder(grid_for(extent))
    outside: dict[tuple[_Place, _Place], float] = {}
    at_place: dict[_Place, set[float]] = {}
    for terrace, cell in cells:
        level = float(levels[terrace])
        corners = flat_triangles(shapely.MultiPolygon([cell]))
        made.add(np.dstack([corners, np.full(corners.shape[:2], level)]))
        made.add(np.dstack([corners[:, [0, 2, 1]], np.zeros(corners.shape[:2])]))
        for ring in rings_of(shapely.MultiPolygon([cell])):
            places = [(float(x), float(y)) for x, y in ring]
            for here, there in zip(places, [*places[1:], places[0]], strict=True):
                outside[(here, there)] = level
                at_place.setdefault(here, set()).add(level)
    walls: list[tuple[tuple[float, float, float], ...]] = []
    for (here, there), level in outside.items():
        beyond = outside.get((there, here))
        foot = 0.0 if beyond is None else beyond
        if level > foot:
            walls.extend(_wall(here, there, foot, level, at_place))
    made.add(np.array(walls).reshape(-1, 3, 3))
    return made.mesh()


def _wall(
    here: _Place, there: _Place, low: float, high: float, at_place: dict[_Place, set[float]]
) -> list[tuple[tuple[float, float, float], ...]]:
    """Triangles of an upright rectangle whose sides are cut at the levels that meet them; it looks to the right."""
    left = [low, *sorted(level for level in at_place[here] if low < level < high), high]
    right = [low, *sorted(level for level in at_place[there] if low < level < high), high]
    triangles: list[tuple[tuple[float, float, float], ...]] = []
    at, beside = 0, 0
    while at < len(left) - 1 or beside < len(right) - 1:
        if beside < len(right) - 1 and (at == len(left) - 1 or right[beside + 1] <= left[at + 1]):
            triangles.append(((*here, left[at]), (*there, right[beside]), (*there, right[beside + 1])))
            beside += 1
        else:
            triangles.append(((*here, left[at]), (*there, right[beside]), (*here, left[at + 1])))
            at += 1
    return triangles
