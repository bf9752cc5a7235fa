"""Error-bounded triangulation of a height grid by greedy insertion.

Garland and Heckbert, "Fast Polygonal Approximation of Terrains and Height Fields", CMU-CS-95-181 (1995): start with
two triangles, insert the sample that is furthest from the surface, restore the Delaunay property around it, repeat
until no sample is further away than the tolerance. Candidates wait in a heap; only new triangles are scanned.
"""

import time
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from nebrel.core.height.lines.drawn import FINE
from nebrel.core.height.lines.network import HeightLines
from nebrel.core.heightfield.greedy_insert import begin, insert_until, look
from nebrel.core.heightfield.greedy_lines import Cut, along_a_way, cut_along, insert_places
from nebrel.core.heightfield.greedy_scan import GridTarget, GrowingTriangles
from nebrel.core.heightfield.greedy_settle import LOOSER, settle
from nebrel.core.heightfield.tiles import Tile, side_by_side, tiles_of

Progress = Callable[[float], None]
# The first insertions look at the whole grid and are slow, later ones are fast; steps keep progress moving.
STEP_SECONDS = 0.15
FIRST_INSERTIONS = 32
MOST_INSERTIONS = 20_000
FLOAT32_MARGIN = 4e-7
_Reals = NDArray[np.float64]
_FLAT = np.empty((0, 0, 6), dtype=np.float32)
_NO_SLACK = np.empty(0, dtype=np.float32)


@dataclass(frozen=True)
class GridSurface:
    """Triangles over a grid of samples.

    Attributes:
        columns, rows: int32 (N,) grid position of every vertex, in steps of which there are `fine` to a sample; row 0
            is the top of the picture.
        faces: int32 (M, 3), turning from +column to +row, so clockwise once Y points up.
        levels: float32 (N,) mm, how high every vertex is.
        spots: float32 (N, 3) mm, where it lies over a bent grid; empty over a plane.
        fine: 1 where all vertices are samples.
        cut: what became of the lines that it was cut along; None without.
    """

    columns: NDArray[np.int32]
    rows: NDArray[np.int32]
    faces: NDArray[np.int32]
    levels: NDArray[np.float32]
    spots: NDArray[np.float32]
    fine: int = 1
    cut: Cut | None = None

    def border(self, shape: tuple[int, ...]) -> list[NDArray[np.int64]]:
        """Vertices along the bottom, right, top and left side of a grid of that shape, counter-clockwise once Y points
        up."""
        last_row, last_column = (shape[0] - 1) * self.fine, (shape[1] - 1) * self.fine
        sides = [
            (self.rows == last_row, self.columns),
            (self.columns == last_column, -self.rows),
            (self.rows == 0, -self.columns),
            (self.columns == 0, self.rows),
        ]
        chosen = [(np.flatnonzero(on_side), order) for on_side, order in sides]
        in_turn = [vertices[np.argsort(order[vertices], kind="stable")] for vertices, order in chosen]
        return in_turn if self.cut is None else [self._stepped(side) for side in in_turn]

    def _stepped(self, side: NDArray[np.int64]) -> NDArray[np.int64]:
        """The vertices of a side where it has steps: of two at one place the one first that the way there leads to."""
        same = (np.diff(self.columns[side]) == 0) & (np.diff(self.rows[side]) == 0)
        side = side.copy()
        for at in np.flatnonzero(same):
            # The triangle beside the side's part before the step holds both of that part's ends.
            joined = (self.faces == side[at - 1]).any(axis=1) & (self.faces == side[at]).any(axis=1)
            if not joined.any():
                side[at], side[at + 1] = side[at + 1], side[at]
        return side


