"""Measures of a picture that tell whether it is fit to be sculpted: plain numbers, judged elsewhere."""

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.picture.ink import automatic_threshold, drawn_ink
from nebrel.core.picture.picture import Picture, Tones
from nebrel.core.picture.resample import shrink_to

LEVELS_16 = 65_535
PEAK_WIDTH = 0.06
RIM_ALIKE = 0.1
BEND_SEEN = 0.5 / 255
BENT_SHARE = 0.05
PLAIN_SPREAD = 0.08
SHEET_PX = 256
SHEET_MATERIAL = 0.95
SHEET_ROUNDS = 6
SHEET_ALIKE = 0.06
SHEET_SHARE = 0.6
DRAWN_SHARE = 0.01
_RIDGE_SLOPE = 0.6


@dataclass(frozen=True)
class LevelCount:
    """How many tones there are and how far apart.

    Attributes:
        count: different tones among the material, at most 65,536.
        step: median distance between neighbouring tones, 0..1.
        flat_run: mean number of equal pixels between steps of one level; large in terraces, about 1 in noise.
        slopes: share of neighbouring pixels that are exactly one level apart.
    """

    count: int
    step: float
    flat_run: float
    slopes: float


def count_levels(picture: Picture) -> LevelCount:
    """The tones that really occur."""
    material = picture.coverage >= 0.5
    levels = np.round(picture.tones * np.float32(LEVELS_16)).astype(np.int32)
    used = np.flatnonzero(np.bincount(levels[material], minlength=LEVELS_16 + 1))
    step = float(np.median(np.diff(used))) / LEVELS_16 if used.size > 1 else 1.0
    both = material[:, 1:] & material[:, :-1]
    apart = np.abs(np.diff(levels, axis=1))[both]
    equal = int((apart == 0).sum())
    single = int(((apart > 0) & (apart <= 1.5 * step * LEVELS_16)).sum())
    return LevelCount(
        count=int(used.size),
        step=step,
        flat_run=equal / max(single, 1),
        slopes=single / max(apart.size, 1),
    )


@dataclass(frozen=True)
class Peak:
    """A heap of nearly equal tones.

    Attributes:
        tone: its middle.
        share: of the material.
        low, high: where it begins and ends.
    """

    tone: float
    share: float
    low: float
    high: float


def peak_between(picture: Picture, low: float, high: float) -> Peak:
    """The fullest window of `PEAK_WIDTH` tones strictly between `low` and `high`, widened to its foot."""
    tones = picture.tones[picture.coverage >= 0.5]
    counts, edges = np.histogram(tones[(tones > low) & (tones < high)], 256, (0, 1))
    share = counts / max(tones.size, 1)
    window = max(1, round(PEAK_WIDTH * 256))
    sums = np.convolve(share, np.ones(window), mode="valid")
    at = int(np.argmax(sums))
    heap = share[at : at + window]
    middle = at + int(np.argmax(heap))
    foot = 0.02 * share[middle]
    first = last = middle
    while first > 0 and share[first - 1] > foot:
        first -= 1
    while last < 255 and share[last + 1] > foot:
        last += 1
    centre = float((edges[at : at + window] * heap).sum() / max(heap.sum(), 1e-12)) + 0.5 / 256
    return Peak(tone=centre, share=float(sums[at]), low=float(edges[first]), high=float(edges[last + 1]))


@dataclass(frozen=True)
class Clipping:
    """Shares of the material that are exactly black or white, and that lie just inside of that."""

    black: float
    white: float
    near_black: float
    near_white: float


def clipping(picture: Picture) -> Clipping:
    """How much of the picture ran into the ends of its tones."""
    tones = picture.tones[picture.coverage >= 0.5]
    total = max(tones.size, 1)
    return Clipping(
        black=float((tones <= 0).sum() / total),
        white=float((tones >= 1).sum() / total),
        near_black=float(((tones > 0) & (tones < 0.06)).sum() / total),
        near_white=float(((tones < 1) & (tones > 0.94)).sum() / total),
    )


def two_toned(picture: Picture) -> float:
    """How well one threshold explains the tones, 0 to 1: above 0.85 for drawings, 0.75 for an even ramp.

    Reliefs may part as well into a ground and what stands on it; but there tones go on changing away from the edge
    between the two, and 0 is returned.
    """
    tones = picture.tones[picture.coverage >= 0.5]
    spread = float(tones.var()) if tones.size else 0.0
    if spread < 1e-6:
        return 0.0
    bright = tones >= np.float32(automatic_threshold(picture))
    share = float(bright.mean())
    if share in (0.0, 1.0):
        return 0.0
    apart = float(tones[bright].mean() - tones[~bright].mean())
    if _spread_inside(picture) > PLAIN_SPREAD * apart:
        return 0.0
    return share * (1 - share) * apart * apart / spread


