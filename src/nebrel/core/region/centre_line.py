"""Drawn lines as strokes: the middle of each line as a curve, with the width that it was drawn with."""

from collections import deque
from collections.abc import Callable
from dataclasses import dataclass
from itertools import pairwise
from typing import TYPE_CHECKING

import numpy as np
import shapely
from numpy.typing import NDArray

from nebrel.core.jit import compiled
from nebrel.core.region.curves import Curve, Figure, Layer, circle, figure_region
from nebrel.core.region.fit import fit_closed, fit_open
from nebrel.core.region.level_rings import level_rings
from nebrel.core.region.trace import Smoothing, Traced, refuse_endless_edges

if TYPE_CHECKING:
    from scipy.spatial import cKDTree

SPUR_WIDTHS = 1.0
STROKE_FINEST = 3.0
SETTLE = 1.5
OPPOSITE = 0.7
MEET_PX = 3.0
WITHIN_CROSSING = 4
# Widths that differ by more than this are two; they last for so many widths at least, and lead from one to the next
# over so many times what they differ.
OTHER_WIDTH, STEADY_WIDTHS, NARROWING_LENGTHS, NARROWING_STEPS = 1.15, 1.5, 3.0, 6
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
    place of it is moved to the middle between the line's two edges, which are known to a fraction of a sample. A piece
    that is no longer than wide becomes a dot: a disc of its area. Where a line goes on narrower, its width changes
    little by little.

    Args:
        values, level, pitch, smoothing, progress: as for `trace_level`; what covers less than the smallest part is
            dropped.

    Raises:
        TooLargeError: as for `trace_level`.
    """
    from scipy import ndimage
    from scipy.spatial import cKDTree
    from skimage.morphology import skeletonize

    rings = level_rings(values, level)
    inside = np.pad(values >= level, 1)
    progress(0.1)
    skeleton = skeletonize(inside)
    progress(0.5)
    # Places of the edge lie less than a sample apart, so the nearest of them is as far as the edge itself.
    edge = cKDTree(np.vstack(rings)) if rings else None
    labels = np.asarray(ndimage.label(inside, np.ones((3, 3)))[0])
    chains = _chains(skeleton) if edge else []
    lines = [_middle(chain, closed, values.shape[0], edge) for chain, closed in chains] if edge else []
    large = np.bincount(labels.ravel()) * pitch**2 >= smoothing.smallest_part
    pieces_of = [int(labels[tuple(np.round(chain[len(chain) // 2]).astype(int))]) for chain, _ in chains]
    lined = {piece for piece, line in zip(pieces_of, lines, strict=True) if not line.twig}
    kept = [line for piece, line in zip(pieces_of, lines, strict=True) if not line.twig and large[piece]]
    allowed = STROKE_FINEST * smoothing.allowed(pitch)
    curves = []
    pieces = [piece for line in _splice(kept) for piece in _by_width(line)]
    for number, line in enumerate(pieces):
        smooth = _settle(line.places, line.closed) * pitch
        knots = fit_closed(smooth, allowed, pitch) if line.closed else fit_open(smooth, allowed, pitch)
        curves.append(Curve(knots, line.closed, line.width * pitch))
        progress(0.5 + 0.4 * (number + 1) / len(pieces))
    refuse_endless_edges(sum(len(curve.knots) for curve in curves))
    curves += _dots(rings, labels, lined, pitch, smoothing.smallest_part)
    layer = Layer("Centre lines", tuple(curves))
    worst, rms = _deviation(layer, rings, pitch)
    progress(1.0)
    return Traced((layer,), worst, rms)


@dataclass(frozen=True)
class _Line:
    """A piece of a skeleton: places float64 (K, 2) in pixels, Y up; how wide the line is at each, float64 (K,)."""

    places: _Points
    closed: bool
    widths: NDArray[np.float64]

    @property
    def width(self) -> float:
        """How wide it is for the most part."""
        return float(np.median(self.widths))

    def part(self, first: int, last: int, width: float) -> "_Line":
        """From one place to another, both included, all of one width."""
        return _Line(self.places[first : last + 1], False, np.full(last + 1 - first, width))

    def turned(self) -> "_Line":
        """The same, run the other way."""
        return _Line(self.places[::-1], self.closed, self.widths[::-1])

    def followed_by(self, other: "_Line") -> "_Line":
        """One line of both, the first place of the other being the last of this."""
        places = np.vstack([self.places, other.places[1:]])
        return _Line(places, False, np.concatenate([self.widths, other.widths[1:]]))

    @property
    def twig(self) -> bool:
        """Whether it is no longer than the line is wide, as the bristles of a skeleton are."""
        length = float(np.linalg.norm(np.diff(self.places, axis=0), axis=1).sum())
        return not self.closed and length < SPUR_WIDTHS * self.width


def _middle(chain: _Points, closed: bool, rows: int, edge: "cKDTree") -> _Line:
    """A chain of pixels moved to the middle between the two edges of its line."""
    places = np.column_stack([chain[:, 1] - 0.5, rows + 0.5 - chain[:, 0]])
    near = edge.data[edge.query(places)[1]]
    away = places - near
    beyond = edge.data[edge.query(places + away)[1]]
    apart = np.linalg.norm(beyond - near, axis=1)
    # Where the two are not on opposite sides, as at ends and crossings, a place stays where the skeleton has it.
    opposite = ((beyond - places) * away).sum(axis=1) > OPPOSITE * np.linalg.norm(beyond - places, axis=1) * np.maximum(
        np.linalg.norm(away, axis=1), 1e-9
    )
    middle = np.where(opposite[:, np.newaxis], (near + beyond) / 2, places)
    if not opposite.any():
        return _Line(middle, closed, np.full(len(places), 2 * float(np.median(np.linalg.norm(away, axis=1)))))
    known = np.flatnonzero(opposite)
    return _Line(middle, closed, np.interp(np.arange(len(places)), known, apart[known]))


def _splice(lines: list[_Line]) -> list[_Line]:
    """Lines joined where only two of them meet: the skeleton of a sharp bend looks like a crossing there."""
    from scipy.spatial import cKDTree

    open_lines = [at for at, line in enumerate(lines) if not line.closed]
    if not open_lines:
        return lines
    # Of the line i of those, ends 2 i and 2 i + 1; a line that was joined has the two that are left.
    places = np.array([lines[at].places[which] for at in open_lines for which in (0, -1)])
    around = cKDTree(places).query_ball_point(places, MEET_PX)
    left = dict(enumerate(lines))
    owner = [at for at in open_lines for _ in range(2)]
    ends_of = {at: (2 * number, 2 * number + 1) for number, at in enumerate(open_lines)}
    free, waiting = set(range(len(places))), deque(range(len(places)))
    while waiting:
        meeting = [end for end in around[waiting.popleft()] if end in free]
        if len(meeting) != 2 or owner[meeting[0]] == owner[meeting[1]]:
            continue
        one, other = meeting
        ahead, behind = owner[one], owner[other]
        first, second = left.pop(ahead), left.pop(behind)
        (start, last), (begin, end) = ends_of.pop(ahead), ends_of.pop(behind)
        if one == start:
            first, start = first.turned(), last
        if other == end:
            second, end = second.turned(), begin
        joined = len(lines) + len(owner) - len(free)
        left[joined], ends_of[joined] = first.followed_by(second), (start, end)
        owner[start] = owner[end] = joined
        free -= {one, other}
        waiting += [*around[one], *around[other]]
    return list(left.values())


def _by_width(line: _Line) -> list[_Line]:
    """A line in pieces that are each of one width, with shorter ones between whose widths lead from one to the next."""
    if line.closed:
        return [line]
    stops = [0, *_changes(line.widths, 0, len(line.places)), len(line.places)]
    widths = [float(np.median(line.widths[start:end])) for start, end in pairwise(stops)]
    pieces, start = [], 0
    for stop, before, after in zip(stops[1:-1], widths, widths[1:], strict=False):
        reach = max(1, round(abs(after - before) * NARROWING_LENGTHS / 2))
        first, last = max(start + 1, stop - reach), min(len(line.places) - 2, stop + reach)
        if last - first < 2:
            continue
        pieces.append(line.part(start, first, before))
        ends = np.unique(np.linspace(first, last, NARROWING_STEPS + 1).round().astype(int))
        for low, high in pairwise(ends.tolist()):
            share = ((low + high) / 2 - first) / (last - first)
            pieces.append(line.part(low, high, before + share * (after - before)))
        start = last
    return [*pieces, line.part(start, len(line.places) - 1, widths[-1])]


def _changes(widths: NDArray[np.float64], start: int, end: int) -> list[int]:
    """Where widths change for good between two places: the parting that leaves least variance, again in both parts."""
    least = max(4, round(STEADY_WIDTHS * float(np.median(widths[start:end]))))
    if end - start < 2 * least:
        return []
    seen = widths[start:end]
    count = np.arange(1, len(seen))
    total, squares = np.cumsum(seen)[:-1], np.cumsum(seen**2)
    rest = seen.sum() - total
    inside = squares[-1] - total**2 / count - rest**2 / (len(seen) - count)
    at = least + int(np.argmin(inside[least - 1 : len(seen) - least]))
    low, high = np.median(seen[:at]), np.median(seen[at:])
    if max(low, high) <= OTHER_WIDTH * min(low, high):
        return []
    stop = start + at
    return [*_changes(widths, start, stop), stop, *_changes(widths, stop, end)]


def _dots(
    rings: list[_Points], labels: NDArray[np.integer], lined: set[int], pitch: float, smallest: float
) -> list[Curve]:
    """Discs as large as the pieces through which no line goes, in mm."""
    areas: dict[int, float] = {}
    middles: dict[int, _Points] = {}
    for ring in rings:
        area, middle = _area_and_middle(ring)
        # Of `labels`, which have a row and a column more on all sides, the pixel that the ring goes round.
        column, row = np.floor(ring[0] + 0.5).astype(int)
        near = labels[max(0, labels.shape[0] - 2 - row) :, max(0, column) :][:3, :3]
        own = int(near.max(initial=0))
        if own and own not in lined:
            areas[own] = areas.get(own, 0.0) + area
            if area > 0:
                middles[own] = middle
    return [
        circle(float(middles[own][0]) * pitch, float(middles[own][1]) * pitch, float(np.sqrt(area / np.pi)) * pitch)
        for own, area in areas.items()
        if own in middles and area > 0 and area * pitch**2 >= smallest
    ]


def _area_and_middle(ring: _Points) -> tuple[float, _Points]:
    """What a ring encloses, negative where it runs clockwise, and its centroid."""
    x, y = (ring - ring[0]).T
    cross = x * np.roll(y, -1) - np.roll(x, -1) * y
    area = float(cross.sum()) / 2
    if area == 0:
        return 0.0, ring.mean(axis=0)
    middle = np.array([((x + np.roll(x, -1)) * cross).sum(), ((y + np.roll(y, -1)) * cross).sum()]) / (6 * area)
    return area, middle + ring[0]


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
    made, seen = shapely.get_coordinates(drawn.boundary.segmentize(0.25 * pitch)), np.vstack(rings) * pitch
    there, back = cKDTree(made).query(seen)[0], cKDTree(seen).query(made)[0]
    away = np.concatenate([np.asarray(there), np.asarray(back)])
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
    # All others are passed once, or twice where a round begins; stops as often as there are ways to them.
    places = np.empty((2 * left.sum() + 16 * ends.sum() + 4, 2), dtype=np.int64)
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
