"""Cutting a solid in two that are joined again by pegs, both laid on their cut."""

from dataclasses import dataclass
from typing import Literal

import manifold3d
import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.spatial.distance import pdist, squareform

from nebrel.core.csg.boolean import cleanup, solid_of
from nebrel.core.errors import BadMeshError, BadValueError
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.colouring import colour_like
from nebrel.core.mesh.shells import together_coloured

Axis = Literal["x", "y", "z"]
AXES = "xyz"
MERGE_SHARE = 1e-6
SEGMENTS = 48
# Around a hole at least so much stays, in diameters of a peg.
AROUND = 0.4
# Pegs are shorter than their two holes by this share.
SHORTER = 0.08


@dataclass(frozen=True)
class Pegs:
    """What joins two halves.

    Attributes:
        count: 0, 1 or 2.
        diameter: of a peg, mm.
        length: of a peg, mm; half of it goes into each side.
        clearance: mm that holes are wider all round.
    """

    count: int = 2
    diameter: float = 4.0
    length: float = 8.0
    clearance: float = 0.1


def split_with_pegs(mesh: TriMesh, axis: Axis, at: float, pegs: Pegs, gap: float = 5.0) -> TriMesh:
    """Both halves of a closed mesh, each lying on its cut, and pegs standing beside them.

    Args:
        mesh: closed.
        axis: that the cut lies across.
        at: mm of the cut over the lower end along it.
        pegs: that go into holes of both; none are made for `count` 0.
        gap: mm between what lies side by side.

    Raises:
        BadMeshError: it is open.
        BadValueError: nothing is on one side, or there is no room for a peg in the cut.
    """
    solid = solid_of(mesh)
    if not len(mesh.faces) or solid.status() != manifold3d.Error.NoError or solid.is_empty():
        raise BadMeshError("The mesh is not a closed solid, so it cannot be cut in two; repair it first.")
    number = AXES.index(axis)
    used = mesh.vertices[np.unique(mesh.faces)]
    low, high = float(used[:, number].min()), float(used[:, number].max())
    if not 0 < at < high - low:
        raise BadValueError(f"A cut {at:g} mm up lies outside; between 0 and {high - low:.4g} mm would be accepted.")
    # The axis is turned up, so that the cut is level.
    up = np.roll(np.eye(3), -(number + 1), axis=1).T
    upright = _moved(solid, up, np.zeros(3)).translate((0.0, 0.0, -(low + at)))
    above, below = upright.split_by_plane((0.0, 0.0, 1.0), 0.0)
    holes = [_cylinder(place, pegs.diameter / 2 + pegs.clearance, pegs.length / 2) for place in _places(upright, pegs)]
    for hole in holes:
        above, below = above - hole, below - hole
    flipped = below.rotate((180.0, 0.0, 0.0))
    extent = float(np.ptp(used, axis=0).max())
    parts = []
    right = 0.0
    short = pegs.length * (1 - SHORTER)
    stubs = [manifold3d.Manifold.cylinder(short, pegs.diameter / 2, -1.0, SEGMENTS) for _ in holes]
    for part in (above, flipped, *stubs):
        box = np.array(part.bounding_box())
        placed = part.translate((right - box[0], -(box[1] + box[4]) / 2, -box[2]))
        right += box[3] - box[0] + gap
        parts.append(colour_like(cleanup(placed, MERGE_SHARE * extent), mesh))
    whole = together_coloured(parts)
    middle = (used.min(axis=0) + used.max(axis=0)) / 2
    shift = np.array([middle[0] - (right - gap) / 2, middle[1], float(used[:, 2].min())])
    return TriMesh(whole.vertices + shift, whole.faces, whole.colours, whole.corner_colours)


def _places(solid: manifold3d.Manifold, pegs: Pegs) -> list[tuple[float, float]]:
    """Where pegs go through the cut at 0: as far from each other as there is enough around them."""
    if pegs.count == 0:
        return []
    around = pegs.diameter * (0.5 + AROUND) + pegs.clearance
    room = solid.slice(0.0).offset(-around, manifold3d.JoinType.Round, 2.0, SEGMENTS)
    if room.is_empty():
        raise BadValueError(
            f"The cut has no room for a peg of {pegs.diameter:g} mm; choose thinner pegs, none, or another place."
        )
    widest = max((shapely.Polygon(ring) for ring in room.to_polygons()), key=lambda each: float(each.area))
    if pegs.count == 1:
        line = shapely.maximum_inscribed_circle(widest)
        x, y = shapely.get_coordinates(line)[0].tolist()
        return [(x, y)]
    points = np.concatenate([np.asarray(ring, dtype=np.float64) for ring in room.to_polygons()])
    points = points[:: max(1, len(points) // 800)]
    far = squareform(pdist(points)) if len(points) > 1 else np.zeros((1, 1))
    one, other = np.unravel_index(int(np.argmax(far)), far.shape)
    if far[one, other] < 2 * around:
        x, y = points.mean(axis=0).tolist()
        return [(x, y)]
    return [(float(points[each, 0]), float(points[each, 1])) for each in (one, other)]


def _cylinder(place: tuple[float, float], radius: float, half: float) -> manifold3d.Manifold:
    return manifold3d.Manifold.cylinder(2 * half, radius, -1.0, SEGMENTS, True).translate((*place, 0.0))


def _moved(solid: manifold3d.Manifold, matrix: NDArray[np.float64], shift: NDArray[np.float64]) -> manifold3d.Manifold:
    return solid.transform(np.column_stack([matrix, shift]))
