"""A triangulated grid made true between its samples, too."""

from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from nebrel.core.cores import cores
from nebrel.core.heightfield.deviation import deviation_of_faces, on_samples, worst_along_sides
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.split import sides_apart, split_sides, turn_flat_sides

MOST_ROUNDS = 60
SIDES_AT_ONCE = 50_000
# No side is parted nearer to its end.
LEAST_SHARE = 0.08
NEAREST_PX = 0.05
_Reals = NDArray[np.float64]
_Ints = NDArray[np.int64]


@dataclass(frozen=True)
class Lined:
    """Lines that triangles over a grid are cut along.

    Attributes:
        sides: int64 (K, 2), vertices of sides that lie on them, which are never parted.
        apart: bool (H, W), samples beside which a line passes, so that nothing is asked between them.
    """

    sides: _Ints
    apart: NDArray[np.bool_]


def held_between(
    top: TriMesh,
    heights: NDArray[np.float32],
    material: NDArray[np.bool_],
    pitch: float,
    tolerance: float,
    border: bool = True,
    lined: Lined | None = None,
) -> TriMesh:
    """The triangles over a grid, with points added on their sides until bilinear heights are nowhere further than
    `tolerance` from them.

    A plane less a bilinear patch is a saddle, so it is enough to look along sides, each of which is parted where it is
    furthest off, and at samples: faces that are off there are parted across their longest side. Sides along the grid's
    border are as true between samples as at them, and stay.

    Args:
        top: over the grid, its lower left corner at the origin, Y up, mm.
        heights: float32 (H, W) mm, top row first.
        material: bool (H, W); elsewhere nothing is asked.
        pitch: mm between samples.
        tolerance: mm.
        border: whether sides along the outermost rows and columns may be parted too.
        lined: the lines that the triangles are cut along.

    Returns:
        The same, its own vertices first and in their order.
    """
    rows, columns = heights.shape
    even = material if lined is None else material & ~lined.apart
    for _ in range(MOST_ROUNDS):
        sides = _sides(top.faces)
        across, down = on_samples(top.vertices[:, 0] / pitch), on_samples(rows - 1 - top.vertices[:, 1] / pitch)
        levels = np.ascontiguousarray(top.vertices[:, 2])

        def look(start: int, sides: _Ints = sides, x: _Reals = across, y: _Reals = down, z: _Reals = levels) -> _Reals:
            return np.asarray(worst_along_sides(heights, even, x, y, z, sides[start : start + SIDES_AT_ONCE]))

        with ThreadPoolExecutor(max_workers=min(8, cores())) as threads:
            found = np.concatenate(list(threads.map(look, range(0, len(sides), SIDES_AT_ONCE))))
        found[:, 1] = np.clip(found[:, 1], LEAST_SHARE, 1 - LEAST_SHARE)
        stays = np.zeros(len(sides), dtype=np.bool_) if border else _outermost(top, sides, heights.shape, pitch)
        if lined is not None:
            stays |= _among(sides, lined.sides, len(top.vertices))
        found[stays] = 0.0
        _across_faces(top, deviation_of_faces(top, heights, material, pitch), (sides, stays), tolerance, found)
        off = np.flatnonzero(found[:, 0] > tolerance)
        flat = _parted(top, sides[off], found[off, 1:])
        if not border:
            # A side that ends at the border is not parted again and again towards it.
            clear = _clear_of_border(flat, heights.shape, pitch)
            off, flat = off[clear], flat[clear]
        if not len(off):
            break
        chosen = sides_apart(top, sides[off], found[off, 0])
        off, flat = off[chosen], flat[chosen]
        column, row = flat[:, 0] / pitch, rows - 1 - flat[:, 1] / pitch
        level = _bilinear(heights, np.clip(column, 0, columns - 1), np.clip(row, 0, rows - 1))
        top, _ = split_sides(top, sides[off], np.column_stack([flat, level.astype(np.float32)]))
        top = replace(top, faces=_turned(top))
    return top