@dataclass(frozen=True)
class Bent:
    """A grid whose samples lie anywhere.

    Attributes:
        places: float32 (H, W, 6), place and unit normal of every sample, mm; normals point to where the grid, seen with
            its rows downwards, turns clockwise.
        must: bool (H, W), samples that become vertices whatever their distance.
        tangential_slack: float32 (H,), mm that samples of a row may lie beside where their triangle has them, so that
            none folds.
        lines: rows and columns to start from, int64 rising, the outermost ones included.
        at: from columns, rows and heights, float64 (N,), to places, float64 (N, 3) mm, between samples too.
    """

    places: NDArray[np.float32]
    must: NDArray[np.bool_]
    tangential_slack: NDArray[np.float32]
    lines: tuple[NDArray[np.int64], NDArray[np.int64]]
    at: Callable[[_Reals, _Reals, _Reals], _Reals]


def triangulate_grid(
    heights: NDArray[np.float32],
    material: NDArray[np.bool_],
    tolerance: float,
    progress: Progress = lambda _: None,
    most_vertices: int | None = None,
    bent: Bent | None = None,
    lines: HeightLines | None = None,
    settled: bool = True,
) -> GridSurface:
    """Triangles over the whole grid with no material sample further than `tolerance` from them, vertically.

    Over a bent grid it is the distance along the normal of each sample that stays within the tolerance.

    Args:
        heights: float32 (H, W) mm, H and W from 2 to 16,384, finite everywhere.
        material: bool (H, W); samples outside it are free to be anywhere.
        tolerance: mm, above 0.
        progress: called with the fraction done, which never falls, several times a second. Work goes as the
            number of vertices, which goes about as one over the error and never passes that of the samples.
        most_vertices: where to stop, whatever the error is then; None for never.
        bent: where the samples lie, when that is not over a plane.
        lines: along which it is cut, at heights of their own. Samples that they leave free are not followed.
        settled: whether vertices over a plane are moved off their samples, within the tolerance, so that fewer do.
    """
    if bent is None and lines is None and most_vertices is None:
        bound = _bound(heights, tolerance)
        tiles = tiles_of(heights, material, float(bound))
        if len(tiles) > 1:
            return _in_tiles(tiles, heights, material, bound, tolerance, progress, settled)
    if lines is not None:
        heights, material = lines.heights, material & ~lines.free
    wanted = np.where(material, heights, np.float32(np.nan))
    places, extent, slack = _FLAT, heights, _NO_SLACK
    corners = starts = (np.array([0, heights.shape[0] - 1]), np.array([0, heights.shape[1] - 1]))
    if bent is not None:
        wanted[bent.must] = np.inf
        places = extent = bent.places
        slack, starts = bent.tangential_slack, bent.lines
    progress(0.0)
    bound = _bound(extent, tolerance)
    fine = 1 if lines is None else FINE
    target = GridTarget(heights, wanted, places, slack, bound, np.int64(fine))
    room = len(starts[0]) * len(starts[1]) + (0 if lines is None else 6 * len(lines.pieces))
    mesh = _start(min(heights.size, 2 * MOST_INSERTIONS) + room + 8, bent is not None)
    cut = None
    if lines is None:
        begin(target, *starts, mesh)
    else:
        begin(target, *corners, mesh)
        _insert_starts(target, starts, lines, mesh)
        nodes = np.round(lines.places * FINE).astype(np.int64)
        first = int(mesh.counts[0])
        cut = cut_along(mesh, nodes, lines.pieces, lines.beside)
        if bent is not None:
            made = slice(first, int(mesh.counts[0]))
            mesh.spots[made] = bent.at(
                mesh.columns[made] / FINE, mesh.rows[made] / FINE, mesh.levels[made].astype(np.float64)
            )
    settled = settled and bent is None and most_vertices is None
    return _grown(target, mesh, tolerance, float(np.ptp(extent)), progress, most_vertices, cut, settled)


def _bound(extent: NDArray[np.float32], tolerance: float) -> np.float32:
    """How far samples may be off, so much less than the tolerance as heights are rounded."""
    rounding = FLOAT32_MARGIN * float(max(extent.max(), -extent.min()))
    return np.float32(max(tolerance - rounding, tolerance * 0.5))


