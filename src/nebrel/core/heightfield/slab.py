"""A slab: the solid between a relief surface and a flat back."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nebrel.core.height import HeightField, offset_inwards
from nebrel.core.height.lines.network import HeightLines
from nebrel.core.height.nearest_fill import fill_from_nearest
from nebrel.core.heightfield.between import Lined, held_between
from nebrel.core.heightfield.deviation import deviation_of_faces, measure_deviation
from nebrel.core.heightfield.greedy import GridSurface, triangulate_grid
from nebrel.core.heightfield.line_walls import walls_along
from nebrel.core.heightfield.wall import triangulate_wall
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.surface_error import Deviation

Progress = Callable[[str, float], None]
BACK_EDGE_MM = 10.0
# Of the tolerance, what sides may be off between samples; the rest is for rounding.
HELD_SHARE = 0.98
# Then samples are held closer, so that sides along the border, which are not parted, leave room beside them.
AT_SAMPLES_SHARE = 0.9
MOST_BACK_EDGES = 64


@dataclass(frozen=True)
class Slab:
    """A built solid with what is known about how true it is.

    Attributes:
        mesh: closed, outward, its back on z = 0, its lower left corner at the origin.
        deviation: vertical distance of the upper surface from the asked heights.
        tolerance: what was asked, mm.
        unlined: whether lines of its heights were left out, since it was worse with them.
    """

    mesh: TriMesh
    deviation: Deviation
    tolerance: float
    unlined: bool = False


def build_slab(
    field: HeightField,
    backing: float,
    tolerance: float,
    progress: Progress = lambda _stage, _fraction: None,
    follow: bool = False,
    between: bool = False,
    settled: bool = True,
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
        follow: whether the back runs along the relief, `backing` mm under it along the normals, and not flat.
        between: whether the tolerance holds between samples, too, where heights are bilinear.
        settled: whether vertices are moved off their samples, within the tolerance, so that fewer do.
    """
    levels = _levels(field, backing, follow)
    under = _under(levels, backing, field.pitch, lambda part: progress("Shaping the back", part)) if follow else None
    lines = _lines(field, levels)
    at_samples = AT_SAMPLES_SHARE * tolerance if between else tolerance
    surface = triangulate_grid(
        levels, field.material, at_samples, lambda part: progress("Triangulating", part), lines=lines, settled=settled
    )
    asked = _asked(field, levels, field.material)
    mesh = _close(surface, asked, field, _back(under, field, tolerance), HELD_SHARE * tolerance if between else None)
    progress("Measuring the surface", 0.0)
    deviation = measure_deviation(
        mesh,
        asked.levels,
        asked.counted,
        field.pitch,
        lambda part: progress("Measuring the surface", part),
        apart=asked.apart,
    )
    return Slab(mesh=mesh, deviation=deviation, tolerance=tolerance)


def sketch_slab(
    field: HeightField, backing: float, tolerance: float, most_vertices: int, follow: bool = False
) -> TriMesh:
    """Like the mesh of `build_slab`, for looking at: no more than `most_vertices` a side, and nothing measured."""
    levels = _levels(field, backing, follow)
    under = _under(levels, backing, field.pitch, lambda _: None) if follow else None
    surface = triangulate_grid(
        levels, field.material, tolerance, most_vertices=most_vertices, lines=_lines(field, levels)
    )
    asked = _asked(field, levels, field.material)
    return _close(surface, asked, field, _back(under, field, 2 * tolerance, most_vertices))


def measure(
    mesh: TriMesh, field: HeightField, backing: float, counted: NDArray[np.bool_], follow: bool = False
) -> Deviation:
    """How far the upper side of `mesh` is from the heights of `field` over `backing`, over the samples `counted`.

    Faces wholly inside the backing are floors of pockets in the back, and do not count.
    """
    asked = _asked(field, _levels(field, backing, follow), counted)
    above = TriMesh(mesh.vertices, mesh.faces[_above_pockets(mesh, backing, asked.levels)])
    bilinear = field.terraces is None
    return measure_deviation(above, asked.levels, asked.counted, field.pitch, bilinear=bilinear, apart=asked.apart)


def measure_faces(
    mesh: TriMesh, field: HeightField, backing: float, counted: NDArray[np.bool_], follow: bool = False
) -> NDArray[np.float64]:
    """The largest deviation of the samples over every face, float64 (M,) mm; NaN where none counts. See `measure`."""
    asked = _asked(field, _levels(field, backing, follow), counted)
    worst = deviation_of_faces(mesh, asked.levels, asked.counted, field.pitch)
    return np.where(_above_pockets(mesh, backing, asked.levels), worst, np.nan)


