"""Skin that is a plane, cylinder, cone or sphere laid flat by its own measures; and skin seen along a direction."""

import math
from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import BadValueError
from nebrel.core.surface.parameterize.chart import Chart, Extent, Tangents, doubled_areas
from nebrel.core.surface.parameterize.coverage import missing_of_box
from nebrel.core.surface.parameterize.lengths import with_true_lengths
from nebrel.core.surface.parameterize.shapes import (
    BELONGS_SHARE,
    PLANE,
    SMOOTH_DEG,
    Shape,
    ShapedPart,
    exact_part,
    exact_slack,
    round_at,
)
from nebrel.core.surface.parameterize.turned import chart_of_turned, turned_at
from nebrel.core.surface.skin.patch import all_round, smooth_round
from nebrel.core.surface.skin.skin import Skin, SkinPlace

FACING = 0.05
# A shape is taken that lacks no more than this share of what is laid.
ALL_BUT = 0.005
HALF_TURN = math.pi / 2
# A gap between corners round an axis beyond which the skin does not go round.
WIDEST_GAP = math.radians(60.0)
# Decimals of radians within which corners lie at one angle; what is a cone, and what lies on an axis.
SAME_ANGLE, LEAST_SLOPE, ON_AXIS = 9, 1e-6, 1e-6
_Reals = NDArray[np.float64]
_Ints = NDArray[np.int64]


def wrap_round(
    skin: Skin, place: SkinPlace, tangents: Tangents, extent: Extent, known: Sequence[ShapedPart] = ()
) -> Chart:
    """The skin unrolled from the cylinder, cone or sphere that it is part of, or round the axis that it is turned on.

    Cylinders keep all lengths. Cones do too while what is laid spans no more than a half turn; beyond that, places come
    to lie by their angle, so the skin closes after a full turn and is true to size at the height of the place. Spheres
    lie by the angles along the great circle to the right of the place and square to it, and all else that is turned
    by the angle round its axis and the length along its profile, so lengths along both middles are true.

    Raises:
        BadValueError: the skin is none of them.
    """
    smooth = smooth_round(skin, place.face, SMOOTH_DEG)
    chart = as_shape(skin, place, tangents, extent, smooth, True, known)
    # Where the shape ends, the skin ends for what is wrapped round it.
    if chart is not None and chart.description != PLANE:
        return replace(chart, open_edge=True)
    found = round_at(skin, place)
    if found is None:
        turned = as_turned(skin, place, tangents, extent, smooth)
        if turned is None:
            raise BadValueError(
                "The skin here is no part of a cylinder, cone or sphere, nor turned round an axis, so nothing can be "
                "wrapped round it; let it follow the skin, or project it."
            )
        return replace(turned, open_edge=True)
    corners = skin.faces[smooth]
    off = found.away(skin.mesh.vertices[corners].reshape(-1, 3)).reshape(-1, 3)
    belongs = (off <= max(BELONGS_SHARE * found.radius, 3 * found.off)).all(axis=1)
    return replace(chart_of_shape(skin, smooth[belongs], found, place, tangents, extent, by_angle=True), open_edge=True)


def as_shape(
    skin: Skin,
    place: SkinPlace,
    tangents: Tangents,
    extent: Extent,
    faces: _Ints,
    by_angle: bool,
    known: Sequence[ShapedPart] = (),
) -> Chart | None:
    """The chart of the shape that the skin exactly is; None where it lacks some of what is laid though skin goes on.

    Args:
        faces: int64 (K,), those that there are.
        known: parts whose shape was found before they were divided.
    """
    part = next((each for each in known if place.face in each.faces), None)
    part = part or exact_part(skin, place, extent.reach, faces)
    if part is None:
        return None
    chart = chart_of_shape(skin, part.faces, part.shape, place, tangents, extent, by_angle)
    is_texture = not extent.width and part.shape.kind != "plane"
    if is_texture or np.isin(faces, part.faces).all() or missing_of_box(chart, extent) <= ALL_BUT:
        return chart
    return None


def as_turned(skin: Skin, place: SkinPlace, tangents: Tangents, extent: Extent, faces: _Ints) -> Chart | None:
    """The chart of skin that is turned round an axis, true along both middles of what is laid; None where it is not.

    Args:
        faces: int64 (K,), smooth skin round the place.
    """
    turned = turned_at(skin, place, faces)
    if turned is None:
        return None
    return with_true_lengths(skin, _settled(chart_of_turned(skin, turned, place, tangents), place), extent)


