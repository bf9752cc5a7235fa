"""A sheet bent over a form: a closed wall whose thickness along the form's normal is true everywhere."""

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from nebrel.core.bent.forms import Flat, Floats, Form
from nebrel.core.bent.off_samples import add_height_off, add_off
from nebrel.core.bent.sheet import Sheet
from nebrel.core.heightfield.between import Lined, held_between
from nebrel.core.heightfield.greedy import Bent, GridSurface, triangulate_grid
from nebrel.core.heightfield.greedy_scan import LEAST_FACING
from nebrel.core.heightfield.line_walls import walls_along
from nebrel.core.heightfield.wall import triangulate_wall
from nebrel.core.jit import compiled
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.compact import drop_unused
from nebrel.core.mesh.surface_error import Deviation

Progress = Callable[[str, float], None]
# Shares of the tolerance for the relief and for the smooth side; the rest is for what lies between samples.
RELIEF_SHARE, SMOOTH_SHARE, SEAM_SHARE = 0.7, 0.2, 0.3
FLAT_RELIEF_SHARE = 0.95
# The triangulation starts from lines so far apart that chords take this share of the tolerance; strips that are
# straight one way are made of such lines alone.
CHORD_SHARE = 3.0
# Of the pitch: how far samples may lie beside where their triangle has them.
SLACK_SHARE = 0.25
# Larger cells to start from would only be scanned again and again.
CELL_PX = 24
ROWS_AT_ONCE = 128
WALL_EDGE_MM = 10.0
_NOWHERE = np.empty(0)


@dataclass(frozen=True)
class BentWall:
    """A made wall.

    Attributes:
        mesh: closed, outward, in the frame of `placed`.
        deviation: of the thickness along the normal from what was asked, over all samples.
    """

    mesh: TriMesh
    deviation: Deviation


class _Points(NamedTuple):
    """Places over a sheet: u, v and thickness, float64 (N,) each."""

    u: Floats
    v: Floats
    thickness: Floats


def bend(
    sheet: Sheet,
    form: Form,
    inside: bool,
    tolerance: float,
    progress: Progress = lambda _stage, _fraction: None,
    most_vertices: int | None = None,
    between: bool = False,
) -> BentWall:
    """The wall of a sheet over a form.

    Both sides are triangulated by greedy insertion with distances taken along the form's normals where the samples
    really lie, so the chords of the bend are part of the error that is bounded. Sides that meet share the vertices of
    their seam.

    Args:
        sheet: as wide and high as the form.
        form: what it is bent over; its surface is the smooth side.
        inside: whether thickness grows inwards, away from the viewer, and not outwards.
        tolerance: largest error of the thickness along the normal, mm.
        progress: called with stage name and fraction.
        most_vertices: where to stop on the relief, whatever the error is then; for looking only.
        between: whether the relief is held between samples too, where thicknesses are bilinear; of flat walls only, as
            sides that are turned for it would cross mitres and lengthen chords.
    """
    way = -1.0 if inside else 1.0
    shape = sheet.thickness.shape
    off = np.zeros(shape, dtype=np.float32)
    target = np.ones(shape, dtype=bool)
    if form.around:
        target[:, [0, -1]] = False
    asked = np.ones(shape, dtype=bool) if sheet.lines is None else ~sheet.lines.free

    def relief_side() -> GridSurface:
        share = RELIEF_SHARE if math.isfinite(form.chords(tolerance)[0]) else FLAT_RELIEF_SHARE

        def told(part: float) -> None:
            progress("Triangulating", part)

        if isinstance(form, Flat) and sheet.even:
            made = triangulate_grid(sheet.thickness, target, share * tolerance, told, most_vertices, lines=sheet.lines)
            add_height_off(sheet.thickness, made, asked, off)
            return made
        places = laid(sheet, form, way)
        must = _must(sheet, form, way, tolerance)
        bent = _bent(places, sheet, form, must, share * tolerance, CELL_PX, way)
        made = triangulate_grid(sheet.thickness, target, share * tolerance, told, most_vertices, bent, sheet.lines)
        add_off(places, made, asked, off)
        return made

    relief = relief_side()
    smooth, smooth_off = _smooth_side(sheet, form, target, tolerance, progress)
    off += smooth_off
    progress("Closing the wall", 0.0)
    top, back = _points(sheet, form, way, relief), _points(sheet, form, 0.0, smooth)
    faces = relief.faces
    if between and isinstance(form, Flat):
        more, faces = _held(sheet, relief, FLAT_RELIEF_SHARE * tolerance)
        top = np.vstack([top, _place(form, way, *more)])
    mesh = _close(sheet, form, way, replace(relief, faces=faces), top, smooth, back)
    rms = float(np.sqrt(np.mean(np.square(off, dtype=np.float64))))
    return BentWall(mesh, Deviation(float(off.max()), rms, "along the normals of the form, before parts are joined"))


