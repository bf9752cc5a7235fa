"""Skin that a lathe could have made, whatever its profile: rings, vases, bowls, capsules; unrolled round its axis.

The normals of a surface of revolution all meet its axis, which makes the axis the solution of a linear problem in
their Plücker coordinates (Pottmann and Randrup, "Rotational and Helical Surface Approximation for Reverse Engineering",
1998).
"""

import math
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from nebrel.core.surface.parameterize.chart import Chart, Tangents, doubled_areas
from nebrel.core.surface.skin.skin import Skin, SkinPlace

# How far vertices may lie beside the profile: as a mean, and each of those that belong to it; shares of the radius.
FITS_SHARE, BELONGS_SHARE = 0.02, 0.05
# A place nearer to the axis than this share of the largest radius has no way round it.
LEAST_RADIUS = 0.05
# A gap between corners round the axis beyond which the skin does not go round.
WIDEST_GAP = math.radians(60.0)
ON_AXIS, ASIDE = 1e-6, 1e-9
MOST_FITTED = 20_000
FEWEST_FACES = 24
WORDS = "turned skin"
_Reals = NDArray[np.float64]
_Ints = NDArray[np.int64]
# A side of faces by the numbers of its ends.
_Edge = tuple[int, int]


@dataclass(frozen=True)
class Turned:
    """A surface of revolution found in a skin.

    Attributes:
        axis: float64 (3,) of length 1.
        centre: float64 (3,) mm, a point on the axis.
        profile: float64 (K, 2) mm: radii, and heights along the axis over the centre, from one end to the other.
        closed: whether the profile comes round to its beginning, as that of a ring does.
        here: mm along the profile where the place lies that it was found for.
        radius: mm, of the place.
        faces: int64 (M,), those that belong to it.
        along: float64 (M, 3), mm along the profile from the place to each of their corners.
    """

    axis: _Reals
    centre: _Reals
    profile: _Reals
    closed: bool
    here: float
    radius: float
    faces: _Ints
    along: _Reals


def turned_at(skin: Skin, place: SkinPlace, faces: _Ints) -> Turned | None:
    """The surface of revolution that smooth skin round a place is part of; None where it is none.

    Args:
        faces: int64 (K,), smooth skin round the place, its own face among them.
    """
    if len(faces) < FEWEST_FACES:
        return None
    found = _axis_of(skin, faces)
    if found is None:
        return None
    axis, centre = found
    radius = _radius(place.point - centre, axis)
    used, local = np.unique(skin.faces[faces], return_inverse=True)
    points = skin.mesh.vertices[used]
    radii, heights = _radii(points - centre, axis), (points - centre) @ axis
    if radius < LEAST_RADIUS * float(radii.max()):
        return None
    section = _section(skin, place, faces, axis, centre)
    if section is None:
        return None
    profile, here, closed = section
    line = shapely.LineString(np.vstack([profile, profile[:1]]) if closed else profile)
    seen = shapely.points(radii, heights)
    away = shapely.distance(line, seen)
    local = local.reshape(-1, 3)
    belongs = (away[local] <= BELONGS_SHARE * radius).all(axis=1)
    sides = skin.mesh.vertices[skin.faces[faces]]
    areas = np.linalg.norm(np.cross(sides[:, 1] - sides[:, 0], sides[:, 2] - sides[:, 0]), axis=1)
    mean = math.sqrt(float(areas @ (away[local] ** 2).mean(axis=1)) / max(float(areas.sum()), 1e-300))
    if mean > FITS_SHARE * radius or not belongs[int(np.flatnonzero(faces == place.face)[0])]:
        return None
    along = (shapely.line_locate_point(line, seen) - here)[local]
    if closed:
        long = float(line.length)
        along = along - long * np.round(along / long)
        # Opposite to the place the profile is cut.
        belongs &= np.ptp(along, axis=1) < long / 2
    return Turned(axis, centre, profile, closed, here, radius, faces[belongs], along[belongs])


