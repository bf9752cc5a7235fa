"""Drawn lines as strokes: the middle of each line as a curve, with the width that it was drawn with."""

from collections.abc import Callable
from dataclasses import dataclass
from itertools import pairwise
from typing import TYPE_CHECKING

import numpy as np
import shapely
from numpy.typing import NDArray

from nebrel.core.jit import compiled
from nebrel.core.region.curves import Curve, Figure, Layer, figure_region
from nebrel.core.region.fit import fit_closed, fit_open
from nebrel.core.region.trace import Smoothing, Traced, contours

if TYPE_CHECKING:
    from scipy.spatial import cKDTree

SPUR_WIDTHS = 1.0
STROKE_FINEST = 3.0
SETTLE = 1.5
OPPOSITE = 0.7
MEET_PX = 3.0
WITHIN_CROSSING = 4
# Neighbours beside a place, then those across its corners.
AROUND = np.array([[0, 1], [1, 0], [0, -1], [-1, 0], [1, 1], [1, -1], [-1, -1], [-1, 1]])
_Points = NDArray[np.float64]


def trace_centre_lines(
    values: NDArray[np.float32],
    level: float,
    pitch: float,
    smoothing: Smoothing,
    progress: Callable[[float], None] = lambda _: None,
) -> Traced:
    """The middles of the lines where `values` reach `level`, as strokes of the width measured along each.

    The skeleton (Zhang and Suen, 1984) is cut at its crossings; twigs shorter than the line is wide are left out. Every
    place of it is moved to the middle between the line's two edges, which are known to a fraction of a sample.

    Args:
        values, level, pitch, smoothing, progress: as for `trace_level`; strokes shorter than the smallest part's
            square root are dropped.
    """
    from scipy.spatial import cKDTree
    from skimage.morphology import skeletonize

    rings = contours(values, level)
    inside = np.pad(values >= level, 1)
    progress(0.1)
    skeleton = skeletonize(inside)
    progress(0.5)
    # Places of the edge lie less than a sample apart, so the nearest of them is as far as the edge itself.
    edge = cKDTree(np.vstack(rings)) if rings else None
    lines = [_middle(chain, closed, values.shape[0], edge) for chain, closed in _chains(skeleton)] if edge else []
    kept = [line for line in lines if not (line.twig and len(lines) > 1)]
    allowed = STROKE_FINEST * smoothing.allowed(pitch)
    curves = []
    for number, line in enumerate(_splice(kept)):
        length = float(np.linalg.norm(np.diff(line.places, axis=0), axis=1).sum())
        if length * line.width * pitch**2 < smoothing.smallest_part:
            continue
        smooth = _settle(line.places, line.closed) * pitch
        knots = fit_closed(smooth, allowed, pitch) if line.closed else fit_open(smooth, allowed, pitch)
        curves.append(Curve(knots, line.closed, line.width * pitch))
        progress(0.5 + 0.4 * (number + 1) / len(kept))
    layer = Layer("Centre lines", tuple(curves))
    worst, rms = _deviation(layer, rings, pitch)
    progress(1.0)
    return Traced((layer,), worst, rms)


@dataclass(frozen=True)
class _Line:
    """A piece of a skeleton: places float64 (K, 2) in samples, Y up; how wide the line is there."""

    places: _Points
    closed: bool
    width: float

    @property
    def twig(self) -> bool:
        """Whether it is no longer than the line is wide, as the bristles of a skeleton are."""
        length = float(np.linalg.norm(np.diff(self.places, axis=0), axis=1).sum())
        return not self.closed and length < SPUR_WIDTHS * self.width


def _middle(chain: _Points, closed: bool, rows: int, edge: "cKDTree") -> _Line:
    """A chain of pixels moved to the middle between the two edges of its line."""
    places = np.column_stack([chain[:, 1] - 1, rows - chain[:, 0]])
    near = edge.data[edge.query(places)[1]]
    away = places - near
    beyond = edge.data[edge.query(places + away)[1]]
    apart = np.linalg.norm(beyond - near, axis=1)
    # Where the two are not on opposite sides, as at ends and crossings, a place stays where the skeleton has it.
    opposite = ((beyond - places) * away).sum(axis=1) > OPPOSITE * np.linalg.norm(beyond - places, axis=1) * np.maximum(
        np.linalg.norm(away, axis=1), 1e-9
    )
    middle = np.where(opposite[:, np.newaxis], (near + beyond) / 2, places)
    width = float(np.median(apart[opposite])) if opposite.any() else 2 * float(np.median(np.linalg.norm(away, axis=1)))
    return _Line(middle, closed, width)


