"""Steep places, followed along their contours: a bit goes round them level by level."""

import math
from collections.abc import Callable

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.carve.asked import Asked
from nebrel.core.carve.bits import Bit
from nebrel.core.carve.entries import eased
from nebrel.core.carve.finish import Finishing, in_turn, line_distance, linked, tips_of
from nebrel.core.carve.lines import Line
from nebrel.core.carve.paths import Path, Tips, densified, follow, runs_of, step_of
from nebrel.core.carve.program import Pass, Way
from nebrel.core.carve.standing import Standing

STEEP = math.tan(math.radians(62))
SHARE = 0.8
SMALLEST = 4.0
NUDGE, BEND_PX = 0.002, 0.02
LINK = 1.0


def steep_places(tips: NDArray[np.float64], there: NDArray[np.bool_], pitch: float, bit: Bit) -> NDArray[np.bool_]:
    """Where a bit's offset surface is so steep that lines over it would lie too close, bool (H, W); specks left out.

    Args:
        tips: float64 (H, W) mm, the offset surface.
        there: bool (H, W), what belongs to the piece.
        pitch: mm between samples.
        bit: that goes; places narrower than its tip are left to the lines.
    """
    up, over = np.gradient(tips, pitch)
    steep = (np.hypot(up, over) > STEEP) & there
    joined = cv2.morphologyEx(steep.astype(np.uint8), cv2.MORPH_CLOSE, np.ones((3, 3), np.uint8))
    count, names, facts, _ = cv2.connectedComponentsWithStats(joined, connectivity=8)
    large = facts[:, cv2.CC_STAT_AREA] * pitch**2 >= SMALLEST * max(bit.tip, pitch)
    large[0] = False
    return np.asarray(large[names]) if count > 1 else np.zeros_like(there)


def along_contours(
    asked: Asked,
    coarse: Asked,
    bit: Bit,
    how: Finishing,
    steep: NDArray[np.bool_],
    standing: Standing,
    told: Callable[[float], None] = lambda _: None,
) -> Pass | None:
    """Lead a bit round steep places, level by level from above; None where there are none.

    Args:
        asked: the heights.
        coarse: the same on fewer samples.
        bit: that goes.
        how: with what scallop.
        steep: bool, the places, on the samples of `coarse`.
        standing: the stock, which is taken from.
        told: told the share that is done.
    """
    from skimage.measure import approximate_polygon, find_contours

    if not steep.any():
        return None
    tips = coarse.tips(bit.profile)
    up, over = np.gradient(tips, coarse.pitch)
    # A contour of the offset surface, a hair downhill: there the bit touches what is steep and stays on its level.
    away = np.stack([-over, -up]) / np.maximum(np.hypot(up, over), 1e-9)
    near = cv2.dilate(steep.astype(np.uint8), np.ones((3, 3), np.uint8), iterations=2).astype(bool)
    high, low = float(tips[steep].max()), float(tips[steep].min())
    apart = SHARE * line_distance(bit, how.scallop)
    levels = np.linspace(high, low, max(2, math.ceil((high - low) / apart) + 1))
    surface, step = tips_of(asked, bit), step_of(bit.profile, asked.pitch)
    ways: list[Way] = []
    paths: list[Path] = []
    for number, level in enumerate(levels.tolist()):
        lines: list[Line] = []
        for contour in find_contours(tips, level):
            for part in _parts_in(approximate_polygon(contour, BEND_PX), near):
                spots = np.clip(np.rint(part).astype(np.int64), 0, np.array(tips.shape) - 1)
                places = part[:, ::-1] * coarse.pitch + np.array([coarse.left, coarse.low])
                lines.append(places + NUDGE * away[:, spots[:, 0], spots[:, 1]].T)

        def floor(places: NDArray[np.float64], level: float = level) -> NDArray[np.float64]:
            return np.maximum(surface(places), level)

        paths += follow(linked(in_turn(lines), LINK), floor, step, how.tolerance)
        told(0.9 * number / len(levels))
    for path in _chained(paths, surface, step, how.tolerance):
        approach = max(standing.above(path[0], bit.radius), float(path[0, 2]))
        ways.append(Way(eased(path, standing, bit), approach))
        standing.take([path], bit.profile)
    return Pass("steep", bit, tuple(ways)) if ways else None


def _chained(paths: list[Path], surface: Tips, step: float, tolerance: float) -> list[Path]:
    """Paths from above to below, those that go round one hill after each other; close ones linked over the surface."""
    chains: list[list[Path]] = []
    for path in paths:
        best, least = None, LINK
        for chain in chains:
            away = _away(chain[-1], path)
            if away < least:
                best, least = chain, away
        turned = path if best is None else _turned(path, best[-1][-1])
        if best is None:
            chains.append([turned])
            continue
        link = np.stack([best[-1][-1, :2], turned[0, :2]])
        if np.hypot(*(link[1] - link[0])) > 1e-6:
            best += follow([link], surface, step, tolerance)
        best.append(turned)
    return [np.concatenate(chain) for chain in chains]


def _away(before: Path, path: Path) -> float:
    """How far the nearest place at which a path may begin is from the end of another, mm."""
    spots = path[:, :2] if _is_closed(path) else path[[0, -1], :2]
    return float(np.hypot(*(spots - before[-1, :2]).T).min())


def _turned(path: Path, place: NDArray[np.float64]) -> Path:
    """A path that begins as near to a place as it can."""
    if not _is_closed(path):
        away = np.hypot(*(path[[0, -1], :2] - place[:2]).T)
        return path if away[0] <= away[1] else path[::-1]
    first = int(np.argmin(np.hypot(*(path[:-1, :2] - place[:2]).T)))
    return np.concatenate([path[first:-1], path[: first + 1]])


def _is_closed(path: Path) -> bool:
    return len(path) > 3 and bool(np.hypot(*(path[0, :2] - path[-1, :2])) < 1e-6)


def _parts_in(contour: NDArray[np.float64], near: NDArray[np.bool_]) -> list[NDArray[np.float64]]:
    """Parts of a contour, (N, 2) row and column, that lie on a mask."""
    dense = densified(contour, 1.0)
    spots = np.clip(np.rint(dense).astype(np.int64), 0, np.array(near.shape) - 1)
    return [dense[begin:end] for begin, end in runs_of(near[spots[:, 0], spots[:, 1]]) if end - begin > 2]