def chart_of_turned(skin: Skin, turned: Turned, place: SkinPlace, tangents: Tangents) -> Chart:
    """Turned skin unrolled by the angle round its axis and the length along its profile; true at the place's height.

    Corners at the axis lie in the middle of the others of their face.
    """
    axis, out = turned.axis, place.point - turned.centre
    out = out - (out @ axis) * axis
    out /= np.linalg.norm(out)
    tangent = _tangent(turned)
    # Seen from outside or from inside, the first axis of the chart is to the right.
    right = np.cross(axis, out) * (-1.0 if out @ place.normal < 0 else 1.0)
    # Along the profile is up or down; both axes of the chart and the way out are right-handed.
    upwards = tangent[0] * out + tangent[1] * axis
    side = 1.0 if np.cross(right, upwards) @ place.normal >= 0 else -1.0
    upwards = side * upwards
    from_axis = skin.mesh.vertices[skin.faces[turned.faces]] - turned.centre
    angle = np.arctan2(from_axis @ right, from_axis @ out)
    known = np.linalg.norm(np.cross(from_axis, axis), axis=2) > ON_AXIS * turned.radius
    begin = np.take_along_axis(angle, known.argmax(axis=1)[:, np.newaxis], axis=1)
    angle = begin + (angle - begin + math.pi) % (2 * math.pi) - math.pi
    with np.errstate(invalid="ignore"):
        angle = np.where(known, angle, np.nan)
        angle = np.where(known, angle, np.nanmean(angle, axis=1, keepdims=True))
    plane = np.stack([turned.radius * angle, side * turned.along], axis=2)
    turns = np.sort(angle[known] % (2 * math.pi))
    gap = float(np.diff(turns, append=turns[0] + 2 * math.pi).max())
    period = 0.0 if gap > WIDEST_GAP else 2 * math.pi * turned.radius
    leaning = math.atan2(-float(tangents.up @ right), float(tangents.up @ upwards))
    kept = doubled_areas(plane) > 0
    return Chart(turned.faces[kept], plane[kept], period, math.degrees(leaning), WORDS)


def _axis_of(skin: Skin, faces: _Ints) -> tuple[_Reals, _Reals] | None:
    """Direction and a point of the line that normals meet best."""
    corners = skin.mesh.vertices[skin.faces[faces]]
    areas = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1) / 2
    used, local = np.unique(skin.faces[faces], return_inverse=True)
    normals, weights = np.zeros((len(used), 3)), np.zeros(len(used))
    for corner in local.reshape(-1, 3).T:
        np.add.at(normals, corner, areas[:, np.newaxis] * skin.normals[faces])
        np.add.at(weights, corner, areas)
    if len(used) > MOST_FITTED:
        some = np.linspace(0, len(used) - 1, MOST_FITTED).astype(np.int64)
        used, normals, weights = used[some], normals[some], weights[some]
    lengths = np.linalg.norm(normals, axis=1)
    good = lengths > 0
    points, normals, weights = skin.mesh.vertices[used[good]], normals[good] / lengths[good, np.newaxis], weights[good]
    middle = points.mean(axis=0)
    size = float(np.ptp(points, axis=0).max())
    if size <= 0:
        return None
    moments = np.cross((points - middle) / size, normals)
    rows = np.hstack([moments, normals]) * np.sqrt(weights / weights.sum())[:, np.newaxis]
    whole = rows.T @ rows
    mixed, plain = whole[:3, 3:], whole[3:, 3:]
    inverse = np.linalg.pinv(plain, rcond=1e-9, hermitian=True)
    values, ways = np.linalg.eigh(whole[:3, :3] - mixed @ inverse @ mixed.T)
    # A ball has an axis every way.
    if values[1] < 10 * max(values[0], 1e-12):
        return None
    axis: _Reals = ways[:, 0]
    moment = -inverse @ mixed.T @ axis
    return axis, middle + size * np.cross(axis, moment)


def _radii(from_centre: _Reals, axis: _Reals) -> _Reals:
    found: _Reals = np.linalg.norm(from_centre - (from_centre @ axis)[:, np.newaxis] * axis, axis=1)
    return found


