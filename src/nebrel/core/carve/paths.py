"""Paths over the offset surface: from lines in the plane to points that never cut in, and as few as will do."""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from nebrel.core.carve.bits import Profile
from nebrel.core.jit import compiled

Path = NDArray[np.float64]
Tips = Callable[[NDArray[np.float64]], NDArray[np.float64]]
SAG = 2e-4
LIFT = 3e-4
HALVINGS, ALWAYS = 6, 2
# On steep places a bend may hide from every look; they are halved until no more than this is left to hide in, mm.
STEEP_STEP = 0.008
SMALL_JUMP = 0.03
AT_ONCE = 65_536


def densified(path: Path, step: float) -> Path:
    """The path with further places, so that they lie no farther apart than `step` on the plan.

    Args:
        path: float64 (N, 2) or (N, 3).
        step: in the unit of the path.
    """
    lengths = np.linalg.norm(np.diff(path[:, :2], axis=0), axis=1)
    first, part = _parts_of(lengths, step)
    return np.concatenate([path[first] + (path[first + 1] - path[first]) * part[:, np.newaxis], path[-1:]])


def runs_of(inside: NDArray[np.bool_]) -> list[tuple[int, int]]:
    """First and one past the last of every row of places that are inside."""
    edges = np.flatnonzero(np.diff(np.concatenate([[False], inside, [False]]).astype(np.int8)))
    return [(int(begin), int(end)) for begin, end in edges.reshape(-1, 2)]


def _parts_of(lengths: NDArray[np.float64], step: float) -> tuple[NDArray[np.int64], NDArray[np.float64]]:
    """Places along pieces of a way: in which piece each lies, and how far along it, from 0 on."""
    counts = np.maximum(1, np.ceil(lengths / step - 1e-9).astype(np.int64))
    first = np.repeat(np.arange(len(counts)), counts)
    part = (np.arange(len(first)) - np.repeat(np.cumsum(counts) - counts, counts)) / counts[first]
    return first, part


def step_of(profile: Profile, pitch: float) -> float:
    """How close points must lie so that the bit's own roundness cuts in by no more than `SAG` between them, mm."""
    if profile.tip_radius == 0 and profile.flat_to == 0:
        # Under a point every sample is a peak of its own: none may hide between two places.
        return pitch / 3
    bend = profile.tip_radius if profile.tip_radius > 0 else profile.radius
    return float(min(pitch, np.sqrt(8 * bend * 2 * SAG)))


def follow(
    lines: list[NDArray[np.float64]],
    tips: Tips,
    step: float,
    tolerance: float,
    flat: bool = False,
    told: Callable[[float], None] = lambda _: None,
    jumps: bool = True,
) -> list[Path]:
    """Lay lines on the offset surface.

    Between two samples of it a straight way would cut in where the surface is hollow to the bit (where it comes off
    an edge): such gaps are halved until they are straight, and what still is a jump is passed at its upper end.

    Args:
        lines: float64 (N, 2) mm each, at least two places; their corners stay.
        tips: the lowest tip over places.
        step: mm between samples.
        tolerance: mm by which a path may pass over the surface, so that it needs fewer points; never under it.
        flat: whether the bit's end is flat, so that the surface is nothing but small jumps.
        told: told the share that is done.
        jumps: whether the surface may jump between two places; else one look at their middle tells how it bends.

    Returns:
        float64 (M, 3) mm each.
    """
    if not lines:
        return []
    places, line, along, corner = _laid_out(lines, step)
    heights = np.empty(len(places))
    for first in range(0, len(places), AT_ONCE):
        heights[first : first + AT_ONCE] = tips(places[first : first + AT_ONCE])
        told(0.7 * first / len(places))
    if flat:
        heights = _held(heights, line)
    places, line, along, heights, corner = _halved(places, line, along, heights, corner, tips, flat, jumps)
    kept, raised = reduce_ways(line, along, heights, corner, tolerance)
    path = np.column_stack([places[kept], raised[kept] + LIFT])
    ends = np.flatnonzero(np.diff(line[kept])) + 1
    return np.split(path, ends)


def _held(heights: NDArray[np.float64], line: NDArray[np.int64]) -> NDArray[np.float64]:
    """Heights raised to those of both neighbours where they are small jumps away: a way between them is over both."""
    rise = np.diff(heights)
    small = (line[1:] == line[:-1]) & (np.abs(rise) <= SMALL_JUMP)
    held = heights.copy()
    held[:-1] = np.where(small & (rise > 0), heights[1:], held[:-1])
    held[1:] = np.where(small & (rise < 0), np.maximum(held[1:], heights[:-1]), held[1:])
    return held


def _laid_out(
    lines: list[NDArray[np.float64]], step: float
) -> tuple[NDArray[np.float64], NDArray[np.int64], NDArray[np.float64], NDArray[np.bool_]]:
    """Places along all lines no farther apart than `step`, with their line, their way so far, and what are corners."""
    corners = np.concatenate(lines)
    of_line = np.repeat(np.arange(len(lines)), [len(one) for one in lines])
    lengths = np.linalg.norm(np.diff(corners, axis=0), axis=1)
    lengths[np.flatnonzero(np.diff(of_line))] = 0.0
    first, part = _parts_of(lengths, step)
    places = corners[first] + (corners[first + 1] - corners[first]) * part[:, np.newaxis]
    way = np.concatenate([[0.0], np.cumsum(lengths)])
    along = way[first] + lengths[first] * part
    return (
        np.concatenate([places, corners[-1:]]),
        np.concatenate([of_line[first], of_line[-1:]]),
        np.concatenate([along, way[-1:]]),
        np.concatenate([part == 0.0, [True]]),
    )


