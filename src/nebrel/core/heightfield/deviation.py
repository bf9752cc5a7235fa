"""How far the upper side of a finished mesh is from the heights that were asked for, measured afterwards."""

import threading
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from nebrel.core.cores import cores
from nebrel.core.jit import compiled
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.surface_error import Deviation

ON_SAMPLE_PX = 1e-3
ON_EDGE_PX = 1e-9
EDGES_AT_ONCE, SAMPLES_AT_ONCE = 10_000, 2**23
SAMPLES_SHARE = 0.5
_SHORTEST = 1e-9


def measure_deviation(
    mesh: TriMesh,
    heights: NDArray[np.float32],
    material: NDArray[np.bool_],
    pitch: float,
    progress: Callable[[float], None] = lambda _: None,
    bilinear: bool = True,
    apart: NDArray[np.bool_] | None = None,
) -> Deviation:
    """Maximum and RMS over every material sample that lies under an upward face of `mesh`, in double precision.

    Where upward faces overlap, or meet at a sample, the worst of them counts. Samples that the mesh does not reach,
    such as those just outside a cut outline, do not count.

    Args:
        mesh: lower left corner of the grid at the origin, Y up, mm.
        heights: float32 (H, W) mm, asked, top row first.
        material: bool (H, W); other samples do not count.
        pitch: mm between samples.
        progress: called with the fraction done.
        bilinear: whether heights are asked between samples too, and not steps.
        apart: bool (H, W), samples beside lines along which heights jump, so that nothing is asked between them.
    """
    found = _measure(mesh, heights, material, pitch, lambda part: progress(part * SAMPLES_SHARE))
    if found.samples == 0:
        return Deviation(0.0, 0.0)
    largest = found.largest
    even = material if apart is None else material & ~apart
    between = max(largest, _largest_between(mesh, heights, even, pitch)) if bilinear else None
    progress(1.0)
    return Deviation(largest, float(np.sqrt(found.squares / found.samples)), max_between=between)


def deviation_of_faces(
    mesh: TriMesh, heights: NDArray[np.float32], material: NDArray[np.bool_], pitch: float
) -> NDArray[np.float64]:
    """The largest deviation of the samples over every face, float64 (M,) mm; NaN where there are none.

    Takes what `measure_deviation` takes.
    """
    worst = _measure(mesh, heights, material, pitch, lambda _: None).worst
    return np.where(worst >= 0, worst, np.nan)


class _Measured(NamedTuple):
    """How far samples are off: the largest of all, the sum of squares and the count, mm; and the largest of every face,
    float64 (M,), -1 where there is none."""

    largest: float
    squares: float
    samples: int
    worst: NDArray[np.float64]


class _OnGrid(NamedTuple):
    """Vertices in columns and rows of a grid, float64 (N,), and their heights, mm."""

    columns: NDArray[np.float64]
    rows: NDArray[np.float64]
    levels: NDArray[np.float64]


