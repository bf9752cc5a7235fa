"""A patch of skin laid flat: the map between its faces and the plane of a decoration."""

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from nebrel.core.surface.skin.skin import Skin, SkinPlace

Lie = Literal["follow", "wrap", "project"]
# What becomes of what reaches over a sharp edge or a hole: it ends there, or it goes on.
Rim = Literal["clip", "continue"]
# Of a way up, what must lie along the skin.
STRAIGHT_OUT = 0.05
_Reals = NDArray[np.float64]
_Ints = NDArray[np.int64]


@dataclass(frozen=True)
class Way:
    """How a decoration lies.

    Attributes:
        lie: `follow` the skin by its own lengths, `wrap` round a cylinder, cone or sphere, or `project` straight on.
        rim: for `follow`, what becomes of what reaches over a sharp edge.
        along: for `project`, float64 (3,), the way it is seen along, or None for straight into the skin.
    """

    lie: Lie = "follow"
    rim: Rim = "clip"
    along: _Reals | None = None


@dataclass(frozen=True)
class Chart:
    """Faces laid flat.

    Attributes:
        faces: int64 (K,), numbers of faces.
        plane: float64 (K, 3, 2) mm: where their corners lie; the place of the decoration is the origin. Neighbours
            agree on the edge that they share up to a shift by `period`.
        period: mm to the right after which the skin comes round to the same place; 0 where it does not.
        upright_deg: by how much "up" on the skin is turned from the chart's second axis, counter-clockwise.
        description: what the skin was taken for, for people.
        whole: whether the skin went on within the reach without meeting itself.
        open_edge: whether the skin ends within the reach.
        rim: whether it was ended at a sharp edge within the reach, beyond which there is skin.
    """

    faces: _Ints
    plane: _Reals
    period: float
    upright_deg: float
    description: str
    whole: bool = True
    open_edge: bool = False
    rim: bool = False


@dataclass(frozen=True)
class Extent:
    """How large what is laid on a chart is.

    Attributes:
        reach: mm from its place beyond which there is nothing of it.
        width, height: of its box, whose middle is the place, mm; 0 where it has none, as textures have.
        turn_deg: of the box, counter-clockwise seen from outside.
    """

    reach: float
    width: float = 0.0
    height: float = 0.0
    turn_deg: float = 0.0

    def corners(self, turn: float) -> tuple[_Reals, _Reals]:
        """X and Y of the box's corners, turned by so many radians more; without a box, of a square round all of it."""
        width, height = (self.width or 2 * self.reach, self.height or 2 * self.reach)
        angle = math.radians(self.turn_deg) + turn
        x, y = width / 2 * np.array([-1, 1, 1, -1]), height / 2 * np.array([-1, -1, 1, 1])
        return math.cos(angle) * x - math.sin(angle) * y, math.sin(angle) * x + math.cos(angle) * y


@dataclass(frozen=True)
class Tangents:
    """The directions at a place: float64 (3,) of length 1 each, `right` and `up` along the skin, `out` away from it."""

    right: _Reals
    up: _Reals
    out: _Reals


def points_out(place: SkinPlace, up: _Reals) -> bool:
    """Whether a way up points straight out of the skin, so that it says nothing along it."""
    wish = np.asarray(up, dtype=np.float64)
    along = wish - (wish @ place.normal) * place.normal
    return bool(np.linalg.norm(along) <= STRAIGHT_OUT * max(float(np.linalg.norm(wish)), 1e-300))


def tangents_at(place: SkinPlace, up: _Reals) -> Tangents:
    """Directions at a place, `up` being as near to the given one as the skin allows.

    Where the given one points straight out of the skin, Y and then X stand in for it.
    """
    out = place.normal
    for wish in (np.asarray(up, dtype=np.float64), np.array([0.0, 1.0, 0.0]), np.array([1.0, 0.0, 0.0])):
        along = wish - (wish @ out) * out
        length = float(np.linalg.norm(along))
        if not points_out(place, wish):
            along /= length
            return Tangents(np.cross(along, out), along, out)
    raise AssertionError("One of three directions always lies along the skin.")


def stretches(skin: Skin, faces: _Ints, plane: _Reals) -> _Reals:
    """How much every face is stretched by being laid flat, float64 (K,): 0.05 for a twentieth longer or shorter.

    The larger of the greatest lengthening and the greatest shortening, from the singular values of the map; infinite
    for faces that are turned over or have no area.
    """
    corners = skin.mesh.vertices[skin.faces[faces]]
    flat = flattened_alone(corners)
    one = np.stack([flat[:, 1] - flat[:, 0], flat[:, 2] - flat[:, 0]], axis=2)
    two = np.stack([plane[:, 1] - plane[:, 0], plane[:, 2] - plane[:, 0]], axis=2)
    area, laid = np.linalg.det(one), np.linalg.det(two)
    sound = (area > 1e-14) & (laid > 1e-14) & np.isfinite(laid)
    found = np.full(len(faces), np.inf)
    jacobian = two[sound] @ np.linalg.inv(one[sound])
    values = np.linalg.svd(jacobian, compute_uv=False)
    found[sound] = np.maximum(values[:, 0], 1 / np.maximum(values[:, 1], 1e-12)) - 1
    return found


def flattened_alone(corners: _Reals) -> _Reals:
    """Every triangle, float64 (K, 3, 3) mm, laid flat by itself: (K, 3, 2), its first side along the first axis."""
    first, second = corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
    along = np.linalg.norm(first, axis=1)
    unit = first / np.maximum(along, 1e-300)[:, np.newaxis]
    across = np.einsum("ij,ij->i", second, unit)
    up = np.linalg.norm(second - across[:, np.newaxis] * unit, axis=1)
    flat = np.zeros((len(corners), 3, 2))
    flat[:, 1, 0], flat[:, 2, 0], flat[:, 2, 1] = along, across, up
    return flat


def doubled_areas(plane: _Reals) -> _Reals:
    """Twice the signed area of triangles in the plane, float64 (K, 3, 2) to (K,)."""
    one, two = plane[:, 1] - plane[:, 0], plane[:, 2] - plane[:, 0]
    return np.asarray(one[:, 0] * two[:, 1] - one[:, 1] * two[:, 0])