def _smooth_side(
    sheet: Sheet, form: Form, target: NDArray[np.bool_], tolerance: float, progress: Progress
) -> tuple[GridSurface, NDArray[np.float32]]:
    """The side without relief, and how far it is off; where rows are alike, only those with vertices are looked at."""
    must = _must(sheet, form, 0.0, tolerance)
    rows = np.arange(len(sheet.v))
    part = replace(sheet, lines=None)
    if form.lifted:
        rows = np.flatnonzero(must.any(axis=1) | np.isin(rows, [0, len(rows) - 1]))
        part = replace(part, v=sheet.v[rows], thickness=sheet.thickness[rows])
    places = laid(part, form, 0.0)
    bent = _bent(places, part, form, must[rows], SMOOTH_SHARE * tolerance, None, 0.0)
    if form.lifted and not form.around:
        # Some vertices along the open edges keep the walls there from being slivers: they are lines to start from.
        edge = _spread(sheet.u, WALL_EDGE_MM) if isinstance(form, Flat) else np.empty(0, dtype=np.int64)
        bent = replace(bent, lines=(np.arange(len(rows)), np.union1d(bent.lines[1], edge)))
    made = triangulate_grid(
        np.zeros(part.thickness.shape, dtype=np.float32), target[rows], SMOOTH_SHARE * tolerance,
        lambda done: progress("Triangulating the smooth side", done), None, bent,
    )  # fmt: skip
    off = np.zeros(part.thickness.shape, dtype=np.float32)
    add_off(places, made, np.ones(off.shape, dtype=bool), off)
    if form.lifted:
        off = off.max(axis=0, keepdims=True)
    return replace(made, rows=rows[made.rows].astype(np.int32)), off


def _points(sheet: Sheet, form: Form, way: float, surface: GridSurface) -> Floats:
    """Places of the vertices, (N, 3) mm, rounded to float32 as they are laid."""
    columns, rows = surface.columns / surface.fine, surface.rows / surface.fine
    if form.around:
        columns = np.where(columns == len(sheet.u) - 1, 0, columns)
    return _place(form, way, *_along(sheet, columns, rows), surface.levels)


def _along(sheet: Sheet, columns: Floats, rows: Floats) -> tuple[Floats, Floats]:
    """Where on the sheet places between its lines lie, u and v in mm."""
    return np.interp(columns, np.arange(len(sheet.u)), sheet.u), np.interp(rows, np.arange(len(sheet.v)), sheet.v)


def _place(form: Form, way: float, u: Floats, v: Floats, thickness: NDArray[np.floating]) -> Floats:
    """Places over a sheet, (N, 3) mm, `way` times their thickness from the form, rounded to float32."""
    base, _, grow = form.at(u, v)
    if way:
        base = base + grow * (way * thickness[:, np.newaxis])
    return place_samples(form, base).astype(np.float32).astype(np.float64)


def _held(sheet: Sheet, relief: GridSurface, tolerance: float) -> tuple[_Points, NDArray[np.int32]]:
    """Points that the relief needs between samples, and its faces with them; they come after its own."""
    last_row, count = len(sheet.v) - 1, len(relief.rows)
    columns, rows = relief.columns / relief.fine, relief.rows / relief.fine
    seen = np.column_stack([columns, last_row - rows, relief.levels]).astype(np.float64)
    top = TriMesh(seen, relief.faces[:, [0, 2, 1]].astype(np.uint32))
    asked, lined = np.ones(sheet.thickness.shape, dtype=np.bool_), None
    if sheet.lines is not None and relief.cut is not None:
        asked = ~sheet.lines.free
        lined = Lined(relief.cut.ends.reshape(-1, 2).astype(np.int64), sheet.lines.crossed)
    fine = held_between(top, sheet.thickness, asked, 1.0, tolerance, False, lined)
    column, up, thickness = fine.vertices[count:].T
    return _Points(*_along(sheet, column, last_row - up), thickness), fine.faces[:, [0, 2, 1]].astype(np.int32)


