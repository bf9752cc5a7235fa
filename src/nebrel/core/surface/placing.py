"""Where a decoration would lie, quickly enough to follow a pointer, and places that it snaps to."""

import math
from dataclasses import dataclass, field
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from nebrel.core.surface.laying import BEYOND, chart_at
from nebrel.core.surface.parameterize.chart import Chart, Extent, Way, stretches
from nebrel.core.surface.scatter.copies import Copies, Copy, axis_of, copies_of
from nebrel.core.surface.skin.patch import smooth_round
from nebrel.core.surface.skin.skin import Skin, SkinPlace, place_on
from nebrel.core.surface.subdivide.subtriangles import find_piece

Snap = Literal["face-centre", "axis", "half-height"]
SNAP_DEG = 15.0
FACE_DEG = 20.0
_Reals = NDArray[np.float64]


@dataclass(frozen=True)
class Placed:
    """A decoration as it would lie.

    Attributes:
        corners: float64 (K, 3, 3) mm: faces of the skin under its box, for all copies.
        shares: float64 (K, 3, 2): places in its box, 0 to 1 from its lower left corner.
        stretch: float64 (K,): of every face.
        handles: places of the box's lower left, lower right, upper right and upper left corner and of the middle of its
            upper side; None where there is no skin.
        copies: all copies, the first first.
        told: what the skin was taken for.
        most_stretch: what nearly all of it stays below.
    """

    corners: _Reals
    shares: _Reals
    stretch: _Reals
    handles: list[tuple[float, float, float] | None]
    copies: list[Copy]
    description: str
    most_stretch: float


@dataclass(frozen=True)
class Box:
    """The box of a decoration.

    Attributes:
        size: width and height, mm.
        turn_deg: counter-clockwise seen from outside.
        mirrored: left and right exchanged.
        way: how it follows the skin.
    """

    size: tuple[float, float]
    turn_deg: float = 0.0
    mirrored: bool = False
    way: Way = field(default_factory=Way)


def place_decoration(
    skin: Skin, at: _Reals, up: _Reals, box: Box, copies: Copies, most_copies: int, quick: bool
) -> Placed:
    """How a box lies on a skin; of many copies only the first few are laid, `quick` ones less exactly.

    Raises:
        BadValueError: it cannot lie as asked.
    """
    place = place_on(skin, at)
    every = copies_of(skin, place, up, copies)
    extent = Extent(BEYOND * math.hypot(*box.size) / 2, *box.size, box.turn_deg)
    laid = [(copy, chart_at(skin, copy, box.way, extent, quick)) for copy in every[:most_copies]]
    parts = [_under_box(skin, copy, chart, box) for copy, chart in laid]
    first, chart = laid[0]
    return Placed(
        corners=np.concatenate([corners for corners, _, _ in parts]),
        shares=np.concatenate([shares for _, shares, _ in parts]),
        stretch=np.concatenate([stretch for _, _, stretch in parts]),
        handles=_handles(skin, chart, box, math.radians(box.turn_deg + first.turn_deg + chart.upright_deg)),
        copies=every,
        description=chart.description,
        most_stretch=_mostly(
            np.concatenate([corners for corners, _, _ in parts]), np.concatenate([part[2] for part in parts])
        ),
    )


def _mostly(corners: _Reals, stretch: _Reals) -> float:
    """The stretch that all but a twentieth of the area stays below; sketches have a few odd faces."""
    known = np.isfinite(stretch)
    if not known.any():
        return 0.0
    one, two = corners[known, 1] - corners[known, 0], corners[known, 2] - corners[known, 0]
    areas = np.linalg.norm(np.cross(one, two), axis=1)
    order = np.argsort(stretch[known])
    share = np.cumsum(areas[order]) / max(float(areas.sum()), 1e-300)
    return float(stretch[known][order][int(np.searchsorted(share, 0.95).clip(0, len(order) - 1))])