def _halved(
    places: NDArray[np.float64],
    line: NDArray[np.int64],
    along: NDArray[np.float64],
    heights: NDArray[np.float64],
    corner: NDArray[np.bool_],
    tips: Tips,
    flat: bool,
    jumps: bool,
) -> tuple[NDArray[np.float64], NDArray[np.int64], NDArray[np.float64], NDArray[np.float64], NDArray[np.bool_]]:
    # A gap: both ends, where it begins in the order of all points, and what part of that gap it is.
    first = np.flatnonzero(line[1:] == line[:-1])
    start, end = places[first], places[first + 1]
    low, high = heights[first], heights[first + 1]
    part_from, part_to = np.zeros(len(first)), np.ones(len(first))
    at = first
    found: list[tuple[NDArray[np.int64], NDArray[np.float64], NDArray[np.float64], NDArray[np.float64]]] = []
    for halving in range(HALVINGS):
        if not len(at):
            break
        middle = (start + end) / 2
        between = tips(middle)
        off = between - (low + high) / 2
        steep = jumps & (np.abs(high - low) > (SAG if flat else np.linalg.norm(end - start, axis=1)))
        # A bend each way may hide from one look at the middle.
        bad = (off > SAG) | (steep & (flat | (off < -SAG) | (halving < ALWAYS) | (np.abs(high - low) > STEEP_STEP)))
        if not bad.any():
            at = at[:0]
            break
        start, end, middle, between = start[bad], end[bad], middle[bad], between[bad]
        low, high, at = low[bad], high[bad], at[bad]
        part = (part_from[bad] + part_to[bad]) / 2
        found.append((at, part, middle, between))
        start, end = np.concatenate([start, middle]), np.concatenate([middle, end])
        low, high = np.concatenate([low, between]), np.concatenate([between, high])
        part_from, part_to = np.concatenate([part_from[bad], part]), np.concatenate([part, part_to[bad]])
        at = np.concatenate([at, at])
    else:
        # What is still a jump is passed at its upper end: up at once, down at the end.
        jump = np.abs(high - low) > SAG
        start, end, low, high, at = start[jump], end[jump], low[jump], high[jump], at[jump]
        part_from, part_to = part_from[jump], part_to[jump]
        up = high > low
        held = np.where(up[:, np.newaxis], start, end)
        nudge = np.where(up, 1e-9, -1e-9)
        found.append((at, np.where(up, part_from, part_to) + nudge, held, np.maximum(low, high)))
    if not found:
        return places, line, along, heights, corner
    at = np.concatenate([one[0] for one in found])
    part = np.concatenate([one[1] for one in found])
    order = np.argsort(np.concatenate([np.arange(len(places), dtype=np.float64), at + part]), kind="stable")
    spot = np.clip(np.round(part, 6), 0.0, 1.0)
    return (
        np.concatenate([places, *(one[2] for one in found)])[order],
        np.concatenate([line, line[at]])[order],
        np.concatenate([along, along[at] + (along[at + 1] - along[at]) * spot])[order],
        np.concatenate([heights, *(one[3] for one in found)])[order],
        np.concatenate([corner, np.zeros(len(at), dtype=np.bool_)])[order],
    )


@compiled
def reduce_ways(line, along, heights, corner, tolerance):
    """Which points stay, and how high, so that straight ways between them are 0 to `tolerance` over all others.

    A cone of slopes narrows from point to point (as in O'Rourke 1981); where it closes, a point is set, of three
    heights the one from which the next way goes farthest.
    """
    count = len(line)
    kept = np.zeros(count, dtype=np.bool_)
    raised = heights + 0.5 * tolerance
    i = 0
    while i < count:
        kept[i] = True
        last, low, high = farthest(line, along, heights, corner, tolerance, i, raised[i])
        if last == i:
            i += 1
            continue
        best = -1
        for share in (0.5, 0.1, 0.9):
            height = low + share * (high - low)
            reached, _, _ = farthest(line, along, heights, corner, tolerance, last, height)
            if reached > best:
                best = reached
                raised[last] = height
        i = last
    return kept, raised


@compiled
def farthest(line, along, heights, corner, tolerance, i, height):
    """The last point that a straight way from point `i` reaches, and between which heights it may arrive there."""
    count = len(line)
    least, most = -np.inf, np.inf
    last, low, high = i, height, height
    for j in range(i + 1, count):
        away = along[j] - along[i]
        if line[j] != line[i] or away <= 1e-12:
            break
        least = max(least, (heights[j] - height) / away)
        most = min(most, (heights[j] + tolerance - height) / away)
        if least > most:
            break
        last, low, high = j, height + least * away, height + most * away
        if corner[j]:
            break
    return last, low, high
