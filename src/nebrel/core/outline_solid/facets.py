"""Flat and sloping facets over regions, gathered into one mesh: corners at the same place are one vertex."""

import manifold3d
import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import MultiPolygon

from nebrel.core.errors import BadValueError
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.weld import weld
from nebrel.core.region.rings import rings_of

_Corners = NDArray[np.float64]


class FacetBuilder:
    """Collects triangles whose corners lie on the places of a grid.

    Attributes:
        grid: mm between places, see `core.region.grid`.
    """

    def __init__(self, grid: float) -> None:
        self.grid = grid
        self._triangles: list[_Corners] = []

    def flat(self, region: MultiPolygon, level: float, upward: bool) -> None:
        """A horizontal face over a region."""
        if not region.is_empty:
            corners = flat_triangles(region)
            self._add(np.dstack([corners, np.full(corners.shape[:2], level)]), not upward)

    def slab(self, region: MultiPolygon, high: float, low: float) -> None:
        """All faces of the upright solid over a region between two heights."""
        if region.is_empty:
            return
        corners = flat_triangles(region)
        for level, turned in ((high, False), (low, True)):
            self._add(np.dstack([corners, np.full(corners.shape[:2], level)]), turned)
        self.wall(region, high, low, outward=True)

    def slope(self, band: MultiPolygon, inner: MultiPolygon, low: float, high: float) -> None:
        """A face over `band` at height `high` along the edge of `inner` and `low` along the rest of its own edge."""
        raised = set(map(tuple, shapely.get_coordinates(inner).tolist()))
        corners = plane_triangles([band])
        levels = [[high if tuple(place) in raised else low for place in corner] for corner in corners.tolist()]
        if levels:
            self._add(np.dstack([corners, np.array(levels)]), False)

    def wall(self, region: MultiPolygon, high: float, low: float, outward: bool) -> None:
        """Upright faces along the edge of a region, looking away from it or into it."""
        rings = rings_of(region)
        if not rings:
            return
        here, following = np.vstack(rings), np.arange(1, sum(map(len, rings)) + 1)
        ends = np.cumsum([len(ring) for ring in rings])
        following[ends - 1] = ends - [len(ring) for ring in rings]
        there = here[following]
        at = [np.column_stack([points, np.full(len(points), level)]) for points, level in
              ((here, low), (there, low), (there, high), (here, high))]  # fmt: skip
        self._add(np.stack([at[0], at[1], at[2]], axis=1), not outward)
        self._add(np.stack([at[0], at[2], at[3]], axis=1), not outward)

    def add(self, triangles: _Corners) -> None:
        """Triangles as they are, float64 (M, 3, 3) mm."""
        self._add(triangles, False)

    def mesh(self) -> TriMesh:
        """What was gathered, as one mesh.

        Raises:
            BadValueError: nothing was.
        """
        if not self._triangles:
            raise BadValueError("Nothing is left of so small an outline; a larger one is needed.")
        welded = weld(np.concatenate(self._triangles).astype(np.float32))
        faces = welded.faces
        real = (faces[:, 0] != faces[:, 1]) & (faces[:, 1] != faces[:, 2]) & (faces[:, 2] != faces[:, 0])
        return TriMesh(welded.vertices, faces[real].astype(np.uint32))

    def _add(self, triangles: _Corners, turned: bool) -> None:
        if len(triangles):
            self._triangles.append(triangles[:, [0, 2, 1]] if turned else triangles)


def flat_triangles(region: MultiPolygon) -> _Corners:
    """Triangles over polygons with holes, float64 (M, 3, 2), counter-clockwise, no further corners."""
    rings = rings_of(region)
    points = np.vstack(rings)
    faces = np.asarray(manifold3d.triangulate(rings, -1.0, False), dtype=np.int64)
    return points[faces]


def plane_triangles(bands: list[MultiPolygon]) -> _Corners:
    """Constrained Delaunay triangles over regions, float64 (M, 3, 2), counter-clockwise, no further corners."""
    polygons = [polygon for band in bands for polygon in band.geoms]
    triangles = shapely.get_parts(shapely.get_parts(shapely.constrained_delaunay_triangles(polygons)))
    return _counter_clockwise(shapely.get_coordinates(triangles).reshape(-1, 4, 2)[:, :3])


def _counter_clockwise(triangles: _Corners) -> _Corners:
    one, two = triangles[:, 1] - triangles[:, 0], triangles[:, 2] - triangles[:, 0]
    turned = one[:, 0] * two[:, 1] < one[:, 1] * two[:, 0]
    return np.where(turned[:, np.newaxis, np.newaxis], triangles[:, [0, 2, 1]], triangles)
