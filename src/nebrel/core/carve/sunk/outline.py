"""Outlines that are sunk, and the heights that they ask for."""

import math
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import MultiPolygon

from nebrel.core.carve.asked import MOST_SAMPLES, Asked
from nebrel.core.errors import BadValueError
from nebrel.core.region.edge_distance import Segments, distances_from, sorted_segments
from nebrel.core.region.grid import polygons_of

Walls = Literal["v", "straight"]
QUARTER = 48
FINEST, COARSEST, ACROSS = 0.02, 0.1, 1200
MOST_CORNERS = 200_000


@dataclass(frozen=True)
class SunkOutline:
    """An outline to be cut into the face of a stock.

    Attributes:
        region: what is cut away, mm; the lower left corner of the piece is the origin.
        size: width and depth of the piece, mm.
        depth: of its floor below the face, mm.
        slope: of its walls, mm down for every mm inwards; infinite for straight ones.

    Raises:
        BadValueError: there is nothing to cut, or far too many corners.
    """

    region: MultiPolygon
    size: tuple[float, float]
    depth: float
    slope: float = math.inf

    def __post_init__(self) -> None:
        if self.region.is_empty:
            raise BadValueError("The outlines enclose nothing to sink; closed shapes are needed.")
        corners = shapely.get_num_coordinates(self.region)
        if corners > MOST_CORNERS:
            raise BadValueError(
                f"The outlines have {corners:,} corners; up to {MOST_CORNERS:,} would be accepted. Smooth them, or let "
                "curves be off by more."
            )

    @property
    def flared(self) -> bool:
        """Whether its walls lean."""
        return math.isfinite(self.slope)

    @property
    def floor_from(self) -> float:
        """How far inside the outline its floor begins, mm."""
        return self.depth / self.slope if self.flared else 0.0

    @cached_property
    def floor(self) -> MultiPolygon:
        """What of it is as deep as it goes."""
        return inset(self.region, self.floor_from)

    @cached_property
    def _edge(self) -> Segments:
        rings = rings_of(self.region)
        begin, end = (np.concatenate([ring[part] for ring in rings]) for part in (slice(None, -1), slice(1, None)))
        return sorted_segments(begin, end)

    def inside(self, places: NDArray[np.float64]) -> NDArray[np.float64]:
        """How far inside the outline places lie, float64 (N,) mm; 0 beside it, and no more than where its floor begins.

        Args:
            places: float64 (N, 2) mm.
        """
        shapely.prepare(self.region)
        found = np.zeros(len(places))
        within = shapely.contains_xy(self.region, places[:, 0], places[:, 1])
        most = self.floor_from if self.flared else np.inf
        found[within] = distances_from(self._edge, places[within], most)
        return found

    def heights(self, places: NDArray[np.float64]) -> NDArray[np.float64]:
        """The heights that it asks for, float64 (N,) mm, 0 on the face. With leaning walls they are also the lowest
        that the point of a bit may go whose side leans as much: its cone touches the wall and cuts into none."""
        if not self.flared:
            shapely.prepare(self.region)
            within = shapely.contains_xy(self.region, places[:, 0], places[:, 1])
            return np.where(within, -self.depth, 0.0)
        return -np.minimum(self.inside(places) * self.slope, self.depth)

    def asked(self, rim: float) -> Asked:
        """The same on a grid.

        Args:
            rim: mm around the piece that bits may reach over.

        Raises:
            BadValueError: it would have too many samples.
        """
        pitch = float(np.clip(max(self.size) / ACROSS, FINEST, COARSEST))
        pad = int(np.ceil(rim / pitch)) + 1
        columns, rows = (int(np.floor(side / pitch + 1e-9)) + 1 for side in self.size)
        if (rows + 2 * pad) * (columns + 2 * pad) > MOST_SAMPLES:
            raise BadValueError(
                f"The outlines are {self.size[0]:.0f} × {self.size[1]:.0f} mm; {math.sqrt(MOST_SAMPLES) * pitch:.0f} "
                "mm both ways would be accepted."
            )
        x, y = np.meshgrid(np.arange(columns) * pitch, np.arange(rows) * pitch)
        heights = self.heights(np.column_stack([x.ravel(), y.ravel()])).reshape(rows, columns)
        return Asked(
            np.pad(heights, pad),
            np.pad(np.ones((rows, columns), dtype=np.bool_), pad),
            pitch,
            -pad * pitch,
            -pad * pitch,
            self.size,
        )


def inset(region: MultiPolygon, distance: float) -> MultiPolygon:
    """What lies farther inside a region than a distance."""
    if distance <= 0:
        return region
    return polygons_of(region.buffer(-distance, quad_segs=QUARTER))


def reached(region: MultiPolygon, radius: float) -> MultiPolygon:
    """What a disc of that radius reaches without leaving the region."""
    return polygons_of(inset(region, radius).buffer(radius, quad_segs=QUARTER))


def rings_of(region: MultiPolygon) -> list[NDArray[np.float64]]:
    """The closed edges of a region, float64 (N, 2) mm each, the first place again at the end."""
    rings = [ring for part in region.geoms for ring in (part.exterior, *part.interiors)]
    return [np.asarray(ring.coords)[:, :2] for ring in rings]