def _radius(from_centre: _Reals, axis: _Reals) -> float:
    return float(np.linalg.norm(from_centre - (from_centre @ axis) * axis))


def _section(
    skin: Skin, place: SkinPlace, faces: _Ints, axis: _Reals, centre: _Reals
) -> tuple[_Reals, float, bool] | None:
    """The skin cut by the half plane from the axis through a place: radii and heights in order, how far along them the
    place lies, and whether they come round."""
    out = place.point - centre
    out = out - (out @ axis) * axis
    out /= np.linalg.norm(out)
    across = np.cross(axis, out)
    corners = skin.faces[faces]
    from_centre = skin.mesh.vertices[corners] - centre
    beside = from_centre @ across
    size = float(np.ptp(from_centre.reshape(-1, 3), axis=0).max())
    # No corner lies in the plane itself.
    beside = np.where(np.abs(beside) < ASIDE * size, ASIDE * size, beside)
    ahead, high = from_centre @ out, from_centre @ axis
    crossing = np.flatnonzero((beside.min(axis=1) < 0) & (beside.max(axis=1) > 0))
    if not len(crossing):
        return None
    # The place itself may lie on a side that just does not cross.
    to_place = np.linalg.norm(from_centre[crossing].mean(axis=1) - (place.point - centre), axis=1)
    nearest = int(crossing[to_place.argmin()])
    ways: dict[_Edge, list[_Edge]] = {}
    places: dict[_Edge, tuple[float, float]] = {}
    start: tuple[_Edge, _Edge] | None = None
    for face in crossing.tolist():
        ends: list[_Edge] = []
        for i in range(3):
            j = (i + 1) % 3
            if (beside[face, i] < 0) == (beside[face, j] < 0):
                continue
            share = beside[face, i] / (beside[face, i] - beside[face, j])
            radius = ahead[face, i] + share * (ahead[face, j] - ahead[face, i])
            low, high_end = sorted((int(corners[face, i]), int(corners[face, j])))
            places[low, high_end] = (float(radius), float(high[face, i] + share * (high[face, j] - high[face, i])))
            ends.append((low, high_end))
        one, other = ends
        ways.setdefault(one, []).append(other)
        ways.setdefault(other, []).append(one)
        if face == nearest:
            start = (one, other)
    if start is None or min(places[start[0]][0], places[start[1]][0]) <= 0:
        return None
    forwards = _walk(start[0], start[1], ways, places)
    closed = len(forwards) > 2 and forwards[-1] == start[0]
    chain = forwards[:-1] if closed else [*reversed(_walk(start[1], start[0], ways, places)[2:]), *forwards]
    profile = np.array([places[each] for each in chain])
    if len(profile) < 2:
        return None
    here = shapely.Point(_radius(place.point - centre, axis), float((place.point - centre) @ axis))
    line = shapely.LineString(np.vstack([profile, profile[:1]]) if closed else profile)
    return profile, float(line.project(here)), closed


def _walk(
    first: _Edge, second: _Edge, ways: dict[_Edge, list[_Edge]], places: dict[_Edge, tuple[float, float]]
) -> list[_Edge]:
    """From one crossed side to the next, up to the axis, to where the skin ends, or round to the first."""
    chain = [first, second]
    seen = {first, second}
    while places[chain[-1]][0] > 0:
        ahead = [each for each in ways[chain[-1]] if each != chain[-2]]
        if not ahead:
            break
        chain.append(ahead[0])
        if ahead[0] in seen:
            break
        seen.add(ahead[0])
    return chain if places[chain[-1]][0] > 0 or len(chain) <= 2 else chain[:-1]


def _tangent(turned: Turned) -> _Reals:
    """Which way the profile runs at the place, in radius and height, of length 1."""
    profile = np.vstack([turned.profile, turned.profile[:1]]) if turned.closed else turned.profile
    steps = np.diff(profile, axis=0)
    lengths = np.linalg.norm(steps, axis=1)
    at = min(int(np.searchsorted(np.cumsum(lengths), turned.here)), len(steps) - 1)
    return np.asarray(steps[at] / max(lengths[at], 1e-12))
