"""Heights by the distance from the edge of a mask or outline: roof, dome, cove, pillow."""

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import contourpy
import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import BadPictureError
from nebrel.core.height.field import HeightField
from nebrel.core.height.rule import Raise
from nebrel.core.jit import compiled
from nebrel.core.picture import Picture
from nebrel.core.region.edge_distance import distances_from, sorted_segments

Profile = Literal["roof", "dome", "cove", "pillow", "rope"]
HALF = np.float32(0.5)
# A turn of a rope's strands takes so many times its thickness; how far they lean in that, and how deep furrows are.
ROPE_LAY, ROPE_LEAN, ROPE_FURROW = 1.1, 0.4, 0.4
SOFT, HARD_SHARE, STAIRS_SIGMA_PX = 0.05, 0.2, 1.6
NEAREST_ARM = 0.05
COARSEST = 24
SWEEPS_FINE, SWEEPS_COARSE, RELAX = 24, 600, 1.7


@dataclass(frozen=True)
class EdgeRule:
    """How height follows the distance from the edge.

    Attributes:
        profile: `roof` evenly by an angle, `dome` as a quarter of an ellipse, `cove` hollowed out as one, `pillow` as
            a skin swells that is held at the edge, `rope` as a cord of two strands laid along the edge.
        relief: the greatest height, mm.
        angle_deg: of a roof.
        reach: how far from the edge a dome or cove is at its full height, and how thick a rope is, mm.
        tones: share of the picture's own tones that is added, of `relief`.
    """

    profile: Profile
    relief: float
    angle_deg: float = 45.0
    reach: float = 4.0
    tones: float = 0.0


def edge_heights(
    picture: Picture, raise_: Raise, width: float, rule: EdgeRule, progress: Callable[[float], None] = lambda _: None
) -> HeightField:
    """Heights that rise from the edge between dark and bright into what is raised.

    Args:
        picture: its tones pass 0.5 at the edge; what is blank is outside.
        raise_: which side is raised.
        width: distance between the outermost pixel centres, mm.
        rule: how.
        progress: called with the fraction done.

    Raises:
        BadPictureError: nothing is raised.
    """
    pitch = width / (picture.shape[1] - 1)
    inside = picture.tones if raise_ == "bright" else np.float32(1) - picture.tones
    inside = without_stairs(np.minimum(inside, picture.coverage))
    if not (inside >= HALF).any():
        raise BadPictureError(
            f"Nothing of the picture is {raise_}, so there is no edge to rise from; choose the other tones."
        )
    if rule.profile == "pillow":
        square = swelling(inside, progress)
        heights = rule.relief * np.sqrt(square / max(float(square.max()), 1e-12))
    elif rule.profile == "rope":
        heights = rule.relief * rope(inside, rule.reach / pitch)
    else:
        full = rule.relief / math.tan(math.radians(rule.angle_deg)) if rule.profile == "roof" else rule.reach
        away = edge_distances(inside, 1.01 * full / pitch) * pitch
        progress(0.9)
        if rule.profile == "roof":
            heights = np.minimum(away * math.tan(math.radians(rule.angle_deg)), rule.relief)
        else:
            part = np.minimum(away / rule.reach, 1.0)
            rising = np.sqrt(np.maximum(0.0, 1 - (1 - part) ** 2))
            hollow = 1 - np.sqrt(np.maximum(0.0, 1 - part**2))
            heights = rule.relief * (rising if rule.profile == "dome" else hollow)
    if rule.tones > 0:
        heights = np.where(inside >= HALF, heights + rule.tones * rule.relief * picture.tones, heights)
    progress(1.0)
    return HeightField(heights.astype(np.float32), picture.coverage, pitch)


def without_stairs(inside: NDArray[np.float32]) -> NDArray[np.float32]:
    """A mask whose edge is hard, black on white, softened by a pixel and a half, so that slanted edges are no stairs;
    any other as it is."""
    between = int(((inside > SOFT) & (inside < 1 - SOFT)).sum())
    within = inside >= HALF
    edge = int((within[:, 1:] != within[:, :-1]).sum() + (within[1:] != within[:-1]).sum())
    if between > HARD_SHARE * edge:
        return inside
    return np.asarray(cv2.GaussianBlur(inside, (0, 0), STAIRS_SIGMA_PX))


