"""How a mesh lies: turned, mirrored, sized, stood up. Every change is one matrix about the middle of its box."""

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import ConvexHull, QhullError

from nebrel.core.errors import BadValueError
from nebrel.core.mesh.trimesh import TriMesh

AxisName = Literal["x", "y", "z"]
AXES: tuple[AxisName, ...] = ("x", "y", "z")
Matrix = NDArray[np.float64]
ALIKE_DEG = 2.0
TOUCHES_SHARE = 2e-3
LEAST_SHARE = 0.05
SNAP_DEG = 8.0
MOST_SIDES = 12
SMALLEST, LARGEST = 1e-3, 1e5


@dataclass(frozen=True)
class FlatSide:
    """A flat side that a mesh can lie on.

    Attributes:
        outward: unit vector, float64 (3,).
        area: mm² of the mesh that would touch the ground.
    """

    outward: NDArray[np.float64]
    area: float


def turn_about(axis: AxisName, degrees: float) -> Matrix:
    """The rotation about an axis, counter-clockwise seen from its end; quarters of a turn are exact to the last bit."""
    quarter = degrees / 90
    if quarter == round(quarter):
        cosine, sine = ((1.0, 0.0), (0.0, 1.0), (-1.0, 0.0), (0.0, -1.0))[round(quarter) % 4]
    else:
        cosine, sine = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    matrix = np.eye(3)
    i, j = [(1, 2), (2, 0), (0, 1)][AXES.index(axis)]
    matrix[i, i] = matrix[j, j] = cosine
    matrix[i, j], matrix[j, i] = -sine, sine
    return matrix


def turn_onto(direction: NDArray[np.float64], target: NDArray[np.float64]) -> Matrix:
    """The shortest rotation that takes one direction to another (Rodrigues)."""
    one, other = direction / np.linalg.norm(direction), target / np.linalg.norm(target)
    cosine = float(one @ other)
    if cosine < -1 + 1e-12:
        aside = np.eye(3)[int(np.argmin(np.abs(one)))]
        axis = np.cross(one, aside)
        axis /= np.linalg.norm(axis)
        return 2 * np.outer(axis, axis) - np.eye(3)
    cross = np.cross(one, other)
    skew = np.array([[0, -cross[2], cross[1]], [cross[2], 0, -cross[0]], [-cross[1], cross[0], 0]])
    return np.asarray(np.eye(3) + skew + skew @ skew / (1 + cosine))


def turned(mesh: TriMesh, matrix: Matrix) -> TriMesh:
    """The mesh under a rotation about the middle of its box, set down on the ground that it stood on."""
    return _moved(mesh, matrix)


def mirrored(mesh: TriMesh, axis: AxisName) -> TriMesh:
    """The mesh seen in a mirror across an axis, in its own box; its faces still point outward."""
    matrix = np.eye(3)
    matrix[AXES.index(axis), AXES.index(axis)] = -1
    found = _moved(mesh, matrix)
    corners = found.corner_colours
    return TriMesh(
        found.vertices, found.faces[:, ::-1], found.colours, None if corners is None else corners[:, ::-1].copy()
    )


def sized(mesh: TriMesh, axis: AxisName, size: float, alone: bool = False) -> TriMesh:
    """The mesh so that its box measures `size` mm along an axis; the others in proportion, or left alone.

    Raises:
        BadValueError: it is flat along that axis, or the size cannot be.
    """
    at = AXES.index(axis)
    has = float(np.ptp(_used(mesh)[:, at]))
    if not (math.isfinite(size) and SMALLEST <= size <= LARGEST):
        raise BadValueError(f"A size of {size:g} mm cannot be; {SMALLEST:g} to {LARGEST:g} mm would be accepted.")
    if has <= 0:
        raise BadValueError(f"The mesh is flat along {axis.upper()}, so it cannot be sized by that.")
    return scaled(mesh, [size / has if not alone or i == at else 1.0 for i in range(3)])


def scaled(mesh: TriMesh, factors: list[float]) -> TriMesh:
    """The mesh with its box so many times as long along X, Y and Z; its middle and its ground stay."""
    if not all(math.isfinite(factor) and factor > 0 for factor in factors):
        raise BadValueError("A factor of a scale has to be more than 0.")
    return _moved(mesh, np.diag(factors))