def place_samples(form: Form, points: Floats) -> Floats:
    """From the frame of a form to that of the piece: what stands is turned so that it stands on z = const."""
    if not form.standing:
        return points
    return np.stack([points[..., 0], -points[..., 2], points[..., 1]], axis=-1)


def is_out_of_place(form: Form, points: Floats) -> Floats:
    """The way back from `placed`."""
    if not form.standing:
        return points
    return np.stack([points[..., 0], points[..., 2], -points[..., 1]], axis=-1)


def laid(sheet: Sheet, form: Form, way: float) -> NDArray[np.float32]:
    """Place and normal of every sample, float32 (H, W, 6), `way` times its thickness from the form."""
    made = np.empty((*sheet.thickness.shape, 6), dtype=np.float32)
    if form.lifted:
        base, normals, grow = (place_samples(form, row[0]) for row in form.at(sheet.u[np.newaxis, :], np.zeros((1, 1))))
        up = place_samples(form, np.array([0.0, 1.0, 0.0]))
        _lift(base, normals, grow * way, up, sheet.v, sheet.thickness, made)
        if form.around:
            made[:, -1] = made[:, 0]
        return made
    for start in range(0, len(sheet.v), ROWS_AT_ONCE):
        part = slice(start, start + ROWS_AT_ONCE)
        base, normals, grow = form.at(sheet.u[np.newaxis, :], sheet.v[part, np.newaxis])
        if way:
            base = base + grow * (way * sheet.thickness[part, :, np.newaxis])
        made[part, :, :3] = place_samples(form, base)
        made[part, :, 3:] = place_samples(form, normals)
    if form.around:
        made[:, -1] = made[:, 0]
    return made


def _bent(
    places: NDArray[np.float32],
    sheet: Sheet,
    form: Form,
    must: NDArray[np.bool_],
    tolerance: float,
    cell_px: int | None,
    way: float,
) -> Bent:
    across, up = form.chords(tolerance)
    if cell_px is not None or math.isfinite(up):
        across, up = form.chords(CHORD_SHARE * tolerance)
    most = math.inf if cell_px is None else cell_px * sheet.pitch
    corners = np.array([place for place, _ in form.corners(0.0)])
    lines = _from(sheet.v, min(up, most)), _from(sheet.u, min(across, most), corners)
    slack = (SLACK_SHARE * sheet.pitch * form.scale(sheet.v)).astype(np.float32)

    def at(columns: Floats, rows: Floats, levels: Floats) -> Floats:
        return _place(form, way, *_along(sheet, columns, rows), levels)

    return Bent(places, must, slack, lines, at)


def _from(lines: Floats, most: float, corners: Floats = _NOWHERE) -> NDArray[np.int64]:
    """Lines to start from: the outermost, those nearest to corners, and others no more than `most` mm apart."""
    along = np.abs(lines - lines[0])
    stops = np.unique([0, len(lines) - 1, *(np.abs(lines - corner).argmin() for corner in corners)]).astype(np.int64)
    if not math.isfinite(most):
        return stops
    chosen = [0]
    for stop in stops[1:].tolist():
        while along[stop] - along[chosen[-1]] > most:
            further = int(np.searchsorted(along, along[chosen[-1]] + most, side="right")) - 1
            chosen.append(max(further, chosen[-1] + 1))
        if chosen[-1] != stop:
            chosen.append(stop)
    return np.array(chosen, dtype=np.int64)


def _must(sheet: Sheet, form: Form, way: float, tolerance: float) -> NDArray[np.bool_]:
    """Samples that become vertices: those of the seam, and along straight open edges of the smooth side some."""
    must = np.zeros(sheet.thickness.shape, dtype=bool)
    if form.around:
        seam = _seam_rows(sheet, form, way, SEAM_SHARE * tolerance)
        must[:, 0] = must[:, -1] = seam
    elif way == 0:
        must[_spread(sheet.v, WALL_EDGE_MM)[:, np.newaxis], [0, -1]] = True
    if way == 0 and isinstance(form, Flat):
        must[[[0], [-1]], _spread(sheet.u, WALL_EDGE_MM)] = True
    return must


def _spread(lines: Floats, every: float) -> NDArray[np.int64]:
    length = abs(float(lines[-1] - lines[0]))
    at = np.linspace(lines[0], lines[-1], max(1, round(length / every)) + 1)
    nearest: NDArray[np.int64] = np.abs(lines[:, np.newaxis] - at).argmin(axis=0)
    return nearest