def _grown(
    target: GridTarget,
    mesh: GrowingTriangles,
    tolerance: float,
    span: float,
    progress: Progress,
    most_vertices: int | None = None,
    cut: Cut | None = None,
    settled: bool = True,
) -> GridSurface:
    """What becomes of triangles to begin with, by insertions until no sample is too far; `span` is that of heights.

    To have them `settled`, samples may be a little too far at first; then vertices, but for those to begin with, are
    moved, and insertions go on.
    """
    samples, bound = target.heights.size, target.bound
    look(target, mesh)
    progress(1 / samples)
    counts, first = mesh.counts, int(mesh.counts[0])
    first_error = max(min(float(mesh.error[mesh.heap[0]]), span), tolerance)
    reached, done, insertions = 0.0, False, FIRST_INSERTIONS
    loose = settled
    target = target._replace(bound=np.float32(LOOSER * bound) if loose else bound)
    while not done and (most_vertices is None or counts[0] < most_vertices):
        started = time.perf_counter()
        mesh = _with_room(mesh)
        counts = mesh.counts
        done = insert_until(target, insertions, mesh)
        if done and loose:
            target, loose, done = target._replace(bound=bound), False, False
            settle(target, first, mesh)
            look(target, mesh)
        worst = max(float(mesh.error[mesh.heap[0]]) if counts[3] else 0.0, tolerance)
        by_error = (1 / worst - 1 / first_error) / max(1 / tolerance - 1 / first_error, 1e-9)
        reached = max(reached, min(1.0, by_error), counts[0] / samples)
        progress(reached if not done else 1.0)
        pace = STEP_SECONDS / max(time.perf_counter() - started, 1e-6)
        insertions = int(min(MOST_INSERTIONS, max(FIRST_INSERTIONS, insertions * min(pace, 4.0))))
        if most_vertices is not None:
            insertions = max(1, min(insertions, most_vertices - int(counts[0])))
    vertices, triangles = int(counts[0]), int(counts[1])
    return GridSurface(
        columns=mesh.columns[:vertices].copy(),
        rows=mesh.rows[:vertices].copy(),
        faces=mesh.corners[: 3 * triangles].reshape(-1, 3).copy(),
        levels=mesh.levels[:vertices].copy(),
        spots=mesh.spots[:vertices].copy(),
        fine=int(target.fine),
        cut=cut,
    )


def _in_tiles(
    tiles: list[Tile],
    heights: NDArray[np.float32],
    material: NDArray[np.bool_],
    bound: np.float32,
    tolerance: float,
    progress: Progress,
    settled: bool,
) -> GridSurface:
    """The surface of tiles that share the vertices of their borders."""
    span = float(heights.max() - heights.min())
    progress(0.0)

    def grow(tile: Tile, follow: Progress) -> GridSurface:
        (top, bottom), (left, right) = tile.rows, tile.columns
        here = slice(top, bottom + 1), slice(left, right + 1)
        part = np.ascontiguousarray(heights[here])
        held = np.where(material[here], part, np.float32(np.nan))
        last_row, last_column = heights.shape[0] - 1, heights.shape[1] - 1
        # What lies on a border between tiles is chosen already.
        for inner, side in ((top > 0, held[0]), (bottom < last_row, held[-1])):
            side[:] = np.nan if inner else side
        for inner, side in ((left > 0, held[:, 0]), (right < last_column, held[:, -1])):
            side[:] = np.nan if inner else side
        target = GridTarget(part, held, _FLAT, _NO_SLACK, bound, np.int64(1))
        mesh = _start(min(part.size, 2 * MOST_INSERTIONS) + len(tile.border) + 8, False)
        begin(target, np.array([0, bottom - top]), np.array([0, right - left]), mesh)
        if len(tile.border):
            places = (tile.border - np.array([top, left], dtype=np.int64))[:, ::-1].copy()
            places = places[along_a_way(places)]
            made = insert_places(places, mesh)
            mesh.levels[made] = part[places[:, 1], places[:, 0]]
        return _grown(target, mesh, tolerance, span, follow, settled=settled)

    made = side_by_side(grow, tiles, progress)
    progress(1.0)
    return _joined(made, tiles, heights.shape)