def flat_sides(mesh: TriMesh) -> list[FlatSide]:
    """The flat sides that a mesh can lie on, the largest first: facets of its convex hull where it is flat itself.

    Raises:
        BadValueError: it has no volume.
    """
    used = _used(mesh)
    try:
        hull = ConvexHull(used)
    except QhullError as cause:
        raise BadValueError("The mesh is flat or a line; one with a volume can lie on a side.") from cause
    reach = TOUCHES_SHARE * float(np.linalg.norm(np.ptp(used, axis=0)))
    corners = mesh.corners
    cross = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    double = np.linalg.norm(cross, axis=1)
    normals = cross / np.maximum(double, 1e-300)[:, np.newaxis]
    alike = math.cos(math.radians(ALIKE_DEG))
    # Facets of the hull that look the same way are one side; the largest first.
    directions, of_facet = np.unique(np.round(hull.equations[:, :3], 4), axis=0, return_inverse=True)
    areas = np.bincount(of_facet.ravel(), weights=_facet_areas(used, hull))
    sides: list[FlatSide] = []
    for number in np.argsort(-areas).tolist():
        outward = directions[number] / np.linalg.norm(directions[number])
        if any(float(outward @ side.outward) > alike for side in sides):
            continue
        high = float((used @ outward).max())
        touching = (normals @ outward > alike) & ((corners @ outward).min(axis=1) > high - reach)
        # As the mesh itself looks there, to the last bit.
        facing = cross[touching].sum(axis=0)
        if touching.any():
            outward = facing / np.linalg.norm(facing)
        sides.append(FlatSide(outward, float(double[touching].sum() / 2)))
        if len(sides) >= MOST_SIDES:
            break
    return sorted((side for side in sides if side.area > 0), key=lambda side: -side.area)


def stand_up(mesh: TriMesh) -> tuple[Matrix, str]:
    """The rotation that stands a mesh up, and what it went by.

    It stands on a flat side if there is one across its longest direction that is no speck; else that direction is put
    upright, the wider end down. Directions are the principal axes of its surface.
    """
    corners = mesh.corners
    areas = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1)
    middles = corners.mean(axis=1)
    middle = np.average(middles, axis=0, weights=areas)
    spread = np.cov((middles - middle).T, aweights=areas)
    longest = np.linalg.eigh(spread)[1][:, -1]
    across = [side for side in flat_sides(mesh) if abs(float(side.outward @ longest)) > math.cos(math.radians(30))]
    flat = max(across, key=lambda side: side.area, default=None)
    if flat is not None and flat.area > LEAST_SHARE * _footprint(mesh, flat.outward):
        return turn_onto(flat.outward, np.array([0.0, 0.0, -1.0])), f"on a flat side of {flat.area:,.0f} mm²"
    # What was drawn along an axis stands exactly upright, though its shape is not quite even.
    axis = int(np.argmax(np.abs(longest)))
    if abs(longest[axis]) > math.cos(math.radians(SNAP_DEG)):
        longest = np.eye(3)[axis]
    along = (middles - middle) @ longest
    aside = np.linalg.norm((middles - middle) - along[:, np.newaxis] * longest, axis=1)
    wide = [float(np.average(aside[part], weights=areas[part])) for part in (along > 0, along <= 0)]
    down = longest if wide[0] >= wide[1] else -longest
    return turn_onto(down, np.array([0.0, 0.0, -1.0])), "its longest direction upright, the wider end down"


def angle_of(matrix: Matrix) -> float:
    """How far a rotation turns, degrees."""
    return math.degrees(math.acos(float(np.clip((np.trace(matrix) - 1) / 2, -1, 1))))


def _moved(mesh: TriMesh, matrix: Matrix) -> TriMesh:
    used = _used(mesh)
    low, high = used.min(axis=0), used.max(axis=0)
    middle = (low + high) / 2
    around = (mesh.vertices - middle) @ matrix.T
    placed = TriMesh(around, mesh.faces, mesh.colours, mesh.corner_colours)
    found = _used(placed)
    shift = middle - (found.min(axis=0) + found.max(axis=0)) / 2
    shift[2] = low[2] - found[:, 2].min()
    return TriMesh(around + shift, mesh.faces, mesh.colours, mesh.corner_colours)


def _used(mesh: TriMesh) -> NDArray[np.float64]:
    """The vertices that faces use, float64 (N, 3)."""
    if not len(mesh.faces):
        raise BadValueError("The mesh has no faces; at least one is needed.")
    return mesh.vertices[np.unique(mesh.faces)]


def _footprint(mesh: TriMesh, direction: NDArray[np.float64]) -> float:
    """The area of the box across a direction, mm²."""
    sides = np.ptp(_used(mesh) @ turn_onto(direction, np.array([0.0, 0.0, -1.0])).T, axis=0)
    return float(sides[0] * sides[1])


def _facet_areas(places: NDArray[np.float64], hull: ConvexHull) -> NDArray[np.float64]:
    corners = places[hull.simplices]
    return np.asarray(
        np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1) / 2
    )
