"""Any mesh held before a lamp: how much material of the wall nearest to the eye light has to pass."""

import math
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import BadValueError
from nebrel.core.jit import compiled
from nebrel.core.mesh import TriMesh

Side = Literal["top", "front"]


def likely_side(mesh: TriMesh) -> Side:
    """From where a lithophane is looked at: from above where it lies flat, else from the front."""
    wide, deep, tall = np.ptp(mesh.vertices, axis=0)
    return "top" if tall <= min(wide, deep) / 2 else "front"


def nearest_wall(mesh: TriMesh, side: Side, longest_px: int) -> NDArray[np.float32]:
    """Thickness of the wall nearest to the eye, float32 (rows, columns) mm; NaN beside the mesh.

    What lies along the line of sight is taken square to the side on which it leaves the wall, where light falls in.

    Args:
        mesh: closed, outward.
        side: where the eye is: above, z towards it and y up, or in front, -y towards it and z up.
        longest_px: pixels of the longer side.

    Raises:
        BadValueError: it has no extent as seen from there.
    """
    seen = mesh.vertices if side == "top" else mesh.vertices[:, [0, 2, 1]] * np.array([1, 1, -1])
    low, high = seen.min(axis=0), seen.max(axis=0)
    wide, tall = high[:2] - low[:2]
    if min(wide, tall) <= 0:
        raise BadValueError("The mesh has no extent as seen from there; a closed solid is needed.")
    pitch = max(wide, tall) / longest_px
    shape = max(1, math.ceil(tall / pitch)), max(1, math.ceil(wide / pitch))
    places = np.column_stack([(seen[:, 0] - low[0]) / pitch, (high[1] - seen[:, 1]) / pitch, seen[:, 2]])
    entry = np.full(shape, -np.inf)
    leave = np.full(shape, -np.inf)
    square = np.ones(shape)
    faces = mesh.faces.astype(np.int64)
    _cast(places, faces, 1.0 / pitch, True, entry, leave, square)
    _cast(places, faces, 1.0 / pitch, False, entry, leave, square)
    met = np.isfinite(entry) & np.isfinite(leave)
    thick = np.full(shape, np.nan, dtype=np.float32)
    thick[met] = (entry[met] - leave[met]) * square[met]
    return thick


@compiled
def _cast(places, faces, scale, entering, entry, leave, square):
    """Keep where each line of sight first enters, or where it first leaves after that and how steep that side is."""
    rows, columns = entry.shape
    for f in range(len(faces)):
        a, b, c = faces[f, 0], faces[f, 1], faces[f, 2]
        ax, ay, az = places[a, 0], places[a, 1], places[a, 2]
        ux, uy, uz = places[b, 0] - ax, places[b, 1] - ay, places[b, 2] - az
        vx, vy, vz = places[c, 0] - ax, places[c, 1] - ay, places[c, 2] - az
        area = ux * vy - uy * vx
        # Rows run downwards, so what faces the eye turns the other way round.
        if area == 0 or (area < 0) != entering:
            continue
        # Pixels in two ways and mm in the third: normals stretch the other way round.
        nx, ny, nz = (uy * vz - uz * vy) * scale, (uz * vx - ux * vz) * scale, area
        facing = abs(nz) / np.sqrt(nx * nx + ny * ny + nz * nz)
        x0, x1 = math.ceil(ax + min(0.0, ux, vx) - 0.5), math.floor(ax + max(0.0, ux, vx) - 0.5)
        y0, y1 = math.ceil(ay + min(0.0, uy, vy) - 0.5), math.floor(ay + max(0.0, uy, vy) - 0.5)
        for y in range(max(0, y0), min(rows - 1, y1) + 1):
            for x in range(max(0, x0), min(columns - 1, x1) + 1):
                dx, dy = x + 0.5 - ax, y + 0.5 - ay
                p, q = (dx * vy - dy * vx) / area, (ux * dy - uy * dx) / area
                if p < 0 or q < 0 or p + q > 1:
                    continue
                z = az + p * uz + q * vz
                if entering:
                    entry[y, x] = max(entry[y, x], z)
                elif z < entry[y, x] and z > leave[y, x]:
                    leave[y, x] = z
                    square[y, x] = facing
