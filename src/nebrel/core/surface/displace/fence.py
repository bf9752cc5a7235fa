"""What a hand encircled or painted on a surface, for strokes to keep to."""

from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from nebrel.core.surface.skin.skin import Skin, place_on

_Reals = NDArray[np.float64]
_Flags = NDArray[np.bool_]
# A loop that encloses less than that, of the square of its length, is a line.
LEAST_ROUND = 1e-4


@dataclass(frozen=True)
class Fence:
    """A part of a surface, finer than its faces.

    Attributes:
        faces: bool (M,), those that some of it may lie in, and that hang together with where it was drawn.
        places: float64 (K, 3) mm, what was drawn.
        radius: mm, of what is painted; 0 for a loop.
        axes: float64 (2, 3), the plane that a loop is judged in, rows of length 1; None for what is painted.
    """

    faces: _Flags
    places: _Reals
    radius: float = 0.0
    axes: _Reals | None = None

    def inwards(self, points: _Reals) -> _Reals:
        """How far points (V, 3) lie within it, mm, negative beyond; float64 (V,)."""
        if self.axes is None:
            from scipy.spatial import cKDTree

            return np.asarray(self.radius - cKDTree(self.places).query(points)[0], dtype=np.float64)
        loop = shapely.make_valid(shapely.Polygon(self.places @ self.axes.T))
        shapely.prepare(loop)
        flat = points @ self.axes.T
        away = shapely.distance(shapely.points(flat), loop.boundary)
        return np.asarray(np.where(shapely.contains_xy(loop, flat[:, 0], flat[:, 1]), away, -away), dtype=np.float64)


def fence_round(skin: Skin, places: _Reals, radius: float = 0.0) -> Fence:
    """What a hand means that encircles a part of a skin, or paints it.

    A loop is judged in the plane that it lies in most, and takes what hangs together with it there, also where the
    surface turns away, and not what lies behind. A loop that encloses nothing holds no faces.

    Args:
        skin: what was drawn on.
        places: float64 (K, 3) mm, on it or near it.
        radius: mm; what is painted lies as near to a place. 0 where the places encircle it.
    """
    seeds = np.unique([place_on(skin, place).face for place in places])
    corners = skin.mesh.vertices[skin.faces]
    if not radius:
        ahead = np.roll(places, -1, axis=0)
        middle = places.mean(axis=0)
        area = np.cross(places - middle, ahead - middle).sum(axis=0) / 2
        size = float(np.linalg.norm(area))
        if size <= LEAST_ROUND * float(np.linalg.norm(ahead - places, axis=1).sum()) ** 2:
            return Fence(np.zeros(len(corners), dtype=np.bool_), places)
        axes = np.linalg.svd((area / size)[np.newaxis])[2][1:]
        near = _under_loop(corners @ axes.T, places @ axes.T)
    else:
        from scipy.spatial import cKDTree

        axes = None
        middles = corners.mean(axis=1)
        round_ = np.linalg.norm(corners - middles[:, np.newaxis], axis=2).max(axis=1)
        near = np.asarray(cKDTree(places).query(middles)[0] <= radius + round_)
    return Fence(_hanging_together(skin, near, seeds), places, radius, axes)


def _under_loop(triangles: _Reals, places: _Reals) -> _Flags:
    """Which triangles (M, 3, 2) a loop lies over, some of each at least."""
    loop = shapely.make_valid(shapely.Polygon(places))
    shapely.prepare(loop)
    low, high = triangles.min(axis=1), triangles.max(axis=1)
    left, bottom, right, top = loop.bounds
    near = (low[:, 0] <= right) & (high[:, 0] >= left) & (low[:, 1] <= top) & (high[:, 1] >= bottom)
    some = np.flatnonzero(near)
    near[some] = shapely.intersects(loop, shapely.polygons(triangles[some]))
    return np.asarray(near)


def _hanging_together(skin: Skin, near: _Flags, seeds: NDArray[np.int64]) -> _Flags:
    """Of the faces that are near, those that can be reached over others from those that the hand was on."""
    from scipy.sparse import coo_matrix
    from scipy.sparse.csgraph import connected_components

    near = near.copy()
    near[seeds] = True
    beyond = skin.opposite_halfedges // 3
    own = np.arange(len(beyond)) // 3
    joined = (skin.opposite_halfedges >= 0) & near[own] & near[beyond]
    graph = coo_matrix((np.ones(int(joined.sum())), (own[joined], beyond[joined])), shape=(len(near), len(near)))
    part = connected_components(graph, directed=False)[1]
    return np.asarray(near & np.isin(part, part[seeds]))