def _spread_inside(picture: Picture) -> float:
    """Standard deviation of the tones of either ink where they are away from its edge; the larger of the two."""
    bright = picture.tones >= np.float32(automatic_threshold(picture))
    spread = 0.0
    for ink in (bright, ~bright):
        inside = cv2.erode((ink & (picture.coverage >= 0.5)).astype(np.uint8), np.ones((7, 7), np.uint8)) > 0
        if inside.any():
            spread = max(spread, float(picture.tones[inside].std()))
    return spread


def block_steps(picture: Picture) -> float:
    """How much stronger bends are on one of eight columns and rows than on the others; about 1 without JPEG blocks.

    A picture that is flat nearly everywhere has too little to judge by, and no blocks to show.
    """
    ratios = []
    for tones in (picture.tones, picture.tones.T):
        if tones.shape[1] < 64 + 3:
            return 1.0
        bend = np.abs(tones[:, 3:] - 3 * tones[:, 2:-1] + 3 * tones[:, 1:-2] - tones[:, :-3])
        if (bend > BEND_SEEN).mean() < BENT_SHARE:
            return 1.0
        quiet = np.minimum(bend, 6 / 255)
        columns = quiet.mean(axis=0)
        phases = np.array([columns[at::8].mean() for at in range(8)])
        ratios.append(float(phases.max() / max(np.median(phases), 1e-6)))
    return min(ratios)


@dataclass(frozen=True)
class Rim:
    """What the edges of a picture look like.

    Attributes:
        tone: the median.
        alike: share of the rim within 0.1 of it: near 1 for a plain background, below one half where there is none.
    """

    tone: float
    alike: float


def look_at_rim(picture: Picture) -> Rim:
    """The edges, three pixels deep; blanks count as plain."""
    deep = min(3, *picture.shape)
    inside = np.ones(picture.shape, dtype=bool)
    inside[deep:-deep, deep:-deep] = False
    tones = picture.tones[inside & (picture.coverage >= 0.5)]
    if tones.size == 0:
        return Rim(0.0, 1.0)
    middle = float(np.median(tones))
    blank = 1 - tones.size / int(inside.sum())
    return Rim(middle, blank + (1 - blank) * float((np.abs(tones - middle) < RIM_ALIKE).mean()))


def light_on_sheet(picture: Picture) -> tuple[float, float] | None:
    """Darkest and brightest ground of a drawing on a sheet, or None where the picture is not one.

    A quadratic surface is fitted to the tones, again and again without what lies far off it (trimmed least squares).
    It is a sheet where most of the picture keeps to the surface and something, the drawing, does not.
    """
    small = shrink_to(picture, SHEET_PX)
    rows, columns = np.nonzero(small.coverage >= 0.5)
    if rows.size < SHEET_MATERIAL * small.coverage.size:
        return None
    tones = small.tones[rows, columns].astype(np.float64)
    x, y = columns / small.shape[1] - 0.5, rows / small.shape[0] - 0.5
    terms = np.column_stack([np.ones_like(x), x, y, x * x, x * y, y * y])
    ground = (
        tones >= np.quantile(tones, 0.25) if np.median(tones) >= tones.mean() else tones <= np.quantile(tones, 0.75)
    )
    for _ in range(SHEET_ROUNDS):
        fitted = terms @ np.linalg.lstsq(terms[ground], tones[ground], rcond=None)[0]
        ground = np.abs(tones - fitted) < SHEET_ALIKE
        if ground.sum() < tones.size * SHEET_SHARE / 2:
            return None
    drawn = np.abs(tones - fitted) > 2 * SHEET_ALIKE
    if ground.mean() < SHEET_SHARE or drawn.mean() < DRAWN_SHARE:
        return None
    return float(fitted.min()), float(fitted.max())


