"""Roughing: level by level, with an allowance all round, down ramps."""

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.carve.asked import Asked
from nebrel.core.carve.bits import Bit, widened
from nebrel.core.carve.entries import ramped
from nebrel.core.carve.offset import lowest_tips
from nebrel.core.carve.paths import Path, densified, runs_of
from nebrel.core.carve.program import Pass, Way
from nebrel.core.carve.standing import Standing
from nebrel.core.units import in_range

STEPOVER = 0.42
FINE = 0.02
SHORTEST = 0.5


@dataclass(frozen=True)
class Roughing:
    """How to rough.

    Attributes:
        allowance: mm that stay on everything, upwards and sideways.
        pattern: rows there and back, or rings from outside in.
        terraces: steps between levels that are taller than this are cut down to it, mm.
    """

    allowance: float = 0.5
    pattern: Literal["rows", "rings"] = "rings"
    terraces: float = 0.6

    def __post_init__(self) -> None:
        in_range(self.allowance, "The allowance", 0, 10)


def rough(
    asked: Asked,
    bit: Bit,
    how: Roughing,
    beyond: float,
    standing: Standing,
    progress: Callable[[float], None] = lambda _: None,
) -> Pass | None:
    """Take the stock away level by level.

    Args:
        asked: the heights.
        bit: that does it.
        how: with what allowance and pattern.
        beyond: mm around the piece that later bits need to be free.
        standing: the stock, which is taken from.
        progress: told the share that is done.

    Returns:
        None where there is nothing to take.
    """
    step = max(1, int(bit.radius / 10 / asked.pitch))
    tips = _coarse_tips(asked, bit, how.allowance, step)
    pitch = asked.pitch * step
    domain = around(asked.there, beyond / asked.pitch)[::step, ::step]
    lowest = float(tips.min(where=domain, initial=0.0))
    if lowest > -FINE:
        return None
    levels = _levels(lowest, bit.step_down, how.terraces)
    ways: list[Way] = []
    for number, (level, main) in enumerate(levels):
        allowed = domain & (tips <= level + 1e-6)
        stands = _tops_over(standing, asked, allowed.shape, step)
        if main:
            chains = _rows(allowed, pitch, bit) if how.pattern == "rows" else []
            chains = [*chains, *_rings(allowed, pitch, bit, None if how.pattern == "rings" else 1)]
        else:
            worth = allowed & (stands > level + FINE)
            near = cv2.dilate(worth.astype(np.uint8), np.ones((3, 3), np.uint8), iterations=2).astype(bool)
            chains = [part for ring in _rings(allowed, pitch, bit, None) for part in _parts_in(ring, near)]
        paths: list[Path] = []
        for chain in _joined(chains, allowed, 2.2 * bit.radius / pitch):
            if _length(chain) * pitch < SHORTEST * bit.radius:
                continue
            plan = np.column_stack(
                [asked.left + chain[:, 0] * pitch, asked.low + chain[:, 1] * pitch, np.full(len(chain), level)]
            )
            approach = standing.above(plan[0], bit.radius)
            path = ramped(plan, approach)
            ways.append(Way(path, approach))
            paths.append(path)
        if paths:
            standing.take(paths, bit.profile)
        progress((number + 1) / len(levels))
    return Pass("rough", bit, tuple(ways)) if ways else None


def _coarse_tips(asked: Asked, bit: Bit, allowance: float, step: int) -> NDArray[np.float64]:
    """Lowest tips with the allowance, on every so many samples; a little wider, for the straight ways between those."""
    spread = (step * asked.pitch) ** 2 / (4 * bit.radius) + 1e-3
    profile = widened(bit.profile, allowance + spread)
    rows = np.arange(0, len(asked.heights), step, dtype=np.int64)
    tips = lowest_tips(asked.heights, asked.pitch, profile, rows)[:, ::step] + allowance
    if bit.kind != "flat":
        # Between two samples a point or ball may dip under the higher of both.
        around_each = cv2.dilate(tips, np.ones((3, 3), np.uint8), borderType=cv2.BORDER_REPLICATE)
        tips = np.asarray(around_each, dtype=np.float64)
    return np.ascontiguousarray(tips)


