"""A slab: the solid between a relief surface and a flat back."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from nebrel.core.height import HeightField
from nebrel.core.mesh import TriMesh
from nebrel.core.solid.deviation import Deviation, measure_deviation
from nebrel.core.solid.greedy import GridSurface, triangulate_grid
from nebrel.core.solid.wall import triangulate_wall

Progress = Callable[[str, float], None]
BACK_EDGE_MM = 10.0
MOST_BACK_EDGES = 64


@dataclass(frozen=True)
class Slab:
    """A built solid with what is known about how true it is.

    Attributes:
        mesh: closed, outward, its back on z = 0, its lower left corner at the origin.
        deviation: vertical distance of the upper surface from the asked heights.
        tolerance: what was asked, mm.
    """

    mesh: TriMesh
    deviation: Deviation
    tolerance: float


def build_slab(
    field: HeightField, backing: float, tolerance: float, progress: Progress = lambda _stage, _fraction: None
) -> Slab:
    """The solid over the whole rectangle of `field`, `backing` mm thicker than its heights.

    The upper surface comes from greedy insertion; walls grow from its border edges and share them with a back that
    has only a few vertices a side, so the result is closed by construction. Coordinates are rounded to float32
    first, so a binary STL holds exactly this mesh. Blank samples take the height of the nearest material.

    Args:
        field: heights of at least 0 mm.
        backing: mm, above 0.
        tolerance: largest vertical distance from the asked heights, mm.
        progress: called with stage name and fraction.
    """
    levels = _levels(field, backing)
    surface = triangulate_grid(levels, field.material, tolerance, lambda part: progress("Triangulating", part))
    mesh = _closed(surface, levels[surface.rows, surface.columns].astype(np.float64), levels.shape, field)
    progress("Measuring the surface", 0.0)
    deviation = measure_deviation(
        mesh, levels, field.material, field.pitch, lambda part: progress("Measuring the surface", part)
    )
    return Slab(mesh=mesh, deviation=deviation, tolerance=tolerance)


def sketch_slab(field: HeightField, backing: float, tolerance: float, most_vertices: int) -> TriMesh:
    """Like the mesh of `build_slab`, for looking at: no more than `most_vertices` at the top, and nothing measured."""
    levels = _levels(field, backing)
    surface = triangulate_grid(levels, field.material, tolerance, most_vertices=most_vertices)
    return _closed(surface, levels[surface.rows, surface.columns].astype(np.float64), levels.shape, field)


def measure(mesh: TriMesh, field: HeightField, backing: float) -> Deviation:
    """How far the upper side of `mesh` is from the heights of `field` over `backing`."""
    return measure_deviation(mesh, _levels(field, backing), field.material, field.pitch)


def _levels(field: HeightField, backing: float) -> NDArray[np.float32]:
    return _without_blanks(field) + np.float32(backing)


def _without_blanks(field: HeightField) -> NDArray[np.float32]:
    if field.material.all():
        return field.heights
    nearest = ndimage.distance_transform_edt(~field.material, return_distances=False, return_indices=True)
    filled: NDArray[np.float32] = field.heights[tuple(nearest)]
    return filled


def _closed(surface: GridSurface, levels: NDArray[np.float64], shape: tuple[int, ...], field: HeightField) -> TriMesh:
    last_row, last_column = shape[0] - 1, shape[1] - 1
    width, depth = _exact(field.width), _exact(field.depth)
    x = _exact(surface.columns / last_column * field.width)
    y = _exact((last_row - surface.rows) / last_row * field.depth)
    top = np.column_stack([x, y, levels])
    ring = _back_ring(float(width), float(depth))
    first_back = len(top)
    centre = first_back + len(ring.points)
    back = np.vstack([ring.points, _exact(np.array([[field.width / 2, field.depth / 2, 0.0]]))])

    following = np.roll(np.arange(len(ring.points)), -1) + first_back
    bottom = np.column_stack([np.full(len(ring.points), centre), following, np.arange(len(ring.points)) + first_back])
    sides = [
        (surface.rows == last_row, surface.columns, x, 1),
        (surface.columns == last_column, -surface.rows, y, 1),
        (surface.rows == 0, -surface.columns, x, -1),
        (surface.columns == 0, surface.rows, y, -1),
    ]
    walls = []
    for side, (on_side, order, along, sign) in enumerate(sides):
        upper = np.flatnonzero(on_side)
        upper = upper[np.argsort(order[upper])]
        lower = ring.sides[side] + first_back
        lower_along = back[lower - first_back, 0 if side % 2 == 0 else 1]
        local = triangulate_wall(sign * lower_along, np.zeros(len(lower)), sign * along[upper], levels[upper])
        walls.append(np.concatenate([lower, upper])[local])
    faces = np.vstack([surface.faces[:, [0, 2, 1]], *walls, bottom])
    return TriMesh(vertices=np.vstack([top, back]), faces=faces.astype(np.uint32))


@dataclass(frozen=True)
class _Ring:
    points: NDArray[np.float64]
    sides: list[NDArray[np.int64]]


def _back_ring(width: float, depth: float) -> _Ring:
    """Vertices round the back, counter-clockwise from the origin, and which of them lie on each side."""
    across, along = _divisions(width), _divisions(depth)
    xs, ys = _exact(np.linspace(0, width, across + 1)), _exact(np.linspace(0, depth, along + 1))
    corners = np.cumsum([0, across, along, across])
    points = np.zeros((2 * (across + along), 3))
    points[: corners[1], 0] = xs[:-1]
    points[corners[1] : corners[2]] = np.column_stack([np.full(along, xs[-1]), ys[:-1], np.zeros(along)])
    points[corners[2] : corners[3]] = np.column_stack([xs[:0:-1], np.full(across, ys[-1]), np.zeros(across)])
    points[corners[3] :, 1] = ys[:0:-1]
    lengths = [across, along, across, along]
    sides = [(start + np.arange(count + 1)) % len(points) for start, count in zip(corners, lengths, strict=True)]
    return _Ring(points, sides)


def _divisions(length: float) -> int:
    return int(np.clip(np.ceil(length / BACK_EDGE_MM), 1, MOST_BACK_EDGES))


def _exact(values: NDArray[np.float64] | float) -> NDArray[np.float64]:
    """Values that a float32 holds exactly."""
    return np.asarray(values, dtype=np.float32).astype(np.float64)
