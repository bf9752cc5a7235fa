"""Skin that is part of a plane, cylinder, cone or sphere, found by least squares."""

import math
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from nebrel.core.surface.skin.patch import hanging_together, smooth_round
from nebrel.core.surface.skin.skin import Skin, SkinPlace

SMOOTH_DEG = 36.0
MOST_FITTED = 4000
FITS_SHARE = 0.01
EXACT_SHARE = 1e-3
BELONGS_SHARE = 0.05
AS_GOOD = 1.5
FLATTEST, ROUGHEST, ALONG = 20.0, 0.08, 0.75
# How far from points a shape may be that is looked for through them exactly, of their extent, before it is refined.
NEARLY = 0.1
# The same where all of them lie on a ball already.
NEARLY_TOO = 0.01
# How much of the skin within reach is tried: all of it, then what is nearer.
NEARER = (math.inf, 1.0, 0.5, 0.25, 0.125)
PLANE = "plane"
SIMPLEST = {PLANE: 0, "cylinder": 1, "sphere": 2, "cone": 3}
_Reals = NDArray[np.float64]
_Ints = NDArray[np.int64]
Kind = Literal["plane", "cylinder", "cone", "sphere"]


@dataclass(frozen=True)
class Shape:
    """A surface found in a skin.

    Attributes:
        kind: what it is.
        axis: float64 (3,) of length 1; of a sphere, None is told by zeros, of a plane its normal.
        centre: float64 (3,) mm: a point on the axis or plane, or the sphere's centre.
        radius: mm at `centre`; infinite for a plane.
        slope: how much the radius grows along the axis, per mm; 0 unless it is a cone.
        off: RMS distance of the skin's vertices and of the middles of its sides, mm.
    """

    kind: Kind
    axis: _Reals
    centre: _Reals
    radius: float
    slope: float
    off: float

    @property
    def words(self) -> str:
        """For people."""
        if self.kind == PLANE:
            return PLANE
        if self.kind == "cone":
            lean = math.degrees(math.atan(abs(self.slope)))
            return f"cone of {lean:.1f}°"
        return f"{self.kind} of {2 * self.radius:.1f} mm"

    def radius_at(self, point: _Reals) -> float:
        """Its radius at the height of a point, float64 (3,), mm."""
        return abs(self.radius + self.slope * float((point - self.centre) @ self.axis))

    def away(self, points: _Reals) -> _Reals:
        """Distance of points, float64 (K, 3), from the surface, float64 (K,) mm."""
        from_centre = points - self.centre
        if self.kind == "plane":
            return np.abs(from_centre @ self.axis)
        if self.kind == "sphere":
            return np.abs(np.linalg.norm(from_centre, axis=1) - self.radius)
        up = from_centre @ self.axis
        out = np.linalg.norm(from_centre - up[:, np.newaxis] * self.axis, axis=1)
        return np.abs(out - self.radius - self.slope * up) / math.hypot(1.0, self.slope)

    def normals(self, points: _Reals) -> _Reals:
        """Which way it faces, outwards or inwards, near points, float64 (K, 3), of length 1."""
        if self.kind == PLANE:
            return np.broadcast_to(self.axis, points.shape)
        from_centre = points - self.centre
        out = from_centre - (from_centre @ self.axis)[:, np.newaxis] * self.axis
        out /= np.maximum(np.linalg.norm(out, axis=1, keepdims=True), 1e-12)
        found: _Reals = (out - self.slope * self.axis) / math.hypot(1.0, self.slope)
        return found


@dataclass(frozen=True)
class ShapedPart:
    """Faces of a skin that are one shape: int64 (K,), the one of the place first."""

    shape: Shape
    faces: _Ints


def round_at(skin: Skin, place: SkinPlace) -> Shape | None:
    """The cylinder, cone or sphere that the smooth skin round a place is part of, or None where it is none of them.

    The simplest that fits almost as well as the best is taken.
    """
    faces = smooth_round(skin, place.face, SMOOTH_DEG)
    if len(np.unique(skin.faces[faces])) < 6:
        return None
    points = _points(skin, faces)
    size = float(np.ptp(points, axis=0).max())
    good = [fit for fit in _fits(skin, faces, points) if fit.off <= FITS_SHARE * min(size, 2 * fit.radius)]
    return _simplest([fit for fit in good if fit.radius < FLATTEST * size], size)


