"""Pillow and rope over outlines, at any place: what stands over a region that follows all of its edge at once."""

import math
from collections.abc import Callable
from typing import Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray
from shapely.affinity import affine_transform
from shapely.geometry import MultiPolygon

from nebrel.core.height.from_edge import calm_phase, cord_height, laid_along, swelling
from nebrel.core.height.nearest_fill import fill_from_nearest
from nebrel.core.region.edge_distance import Segments, distances_from, sorted_segments
from nebrel.core.region.grid import polygons_of
from nebrel.core.region.raster import raster_of
from nebrel.core.region.rings import rings_of

Shape = Literal["pillow", "rope"]
SHAPES: tuple[Shape, ...] = ("pillow", "rope")
HeightAt = Callable[[NDArray[np.float64]], NDArray[np.float64]]
MOST_SAMPLES, ROPE_SAMPLES = 800_000, 2_000_000
SAMPLES_ACROSS_ROPE = 24
# Tones of a mask pass from dark to bright within so many samples on either side of an edge.
SOFT_PX = 2.0
# Nearer to the edge than the first, swelling is taken as a share of the distance; beyond the second, as it is.
NEAR_PX, FAR_PX = 2.0, 6.0
# How far beyond a cord its turns are worked out, in parts of its thickness.
BEYOND = 1.3


class _Grid(NamedTuple):
    """Samples over a region: the place of the lower left one, mm between them, rows and columns, top row first."""

    left: float
    low: float
    pitch: float
    shape: tuple[int, int]

    def places(self) -> NDArray[np.float64]:
        """Of all samples, float64 (H · W, 2) mm."""
        rows, columns = self.shape
        x = self.left + np.arange(columns) * self.pitch
        y = self.low + np.arange(rows - 1, -1, -1) * self.pitch
        return np.column_stack([np.tile(x, rows), np.repeat(y, columns)])

    def inside(self, region: MultiPolygon) -> NDArray[np.bool_]:
        """Which samples lie inside a region."""
        return raster_of(affine_transform(region, [1, 0, 0, 1, -self.left, -self.low]), self.shape, self.pitch)

    def sampled(self, values: NDArray[np.float64], places: NDArray[np.float64]) -> NDArray[np.float64]:
        """Values between samples, float64 (N,)."""
        from scipy.ndimage import map_coordinates

        rows = self.shape[0]
        at = [(rows - 1) - (places[:, 1] - self.low) / self.pitch, (places[:, 0] - self.left) / self.pitch]
        return np.asarray(map_coordinates(values, at, order=1, mode="nearest"), dtype=np.float64)


def shape_over(region: MultiPolygon, shape: Shape, reach: float) -> HeightAt:
    """How tall a pillow or a rope stands over places in a region, 0 at the edge to 1 where it is highest.

    Args:
        region: mm, not empty.
        shape: `pillow` as a skin swells that is held at the edge (Poisson's equation, its root taken), highest where
            the region is widest; `rope` as a cord of two strands along the inner side of the edge, nothing beyond it.
        reach: how thick a rope is, mm; pillows take no notice of it.

    Returns:
        A function of float64 (N, 2) places in mm that gives float64 (N,) heights.
    """
    return _pillow(region) if shape == "pillow" else _rope(region, reach)


def _pillow(region: MultiPolygon) -> HeightAt:
    grid, edge = _over(region, MOST_SAMPLES, 0.0), edge_of(region)
    within = grid.inside(region)
    away = (distances_from(edge, grid.places()) / grid.pitch).reshape(grid.shape)
    soft = np.clip(0.5 + np.where(within, away, -away) / (2 * SOFT_PX), 0, 1)
    square = swelling(soft.astype(np.float32))
    square /= max(float(square.max()), 1e-12)
    # Near the edge swelling grows with the distance, so what it is for each sample of distance hardly changes there.
    slope = fill_from_nearest(within & (away > 0.5), (square / np.maximum(away, 0.5)).astype(np.float32))

    def height(places: NDArray[np.float64]) -> NDArray[np.float64]:
        near = distances_from(edge, places) / grid.pitch
        share = np.clip((near - NEAR_PX) / (FAR_PX - NEAR_PX), 0, 1)
        by_slope = grid.sampled(slope.astype(np.float64), places) * near
        return np.sqrt(np.clip(share * grid.sampled(square, places) + (1 - share) * by_slope, 0, 1))

    return height


def _rope(region: MultiPolygon, thick: float) -> HeightAt:
    edge = edge_of(region)
    grid = _over(region, ROPE_SAMPLES, thick / SAMPLES_ACROSS_ROPE)
    middle = polygons_of(region.buffer(-thick / 2))
    # Its middle tells how far the cord has gone; where nothing is as wide as that, its edge does.
    laid = next(filter(None, (laid_along(_closed(each), thick, thick / 48) for each in (middle, region))), None)
    if laid is None:
        return lambda places: np.zeros(len(places))
    from scipy.spatial import cKDTree

    places = grid.places()
    on = np.flatnonzero(distances_from(edge, places, BEYOND * thick) < BEYOND * thick)
    _, nearest = cKDTree(laid[0]).query(places[on], workers=-1)
    row, column = np.divmod(on, grid.shape[1])
    turns = calm_phase(laid[1][np.asarray(nearest)], (row, column), grid.shape, thick / 8 / grid.pitch)
    angle = np.zeros((2, *grid.shape))
    angle[:, row, column] = np.cos(2 * np.pi * turns), np.sin(2 * np.pi * turns)

    def height(places: NDArray[np.float64]) -> NDArray[np.float64]:
        away = distances_from(edge, places, thick)
        across, down = (grid.sampled(part, places) for part in angle)
        return np.where(away < thick, cord_height(2 * away / thick - 1, np.arctan2(down, across) / (2 * np.pi)), 0.0)

    return height


def _over(region: MultiPolygon, most: int, pitch: float) -> _Grid:
    """Samples that reach a little beyond a region, `pitch` mm apart or as far as makes no more than `most` of them."""
    low_x, low_y, high_x, high_y = region.bounds
    wide, deep = high_x - low_x, high_y - low_y
    pitch = max(pitch, math.sqrt(max(wide * deep, 1e-6) / most), max(wide, deep) / most)
    rows, columns = math.ceil(deep / pitch) + 5, math.ceil(wide / pitch) + 5
    return _Grid(low_x - 2 * pitch, low_y - 2 * pitch, pitch, (rows, columns))


def _closed(region: MultiPolygon) -> list[NDArray[np.float64]]:
    return [np.vstack([ring, ring[:1]]) for ring in rings_of(region)]


def edge_of(region: MultiPolygon) -> Segments:
    """The edge of a region, to ask distances from."""
    rings = rings_of(region)
    return sorted_segments(np.vstack(rings), np.vstack([np.roll(ring, -1, axis=0) for ring in rings]))
