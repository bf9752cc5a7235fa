"""How far places are from the edges of a region: exact, for very many places at once."""

from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.jit import compiled

SEGMENTS_A_CELL = 2.0
MOST_CELLS = 4_000_000


class Segments(NamedTuple):
    """Straight pieces, sorted into the cells of a grid that they pass.

    Attributes:
        ends: float64 (N, 4), where each begins and ends.
        first: int64 (C + 1,), of every cell the first of its entries in `listed`.
        listed: int32, pieces cell by cell.
        empty: int32 (rows, columns), how many cells away the nearest is that a piece passes.
        left, low, cell: of the grid.
    """

    ends: NDArray[np.float64]
    first: NDArray[np.int64]
    listed: NDArray[np.int32]
    empty: NDArray[np.int32]
    left: float
    low: float
    cell: float


def sorted_segments(begin: NDArray[np.float64], end: NDArray[np.float64]) -> Segments:
    """Pieces ready to be asked for the nearest.

    Args:
        begin, end: float64 (N, 2), at least one.
    """
    low = np.minimum(begin, end).min(axis=0)
    high = np.maximum(begin, end).max(axis=0)
    extent = np.maximum(high - low, 1e-9)
    length = float(np.hypot(*(end - begin).T).sum())
    # So large that few pieces pass a cell, and no finer than pieces are long.
    cell = max(SEGMENTS_A_CELL * length / len(begin), float(np.sqrt(extent[0] * extent[1] / MOST_CELLS)), 1e-9)
    columns, rows = (int(side / cell) + 1 for side in extent)
    ends = np.ascontiguousarray(np.column_stack([begin, end]))
    counts = np.zeros(rows * columns + 1, dtype=np.int64)
    pass_cells(ends, low[0], low[1], cell, rows, columns, counts, np.empty(0, dtype=np.int32), False)
    first = np.cumsum(counts)
    listed = np.empty(int(first[-1]), dtype=np.int32)
    pass_cells(ends, low[0], low[1], cell, rows, columns, first.copy(), listed, True)
    nothing = (np.diff(first) == 0).reshape(rows, columns)
    away = cv2.distanceTransform(nothing.astype(np.uint8), cv2.DIST_C, 3)
    return Segments(ends, first, listed, np.rint(away).astype(np.int32), float(low[0]), float(low[1]), cell)


def distances_from(segments: Segments, places: NDArray[np.float64], most: float = np.inf) -> NDArray[np.float64]:
    """Distances of places from the nearest piece, float64 (N,).

    Args:
        segments: of `sorted_segments`.
        places: float64 (N, 2).
        most: larger distances do not matter, and are told as this; it spares looking far.
    """
    found = np.empty(len(places))
    nearest_pieces(segments, np.ascontiguousarray(places, dtype=np.float64), most, found)
    return found


@compiled
def pass_cells(ends, left, low, cell, rows, columns, counts, listed, fill):
    """Count the pieces of every cell (one place further on), or list them; a piece counts in all cells of its box."""
    for i in range(len(ends)):
        c0 = int((min(ends[i, 0], ends[i, 2]) - left) / cell)
        c1 = int((max(ends[i, 0], ends[i, 2]) - left) / cell)
        r0 = int((min(ends[i, 1], ends[i, 3]) - low) / cell)
        r1 = int((max(ends[i, 1], ends[i, 3]) - low) / cell)
        for r in range(max(0, r0), min(rows - 1, r1) + 1):
            for c in range(max(0, c0), min(columns - 1, c1) + 1):
                at = r * columns + c
                if fill:
                    listed[counts[at]] = i
                    counts[at] += 1
                else:
                    counts[at + 1] += 1


@compiled
def nearest_pieces(segments, places, most, found):
    rows, columns = segments.empty.shape
    cell = segments.cell
    for i in range(len(places)):
        x, y = places[i, 0], places[i, 1]
        c = int(np.floor((x - segments.left) / cell))
        r = int(np.floor((y - segments.low) / cell))
        cc, rr = min(max(c, 0), columns - 1), min(max(r, 0), rows - 1)
        best = most * most
        # Beside the grid the nearest cell of it is asked first.
        outside = max(abs(c - cc), abs(r - rr))
        ring = max(0, segments.empty[rr, cc] - outside)
        limit = rows + columns + outside
        while ring <= limit:
            # What lies in a ring is at least so far away.
            reach = (ring - 1) * cell + min(
                x - segments.left - c * cell, (c + 1) * cell - (x - segments.left),
                y - segments.low - r * cell, (r + 1) * cell - (y - segments.low),
            )  # fmt: skip
            if reach > 0 and reach * reach >= best:
                break
            best = ring_of_cells(segments, x, y, r, c, ring, best)
            ring += 1
        found[i] = np.sqrt(best)


@compiled
def ring_of_cells(segments, x, y, r, c, ring, best):
    rows, columns = segments.empty.shape
    for rr in range(max(0, r - ring), min(rows - 1, r + ring) + 1):
        edge = rr == r - ring or rr == r + ring
        step = 1 if edge or ring == 0 else 2 * ring
        for cc in range(c - ring, c + ring + 1, step):
            if cc < 0 or cc >= columns:
                continue
            at = rr * columns + cc
            for k in range(segments.first[at], segments.first[at + 1]):
                best = min(best, squared_to(segments.ends, segments.listed[k], x, y))
    return best


@compiled
def squared_to(ends, i, x, y):
    dx, dy = ends[i, 2] - ends[i, 0], ends[i, 3] - ends[i, 1]
    length = dx * dx + dy * dy
    part = 0.0 if length == 0 else ((x - ends[i, 0]) * dx + (y - ends[i, 1]) * dy) / length
    part = min(1.0, max(0.0, part))
    ax, ay = ends[i, 0] + part * dx - x, ends[i, 1] + part * dy - y
    return ax * ax + ay * ay