def _joined(made: list[GridSurface], tiles: list[Tile], shape: tuple[int, ...]) -> GridSurface:
    """One surface of those of tiles; what two of them have at one place is one vertex."""
    rows = np.concatenate([each.rows + tile.rows[0] for each, tile in zip(made, tiles, strict=True)])
    columns = np.concatenate([each.columns + tile.columns[0] for each, tile in zip(made, tiles, strict=True)])
    firsts = np.cumsum([0, *(len(each.rows) for each in made)])
    # Only what lies on a border of its tile can be there twice.
    shared = np.flatnonzero(
        np.isin(rows, [tile.rows[0] for tile in tiles if tile.rows[0]])
        | np.isin(columns, [tile.columns[0] for tile in tiles if tile.columns[0]])
    )
    names = rows[shared].astype(np.int64) * shape[1] + columns[shared]
    _, first, same = np.unique(names, return_index=True, return_inverse=True)
    stands_for = np.arange(len(rows))
    stands_for[shared] = shared[first[same]]
    kept = stands_for == np.arange(len(rows))
    place = (np.cumsum(kept) - 1)[stands_for].astype(np.int32)
    return GridSurface(
        columns=columns[kept].astype(np.int32),
        rows=rows[kept].astype(np.int32),
        faces=np.concatenate([place[each.faces + begun] for each, begun in zip(made, firsts[:-1], strict=True)]),
        levels=np.concatenate([each.levels for each in made])[kept],
        spots=np.empty((0, 3), dtype=np.float32),
    )


def _insert_starts(
    target: GridTarget, starts: tuple[NDArray[np.int64], NDArray[np.int64]], lines: HeightLines, mesh: GrowingTriangles
) -> None:
    """Insert the samples where rows and columns to start from cross, but for the corners and those beside lines."""
    row, column = (side.ravel() for side in np.meshgrid(*starts, indexing="ij"))
    last_row, last_column = target.heights.shape[0] - 1, target.heights.shape[1] - 1
    chosen = ~lines.free[row, column] & ~(np.isin(row, [0, last_row]) & np.isin(column, [0, last_column]))
    places = np.column_stack([column[chosen], row[chosen]]).astype(np.int64)
    if not len(places):
        return
    places = places[along_a_way(places)]
    made = insert_places(places * FINE, mesh)
    mesh.levels[made] = target.heights[places[:, 1], places[:, 0]]
    if len(mesh.spots):
        mesh.spots[made] = target.places[places[:, 1], places[:, 0], :3]


def _start(vertices: int, bent: bool) -> GrowingTriangles:
    triangles = 2 * vertices
    return GrowingTriangles(
        columns=np.empty(vertices, dtype=np.int32),
        rows=np.empty(vertices, dtype=np.int32),
        levels=np.empty(vertices, dtype=np.float32),
        spots=np.empty((vertices if bent else 0, 3), dtype=np.float32),
        corners=np.empty(3 * triangles, dtype=np.int32),
        opposite=np.empty(3 * triangles, dtype=np.int32),
        candidate=np.empty(triangles, dtype=np.int32),
        error=np.empty(triangles, dtype=np.float32),
        heap=np.empty(triangles, dtype=np.int32),
        place=np.empty(triangles, dtype=np.int32),
        pending=np.empty(triangles, dtype=np.int32),
        counts=np.zeros(4, dtype=np.int64),
    )


def _with_room(mesh: GrowingTriangles) -> GrowingTriangles:
    """The same triangles, with space for one more step of insertions."""
    have = len(mesh.columns)
    if mesh.counts[0] + MOST_INSERTIONS + 8 <= have:
        return mesh
    larger = _start(max(have + have // 2, have + 2 * MOST_INSERTIONS), len(mesh.spots) > 0)
    arrays: zip[tuple[NDArray[Any], NDArray[Any]]] = zip(mesh, larger, strict=True)
    for old, new in arrays:
        new[: len(old)] = old
    return larger