def _measure(
    mesh: TriMesh,
    heights: NDArray[np.float32],
    material: NDArray[np.bool_],
    pitch: float,
    progress: Callable[[float], None],
) -> _Measured:
    columns = on_samples(mesh.vertices[:, 0] / pitch)
    rows = on_samples(heights.shape[0] - 1 - mesh.vertices[:, 1] / pitch)
    vertices = _OnGrid(columns, rows, np.ascontiguousarray(mesh.vertices[:, 2]))
    workers = min(cores(), 8)
    # Bands of rows, each looked at by one thread, so that no two write to one sample, and never all of a large grid.
    count = max(workers, -(-heights.size // SAMPLES_AT_ONCE))
    bands = np.unique(np.linspace(0, heights.shape[0], min(count, heights.shape[0]) + 1).astype(np.int64))
    worst, lock = np.full(len(mesh.faces), -1.0), threading.Lock()

    def look(first: int, last: int) -> tuple[float, float, int]:
        away = np.full((last - first, heights.shape[1]), -1.0, dtype=np.float32)
        own = np.full(len(mesh.faces), -1.0)
        _rasterise(heights, material, vertices, mesh.faces, first, away, own)
        with lock:
            np.maximum(worst, own, out=worst)
        off = away[material[first:last] & (away >= 0)].astype(np.float64)
        return float(off.max(initial=0.0)), float(np.square(off).sum()), len(off)

    found = []
    with ThreadPoolExecutor(workers) as threads:
        for band in threads.map(look, bands[:-1].tolist(), bands[1:].tolist()):
            found.append(band)
            progress(len(found) / (len(bands) - 1))
    largest, squares, counts = zip(*found, strict=True)
    return _Measured(max(largest), sum(squares), sum(counts), worst)


def _largest_between(mesh: TriMesh, heights: NDArray[np.float32], material: NDArray[np.bool_], pitch: float) -> float:
    """The largest vertical distance from bilinear heights along the edges of all upward faces, mm.

    Over one cell a plane less a bilinear patch is a saddle, so it is largest on the border of each face's part of the
    cell: at a sample, where an edge of the face crosses a side of the cell, or within such a stretch of the edge, where
    it is a parabola. Together with the samples that is every place.
    """
    columns = on_samples(mesh.vertices[:, 0] / pitch)
    rows = on_samples(heights.shape[0] - 1 - mesh.vertices[:, 1] / pitch)
    levels = np.ascontiguousarray(mesh.vertices[:, 2])

    rising = _rising(columns, rows, mesh.faces)

    def largest(start: int) -> float:
        faces = mesh.faces[start : start + EDGES_AT_ONCE]
        return float(_along_edges(heights, material, columns, rows, levels, faces, rising))

    with ThreadPoolExecutor(min(cores(), 8)) as threads:
        return max(threads.map(largest, range(0, len(mesh.faces), EDGES_AT_ONCE)), default=0.0)


def on_samples(places: NDArray[np.float64]) -> NDArray[np.float64]:
    """Places that were samples before they were rounded to float32 are samples again."""
    nearest = np.round(places)
    return np.where(np.abs(places - nearest) < ON_SAMPLE_PX, nearest, places)


@compiled
def _rasterise(heights, material, vertices, faces, first_row, away, worst):
    """Rows from `first_row` on, as many as `away` has."""
    columns, rows, levels = vertices
    last_row, last_column = first_row + len(away) - 1, heights.shape[1] - 1
    for face in range(len(faces)):
        a, b, c = faces[face, 0], faces[face, 1], faces[face, 2]
        ax, ay, az = columns[a], rows[a], levels[a]
        ux, uy, uz = columns[b] - ax, rows[b] - ay, levels[b] - az
        vx, vy, vz = columns[c] - ax, rows[c] - ay, levels[c] - az
        area = uy * vx - ux * vy
        if area <= 1e-9:
            continue
        low_y, high_y = max(first_row, np.ceil(ay + min(0.0, uy, vy))), min(last_row, np.floor(ay + max(0.0, uy, vy)))
        for y in range(int(low_y), int(high_y) + 1):
            dy = y - ay
            left, right = ax + min(0.0, ux, vx), ax + max(0.0, ux, vx)
            for edge in range(3):
                if edge == 0:
                    start_x, start_y, run, rise = 0.0, 0.0, ux, uy
                elif edge == 1:
                    start_x, start_y, run, rise = ux, uy, vx - ux, vy - uy
                else:
                    start_x, start_y, run, rise = vx, vy, -vx, -vy
                if rise != 0:
                    crossing = ax + start_x + run * (dy - start_y) / rise
                    if rise < 0:
                        right = min(right, crossing)
                    else:
                        left = max(left, crossing)
            first, last = max(0, int(np.ceil(left - ON_EDGE_PX))), min(last_column, int(np.floor(right + ON_EDGE_PX)))
            for x in range(first, last + 1):
                dx = x - ax
                made = az + ((dy * vx - dx * vy) * uz + (uy * dx - ux * dy) * vz) / area
                off = abs(made - heights[y, x])
                away[y - first_row, x] = max(away[y - first_row, x], off)
                if material[y, x]:
                    worst[face] = max(worst[face], off)


@compiled
def _looks_up(columns, rows, a, b, c):
    return (rows[b] - rows[a]) * (columns[c] - columns[a]) - (columns[b] - columns[a]) * (rows[c] - rows[a]) > 1e-9


@compiled
def _rising(columns, rows, faces):
    """Of the edges of upward faces that run to a vertex with a higher number, where they end, by where they start.

    Gives where the ends of every vertex begin, int64 (N + 1,), and the ends.
    """
    first = np.zeros(len(columns) + 1, dtype=np.int64)
    for pass_over in range(2):
        if pass_over == 1:
            for v in range(len(columns)):
                first[v + 1] += first[v]
            ends, fill = np.empty(first[-1], dtype=np.uint32), first[:-1].copy()
        for face in range(len(faces)):
            a, b, c = faces[face, 0], faces[face, 1], faces[face, 2]
            if not _looks_up(columns, rows, a, b, c):
                continue
            for start, end in ((a, b), (b, c), (c, a)):
                if start < end and pass_over == 0:
                    first[start + 1] += 1
                elif start < end:
                    ends[fill[start]] = end
                    fill[start] += 1
    return first, ends


@compiled
def _is_there(rising, start, end):
    first, ends = rising
    at = first[start]
    while at < first[start + 1] and ends[at] != end:
        at += 1
    return at < first[start + 1]


@compiled
def _along_edges(heights, material, columns, rows, levels, faces, rising):
    """The largest along the edges of upward faces; one between two of them is looked at once."""
    worst = 0.0
    for face in range(len(faces)):
        a, b, c = faces[face, 0], faces[face, 1], faces[face, 2]
        if not _looks_up(columns, rows, a, b, c):
            continue
        for start, end in ((a, b), (b, c), (c, a)):
            if start > end and _is_there(rising, end, start):
                continue
            off = _along_edge(
                heights, material, (columns[start], rows[start], levels[start]), (columns[end], rows[end], levels[end])
            )
            worst = max(worst, off[0])
    return worst


@compiled
def worst_along_sides(heights, material, columns, rows, levels, sides):
    """How far bilinear heights are from each of some sides, int64 (K, 2), at the most, and at which share of it.

    Vertices lie at `columns` and `rows`, `levels` mm high, (N,) each. Gives float64 (K, 2): mm, and 0 to 1.
    """
    found = np.empty((len(sides), 2), dtype=np.float64)
    for k in range(len(sides)):
        start, end = sides[k, 0], sides[k, 1]
        found[k] = _along_edge(
            heights, material, (columns[start], rows[start], levels[start]), (columns[end], rows[end], levels[end])
        )
    return found


@compiled
def _along_edge(heights, material, start, end):
    """The largest distance along one straight line, cell by cell, and at which share of it."""
    dx, dy, dz = end[0] - start[0], end[1] - start[1], end[2] - start[2]
    worst, where, at = 0.0, 0.5, 0.0
    side_x, per_x = _first_side(start[0], dx)
    side_y, per_y = _first_side(start[1], dy)
    next_x, next_y = (side_x - start[0]) * per_x, (side_y - start[1]) * per_y
    while at < 1.0:
        following = min(next_x, next_y, 1.0)
        if next_x <= following + _SHORTEST:
            side_x += 1.0 if per_x > 0 else -1.0
            next_x = (side_x - start[0]) * per_x
        if next_y <= following + _SHORTEST:
            side_y += 1.0 if per_y > 0 else -1.0
            next_y = (side_y - start[1]) * per_y
        middle = (at + following) / 2
        column, row = np.floor(start[0] + middle * dx), np.floor(start[1] + middle * dy)
        r, c = int(row), int(column)
        if (
            0 <= r < heights.shape[0] - 1
            and 0 <= c < heights.shape[1] - 1
            and material[r, c]
            and material[r, c + 1]
            and material[r + 1, c]
            and material[r + 1, c + 1]
        ):
            # All four samples count, as nearly everywhere: they are read once for the three places.
            low = float(heights[r, c])
            wide, tall = float(heights[r, c + 1]) - low, float(heights[r + 1, c]) - low
            twist = float(heights[r + 1, c + 1]) - float(heights[r, c + 1]) - tall
            x, y, z = start[0] - column, start[1] - row, start[2] - low
            first = z + at * dz - (x + at * dx) * (wide + (y + at * dy) * twist) - (y + at * dy) * tall
            half = z + middle * dz - (x + middle * dx) * (wide + (y + middle * dy) * twist) - (y + middle * dy) * tall
            last = (
                z + following * dz - (x + following * dx) * (wide + (y + following * dy) * twist)
                - (y + following * dy) * tall
            )  # fmt: skip
        else:
            first, half, last = (
                _off_bilinear(heights, material, column, row, start, end, at),
                _off_bilinear(heights, material, column, row, start, end, middle),
                _off_bilinear(heights, material, column, row, start, end, following),
            )
        if not np.isnan(first + half + last):
            for share, off in ((at, first), (middle, half), (following, last)):
                if abs(off) > worst:
                    worst, where = abs(off), share
            bend, lean = 2 * (first + last) - 4 * half, 4 * half - 3 * first - last
            if bend != 0.0:
                peak = -lean / (2 * bend)
                if 0.0 < peak < 1.0 and abs(first + peak * (lean + peak * bend)) > worst:
                    worst, where = abs(first + peak * (lean + peak * bend)), at + peak * (following - at)
        at = following
    return worst, where


@compiled
def _first_side(start, step):
    """The first whole number that a line crosses after its start, and one over its step; never, where it stands."""
    if abs(step) < _SHORTEST:
        return start + 2.0, 1.0
    return (np.floor(start + _SHORTEST) + 1.0 if step > 0 else np.ceil(start - _SHORTEST) - 1.0), 1.0 / step


@compiled
def _off_bilinear(heights, material, column, row, start, end, at):
    """Made less asked height at a place of a line, by the four samples of a cell; NaN where one that counts is free."""
    x, y = start[0] + at * (end[0] - start[0]) - column, start[1] + at * (end[1] - start[1]) - row
    target = 0.0
    for i in range(2):
        for j in range(2):
            share = (x if j else 1.0 - x) * (y if i else 1.0 - y)
            if abs(share) < ON_EDGE_PX:
                continue
            r, c = int(row) + i, int(column) + j
            if r < 0 or c < 0 or r >= heights.shape[0] or c >= heights.shape[1] or not material[r, c]:
                return np.nan
            target += share * heights[r, c]
    return start[2] + at * (end[2] - start[2]) - target
