"""A large grid as tiles that are triangulated beside each other, with borders that they share.

Borders come first: the samples that stay of each are chosen along it, so that none of the others is further from the
straight line between them than the tolerance. Both tiles begin with these and add none there, so they fit corner for
corner, whatever is done within.
"""

import threading
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor, wait
from dataclasses import dataclass
from itertools import pairwise
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from nebrel.core.cores import cores
from nebrel.core.jit import compiled

# Grids with fewer samples are one tile: what each begins with is looked at more than once.
LEAST_SAMPLES = 400_000
# A tile's samples, about.
TILE_SAMPLES = 2**22
POLL_SECONDS = 0.1
Progress = Callable[[float], None]
Made = TypeVar("Made")


@dataclass(frozen=True)
class Tile:
    """A part of a grid, with the samples of its borders.

    Attributes:
        rows, columns: of the grid, both ends included.
        border: int64 (N, 2), row and column in the grid of the vertices on its inner borders, corners of it left out.
    """

    rows: tuple[int, int]
    columns: tuple[int, int]
    border: NDArray[np.int64]


def tiles_of(heights: NDArray[np.float32], material: NDArray[np.bool_], bound: float) -> list[Tile]:
    """The tiles of a grid; one where it is small.

    Args:
        heights: float32 (H, W) mm, finite everywhere.
        material: bool (H, W); samples outside it are free to be anywhere.
        bound: how far a sample may be from the surface, mm.
    """
    rows, columns = heights.shape
    count = 1 if heights.size < LEAST_SAMPLES else max(2, round(heights.size / TILE_SAMPLES))
    down, across = _shape(count, rows, columns)
    row_cuts = np.unique(np.linspace(0, rows - 1, down + 1).round().astype(np.int64))
    column_cuts = np.unique(np.linspace(0, columns - 1, across + 1).round().astype(np.int64))
    level = {row: _kept_of(heights[row], material[row], column_cuts, bound) for row in row_cuts[1:-1].tolist()}
    upright = {
        column: _kept_of(heights[:, column], material[:, column], row_cuts, bound)
        for column in column_cuts[1:-1].tolist()
    }
    tiles = []
    for down_at, (top, bottom) in enumerate(_pairs(row_cuts)):
        for across_at, (left, right) in enumerate(_pairs(column_cuts)):
            sides = [np.empty((0, 2), dtype=np.int64)]
            for row in (top, bottom):
                if row in level:
                    kept = level[row][across_at]
                    sides.append(np.column_stack([np.full(len(kept), row), kept]))
            for column in (left, right):
                if column in upright:
                    kept = upright[column][down_at]
                    sides.append(np.column_stack([kept, np.full(len(kept), column)]))
            tiles.append(Tile((top, bottom), (left, right), np.concatenate(sides)))
    return tiles


def side_by_side(work: Callable[[Tile, Progress], Made], tiles: list[Tile], progress: Progress) -> list[Made]:
    """What `work` makes of every tile, in their order; tiles are worked on beside each other.

    `progress` is called by this thread only. What it raises ends the work.
    """
    reached, stop = np.zeros(len(tiles)), threading.Event()

    def follow(at: int, part: float) -> None:
        reached[at] = part
        if stop.is_set():
            raise InterruptedError

    with ThreadPoolExecutor(min(cores(), len(tiles))) as pool:
        tasks = [
            pool.submit(work, tile, lambda part, at=at: follow(at, part))  # type: ignore[misc]
            for at, tile in enumerate(tiles)
        ]
        try:
            while wait(tasks, POLL_SECONDS).not_done:
                progress(float(reached.mean()))
        except BaseException:
            stop.set()
            for task in tasks:
                task.cancel()
            raise
    return [task.result() for task in tasks]


def _shape(count: int, rows: int, columns: int) -> tuple[int, int]:
    """Down and across: about so many tiles, as square as they can be."""
    down = max(1, round(np.sqrt(count * rows / columns)))
    if count == 2:
        return (2, 1) if rows > columns else (1, 2)
    return down, max(1, round(count / down))


def _pairs(cuts: NDArray[np.int64]) -> list[tuple[int, int]]:
    return [(int(first), int(last)) for first, last in pairwise(cuts)]


def _kept_of(
    profile: NDArray[np.float32], held: NDArray[np.bool_], cuts: NDArray[np.int64], bound: float
) -> list[NDArray[np.int64]]:
    """The samples that stay of a border, between each two corners of tiles."""
    heights = np.ascontiguousarray(profile)
    wanted = np.where(held, heights, np.float32(np.nan))
    return [_kept(wanted, heights, first, last, bound) for first, last in _pairs(cuts)]


@compiled
def _kept(wanted, heights, first, last, bound):
    """Samples strictly between two ends of a profile that stay, rising: the furthest one first, until none is too far.

    Douglas and Peucker (1973), with vertical distances.
    """
    keep = np.zeros(last - first + 1, dtype=np.bool_)
    stack = [(first, last)]
    while stack:
        low, high = stack.pop()
        worst, at = bound, -1
        slope = (np.float64(heights[high]) - np.float64(heights[low])) / (high - low)
        for place in range(low + 1, high):
            if not np.isnan(wanted[place]):
                off = abs(np.float64(wanted[place]) - (np.float64(heights[low]) + slope * (place - low)))
                if off > worst:
                    worst, at = off, place
        if at >= 0:
            keep[at - first] = True
            stack.append((low, at))
            stack.append((at, high))
    return np.flatnonzero(keep) + first
