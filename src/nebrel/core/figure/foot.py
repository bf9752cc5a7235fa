"""A figure cut flat, so that it stands, and the plinth under it."""

from dataclasses import dataclass
from typing import Literal

import manifold3d
import numpy as np
from numpy.typing import NDArray

from nebrel.core.csg.boolean import cleanup, mesh_of, solid_of
from nebrel.core.errors import BadValueError
from nebrel.core.mesh import TriMesh

PlinthShape = Literal["oval", "box"]
# The plinth reaches so far into the figure, so that both are one.
BITE_MM = 0.05
SIDES = 128
# The least of the figure's own width and depth that a plinth has.
LEAST_SHARE = 0.5
MERGE_SHARE = 1e-6


@dataclass(frozen=True)
class Foot:
    """How a figure stands; lengths in mm.

    Attributes:
        cut: above its lowest place, where it is cut level.
        plinth: height of the plinth; 0 for none.
        margin: how much wider the plinth is than what stands on it.
        shape: of the plinth, seen from above.
    """

    cut: float
    plinth: float = 0.0
    margin: float = 3.0
    shape: PlinthShape = "oval"


def on_foot(mesh: TriMesh, foot: Foot, rough: bool = False) -> TriMesh:
    """A closed figure cut level below, with a plinth where one is asked for; without colours.

    Args:
        mesh: closed, Y up.
        foot: how it is to stand.
        rough: for looking at: what is left as the boolean leaves it.

    Raises:
        BadValueError: nothing is left above the cut.
    """
    low, high = float(mesh.vertices[:, 1].min()), float(mesh.vertices[:, 1].max())
    level = low + foot.cut
    if not level < high:
        raise BadValueError(f"The figure is {high - low:.1f} mm tall; a cut below that is needed to leave some of it.")
    standing = solid_of(TriMesh(mesh.vertices, mesh.faces)).trim_by_plane((0.0, 1.0, 0.0), level)
    if foot.plinth > 0:
        points = mesh_of(standing).vertices
        below = points[points[:, 1] < level + BITE_MM][:, [0, 2]]
        # What stands on narrow feet needs a wider plinth: it reaches round the middle of the weight.
        middle, half = _weight(mesh)[[0, 2]], LEAST_SHARE / 2 * np.ptp(mesh.vertices, axis=0)[[0, 2]]
        standing += _plinth(np.vstack([below, middle - half, middle + half]), level, foot)
    extent = float(np.ptp(mesh.vertices, axis=0).max())
    return mesh_of(standing.as_original()) if rough else cleanup(standing, MERGE_SHARE * extent)


def leaning(mesh: TriMesh) -> float:
    """How far the middle of the weight of a solid lies outside what it stands on, mm; below 0 where it is inside.

    It stands on the hull of its places within a twentieth of a mm over its lowest.
    """
    import shapely

    low = mesh.vertices[:, 1] < float(mesh.vertices[:, 1].min()) + BITE_MM
    hull = shapely.MultiPoint(mesh.vertices[low][:, [0, 2]]).convex_hull
    weight = shapely.Point(_weight(mesh)[[0, 2]])
    edge = hull.boundary if hull.geom_type == "Polygon" else hull
    away = float(edge.distance(weight))
    return -away if hull.contains(weight) else away


def _weight(mesh: TriMesh) -> NDArray[np.float64]:
    """The middle of the weight of a closed mesh, (3,) mm."""
    corners = mesh.corners - mesh.vertices.mean(axis=0)
    volumes = np.einsum("ij,ij->i", corners[:, 0], np.cross(corners[:, 1], corners[:, 2]))
    found = (corners.sum(axis=1) * volumes[:, np.newaxis]).sum(axis=0) / (4 * volumes.sum())
    return np.asarray(found + mesh.vertices.mean(axis=0))


def _plinth(places: NDArray[np.float64], level: float, foot: Foot) -> manifold3d.Manifold:
    """The plinth below a level, round places (N, 2) mm of X and Z."""
    low, high = places.min(axis=0), places.max(axis=0)
    middle, half = (low + high) / 2, np.maximum((high - low) / 2, 0.5)
    if foot.shape == "oval":
        half = half * max(1.0, float(np.linalg.norm((places - middle) / half, axis=1).max())) + foot.margin
        turn = np.arange(SIDES) * 2 * np.pi / SIDES
        outline = middle + half * np.column_stack([np.cos(turn), np.sin(turn)])
    else:
        outline = middle + (half + foot.margin) * np.array([(-1, -1), (1, -1), (1, 1), (-1, 1)])
    # Extruded along Z and laid over: what was Y of the outline becomes -Z.
    flat = manifold3d.CrossSection([outline * [1, -1]], manifold3d.FillRule.NonZero)
    upright = manifold3d.Manifold.extrude(flat, foot.plinth + BITE_MM).rotate((-90, 0, 0))
    return upright.translate((0, level - foot.plinth, 0))