def edge_distances(inside: NDArray[np.float32], most: float) -> NDArray[np.float64]:
    """How far inside every sample lies, float64 (H, W) in samples; 0 outside, `most` where it is farther.

    Exact to the line along which tones, taken as linear between samples, pass 0.5.

    Args:
        inside: float32 (H, W), 0.5 at the edge, more within. Beyond the picture all is outside.
        most: in samples.
    """
    lines = _lines(inside, 0.5)
    edge = sorted_segments(np.concatenate([line[:-1] for line in lines]), np.concatenate([line[1:] for line in lines]))
    found = np.zeros(inside.shape)
    within = inside >= HALF
    row, column = np.nonzero(within)
    found[within] = distances_from(edge, np.column_stack([column + 1.0, row + 1.0]), most)
    return found


def rope(inside: NDArray[np.float32], thick: float) -> NDArray[np.float64]:
    """A cord of two strands along the inner side of the edge, 0 to 1, float64 (H, W).

    Two strands that turn about each other, seen from above: across, the cord is half a circle, and furrows between
    strands lean over it, a whole number of them on every run of the edge.

    Args:
        inside: as for `edge_distances`.
        thick: of the cord, in samples.
    """
    from scipy.spatial import cKDTree

    found = np.zeros(inside.shape)
    away = edge_distances(inside, 1.01 * thick)
    # Its middle tells how far the cord has gone; where nothing is as wide as that, its edge does.
    laid = laid_along(_lines(away, thick / 2), thick, 0.5) or laid_along(_lines(inside, 0.5), thick, 0.5)
    if laid is None:
        return found
    on = np.nonzero((inside >= HALF) & (away < thick))
    _, nearest = cKDTree(laid[0]).query(np.column_stack([on[1], on[0]]) + 1.0, workers=-1)
    phase = calm_phase(laid[1][np.asarray(nearest)], on, inside.shape, thick / 8)
    found[on] = cord_height(2 * away[on] / thick - 1, phase)
    return found


def _lines(values: NDArray[np.floating], level: float) -> list[NDArray[np.float64]]:
    """Closed lines along which values are `level`, in samples, one row and column of nothing before the first."""
    found = contourpy.contour_generator(z=np.pad(values, 1), name="serial").lines(level)
    return [np.asarray(line) for line in found]


def laid_along(
    lines: list[NDArray[np.float64]], thick: float, apart: float
) -> tuple[NDArray[np.float64], NDArray[np.float64]] | None:
    """Places along closed lines, and how many turns of its strands a cord laid along them has made there.

    Args:
        lines: float64 (N, 2) each, its first place once more at its end; those shorter than the cord is thick are
            passed over.
        thick: of the cord.
        apart: how far places are from one another at the most.

    Returns:
        float64 (M, 2) and (M,), or None when no line is long enough.
    """
    places, phases = [], []
    for line in lines:
        steps = np.hypot(*np.diff(line, axis=0).T)
        length = float(steps.sum())
        if length < thick:
            continue
        along = np.append(0.0, np.cumsum(steps))
        at = np.linspace(0, length, max(2, int(length / apart)), endpoint=False)
        places.append(np.column_stack([np.interp(at, along, line[:, i]) for i in range(2)]))
        phases.append((at - _beginning(line, along)) / length * max(1, round(length / (ROPE_LAY * thick))))
    return (np.vstack(places), np.concatenate(phases)) if places else None


def _beginning(line: NDArray[np.float64], along: NDArray[np.float64]) -> float:
    """How far along a closed line its last place right of its middle is: the same however finely it is followed."""
    x, y = line.T
    turn = x[:-1] * y[1:] - x[1:] * y[:-1]
    middle = float(((y[:-1] + y[1:]) * turn).sum() / (3 * turn.sum() or 1.0))
    level = y - middle
    over = np.flatnonzero((level[:-1] <= 0) != (level[1:] <= 0))
    if not len(over):
        return 0.0
    part = level[over] / (level[over] - level[over + 1])
    first = int(np.argmax(x[over] + part * (x[over + 1] - x[over])))
    return float(along[over[first]] + part[first] * (along[over[first] + 1] - along[over[first]]))


