"""How much material stands along the normals of a form, everywhere on its sheet: what light has to pass."""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from nebrel.core.bent.bend import is_out_of_place, place_samples
from nebrel.core.bent.forms import Floats, Form
from nebrel.core.jit import compiled
from nebrel.core.mesh import TriMesh

# Samples lie off the middle of their cells by so much, so that rays do not meet vertices.
OFF_U, OFF_V = 0.0371, -0.0293
SPILL_PX = 1.5


def material_through(
    mesh: TriMesh, form: Form, shift: Floats, size_px: tuple[int, int], limit: float
) -> NDArray[np.float32]:
    """Material along the normal of the form at the cells of a grid over its sheet, float32 (rows, columns) mm.

    Every face is met by the rays of those cells that it lies over, each ray being a straight line through the form's
    surface; what lies between entering and leaving the solid is added up. Plücker coordinates of shared edges are the
    same for both of their faces, so no ray slips through between them.

    Args:
        mesh: closed, outward; as the form is placed, moved by `shift`.
        form: the form that the mesh was made over.
        shift: (3,) mm.
        size_px: rows and columns, row 0 at the top.
        limit: mm to either side of the surface beyond which nothing counts.
    """
    rows, columns = size_px
    points = np.ascontiguousarray(mesh.vertices - shift)
    at = form.unrolled(is_out_of_place(form, points))
    cell_u, cell_v = form.width / columns, form.height / rows
    place_x = at[:, 0] / cell_u
    place_y = (form.height - at[:, 1]) / cell_v
    u: Floats = (np.arange(columns, dtype=np.float64) + (0.5 + OFF_U)) * cell_u
    v: Floats = form.height - (np.arange(rows, dtype=np.float64) + (0.5 + OFF_V)) * cell_v
    origins = np.empty((rows, columns, 3))
    normals = np.empty((rows, columns, 3))
    for row in range(rows):
        base, normal, _ = form.at(u[np.newaxis, :], v[row : row + 1, np.newaxis])
        origins[row], normals[row] = place_samples(form, base)[0], place_samples(form, normal)[0]
    total = np.zeros((rows, columns))
    balance = np.zeros((rows, columns))
    placed = _OnSheet(points, mesh.faces.astype(np.int64), place_x, place_y, at[:, 2])
    _add_up(placed, _Lines(origins, normals, columns if form.around else 0), limit, total, balance)
    # A line that left without having entered began inside: it came from beyond the limit.
    made = total + np.where(balance > 0, limit * balance, 0) + np.where(balance < 0, -limit * balance, 0)
    return np.clip(made, 0, 2 * limit).astype(np.float32)


class _OnSheet(NamedTuple):
    """A mesh with the column, the row and the distance along the normal of every vertex on the unrolled sheet."""

    points: Floats
    faces: NDArray[np.int64]
    place_x: Floats
    place_y: Floats
    away: Floats


class _Lines(NamedTuple):
    """A line for every cell, float64 (rows, columns, 3) each; `around` is how many columns go round, 0 for none."""

    origins: Floats
    normals: Floats
    around: int


@compiled
def _side(points, a, b, o, d):
    """Plücker's product of a ray with the edge from a to b, whichever way round the edge is asked for."""
    low, high = min(a, b), max(a, b)
    p0, p1, p2 = points[low, 0] - o[0], points[low, 1] - o[1], points[low, 2] - o[2]
    q0, q1, q2 = points[high, 0] - o[0], points[high, 1] - o[1], points[high, 2] - o[2]
    side = d[0] * (p1 * q2 - p2 * q1) + d[1] * (p2 * q0 - p0 * q2) + d[2] * (p0 * q1 - p1 * q0)
    if side == 0.0:
        side = 1e-300
    return side if a == low else -side


@compiled
def _add_up(placed, lines, limit, total, balance):
    points, faces, place_x, place_y, away = placed
    origins, normals, around = lines
    rows, columns = total.shape
    for f in range(len(faces)):
        a, b, c = faces[f, 0], faces[f, 1], faces[f, 2]
        if min(away[a], away[b], away[c]) > limit or max(away[a], away[b], away[c]) < -limit:
            continue
        xa, xb, xc = place_x[a], place_x[b], place_x[c]
        if around and max(xa, xb, xc) - min(xa, xb, xc) > around / 2:
            xa += around if xa < around / 2 else 0
            xb += around if xb < around / 2 else 0
            xc += around if xc < around / 2 else 0
        left = int(np.floor(min(xa, xb, xc) - SPILL_PX))
        right = int(np.ceil(max(xa, xb, xc) + SPILL_PX))
        top = max(0, int(np.floor(max(-1e6, min(place_y[a], place_y[b], place_y[c])) - SPILL_PX)))
        bottom = min(rows - 1, int(np.ceil(min(1e6, max(place_y[a], place_y[b], place_y[c])) + SPILL_PX)))
        if not around:
            left, right = max(0, left), min(columns - 1, right)
        elif right - left >= around:
            left, right = 0, around - 1
        for y in range(top, bottom + 1):
            for turn in range(left, right + 1):
                x = turn % columns
                o, d = origins[y, x], normals[y, x]
                ab = _side(points, a, b, o, d)
                bc = _side(points, b, c, o, d)
                if (ab > 0) != (bc > 0):
                    continue
                ca = _side(points, c, a, o, d)
                if (bc > 0) != (ca > 0):
                    continue
                whole = ab + bc + ca
                if whole == 0.0:
                    continue
                reach = 0.0
                for axis in range(3):
                    met = (bc * points[a, axis] + ca * points[b, axis] + ab * points[c, axis]) / whole
                    reach += (met - o[axis]) * d[axis]
                leaving = 1.0 if whole > 0 else -1.0
                total[y, x] += leaving * min(max(reach, -limit), limit)
                balance[y, x] += leaving