def exact_part(skin: Skin, place: SkinPlace, reach: float, faces: _Ints) -> ShapedPart | None:
    """The plane, cylinder, cone or sphere on which all vertices of the skin round a place lie, and its faces.

    All that is given is looked at, then less and less round the place, so that a rounded end does not hide what it is
    the end of. Sides of faces may cut off as much of a shape as they will.

    Args:
        reach: mm from the place within which it is looked for.
        faces: int64 (K,), smooth skin round the place, its own face the first.
    """
    for share in NEARER:
        near = faces if share == math.inf else smooth_round(skin, place.face, SMOOTH_DEG, place.point, share * reach)
        found = _exact(skin, near)
        if found is not None:
            slack = exact_slack(found, skin.mesh.vertices[np.unique(skin.faces[near])])
            corners = skin.mesh.vertices[skin.faces[faces]]
            lies = (found.away(corners.reshape(-1, 3)) <= slack).reshape(-1, 3).all(axis=1)
            # The end of a cylinder has its corners on it, too.
            faces_along = np.einsum("ij,ij->i", found.normals(corners.mean(axis=1)), skin.normals[faces])
            lies &= np.abs(faces_along) >= ALONG
            return ShapedPart(found, hanging_together(skin, place.face, faces[lies]))
    return None


def _exact(skin: Skin, faces: _Ints) -> Shape | None:
    """The simplest shape on which all vertices of faces lie."""
    vertices = skin.mesh.vertices[np.unique(skin.faces[faces])]
    flat = _plane(vertices, skin.normals[faces[0]])
    if _lies_on(flat, vertices):
        return flat
    if len(vertices) < 6:
        return None
    points = _points(skin, faces)
    size = float(np.ptp(points, axis=0).max())
    good = []
    ball = _sphere(vertices)
    near = NEARLY_TOO if ball is not None and _lies_on(ball, vertices) else NEARLY
    for rough in _fits(skin, faces, points, (vertices, near)):
        # Middles of sides tell which it is, vertices how large.
        fit = ball if rough.kind == "sphere" else _refined(_some(vertices), rough)
        if fit is not None and fit.radius < FLATTEST * size and _lies_on(fit, vertices):
            off = float(np.sqrt((fit.away(points) ** 2).mean()))
            # Corners of anything that is round at both ends lie on a ball.
            if off <= ROUGHEST * fit.radius:
                good.append(replace(fit, off=off))
    return _simplest(good, size)


def exact_slack(shape: Shape, vertices: _Reals) -> float:
    """How far vertices may be off a shape that they are said to lie on, mm."""
    return EXACT_SHARE * min(shape.radius, float(np.ptp(vertices, axis=0).max()))


def _lies_on(shape: Shape, vertices: _Reals) -> bool:
    return bool(shape.away(vertices).max() <= exact_slack(shape, vertices))


def _lies_nearly(shape: Shape, vertices: _Reals, share: float) -> bool:
    return bool(shape.away(vertices).max() <= share * float(np.ptp(vertices, axis=0).max()))


def _simplest(good: list[Shape], size: float) -> Shape | None:
    if not good:
        return None
    best = min(fit.off for fit in good)
    return min(
        (fit for fit in good if fit.off <= AS_GOOD * best + 1e-4 * size), key=lambda fit: (SIMPLEST[fit.kind], fit.off)
    )


def _points(skin: Skin, faces: _Ints) -> _Reals:
    """Vertices of faces and middles of their sides; by vertices alone two rims of a cone lie on a sphere as well."""
    corners = skin.faces[faces]
    sides = skin.mesh.vertices[corners]
    middles = ((sides + np.roll(sides, -1, axis=1)) / 2).reshape(-1, 3)
    points = np.vstack([skin.mesh.vertices[np.unique(corners)], middles])
    return _some(points)


def _some(points: _Reals) -> _Reals:
    """As many points as are fitted, evenly chosen."""
    if len(points) <= MOST_FITTED:
        return points
    return points[np.linspace(0, len(points) - 1, MOST_FITTED).astype(np.int64)]


def _fits(skin: Skin, faces: _Ints, points: _Reals, exactly: tuple[_Reals, float] | None = None) -> list[Shape]:
    """A sphere, a cylinder and a cone through points, the last two refined from the axis that normals tell.

    With `exactly`, points that are to lie on it and how far off they may be before it is refined, those that are
    further are left out.
    """
    sides, normals = skin.mesh.vertices[skin.faces[faces]], skin.normals[faces]
    areas = np.linalg.norm(np.cross(sides[:, 1] - sides[:, 0], sides[:, 2] - sides[:, 0]), axis=1)
    weight = areas / max(float(areas.sum()), 1e-300)
    mean = weight @ normals
    about_zero = np.einsum("k,ki,kj->ij", weight, normals, normals)
    about_mean = about_zero - np.outer(mean, mean)
    axis = np.linalg.eigh(about_mean)[1][:, 0]
    # All normals of a cone lean equally from its axis.
    lean = float(np.clip(mean @ axis, -0.999, 0.999))
    begun = (
        _begun(points, np.linalg.eigh(about_zero)[1][:, 0], None),
        _begun(points, axis, -lean / math.sqrt(1 - lean**2)),
    )
    near = [each for each in begun if each is not None and (exactly is None or _lies_nearly(each, *exactly))]
    fits = [_sphere(points), *(_refined(points, each) for each in near)]
    return [fit for fit in fits if fit is not None]