def _under_box(skin: Skin, copy: Copy, chart: Chart, box: Box) -> tuple[_Reals, _Reals, _Reals]:
    """Faces of a chart that meet a box: corners, shares of the box and stretch."""
    angle = math.radians(box.turn_deg + copy.turn_deg + chart.upright_deg)
    turn = np.array([[math.cos(angle), math.sin(angle)], [-math.sin(angle), math.cos(angle)]])
    found = []
    for shift in (0.0, chart.period, -chart.period) if chart.period else (0.0,):
        inside = (chart.plane + np.array([shift, 0.0])) @ turn.T
        if box.mirrored:
            inside[..., 0] *= -1
        shares = inside / np.array(box.size) + 0.5
        near = ((shares.max(axis=1) > 0) & (shares.min(axis=1) < 1)).all(axis=1)
        found.append((chart.faces[near], shares[near], chart.plane[near]))
    faces = np.concatenate([part[0] for part in found])
    shares = np.concatenate([part[1] for part in found])
    plane = np.concatenate([part[2] for part in found])
    return skin.mesh.vertices[skin.faces[faces]], shares, stretches(skin, faces, plane)


def _handles(skin: Skin, chart: Chart, box: Box, angle: float) -> list[tuple[float, float, float] | None]:
    width, height = box.size
    corners = [(-0.5, -0.5), (0.5, -0.5), (0.5, 0.5), (-0.5, 0.5), (0.0, 0.5)]
    found: list[tuple[float, float, float] | None] = []
    for x, y in corners:
        u, v = (-x if box.mirrored else x) * width, y * height
        at = np.array([math.cos(angle) * u - math.sin(angle) * v, math.sin(angle) * u + math.cos(angle) * v])
        number = find_piece(at[0], at[1], 0, chart.plane, len(chart.plane)) if len(chart.plane) else -1
        if number < 0:
            found.append(None)
            continue
        a, b, c = chart.plane[number]
        one, two, direction = b - a, c - a, at - a
        whole = one[0] * two[1] - one[1] * two[0]
        s, t = (
            (direction[0] * two[1] - direction[1] * two[0]) / whole,
            (one[0] * direction[1] - one[1] * direction[0]) / whole,
        )
        px, py, pz = np.array([1 - s - t, s, t]) @ skin.mesh.vertices[skin.faces[chart.faces[number]]]
        found.append((float(px), float(py), float(pz)))
    return found


def snap(skin: Skin, at: _Reals, up: _Reals, to: Snap) -> SkinPlace:
    """The place of the skin that a decoration snaps to from where it is.

    `face-centre` is the middle of the smooth face, `axis` the nearest multiple of 15° round the axis, `half-height` the
    middle of the face along `up`.
    """
    place = place_on(skin, at)
    if to == "axis":
        axis, centre = axis_of(skin, place, up)
        reference = np.eye(3)[int(np.argmin(np.abs(axis)))]
        reference = reference - (reference @ axis) * axis
        reference /= np.linalg.norm(reference)
        aside = np.cross(axis, reference)
        out = place.point - centre
        angle = math.atan2(float(out @ aside), float(out @ reference))
        step = math.radians(SNAP_DEG)
        turned = round(angle / step) * step
        away, high = math.hypot(float(out @ aside), float(out @ reference)), float(out @ axis)
        wished = centre + high * axis + away * (math.cos(turned) * reference + math.sin(turned) * aside)
        return place_on(skin, wished, place.normal)
    faces = smooth_round(skin, place.face, FACE_DEG)
    corners = skin.mesh.vertices[skin.faces[faces]]
    if to == "half-height":
        direction = np.asarray(up, np.float64) / np.linalg.norm(up)
        heights = corners @ direction
        middle = (heights.min() + heights.max()) / 2
        return place_on(skin, place.point + (middle - place.point @ direction) * direction, place.normal)
    areas = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1)
    return place_on(skin, areas @ corners.mean(axis=1) / max(float(areas.sum()), 1e-300), place.normal)
