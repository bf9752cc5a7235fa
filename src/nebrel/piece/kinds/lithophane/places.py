"""Where a bent solid lies on its unrolled sheet."""

import math

import numpy as np
from numpy.typing import NDArray

from nebrel.core.bent.bend import is_out_of_place, laid, place_samples
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.distance import distances_to
from nebrel.core.mesh.shading import ShadedMesh
from nebrel.core.mesh.surface_error import Deviation
from nebrel.core.proof.transmitted_thickness import material_through
from nebrel.piece.kinds.lithophane.document import LithophaneDocument
from nebrel.piece.kinds.lithophane.sheet import Wanted, beside_lines, covered_mm, on_cells, tones_at

NEAR_MM, EDGEWISE = 0.05, 0.12
OF_SAMPLES = "to the nearest place of the mesh"
MOST_MEASURED = 200_000
REACHED_TIMES = 2.0
# Rays that look between samples, and how far from the form they count, in walls.
MOST_RAYS, REACH_TIMES = 4_000_000, 2.0


def places_on_sheet(
    wanted: Wanted, inside: bool, shift: NDArray[np.float64], shaded: ShadedMesh
) -> NDArray[np.float32]:
    """Where the vertices of a shaded solid lie on the unrolled sheet.

    Args:
        wanted: the sheet and its form.
        inside: whether thickness grows inwards.
        shift: float64 (3,) mm, what takes the form to where the solid is.
        shaded: the solid.

    Returns:
        float32 (N, 3): shares of its width and height from its lower left corner, and 1 where they belong to the sheet
        and face the viewer, -1 where they face the lamp, 0 elsewhere.
    """
    form = wanted.form
    at = form.unrolled(is_out_of_place(form, shaded.positions.astype(np.float64) - shift))
    away = -at[:, 2] if inside else at[:, 2]
    on = (away > -NEAR_MM) & (away < float(wanted.sheet.thickness.max()) + NEAR_MM)
    on &= (at[:, 1] > -NEAR_MM) & ((at[:, 1] < form.height + NEAR_MM) | form.pole)
    on &= (at[:, 0] > -NEAR_MM) & (at[:, 0] < form.width + NEAR_MM)
    u, v = np.clip(at[:, 0], 0, form.width), np.clip(at[:, 1], 0, form.height)
    out = place_samples(form, form.at(u, v)[1])
    facing = (out * shaded.normals).sum(axis=1)
    # Of what looks neither way, walls of the edges belong to no side, and steep places of the relief to its side.
    edge = (v < NEAR_MM) | ((v > form.height - NEAR_MM) & (not form.pole))
    edge |= ((u < NEAR_MM) | (u > form.width - NEAR_MM)) & (not form.around)
    steep = np.where(edge, 0.0, -1.0 if inside else 1.0)
    side = np.where(np.abs(facing) > EDGEWISE, np.sign(facing), steep)
    return np.column_stack([at[:, 0] / form.width, v / form.height, np.where(on, side, 0.0)]).astype(np.float32)


def split_at_seam(
    shaded: ShadedMesh, places: NDArray[np.float32], around: bool
) -> tuple[ShadedMesh, NDArray[np.float32]]:
    """Copies of those vertices that faces across the seam reach from the far side, 1 further along the sheet."""
    if not around:
        return shaded, places
    across = places[shaded.faces, 0]
    over = (across.max(axis=1) - across.min(axis=1)) > 0.5
    low = over[:, np.newaxis] & (across < 0.5)
    copied, position = np.unique(shaded.faces[low], return_inverse=True)
    faces = shaded.faces.copy()
    faces[low] = (len(places) + position).astype(np.uint32)
    moved = places[copied] + np.array([1, 0, 0], dtype=np.float32)
    split = ShadedMesh(
        np.vstack([shaded.positions, shaded.positions[copied]]),
        np.vstack([shaded.normals, shaded.normals[copied]]),
        faces,
    )
    return split, np.vstack([places, moved])


def lightened_error(
    wanted: Wanted, inside: bool, shift: NDArray[np.float64], made: TriMesh, lighter: TriMesh, tolerance: float
) -> Deviation:
    """How far a lighter wall is from the places that its samples ask for, which the wall reached before.

    Args:
        wanted, inside, shift: as for `places_on_sheet`.
        made: the wall before it was made lighter.
        lighter: after that.
        tolerance: mm, within which the wall was made.
    """
    every = max(1, math.isqrt(wanted.sheet.thickness.size // MOST_MEASURED))
    places = laid(wanted.sheet, wanted.form, -1.0 if inside else 1.0)[::every, ::every, :3].reshape(-1, 3)
    if wanted.sheet.lines is not None:
        places = places[~wanted.sheet.lines.free[::every, ::every].ravel()]
    asked = places.astype(np.float64) + shift
    # What openings took away, or parts cover, the wall did not reach.
    reached = distances_to(made, asked) <= REACHED_TIMES * tolerance
    off = distances_to(lighter, asked[reached])
    if not len(off):
        return Deviation(0.0, 0.0, OF_SAMPLES, "nowhere")
    return Deviation(float(off.max()), float(np.sqrt(np.mean(off**2))), OF_SAMPLES)


def largest_between(
    document: LithophaneDocument, wanted: Wanted, shift: NDArray[np.float64], mesh: TriMesh
) -> float | None:
    """How far a finished wall is off between samples too, mm: along its normals, by rays beside the samples.

    Thicknesses are bilinear between them. Only the picture is looked at; None where a part stands behind it.
    """
    if covered_mm(document) > 0:
        return None
    sheet, form = wanted.sheet, wanted.form
    rows, columns = (2 * (side - 1) for side in sheet.thickness.shape)
    scale = min(1.0, math.sqrt(MOST_RAYS / (rows * columns)))
    size = max(2, round(scale * rows)), max(2, round(scale * columns))
    through = material_through(mesh, form, shift, size, REACH_TIMES * float(sheet.thickness.max()))
    inside = np.isfinite(tones_at(wanted, size)) & (through > 0) & ~beside_lines(sheet, form, size)
    u = (np.arange(size[1]) + 0.5) * form.width / size[1]
    for place, clear in form.corners(float(sheet.thickness.max())):
        # Normals of two panels cross beside their mitre.
        inside[:, np.abs(u - place) <= clear + sheet.pitch] = False
    off = np.abs(through - on_cells(sheet, form, size))[inside]
    return round(float(off.max()), 6) if off.size else None
