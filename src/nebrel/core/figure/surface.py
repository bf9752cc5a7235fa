"""The surface of a figure: dual contouring of its two sides over a lattice."""

from collections.abc import Callable
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import BadValueError
from nebrel.core.figure.form import FigureForm
from nebrel.core.jit import compiled
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.dual_contour import Hermite, dual_contour
from nebrel.core.mesh.lattice import MOST_POINTS, Crossings

BORDER = 2

_Floats = NDArray[np.float64]


class Sheets(NamedTuple):
    """Front and back over the lattice's columns, in cells: inside where (z - middle)² < square.

    Attributes:
        middle, square: float64 (X, Y).
        middle_slope, square_slope: float64 (2, X, Y), along X and Y.
    """

    middle: _Floats
    square: _Floats
    middle_slope: _Floats
    square_slope: _Floats


def surface_of(form: FigureForm, progress: Callable[[float], None] = lambda _: None) -> TriMesh:
    """The solid of a figure, closed; X right, Y up, Z towards the viewer, in mm.

    The lattice stands on the samples of the form. A point is inside where the square of its distance from the middle is
    below the square of the half thickness; where lines towards the viewer cross the surface is known exactly, and
    others cross it where those values, taken between two samples, agree.

    Raises:
        BadValueError: the figure is too thick for its grid.
    """
    pitch = form.silhouette.pitch
    # From the picture's rows to X, Y.
    middle, square = (np.ascontiguousarray(each[::-1].T) for each in (form.middle, form.square))
    half = np.sqrt(np.maximum(square, 0))
    within = square > 0
    low, high = float((middle - half)[within].min()), float((middle + half)[within].max())
    deep = int(np.ceil((high - low) / pitch)) + 2 * BORDER + 1
    if middle.size * deep > MOST_POINTS:
        raise BadValueError(
            f"The figure would be {high - low:.3g} mm thick, too much for a grid of {pitch:.3g} mm; "
            "a lower resolution or less thickness would be accepted."
        )
    # In cells, from the lowest layer; a little off the layers, so that level faces lie between them.
    floor = low - (BORDER + 0.4321) * pitch
    middle, square = (middle - floor) / pitch, square / pitch**2
    sheets = Sheets(middle, square, np.array(np.gradient(middle)), np.array(np.gradient(square)))
    inside = np.zeros((*middle.shape, deep), dtype=np.bool_)
    _fill(sheets, inside)
    progress(0.2)
    crossings, normals = [], []
    for axis in range(3):
        found, normal = _crossings(sheets, inside, axis)
        crossings.append(found)
        normals.append(normal)
    progress(0.4)
    origin = np.array([*form.silhouette.low, floor])
    return dual_contour(
        Hermite(inside, (crossings[0], crossings[1], crossings[2]), (normals[0], normals[1], normals[2])),
        lambda points: points * pitch + origin,
        progress=lambda part: progress(0.4 + 0.6 * part),
    )


def _crossings(sheets: Sheets, inside: NDArray[np.bool_], axis: int) -> tuple[Crossings, _Floats]:
    """Where lines along an axis cross the surface, and its normal there, float64 (K, 3)."""
    along = np.moveaxis(inside, axis, 2)
    changes = (along[:, :, 1:] != along[:, :, :-1]).sum(axis=2).ravel()
    first = np.concatenate([[0], np.cumsum(changes)]).astype(np.int64)
    total = int(first[-1])
    at, leaving, normals = np.empty(total), np.empty(total, dtype=np.bool_), np.empty((total, 3))
    _cross(sheets, inside, axis, at, leaving, normals)
    return Crossings(first, at, np.arange(total, dtype=np.int64), leaving), normals


@compiled
def _fill(sheets, inside):
    across, up, deep = inside.shape
    for x in range(across):
        for y in range(up):
            square = sheets.square[x, y]
            if square <= 0:
                continue
            half = np.sqrt(square)
            low = max(1, int(np.ceil(sheets.middle[x, y] - half)))
            high = min(deep - 2, int(np.floor(sheets.middle[x, y] + half)))
            for z in range(low, high + 1):
                inside[x, y, z] = True


@compiled
def _cross(sheets, inside, axis, at, leaving, normals):
    shape = inside.shape
    u, v = (1, 2) if axis == 0 else ((0, 2) if axis == 1 else (0, 1))
    here = np.empty(3, dtype=np.int64)
    made = 0
    for i in range(shape[u]):
        for j in range(shape[v]):
            here[u], here[v] = i, j
            for k in range(shape[axis] - 1):
                here[axis] = k
                x, y, z = here[0], here[1], here[2]
                here[axis] = k + 1
                within = inside[x, y, z]
                if within == inside[here[0], here[1], here[2]]:
                    continue
                share = 0.0
                if axis == 2:
                    half = np.sqrt(max(sheets.square[x, y], 0.0))
                    place = sheets.middle[x, y] + (half if within else -half)
                    share = min(1.0, max(0.0, place - z))
                else:
                    share = _where_equal(sheets, x, y, here[0], here[1], z)
                _normal(sheets, x, y, here, z + share if axis == 2 else float(z), share, normals[made])
                at[made] = k + share
                leaving[made] = within
                made += 1


@compiled
def _where_equal(sheets, x, y, other_x, other_y, z):
    """Where between two columns the surface passes height `z`, as a share; both are taken as straight between them."""
    away, square = z - sheets.middle[x, y], sheets.square[x, y]
    moved = sheets.middle[other_x, other_y] - sheets.middle[x, y]
    grown = sheets.square[other_x, other_y] - square
    # (away - t moved)² = square + t grown
    a, b, c = moved * moved, -(2 * away * moved + grown), away * away - square
    if a < 1e-12:
        share = -c / b if b != 0 else 0.5
    else:
        under = np.sqrt(max(b * b - 4 * a * c, 0.0))
        q = -0.5 * (b + (under if b >= 0 else -under))
        share = q / a
        if not 0 <= share <= 1 and q != 0:
            share = c / q
    return min(1.0, max(0.0, share))


@compiled
def _normal(sheets, x, y, other, height, share, normal):
    """Outward, where the surface is `share` of the way between two columns."""
    one, two = 1 - share, share
    if other[0] == x and other[1] == y:
        one, two = 1.0, 0.0
    away = height - one * sheets.middle[x, y] - two * sheets.middle[other[0], other[1]]
    long = 0.0
    for along in range(2):
        middle = one * sheets.middle_slope[along, x, y] + two * sheets.middle_slope[along, other[0], other[1]]
        square = one * sheets.square_slope[along, x, y] + two * sheets.square_slope[along, other[0], other[1]]
        normal[along] = -2 * away * middle - square
        long += normal[along] ** 2
    normal[2] = 2 * away
    long = np.sqrt(long + normal[2] ** 2)
    for along in range(3):
        normal[along] = normal[along] / long if long > 0 else 0.0
