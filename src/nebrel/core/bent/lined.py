"""Upright walls along curves on a sheet, where its thickness jumps."""

from dataclasses import replace
from itertools import pairwise
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from nebrel.core.bent.forms import Floats, Form
from nebrel.core.bent.sheet import Sheet
from nebrel.core.height.lines.drawn import on_grid
from nebrel.core.height.lines.network import STEP_MM, HeightLines, find_lines, pieces_that_cross

# Ends that meet share the vertices of their seam, and no line comes so near to it.
CLEAR_PX = 3
# A slope over so many samples is none that lines are found in.
FEW_PX, NEAR_MM = 4.0, 1e-6
# Straight pieces of a wall are chords of the form, which may take that share of the tolerance.
CHORD_SHARE = 0.3
# No line comes so near to a mitred edge.
CORNER_PX = 1.5
MOST_TRIES = 4
# Of a piece: nearer to its ends than that it is not divided.
LEAST_SHARE = 0.02


class LinedSheet(NamedTuple):
    """A sheet with walls along curves.

    Attributes:
        sheet: with lines, where there are any.
        crowded: share of the jumps that are those of noise and got no lines.
    """

    sheet: Sheet
    crowded: float


def lined(sheet: Sheet, form: Form, tolerance: float) -> LinedSheet:
    """The sheet with lines where its thickness jumps, in pieces short enough to follow the form.

    Args:
        sheet: as wide and high as the form.
        form: what it is bent over.
        tolerance: mm that the surface may be off.
    """
    where = _off_slopes(sheet)
    if form.around:
        where[:, :CLEAR_PX] = where[:, -CLEAR_PX:] = False
    if form.pole:
        where[:CLEAR_PX] = False
    for place, _ in form.corners(0.0):
        # Between a mitred edge and what lies beside it the surface is drawn out, and lines would fold it.
        where[:, np.abs(sheet.u - place) <= CORNER_PX * sheet.pitch] = False
        where[:, np.abs(sheet.u - place).argmin()] = False
    if min(where.shape) <= 2 * CLEAR_PX:
        return LinedSheet(sheet, 0.0)
    found = find_lines(sheet.thickness, where, tolerance)
    if found.lines is None:
        return LinedSheet(sheet, found.crowded)
    lines = _bending(found.lines, sheet, form, CHORD_SHARE * tolerance)
    thickness = np.clip(lines.heights, sheet.thickness.min(), sheet.thickness.max())
    beside = np.clip(lines.beside, float(thickness.min()), float(thickness.max()))
    lines = replace(lines, heights=thickness, beside=beside)
    return LinedSheet(replace(sheet, thickness=thickness, lines=lines), found.crowded)


def _off_slopes(sheet: Sheet) -> NDArray[np.bool_]:
    """Samples but for those where a border slopes towards the picture over so few that it looks like a jump."""
    where = np.ones(sheet.thickness.shape, dtype=np.bool_)
    for lines, axis, low, high in ((sheet.u, 1, 0, 2), (sheet.v, 0, 1, 3)):
        below, above = sheet.slopes[low], sheet.slopes[high]
        first, last = sheet.window[low], sheet.window[high]
        steep = np.zeros(len(lines), dtype=np.bool_)
        if 0 < below < FEW_PX * sheet.pitch:
            steep |= (lines < first - NEAR_MM) & (lines > first - below - NEAR_MM)
        if 0 < above < FEW_PX * sheet.pitch:
            steep |= (lines > last + NEAR_MM) & (lines < last + above + NEAR_MM)
        where &= ~np.expand_dims(steep, 1 - axis)
    return where


def _bending(lines: HeightLines, sheet: Sheet, form: Form, tolerance: float) -> HeightLines:
    """The same in pieces whose chords lie within the tolerance of the form, mm.

    Where rounding to the grid would bring pieces across each other, they stay as long as they are.
    """
    shares = _shares(lines, sheet, form, tolerance)
    for _ in range(MOST_TRIES):
        divided, of_piece = _divided(lines, shares)
        crossing = np.unique(of_piece[pieces_that_cross(divided.places, divided.pieces)])
        if not len(crossing):
            return divided
        for number in crossing.tolist():
            shares.pop(number, None)
    return lines


def _shares(lines: HeightLines, sheet: Sheet, form: Form, tolerance: float) -> dict[int, Floats]:
    """Where pieces are to be divided, rising shares of each; none of those that are short enough."""
    across, up = form.chords(tolerance)
    columns, rows = lines.places[lines.pieces].transpose(2, 0, 1)
    u = np.interp(columns, np.arange(len(sheet.u)), sheet.u)
    v = np.interp(rows, np.arange(len(sheet.v)), sheet.v)
    wide = np.abs(np.diff(u, axis=1))[:, 0]
    counts = np.maximum(np.ceil(wide / across), np.ceil(np.abs(np.diff(v, axis=1))[:, 0] / up)).astype(np.int64)
    found = {}
    for number in np.flatnonzero(counts > 1).tolist():
        share = np.arange(1, counts[number]) / counts[number]
        share = share[(share > LEAST_SHARE) & (share < 1 - LEAST_SHARE)]
        if len(share):
            found[number] = share
    return found


def _divided(lines: HeightLines, shares: dict[int, Floats]) -> tuple[HeightLines, NDArray[np.int64]]:
    """The same with nodes at shares of pieces, and which of the pieces before every piece is part of."""
    places, pieces, beside, of_piece = [lines.places], [], [], []
    count = len(lines.places)
    for number, share in shares.items():
        (start, end), (at_start, at_end) = lines.pieces[number], lines.beside[number]
        at = share[:, np.newaxis]
        between = on_grid(lines.places[start] * (1 - at) + lines.places[end] * at)
        levels = np.round((at_start + at * (at_end - at_start)) / STEP_MM) * STEP_MM
        nodes = [int(start), *range(count, count + len(share)), int(end)]
        heights = [at_start, *levels, at_end]
        count += len(share)
        places.append(between)
        pieces += list(pairwise(nodes))
        beside += list(pairwise(heights))
        of_piece += [number] * (len(share) + 1)
    if not pieces:
        return lines, np.arange(len(lines.pieces))
    kept = np.setdiff1d(np.arange(len(lines.pieces)), np.fromiter(shares, dtype=np.int64))
    made = replace(
        lines,
        places=np.vstack(places),
        pieces=np.vstack([lines.pieces[kept], np.array(pieces, dtype=np.int64)]),
        beside=np.concatenate([lines.beside[kept], np.array(beside)]),
    )
    return made, np.concatenate([kept, np.array(of_piece, dtype=np.int64)])