def cord_height(across: NDArray[np.float64], phase: NDArray[np.float64]) -> NDArray[np.float64]:
    """How tall a cord of two strands is, 0 to 1, float64 (N,).

    Args:
        across: from -1 at one side to 1 at the other, float64 (N,).
        phase: turns of its strands, float64 (N,).
    """
    cord = np.sqrt(np.maximum(0.0, 1 - across**2))
    # A strand leans across the cord, so the furrow between two of them does too.
    strand = 0.5 - 0.5 * np.cos(2 * np.pi * (phase - ROPE_LEAN * across))
    return np.asarray(cord * (1 - ROPE_FURROW + ROPE_FURROW * strand))


def calm_phase(
    phase: NDArray[np.float64], at: tuple[NDArray[np.integer], ...], shape: tuple[int, ...], sigma: float
) -> NDArray[np.float64]:
    """Phases in turns, averaged round about: the nearest place of an edge jumps where the edge is a little uneven."""
    around = np.zeros((*shape, 2))
    around[at] = np.column_stack([np.cos(2 * np.pi * phase), np.sin(2 * np.pi * phase)])
    calm = cv2.GaussianBlur(around, (0, 0), max(sigma, 0.5))[at]
    return np.arctan2(calm[:, 1], calm[:, 0]) / (2 * np.pi)


def swelling(inside: NDArray[np.float32], progress: Callable[[float], None] = lambda _: None) -> NDArray[np.float64]:
    """What a skin over a mask swells to, float64 (H, W), 0 at the edge; its square root meets the edge upright.

    Poisson's equation with -1 inside, the edge met between samples (Shortley & Weller 1938), solved from a coarse grid
    to finer ones, each begun with what the coarser one found (cascadic multigrid, Bornemann & Deuflhard 1996).

    Args:
        inside: as for `edge_distances`.
    """
    levels = [np.pad(inside.astype(np.float64), 1)]
    while min(levels[-1].shape) > COARSEST:
        levels.append(_halved(levels[-1]))
    found = np.zeros(levels[-1].shape)
    for number, tones in enumerate(reversed(levels)):
        if number:
            found = _doubled(found, tones.shape)
        size = 2.0 ** (len(levels) - 1 - number)
        relax_poisson(found, tones, size * size, SWEEPS_FINE if number else SWEEPS_COARSE, RELAX)
        progress((number + 1) / len(levels))
    return np.maximum(found[1:-1, 1:-1], 0.0)


def _halved(tones: NDArray[np.float64]) -> NDArray[np.float64]:
    rows, columns = ((side + 1) // 2 for side in tones.shape)
    return np.asarray(cv2.resize(tones, (columns, rows), interpolation=cv2.INTER_AREA), dtype=np.float64)


def _doubled(values: NDArray[np.float64], shape: tuple[int, ...]) -> NDArray[np.float64]:
    return np.asarray(cv2.resize(values, (shape[1], shape[0]), interpolation=cv2.INTER_LINEAR), dtype=np.float64)


@compiled
def relax_poisson(found, tones, load, sweeps, relax):
    rows, columns = tones.shape
    for sweep in range(sweeps):
        for colour in range(2):
            for i in range(1, rows - 1):
                for j in range(1 + (i + colour) % 2, columns - 1, 2):
                    here = tones[i, j] - 0.5
                    if here < 0:
                        found[i, j] = 0.0
                        continue
                    up, up_value = arm(found, tones, here, i - 1, j)
                    down, down_value = arm(found, tones, here, i + 1, j)
                    left, left_value = arm(found, tones, here, i, j - 1)
                    right, right_value = arm(found, tones, here, i, j + 1)
                    weight = 2 / (up * down) + 2 / (left * right)
                    total = 2 / (up + down) * (up_value / up + down_value / down)
                    total += 2 / (left + right) * (left_value / left + right_value / right)
                    wanted = (total + load) / weight
                    found[i, j] += (relax if sweep < sweeps - 4 else 1.0) * (wanted - found[i, j])


@compiled
def arm(found, tones, here, i, j):
    """How far the neighbour or the edge before it is, in samples, and the value there."""
    there = tones[i, j] - 0.5
    if there >= 0:
        return 1.0, found[i, j]
    return max(NEAREST_ARM, here / (here - there)), 0.0