def chart_of_shape(
    skin: Skin, faces: _Ints, shape: Shape, place: SkinPlace, tangents: Tangents, extent: Extent, by_angle: bool
) -> Chart:
    """Faces that are part of a shape laid flat; all that can be unrolled keep their lengths.

    Args:
        by_angle: lets wide art go round cones and spheres evenly by angle, rather than straight by length.
    """
    points, local = _used(skin, faces)
    if shape.kind == "plane":
        flat = (points - place.point) @ np.column_stack([tangents.right, tangents.up])
        plane, period, leaning = flat[local], 0.0, 0.0
    elif shape.kind == "sphere":
        plane, period, leaning = *_of_sphere(points, local, shape, place, tangents, by_angle), 0.0
    else:
        plane, period, leaning = _of_turned(points, local, shape, place, tangents, extent, by_angle)
    kept = doubled_areas(plane) > 0
    chart = Chart(faces[kept], plane[kept], period, math.degrees(leaning), shape.words)
    return with_true_lengths(skin, _settled(chart, place), extent)


def _used(skin: Skin, faces: _Ints) -> tuple[_Reals, _Ints]:
    """The vertices of faces, (N, 3), and the faces over them, (K, 3)."""
    used, local = np.unique(skin.faces[faces], return_inverse=True)
    return skin.mesh.vertices[used], local.reshape(-1, 3)


def _settled(chart: Chart, place: SkinPlace) -> Chart:
    """The chart moved so that the place is its origin."""
    plane = chart.plane - place.shares @ chart.plane[int(np.flatnonzero(chart.faces == place.face)[0])]
    if chart.period:
        # Faces lie round the place, those that come after half the way round to its left.
        plane[..., 0] -= chart.period * np.round(plane[..., 0].mean(axis=1, keepdims=True) / chart.period)
    return replace(chart, plane=plane)


def _of_turned(
    points: _Reals, local: _Ints, shape: Shape, place: SkinPlace, tangents: Tangents, extent: Extent, by_angle: bool
) -> tuple[_Reals, float, float]:
    """Where faces of a cylinder or cone lie, (K, 3, 2), after how many mm they come round, and by how many radians up
    on the skin is turned there."""
    axis = shape.axis if shape.axis @ (np.eye(3)[int(np.argmax(np.abs(shape.axis)))]) > 0 else -shape.axis
    slope = shape.slope if axis @ shape.axis > 0 else -shape.slope
    here = place.point - shape.centre
    height = float(here @ axis)
    out = here - height * axis
    out /= max(float(np.linalg.norm(out)), 1e-12)
    # Seen from outside or from inside, the first axis of the chart is to the right.
    right = np.cross(axis, out) * (float(np.sign(out @ place.normal)) or 1.0)
    radius = shape.radius + slope * height
    from_axis = points - shape.centre
    lean = math.hypot(1.0, slope)
    slant = ((from_axis @ axis - height) * lean)[local]
    leaning = math.atan2(-float(tangents.up @ right), float(tangents.up @ (axis + slope * out)) / lean)
    corners = _Corners(from_axis @ right, from_axis @ out, shape.away(points) <= exact_slack(shape, points), local)
    # Corners lie as far apart as the sides of faces are long, not as the arcs over them.
    if abs(slope) < LEAST_SLOPE:
        x, around = _gone_round(corners, radius, lambda turn: 2 * radius * np.sin(turn / 2), False)
        return np.stack([x, slant], axis=2), around, leaning
    sine = abs(slope) / lean
    apex = -radius / slope * lean
    by_angle = by_angle and not _spans_less_than_half(extent, leaning, apex, sine * HALF_TURN)
    turned, around = _gone_round(corners, radius, lambda turn: 2 * np.arcsin(sine * np.sin(turn / 2)), not by_angle)
    if by_angle:
        return np.stack([abs(apex) * turned, slant], axis=2), abs(apex) * around, leaning
    away = np.linalg.norm(from_axis + shape.radius / slope * axis, axis=1)[local]
    side = math.copysign(1.0, slope)
    return np.stack([away * np.sin(turned), side * away * np.cos(turned) + apex], axis=2), 0.0, leaning


class _Corners(NamedTuple):
    """Corners of faces seen along an axis: how far to the right and ahead of it, (N,) each, which of them lie on the
    shape itself, and the faces over them, (K, 3)."""

    right: _Reals
    ahead: _Reals
    exact: NDArray[np.bool_]
    local: _Ints