def _above_pockets(mesh: TriMesh, backing: float, levels: NDArray[np.float32]) -> NDArray[np.bool_]:
    above: NDArray[np.bool_] = mesh.vertices[:, 2][mesh.faces].max(axis=1) >= 0.999 * min(backing, float(levels.min()))
    return above


def _levels(field: HeightField, backing: float, follow: bool) -> NDArray[np.float32]:
    """Heights of the upper side over z = 0; over a following back the lowest one is as high as the backing is thick."""
    heights = fill_from_nearest(field.material, field.heights)
    return heights + np.float32(backing - float(heights.min()) if follow else backing)


@dataclass(frozen=True)
class _Asked:
    """What the upper side is to be.

    Attributes:
        levels: float32 (H, W) mm over z = 0.
        counted: bool (H, W), samples that it is held to.
        apart: bool (H, W), samples beside lines, between which nothing is asked; None without lines.
    """

    levels: NDArray[np.float32]
    counted: NDArray[np.bool_]
    apart: NDArray[np.bool_] | None


def _asked(field: HeightField, levels: NDArray[np.float32], counted: NDArray[np.bool_]) -> _Asked:
    lines = _lines(field, levels)
    if lines is None:
        return _Asked(levels, counted, None)
    return _Asked(lines.heights, counted & ~lines.free, lines.crossed)


def _lines(field: HeightField, levels: NDArray[np.float32]) -> HeightLines | None:
    """The lines of a field as high as `levels` are."""
    if field.lines is None:
        return None
    row, column = np.unravel_index(int(field.material.argmax()), field.heights.shape)
    return field.lines.raised(float(levels[row, column]) - float(field.heights[row, column]))


def _under(
    levels: NDArray[np.float32], backing: float, pitch: float, progress: Callable[[float], None]
) -> NDArray[np.float32]:
    """Heights of a back that runs along the upper side, its lowest point on z = 0."""
    return np.maximum(offset_inwards(levels, backing, pitch, progress), np.float32(0))


def _back(
    under: NDArray[np.float32] | None, field: HeightField, tolerance: float, most_vertices: int | None = None
) -> GridSurface | None:
    if under is None:
        return None
    everywhere = np.ones(under.shape, dtype=bool)
    return triangulate_grid(under, everywhere, tolerance, most_vertices=most_vertices)


def _close(
    surface: GridSurface,
    asked: _Asked,
    field: HeightField,
    under: GridSurface | None,
    between: float | None = None,
) -> TriMesh:
    shape = asked.levels.shape
    top, over = _points(surface, field), surface.faces[:, [0, 2, 1]].astype(np.uint32)
    sides = surface.border(shape)
    if between is not None:
        # Points along the border would belong to its walls, too.
        held = held_between(
            TriMesh(top, over), asked.levels, asked.counted, field.pitch, between, False, _lined(surface, asked)
        )
        top, over = held.vertices, held.faces
    inner = [] if surface.cut is None else [walls_along(surface.cut, surface.levels).astype(np.int64)]
    if under is None:
        ring = _back_ring(float(_exact(field.width)), float(_exact(field.depth)))
        centre = _exact(np.array([[field.width / 2, field.depth / 2, 0.0]]))
        back = np.vstack([ring.points, centre])
        around = np.arange(len(ring.points))
        bottom = np.column_stack([np.full(len(around), len(around)), np.roll(around, -1), around])
        back_sides = ring.sides
    else:
        back = _points(under, field)
        bottom = under.faces.astype(np.int64)
        back_sides = under.border(shape)
    walls = []
    for side, (upper, lower) in enumerate(zip(sides, back_sides, strict=True)):
        axis, sign = side % 2, 1 if side < 2 else -1
        local = triangulate_wall(sign * back[lower, axis], back[lower, 2], sign * top[upper, axis], top[upper, 2])
        walls.append(np.concatenate([lower + len(top), upper])[local])
    faces = np.vstack([over, *inner, *walls, bottom + len(top)])
    return TriMesh(vertices=np.vstack([top, back]), faces=faces.astype(np.uint32))


def _lined(surface: GridSurface, asked: _Asked) -> Lined | None:
    if surface.cut is None or asked.apart is None:
        return None
    return Lined(surface.cut.ends.reshape(-1, 2).astype(np.int64), asked.apart)


def _points(surface: GridSurface, field: HeightField) -> NDArray[np.float64]:
    last_row, last_column = (field.heights.shape[0] - 1) * surface.fine, (field.heights.shape[1] - 1) * surface.fine
    x = _exact(surface.columns / last_column * field.width)
    y = _exact((last_row - surface.rows) / last_row * field.depth)
    return np.column_stack([x, y, surface.levels.astype(np.float64)])


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