def around(mask: NDArray[np.bool_], reach: float) -> NDArray[np.bool_]:
    """What lies on a mask or within so many samples of it."""
    away = cv2.distanceTransform((~mask).astype(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    return away <= reach


def _levels(lowest: float, step_down: float, terraces: float) -> list[tuple[float, bool]]:
    """Heights of levels in the order they are cut, and whether each is a main one; others refine terraces above it."""
    count = max(1, math.ceil(-lowest / step_down - 1e-9))
    tall = -lowest / count
    between = max(0, math.ceil(tall / terraces - 1e-9) - 1)
    levels: list[tuple[float, bool]] = []
    for main in range(1, count + 1):
        levels.append((-tall * main, True))
        levels.extend((-tall * main + tall * part / (between + 1), False) for part in range(1, between + 1))
    return levels


def _tops_over(standing: Standing, asked: Asked, shape: tuple[int, ...], step: int) -> NDArray[np.float64]:
    rows, columns = np.indices(shape)
    x = asked.left + columns.ravel() * asked.pitch * step
    y = asked.low + rows.ravel() * asked.pitch * step
    return standing.at(np.column_stack([x, y])).reshape(shape)


def _rows(allowed: NDArray[np.bool_], pitch: float, bit: Bit) -> list[NDArray[np.float64]]:
    """Runs along rows, (2, 2) column and row each, there and back."""
    apart = max(1, int(2 * bit.radius * STEPOVER / pitch))
    rows = np.flatnonzero(allowed.any(axis=1))
    if not len(rows):
        return []
    runs: list[NDArray[np.float64]] = []
    wanted = [*range(rows[0], rows[-1] + 1, apart)]
    if wanted[-1] != rows[-1]:
        wanted.append(int(rows[-1]))
    for number, row in enumerate(wanted):
        ends = [(begin, end - 1) for begin, end in runs_of(allowed[row]) if end - begin > 1]
        if number % 2:
            ends = [(end, begin) for begin, end in reversed(ends)]
        runs.extend(np.array([[begin, row], [end, row]], dtype=np.float64) for begin, end in ends)
    return runs


def _rings(allowed: NDArray[np.bool_], pitch: float, bit: Bit, most: int | None) -> list[NDArray[np.float64]]:
    """Rings at even distances from the edge of what is allowed, (N, 2) column and row each, from outside in."""
    from skimage.measure import approximate_polygon, find_contours

    away = cv2.distanceTransform(np.pad(allowed, 1).astype(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    apart = 2 * bit.radius * STEPOVER / pitch
    rings: list[NDArray[np.float64]] = []
    inner = float(away.max())
    level = 1.5
    number = 0
    while level < inner and (most is None or number < most):
        for ring in find_contours(away, level):
            if len(ring) > 3:
                rings.append(approximate_polygon(ring, 0.3)[:, ::-1] - 1)
        number += 1
        level += apart
    # Around a last hill of distances narrower than a ring, its top is still to be passed.
    if most is None and inner - (level - apart) > 0.5 * apart:
        for ring in find_contours(away, max(1.0, inner - 0.5)):
            if len(ring) > 3:
                rings.append(approximate_polygon(ring, 0.3)[:, ::-1] - 1)
    return rings


def _parts_in(ring: NDArray[np.float64], near: NDArray[np.bool_]) -> list[NDArray[np.float64]]:
    """Parts of a ring that lie on a mask."""
    dense = densified(ring, 1.0)
    spots = np.rint(dense).astype(np.int64)
    spots = np.clip(spots, 0, [near.shape[1] - 1, near.shape[0] - 1])
    inside = near[spots[:, 1], spots[:, 0]]
    return [dense[begin:end] for begin, end in runs_of(inside) if end - begin > 2]


def _joined(
    chains: list[NDArray[np.float64]], allowed: NDArray[np.bool_], farthest: float
) -> list[NDArray[np.float64]]:
    """Chains that follow each other are joined where the straight way between them is allowed and short."""
    joined: list[NDArray[np.float64]] = []
    for chain in chains:
        follows = chain
        if joined:
            begin = joined[-1][-1]
            if len(chain) > 2 and np.allclose(chain[0], chain[-1]):
                follows = _turned_to(chain, begin)
            if np.linalg.norm(follows[0] - begin) <= farthest and _free(allowed, begin, follows[0]):
                joined[-1] = np.concatenate([joined[-1], follows])
                continue
        joined.append(follows)
    return joined


def _length(chain: NDArray[np.float64]) -> float:
    return float(np.linalg.norm(np.diff(chain, axis=0), axis=1).sum())


def _turned_to(ring: NDArray[np.float64], place: NDArray[np.float64]) -> NDArray[np.float64]:
    """A closed ring that begins at its corner nearest to a place."""
    first = int(np.argmin(np.linalg.norm(ring[:-1] - place, axis=1)))
    return np.concatenate([ring[first:-1], ring[: first + 1]])


def _free(allowed: NDArray[np.bool_], begin: NDArray[np.float64], end: NDArray[np.float64]) -> bool:
    count = int(np.ceil(2 * np.abs(end - begin).max())) + 2
    spots = begin + (end - begin) * np.linspace(0, 1, count)[:, np.newaxis]
    for rounded in (np.floor(spots), np.ceil(spots)):
        at = np.clip(rounded.astype(np.int64), 0, [allowed.shape[1] - 1, allowed.shape[0] - 1])
        if not bool(allowed[at[:, 1], at[:, 0]].all()):
            return False
    return True