def _turned(top: TriMesh) -> NDArray[np.uint32]:
    """Faces that are as round as they can be, seen from above."""
    seen = np.column_stack([top.vertices[:, :2], np.zeros(len(top.vertices))])
    upwards = np.broadcast_to(np.array([0.0, 0.0, 1.0]), (len(top.faces), 3))
    return turn_flat_sides(seen, top.faces.astype(np.int64), upwards)[0].astype(np.uint32)


def _outermost(top: TriMesh, sides: _Ints, shape: tuple[int, ...], pitch: float) -> NDArray[np.bool_]:
    """Which sides lie along an outermost row or column."""
    column, up = on_samples(top.vertices[:, 0] / pitch), on_samples(top.vertices[:, 1] / pitch)
    lines = np.stack([column <= 0, column >= shape[1] - 1, up <= 0, up >= shape[0] - 1], axis=1)
    return np.asarray((lines[sides[:, 0]] & lines[sides[:, 1]]).any(axis=1))


def _parted(top: TriMesh, sides: _Ints, share: _Reals) -> _Reals:
    """Where sides are parted at a share of each, float64 (K, 2) mm, as float32 holds it."""
    flat = (1 - share) * top.vertices[sides[:, 0], :2] + share * top.vertices[sides[:, 1], :2]
    return np.asarray(flat.astype(np.float32).astype(np.float64))


def _clear_of_border(flat: _Reals, shape: tuple[int, ...], pitch: float) -> NDArray[np.bool_]:
    """Which places, float64 (N, 2) mm, lie within a grid by more than a trace of a sample."""
    last = (np.array(shape[::-1]) - 1) * pitch
    return np.asarray(np.minimum(flat, last - flat).min(axis=1) > NEAREST_PX * pitch)


def _among(sides: _Ints, others: _Ints, count: int) -> NDArray[np.bool_]:
    """Which sides are among others, whichever end comes first."""
    return np.isin(sides[:, 0] * count + sides[:, 1], others.min(axis=1) * count + others.max(axis=1))


def _across_faces(
    top: TriMesh, error: _Reals, given: tuple[_Ints, NDArray[np.bool_]], tolerance: float, found: _Reals
) -> None:
    """Have faces that are off at samples parted in the middle of their longest side; `found` is changed.

    Args:
        given: all sides, and which of them are not parted.
    """
    sides, stays = given
    bad = np.flatnonzero(error > tolerance)
    starts = top.faces[bad].astype(np.int64)
    ends = np.roll(starts, -1, axis=1)
    lengths = np.linalg.norm((top.vertices[ends] - top.vertices[starts])[..., :2], axis=2)
    count = len(top.vertices)
    key = np.minimum(starts, ends) * count + np.maximum(starts, ends)
    number = np.searchsorted(sides[:, 0] * count + sides[:, 1], key)
    longest = np.where(stays[number], -1.0, lengths).argmax(axis=1)
    each = np.arange(len(bad))
    at = number[each, longest]
    bad, at = bad[~stays[at]], at[~stays[at]]
    fresh = found[at, 0] <= tolerance
    found[at[fresh]] = np.column_stack([error[bad[fresh]], np.full(int(fresh.sum()), 0.5)])


def _sides(faces: NDArray[np.uint32]) -> _Ints:
    """Every side once, the vertex with the lower number first, int64 (K, 2)."""
    starts, ends = faces.astype(np.int64), np.roll(faces.astype(np.int64), -1, axis=1)
    key = np.unique(np.minimum(starts, ends) * (int(faces.max()) + 1) + np.maximum(starts, ends))
    return np.column_stack([key // (int(faces.max()) + 1), key % (int(faces.max()) + 1)])


def _bilinear(heights: NDArray[np.float32], column: _Reals, row: _Reals) -> _Reals:
    left = np.minimum(column.astype(np.int64), heights.shape[1] - 2)
    above = np.minimum(row.astype(np.int64), heights.shape[0] - 2)
    x, y = column - left, row - above
    found: _Reals = (1 - y) * ((1 - x) * heights[above, left] + x * heights[above, left + 1]) + y * (
        (1 - x) * heights[above + 1, left] + x * heights[above + 1, left + 1]
    )
    return found