def _splice(lines: list[_Line]) -> list[_Line]:
    """Lines joined where only two of them meet: the skeleton of a sharp bend looks like a crossing there."""
    from scipy.spatial import cKDTree

    lines = list(lines)
    while True:
        ends = [(at, which) for at, line in enumerate(lines) if not line.closed for which in (0, -1)]
        if len(ends) < 2:
            return lines
        places = np.array([lines[at].places[which] for at, which in ends])
        around = cKDTree(places).query_ball_point(places, MEET_PX)
        meeting = next((pair for pair in around if len(pair) == 2 and ends[pair[0]][0] != ends[pair[1]][0]), None)
        if meeting is None:
            return lines
        (one, one_end), (other, other_end) = ends[meeting[0]], ends[meeting[1]]
        first = lines[one].places if one_end == -1 else lines[one].places[::-1]
        second = lines[other].places if other_end == 0 else lines[other].places[::-1]
        lengths = [len(first), len(second)]
        width = float(np.average([lines[one].width, lines[other].width], weights=lengths))
        joined = _Line(np.vstack([first, second[1:]]), False, width)
        lines = [line for at, line in enumerate(lines) if at not in (one, other)] + [joined]


def _settle(points: _Points, closed: bool) -> _Points:
    """Pixel steps evened out; open ends stay."""
    from scipy import ndimage

    smooth = ndimage.gaussian_filter1d(points, SETTLE, axis=0, mode="wrap" if closed else "nearest")
    if not closed:
        smooth[0], smooth[-1] = points[0], points[-1]
    return smooth


def _deviation(layer: Layer, rings: list[_Points], pitch: float) -> tuple[float, float]:
    from scipy.spatial import cKDTree

    drawn = figure_region(Figure((layer,)), 0.05 * pitch)
    if drawn.is_empty:
        return 0.0, 0.0
    edge = cKDTree(shapely.get_coordinates(drawn.boundary.segmentize(0.25 * pitch)))
    away = np.asarray(edge.query(np.vstack(rings) * pitch)[0])
    return float(away.max()), float(np.sqrt((away**2).mean()))


def _chains(skeleton: NDArray[np.bool_]) -> list[tuple[_Points, bool]]:
    """Rows and columns along every piece of a skeleton between ends and crossings, and whether it closes on itself.

    Pixels of one crossing lie side by side; they count as one, and pieces end in its middle.
    """
    from scipy import ndimage

    around = ndimage.convolve(skeleton.astype(np.uint8), np.ones((3, 3), np.uint8), mode="constant") - 1
    stops = skeleton & (around != 2)
    crossing, count = ndimage.label(stops, np.ones((3, 3)))
    middles = np.array(ndimage.center_of_mass(stops, crossing, range(1, count + 1))).reshape(-1, 2)
    places, starts = _walk(skeleton.copy(), stops)
    chains = []
    for first, last in pairwise([*starts, len(places)]):
        chain = places[first:last]
        ends = crossing[tuple(chain[0])], crossing[tuple(chain[-1])]
        if len(chain) < 2 or (0 < ends[0] == ends[1] and len(chain) <= WITHIN_CROSSING):
            continue
        line = chain.astype(np.float64)
        for at, end in ((0, ends[0]), (-1, ends[1])):
            if end:
                line[at] = middles[end - 1]
        chains.append((line, not any(ends) and len(chain) > 3 and bool(np.abs(chain[0] - chain[-1]).max() <= 1)))
    return chains


@compiled
def _walk(left, ends):
    """Follow the skeleton from every end and crossing, then round what is closed; crossings belong to every chain."""
    rows, columns = left.shape
    places = np.empty((4 * left.sum() + 4, 2), dtype=np.int64)
    starts = np.empty(len(places), dtype=np.int64)
    count, chains = 0, 0
    for closed in (False, True):
        for r in range(1, rows - 1):
            for c in range(1, columns - 1):
                if not left[r, c] or (not closed and not ends[r, c]):
                    continue
                for k in range(8):
                    y, x = r + AROUND[k, 0], c + AROUND[k, 1]
                    # Two crossings side by side are followed once, from the later one.
                    if not left[r, c] or not left[y, x] or (not closed and ends[y, x] and (y, x) < (r, c)):
                        continue
                    starts[chains] = count
                    chains += 1
                    places[count, 0], places[count, 1] = r, c
                    left[r, c] = not closed
                    count = _follow(left, ends, places, count, y, x)
    return places[:count], starts[:chains]


@compiled
def _follow(left, ends, places, count, y, x):
    """Take the way from the place at `count` over (`y`, `x`) to the next end or crossing; gives where it stops."""
    first_y, first_x = py, px = places[count, 0], places[count, 1]
    steps = 0
    while True:
        count += 1
        steps += 1
        places[count, 0], places[count, 1] = y, x
        if ends[y, x]:
            return count + 1
        left[y, x] = False
        best, at = 9, -1
        for k in range(8):
            ny, nx = y + AROUND[k, 0], x + AROUND[k, 1]
            back = (ny == py and nx == px) or (steps == 1 and ny == first_y and nx == first_x)
            # Ends and crossings come first, then neighbours beside, then those across a corner.
            rank = 0 if ends[ny, nx] else k
            if left[ny, nx] and not back and rank < best:
                best, at = rank, k
        if at < 0:
            return count + 1
        py, px, y, x = y, x, y + AROUND[at, 0], x + AROUND[at, 1]