def _seam_rows(sheet: Sheet, form: Form, way: float, slack: float) -> NDArray[np.bool_]:
    """Rows of the seam of one side between which it is straight within `slack` mm along its normals."""
    kept = np.zeros(len(sheet.v), dtype=bool)
    kept[[0, -1]] = True
    base, normals, grow = form.at(sheet.u[:1], sheet.v)
    points = base + grow * (way * sheet.thickness[:, :1])
    waiting = [(0, len(points) - 1)]
    while waiting:
        first, last = waiting.pop()
        if last - first < 2:
            continue
        chord = points[last] - points[first]
        chord = chord / max(float(np.linalg.norm(chord)), 1e-12)
        between = slice(first + 1, last)
        apart = points[between] - points[first]
        aside = apart - (apart @ chord)[:, np.newaxis] * chord
        square = np.linalg.norm(aside, axis=1)
        facing = np.abs((aside * normals[between]).sum(axis=1)) / np.maximum(square, 1e-12)
        away = square / np.maximum(facing, float(LEAST_FACING))
        worst = int(away.argmax())
        if away[worst] > slack:
            kept[first + 1 + worst] = True
            waiting += [(first, first + 1 + worst), (first + 1 + worst, last)]
    return kept


def _close(
    sheet: Sheet, form: Form, way: float, relief: GridSurface, top: Floats, smooth: GridSurface, back: Floats
) -> TriMesh:
    last_row, last_column = len(sheet.v) - 1, len(sheet.u) - 1
    upper_sides = relief.border((last_row + 1, last_column + 1))
    lower_sides = smooth.border((last_row + 1, last_column + 1))
    count = len(top)
    faces = [relief.faces[:, [0, 2, 1]].astype(np.int64), smooth.faces.astype(np.int64) + count]
    if relief.cut is not None:
        faces.append(walls_along(relief.cut, relief.levels).astype(np.int64))
    for side, (upper, lower) in enumerate(zip(upper_sides, lower_sides, strict=True)):
        if (form.around and side in (1, 3)) or (form.pole and side == 2):
            continue
        along_upper, along_lower = (
            _along(sheet, surface.columns[chain] / surface.fine, surface.rows[chain] / surface.fine)[side % 2]
            * (1 if side < 2 else -1)
            for surface, chain in ((relief, upper), (smooth, lower))
        )
        thick = relief.levels[upper].astype(np.float64)
        local = triangulate_wall(along_lower, np.zeros(len(lower)), along_upper, thick)
        faces.append(np.concatenate([lower + count, upper])[local])
    points = np.vstack([top, back])
    if form.pole:
        tip = float(sheet.thickness[0].mean())
        ends = place_samples(form, form.pole_place + np.array([[0.0, way * tip, 0.0], [0.0, 0.0, 0.0]]))
        points = np.vstack([points, ends.astype(np.float32).astype(np.float64)])
        for chain, end, turned in ((upper_sides[2], 0, True), (lower_sides[2] + count, 1, False)):
            fan = np.column_stack([chain[:-1], chain[1:], np.full(len(chain) - 1, len(points) - 2 + end)])
            faces.append(fan[:, [1, 0, 2]] if turned else fan)
    made = np.vstack(faces)
    if form.around:
        made = _sew(relief, smooth, last_column, (count, len(points)))[made]
    if way < 0:
        made = made[:, [0, 2, 1]]
    mesh, _ = drop_unused(TriMesh(points, relief.faces.astype(np.uint32)), made)
    return mesh


def _sew(relief: GridSurface, smooth: GridSurface, last_column: int, counts: tuple[int, int]) -> NDArray[np.int64]:
    """For every vertex the one that stands for it: those of the right edge become those of the left.

    Args:
        counts: where the vertices of the smooth side begin, and how many there are in all.
    """
    stands_for = np.arange(counts[1])
    for surface, start in ((relief, 0), (smooth, counts[0])):
        left = np.flatnonzero(surface.columns == 0)
        right = np.flatnonzero(surface.columns == last_column * surface.fine)
        left, right = left[np.argsort(surface.rows[left])], right[np.argsort(surface.rows[right])]
        stands_for[right + start] = left + start
    return stands_for


@compiled
def _lift(base, normals, grow, up, v, thickness, made):
    """Places and normals of a grid whose rows are alike: each lies `v` higher, and out by its thickness."""
    for y in range(len(v)):
        for x in range(len(base)):
            for axis in range(3):
                made[y, x, axis] = base[x, axis] + up[axis] * v[y] + grow[x, axis] * thickness[y, x]
                made[y, x, 3 + axis] = normals[x, axis]
