"""Skin that is part of a cylinder, cone or sphere, found and unrolled exactly; and skin seen along a direction."""

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import BadValueError
from nebrel.core.surface.parameterize.chart import Chart, Tangents
from nebrel.core.surface.skin.patch import all_round, smooth_round
from nebrel.core.surface.skin.skin import Skin, SkinPlace

SMOOTH_DEG = 36.0
MOST_FITTED = 4000
FITS_SHARE = 0.01
BELONGS_SHARE = 0.05
AS_GOOD = 1.5
FACING = 0.05
_Reals = NDArray[np.float64]
Kind = Literal["cylinder", "cone", "sphere"]


@dataclass(frozen=True)
class Round:
    """A round surface found in a skin.

    Attributes:
        kind: what it is.
        axis: float64 (3,) of length 1; of a sphere, None is told by zeros.
        centre: float64 (3,) mm: a point on the axis, or the sphere's centre.
        radius: mm at `centre`.
        slope: how much the radius grows along the axis, per mm; 0 unless it is a cone.
        off: RMS distance of the skin's vertices, mm.
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
        if self.kind == "cone":
            lean = math.degrees(math.atan(abs(self.slope)))
            return f"cone of {lean:.1f}°"
        return f"{self.kind} of {2 * self.radius:.1f} mm"

    def away(self, points: _Reals) -> _Reals:
        """Distance of points, float64 (K, 3), from the surface, float64 (K,) mm."""
        from_centre = points - self.centre
        if self.kind == "sphere":
            return np.abs(np.linalg.norm(from_centre, axis=1) - self.radius)
        up = from_centre @ self.axis
        out = np.linalg.norm(from_centre - up[:, np.newaxis] * self.axis, axis=1)
        return np.abs(out - self.radius - self.slope * up) / math.hypot(1.0, self.slope)


def round_at(skin: Skin, place: SkinPlace) -> Round | None:
    """The cylinder, cone or sphere that the smooth skin round a place is part of, or None where it is none of them.

    Fitted by least squares to the vertices; the simplest that fits almost as well as the best is taken.
    """
    faces = smooth_round(skin, place.face, SMOOTH_DEG)
    corners = skin.faces[faces]
    used = np.unique(corners)
    if len(used) < 6:
        return None
    sides = skin.mesh.vertices[corners]
    # Middles too: the two rims of a cone lie on a sphere as well.
    middles = ((sides + np.roll(sides, -1, axis=1)) / 2).reshape(-1, 3)
    points = np.vstack([skin.mesh.vertices[used], middles])
    if len(points) > MOST_FITTED:
        points = points[np.linspace(0, len(points) - 1, MOST_FITTED).astype(np.int64)]
    areas = np.linalg.norm(np.cross(sides[:, 1] - sides[:, 0], sides[:, 2] - sides[:, 0]), axis=1)
    normals = skin.normals[faces]
    fits = [fit for fit in (_sphere(points), *_fit_round(points, normals, areas)) if fit is not None]
    size = float(np.ptp(points, axis=0).max())
    good = [fit for fit in fits if fit.off <= FITS_SHARE * min(size, 2 * fit.radius) and fit.radius < 20 * size]
    if not good:
        return None
    best = min(fit.off for fit in good)
    order = {"cylinder": 0, "sphere": 1, "cone": 2}
    return min(
        (fit for fit in good if fit.off <= AS_GOOD * best + 1e-4 * size), key=lambda fit: (order[fit.kind], fit.off)
    )


def _sphere(points: _Reals) -> Round | None:
    matrix = np.column_stack([2 * points, np.ones(len(points))])
    found, _, rank, _ = np.linalg.lstsq(matrix, (points**2).sum(axis=1), rcond=None)
    squared = found[3] + found[:3] @ found[:3]
    if rank < 4 or squared <= 0:
        return None
    radius = math.sqrt(squared)
    off = float(np.sqrt(((np.linalg.norm(points - found[:3], axis=1) - radius) ** 2).mean()))
    return Round("sphere", np.zeros(3), found[:3], radius, 0.0, off)


def _fit_round(points: _Reals, normals: _Reals, areas: _Reals) -> list[Round]:
    """A cylinder and a cone through the points, each refined from the axis that the normals tell."""
    weight = areas / max(float(areas.sum()), 1e-300)
    mean = weight @ normals
    about_zero = np.einsum("k,ki,kj->ij", weight, normals, normals)
    about_mean = about_zero - np.outer(mean, mean)
    middle = points.mean(axis=0)
    found = []
    for kind, matrix in (("cylinder", about_zero), ("cone", about_mean)):
        axis = np.linalg.eigh(matrix)[1][:, 0]
        fit = _refine(points, axis, middle, kind == "cone")
        if fit is not None:
            found.append(fit)
    return found


def _refine(points: _Reals, axis: _Reals, middle: _Reals, cone: bool) -> Round | None:
    one = np.cross(axis, np.eye(3)[int(np.argmin(np.abs(axis)))])
    one /= np.linalg.norm(one)
    two = np.cross(axis, one)
    local = (points - middle) @ np.column_stack([one, two, axis])
    matrix = np.column_stack([2 * local[:, :2], np.ones(len(local))])
    start, _, rank, _ = np.linalg.lstsq(matrix, (local[:, :2] ** 2).sum(axis=1), rcond=None)
    squared = start[2] + start[:2] @ start[:2]
    if rank < 3 or squared <= 0:
        return None

    def off(values: _Reals) -> _Reals:
        lean_x, lean_y, x, y, radius = values[:5]
        slope = values[5] if cone else 0.0
        up = np.array([lean_x, lean_y, 1.0])
        up /= np.linalg.norm(up)
        from_axis = local - np.array([x, y, 0.0])
        along = from_axis @ up
        out = np.linalg.norm(from_axis - along[:, np.newaxis] * up, axis=1)
        result: _Reals = (out - radius - slope * along) / math.hypot(1.0, slope)
        return result

    first = [0.0, 0.0, start[0], start[1], math.sqrt(squared)] + ([0.0] if cone else [])
    from scipy.optimize import least_squares

    fit = least_squares(off, first, method="lm", max_nfev=200)
    lean = np.array([fit.x[0], fit.x[1], 1.0])
    lean /= np.linalg.norm(lean)
    turned = np.column_stack([one, two, axis])
    slope = float(fit.x[5]) if cone else 0.0
    centre = middle + turned @ np.array([fit.x[2], fit.x[3], 0.0])
    return Round(
        "cone" if cone else "cylinder", turned @ lean, centre, abs(float(fit.x[4])), slope,
        float(np.sqrt((fit.fun**2).mean())),
    )  # fmt: skip


def wrap_round(skin: Skin, place: SkinPlace, tangents: Tangents, reach: float, fit: Round | None = None) -> Chart:
    """The skin unrolled from the cylinder, cone or sphere that it is part of.

    Cylinders keep all lengths. Cones do too while `reach` is within a half turn; beyond that, places come to lie by
    their angle, so the skin closes after a full turn and is true to size at the height of the place. Spheres are mapped
    conformally along the great circle to the right of the place (Mercator's map, turned), so shapes keep their angles.

    Raises:
        BadValueError: the skin is part of none of them.
    """
    found = fit or round_at(skin, place)
    if found is None:
        raise BadValueError(
            "The skin here is no part of a cylinder, cone or sphere, so nothing can be wrapped round it; let it follow "
            "the skin, or project it."
        )
    faces = smooth_round(skin, place.face, SMOOTH_DEG)
    used, local = np.unique(skin.faces[faces], return_inverse=True)
    local = local.reshape(-1, 3)
    points = skin.mesh.vertices[used]
    belongs = (found.away(points) <= max(BELONGS_SHARE * found.radius, 3 * found.off))[local].all(axis=1)
    faces, local = faces[belongs], local[belongs]
    if found.kind == "sphere":
        return _sphere_chart(found, faces, local, points, tangents)
    return _turned_chart(found, faces, local, points, place, tangents, reach)


def _turned_chart(
    found: Round,
    faces: NDArray[np.int64],
    local: NDArray[np.int64],
    points: _Reals,
    place: SkinPlace,
    tangents: Tangents,
    reach: float,
) -> Chart:
    axis = found.axis if found.axis @ (np.eye(3)[int(np.argmax(np.abs(found.axis)))]) > 0 else -found.axis
    slope = found.slope if axis @ found.axis > 0 else -found.slope
    here = place.point - found.centre
    height = float(here @ axis)
    out = here - height * axis
    away = float(np.linalg.norm(out))
    out /= max(away, 1e-12)
    outside = float(np.sign(out @ place.normal)) or 1.0
    # Seen from outside or from inside, the first axis of the chart is to the right.
    right = np.cross(axis, out) * outside
    radius = found.radius + slope * height
    from_axis = points - found.centre
    up = from_axis @ axis
    angle = np.arctan2(from_axis @ right, from_axis @ out)
    angles = angle[local]
    # Every face lies together, however far round its corners are.
    angles = angles[:, :1] + (angles - angles[:, :1] + math.pi) % (2 * math.pi) - math.pi
    lean = math.hypot(1.0, slope)
    slant = (up - height) * lean
    if slope and reach < radius * math.pi / 2:
        apex = -radius / slope * lean
        sine = slope / lean
        spread = (slant - apex)[local]
        turned = angles * sine
        plane = np.stack([spread * np.sin(turned), spread * np.cos(turned) + apex], axis=2)
        period = 0.0
    else:
        plane = np.stack([radius * angles, slant[local]], axis=2)
        period = 2 * math.pi * radius
    return _chart(faces, plane, period, right, axis * 1.0 + slope * out, tangents, found)


def _sphere_chart(
    found: Round, faces: NDArray[np.int64], local: NDArray[np.int64], points: _Reals, tangents: Tangents
) -> Chart:
    from_centre = points - found.centre
    from_centre /= np.maximum(np.linalg.norm(from_centre, axis=1, keepdims=True), 1e-12)
    inwards = 1.0
    out = tangents.out
    if len(faces) and (from_centre[local[:, 0]] @ out).max() < 0.5:
        inwards = -1.0
    angle = np.arctan2(from_centre @ tangents.right, (from_centre @ out) * inwards)
    angles = angle[local]
    angles = angles[:, :1] + (angles - angles[:, :1] + math.pi) % (2 * math.pi) - math.pi
    sine = np.clip(from_centre @ tangents.up, -0.9999, 0.9999)
    plane = np.stack([found.radius * angles, found.radius * np.arctanh(sine)[local]], axis=2)
    return Chart(faces, plane, 2 * math.pi * found.radius, 0.0, found.words)


def _chart(
    faces: NDArray[np.int64],
    plane: _Reals,
    period: float,
    right: _Reals,
    up: _Reals,
    tangents: Tangents,
    found: Round,
) -> Chart:
    wished = (float(tangents.up @ right), float(tangents.up @ (up / np.linalg.norm(up))))
    turned = math.degrees(math.atan2(-wished[0], wished[1]))
    return Chart(faces, plane, period, turned, found.words)


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