def _gone_round(
    corners: _Corners, radius: float, width: Callable[[_Reals], _Reals], as_turns: bool
) -> tuple[_Reals, float]:
    """How far corners lie to the right of angle 0, (K, 3), every face together; and how far it is all round.

    That is 0 where the skin does not go all round.

    Corners at the axis, as those at a tip are, lie in the middle of the others of their face.

    Args:
        width: how wide a face is that spans an angle.
        as_turns: whether widths are turns in the plane, and faces straight across them.
    """
    angle = np.arctan2(corners.right, corners.ahead) % (2 * math.pi)
    known = np.hypot(corners.right, corners.ahead) > ON_AXIS * radius
    turns = np.unique(np.round(angle[known & corners.exact], SAME_ANGLE))
    if not len(turns):
        raise BadValueError("There is no skin left where the decoration goes round; move it onto the model.")
    gaps = np.diff(turns, append=turns[0] + 2 * math.pi)
    open_there = gaps > WIDEST_GAP
    steps = np.where(open_there, gaps * width(np.array([1e-6]))[0] / 1e-6, width(gaps))
    around = float(steps.sum())
    first = np.cumsum(steps) - steps

    def place(angles: _Reals) -> _Reals:
        """Straight from one corner to the next, as faces are."""
        step = np.searchsorted(turns, angles + 10.0**-SAME_ANGLE, side="right") - 1
        past = (angles - turns[step]) % (2 * math.pi)
        gap = gaps[step]
        share = np.where(
            open_there[step], past / gap, 0.5 + np.tan(past - gap / 2) / (2 * np.tan(np.minimum(gap, WIDEST_GAP) / 2))
        )
        if as_turns:
            half = np.minimum(steps[step], WIDEST_GAP) / 2
            bent = 0.5 + np.arctan((2 * share - 1) * np.tan(half)) / (2 * half)
            share = np.where(open_there[step], share, bent)
        return np.asarray(first[step] + steps[step] * share)

    at = np.full(len(angle), np.nan)
    at[known] = place(angle[known]) - place(np.zeros(1))
    x = at[corners.local]
    # From the first corner of every face that has an angle, which lies within half the way round.
    begin = np.take_along_axis(x, np.isfinite(x).argmax(axis=1)[:, np.newaxis], axis=1)
    x += around * (-np.round(begin / around) - np.round((x - begin) / around))
    x = np.where(np.isfinite(x), x, np.nanmean(x, axis=1, keepdims=True))
    return x, 0.0 if open_there.any() else around


def _spans_less_than_half(extent: Extent, leaning: float, apex: float, most: float) -> bool:
    """Whether the box of what is laid stays within an angle to both sides of its place, seen from the apex."""
    x, y = extent.corners(leaning)
    away = (y - apex) * math.copysign(1.0, -apex)
    return bool((away > 0).all() and (np.arctan2(np.abs(x), away) <= most).all())


def _of_sphere(
    points: _Reals, local: _Ints, shape: Shape, place: SkinPlace, tangents: Tangents, by_angle: bool
) -> tuple[_Reals, float]:
    """Where faces of a sphere lie, (K, 3, 2), and after how many mm they come round."""
    ways = points - shape.centre
    ways /= np.maximum(np.linalg.norm(ways, axis=1, keepdims=True), 1e-12)
    out = place.point - shape.centre
    out -= (out @ tangents.right) * tangents.right + (out @ tangents.up) * tangents.up
    out /= max(float(np.linalg.norm(out)), 1e-12)
    across, upwards, outwards = ways @ tangents.right, ways @ tangents.up, ways @ out
    if not by_angle:
        flat = np.column_stack([across, upwards])
        apart = np.arctan2(np.linalg.norm(flat, axis=1), outwards)
        scale = np.where(apart > 1e-9, apart / np.maximum(np.sin(apart), 1e-12), 1.0)
        return (shape.radius * scale[:, np.newaxis] * flat)[local], 0.0
    turned = np.arctan2(across, outwards)[local]
    turned = turned[:, :1] + (turned - turned[:, :1] + math.pi) % (2 * math.pi) - math.pi
    high = np.arcsin(np.clip(upwards, -1, 1))[local]
    return shape.radius * np.stack([turned, high], axis=2), 2 * math.pi * shape.radius


def project_along(
    skin: Skin, place: SkinPlace, tangents: Tangents, reach: float, direction: _Reals | None = None
) -> Chart:
    """The skin as it is seen against a direction, straight into the skin where none is given.

    Only faces that look towards the viewer and hang together round the place are taken.
    """
    out = -np.asarray(direction, np.float64) if direction is not None else tangents.out
    out = out / np.linalg.norm(out)
    right = tangents.right - (tangents.right @ out) * out
    right /= np.linalg.norm(right)
    up = np.cross(out, right)
    patch = all_round(skin, place, 1.5 * reach)
    facing = skin.normals[patch.faces] @ out > FACING
    faces = patch.faces[facing]
    plane = (skin.mesh.vertices[skin.faces[faces]] - place.point) @ np.column_stack([right, up])
    return Chart(faces, plane, 0.0, 0.0, "straight on", patch.whole, patch.open_edge)