@dataclass(frozen=True)
class StrokeWidths:
    """Widths of what is drawn and of the gaps in it, along their middle lines.

    Attributes:
        places: int32 (N, 2) column and row.
        widths_px: float32 (N,).
    """

    places: NDArray[np.int32]
    widths_px: NDArray[np.float32]

    def thinnest(self, least_px: float) -> tuple[float, tuple[int, int]] | None:
        """The width below which `least_px` pixels of middle line lie, and the place of one such; None without any."""
        if len(self.widths_px) <= least_px:
            return None
        at = int(np.argpartition(self.widths_px, int(least_px))[int(least_px)])
        column, row = self.places[at]
        return float(self.widths_px[at]), (int(column), int(row))


def measure_strokes(picture: Picture) -> tuple[StrokeWidths, StrokeWidths]:
    """Widths of strokes and of gaps of a picture parted at its automatic threshold, to about half a pixel.

    The distance to the nearest pixel of the other kind (exact Euclidean transform, Felzenszwalb and Huttenlocher 2012)
    has its ridge on the medial axis; there its slope falls from 1 to nearly 0. Slopes above 0.6 belong to the branches
    that run into corners, which say nothing of a width. How far the edge lies before that nearest pixel is read from
    the pixel's own tone.
    """
    level = automatic_threshold(picture)
    ink_is_bright = drawn_ink(picture) == "bright"
    signed = (picture.tones - np.float32(level)) * (1 if ink_is_bright else -1)
    tones = picture.tones[picture.coverage >= 0.5]
    reach = (tones[tones >= level].mean() - tones[tones < level].mean()) if tones.size else 1.0
    inked = np.clip(signed / np.float32(max(float(reach), 1e-3)) + np.float32(0.5), 0, 1)
    material = picture.coverage >= 0.5
    ink = signed >= 0 if ink_is_bright else signed > 0
    return _widths(ink & material, inked), _widths(~ink & material, 1 - inked, closed=True)


def _widths(mask: NDArray[np.bool_], inked: Tones, closed: bool = False) -> StrokeWidths:
    """Widths on the ridge of the distance; where `closed`, only between two sides, not between a side and the rim."""
    distance = np.asarray(cv2.distanceTransform(mask.astype(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_PRECISE), np.float32)
    across = np.zeros_like(distance)
    down = np.zeros_like(distance)
    across[:, 1:-1] = (distance[:, 2:] - distance[:, :-2]) / 2
    down[1:-1] = (distance[2:] - distance[:-2]) / 2
    ridge = mask & (across * across + down * down < _RIDGE_SLOPE**2)
    ridge[[0, -1]] = False
    ridge[:, [0, -1]] = False
    half = _to_edge(mask, inked, distance)
    rows, columns = np.nonzero(ridge)
    # The middle line runs between pixels; the best of the neighbours is nearest to it.
    widths = 2 * cv2.dilate(half, np.ones((3, 3), np.uint8))[rows, columns]
    if closed:
        near = np.minimum.reduce([columns, rows, mask.shape[1] - 1 - columns, mask.shape[0] - 1 - rows])
        between = near > distance[rows, columns]
        rows, columns, widths = rows[between], columns[between], widths[between]
    return StrokeWidths(np.column_stack([columns, rows]).astype(np.int32), widths.astype(np.float32))


def _to_edge(mask: NDArray[np.bool_], inked: Tones, distance: Tones) -> Tones:
    """Distance of every masked pixel to the edge, to a part of a pixel."""
    if mask.all() or not mask.any():
        return np.zeros(mask.shape, dtype=np.float32)
    _, labels = cv2.distanceTransformWithLabels(
        mask.astype(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_5, labelType=cv2.DIST_LABEL_PIXEL
    )
    rows, columns = np.nonzero(~mask)
    index = np.zeros(int(labels.max()) + 1, dtype=np.int64)
    index[labels[rows, columns]] = np.arange(rows.size)
    before = inked[rows, columns][index[labels]] - np.float32(0.5)
    return np.where(mask, distance + before, np.float32(0)).astype(np.float32)


def thin_map(shape: tuple[int, int], widths: StrokeWidths, limit_px: float) -> NDArray[np.uint8]:
    """uint8 (H, W): 0 where nothing is thinner than `limit_px`, else 1 (hair-thin) to 255 (just below the limit)."""
    found = np.zeros(shape, dtype=np.uint8)
    thin = np.flatnonzero(widths.widths_px < limit_px)
    for at in thin[np.argsort(-widths.widths_px[thin])]:
        column, row = widths.places[at]
        share = int(np.clip(255 * widths.widths_px[at] / limit_px, 1, 255))
        cv2.circle(found, (int(column), int(row)), max(1, round(float(widths.widths_px[at]) / 2)), share, cv2.FILLED)
    return found