def _plane(points: _Reals, normal: _Reals) -> Shape:
    middle = points.mean(axis=0)
    _, _, ways = np.linalg.svd(points - middle, full_matrices=False)
    axis = ways[-1] if len(ways) == 3 else normal
    axis = axis if axis @ normal >= 0 else -axis
    return Shape("plane", axis, middle, math.inf, 0.0, float(np.sqrt((((points - middle) @ axis) ** 2).mean())))


def _sphere(points: _Reals) -> Shape | None:
    matrix = np.column_stack([2 * points, np.ones(len(points))])
    found, _, rank, _ = np.linalg.lstsq(matrix, (points**2).sum(axis=1), rcond=None)
    squared = found[3] + found[:3] @ found[:3]
    if rank < 4 or squared <= 0:
        return None
    radius = math.sqrt(squared)
    off = float(np.sqrt(((np.linalg.norm(points - found[:3], axis=1) - radius) ** 2).mean()))
    return Shape("sphere", np.zeros(3), found[:3], radius, 0.0, off)


def _begun(points: _Reals, axis: _Reals, slope: float | None) -> Shape | None:
    """The cylinder or, with a slope, the cone round an axis that is nearest to points by the squares of their radii."""
    one, two = _square_to(axis)
    middle = points.mean(axis=0)
    local = (points - middle) @ np.column_stack([one, two, axis])
    grows = slope or 0.0
    columns = [2 * local[:, :2], np.ones((len(local), 1))] + ([2 * grows * local[:, 2:]] if grows else [])
    matrix, right = np.hstack(columns), (local[:, :2] ** 2).sum(axis=1) - (grows * local[:, 2]) ** 2
    found, _, rank, _ = np.linalg.lstsq(matrix, right, rcond=None)
    squared = found[2] + found[:2] @ found[:2]
    if rank < matrix.shape[1] or squared <= 0:
        return None
    centre = middle + found[0] * one + found[1] * two
    return Shape("cylinder" if slope is None else "cone", axis, centre, math.sqrt(squared), grows, math.inf)


def _square_to(axis: _Reals) -> tuple[_Reals, _Reals]:
    """Two directions square to an axis and to each other."""
    one = np.cross(axis, np.eye(3)[int(np.argmin(np.abs(axis)))])
    one /= np.linalg.norm(one)
    return one, np.cross(axis, one)


def _refined(points: _Reals, begun: Shape) -> Shape:
    """The cylinder or cone that is nearest to points, looked for from one that is near."""
    from scipy.optimize import least_squares

    one, two = _square_to(begun.axis)
    frame, is_cone = np.column_stack([one, two, begun.axis]), begun.kind == "cone"
    local = (points - begun.centre) @ frame

    def off(values: _Reals) -> _Reals:
        lean_x, lean_y, x, y, radius = values[:5]
        grows = values[5] if is_cone else 0.0
        up = np.array([lean_x, lean_y, 1.0])
        up /= np.linalg.norm(up)
        from_axis = local - np.array([x, y, 0.0])
        along = from_axis @ up
        out = np.linalg.norm(from_axis - along[:, np.newaxis] * up, axis=1)
        result: _Reals = (out - radius - grows * along) / math.hypot(1.0, grows)
        return result

    first = [0.0, 0.0, 0.0, 0.0, begun.radius] + ([begun.slope] if is_cone else [])
    fit = least_squares(off, first, method="lm", max_nfev=200)
    lean = np.array([fit.x[0], fit.x[1], 1.0])
    radius = float(fit.x[4])
    # A radius below zero is that of the other side of a cone's tip.
    slope = math.copysign(1.0, radius) * float(fit.x[5]) if is_cone else 0.0
    return Shape(
        kind=begun.kind,
        axis=frame @ (lean / np.linalg.norm(lean)),
        centre=begun.centre + frame @ np.array([fit.x[2], fit.x[3], 0.0]),
        radius=abs(radius),
        slope=slope,
        off=float(np.sqrt((fit.fun**2).mean())),
    )
