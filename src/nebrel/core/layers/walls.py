"""How many printed lines fit across each wall of each layer.

From every place along an outline, the way through the material straight to the other side is measured. Where both
sides face each other that is a wall, and lines of the printer's width are laid into it side by side: a rest that is
neither none nor nearly one more stays hollow.
"""

from dataclasses import dataclass
from itertools import chain
from typing import NamedTuple

import manifold3d
import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components
from scipy.spatial import cKDTree

from nebrel.core.jit import compiled, inlined
from nebrel.core.layers.slices import Slices

# Walls of more lines than this are filled otherwise.
MOST_LINES = 6
# A rest below is no gap, and one above is filled by a line squeezed a little.
LEAST_REST, MOST_REST = 0.2, 0.8
# Sides that turn less from facing each other are those of a wall, and no tip: cosine.
FACING = -0.9
# A way that meets a side this near to a corner meets the corner, in lines.
AT_CORNER = 0.6
# Places are half a line apart, at most this many on a layer.
MOST_PLACES = 40_000


@dataclass(frozen=True)
class WallPlaces:
    """Places along the outlines of one layer.

    Attributes:
        points: float64 (K, 2) mm.
        inward: float64 (K, 2), which way the material lies, unit.
        wide: float64 (K,) mm to the other side; infinite where that is far, or no wall.
        runs: int64 (K,), which places follow each other on one outline: its number.
        lengths: float64 (K,) mm of the outline that each stands for.
    """

    points: NDArray[np.float64]
    inward: NDArray[np.float64]
    wide: NDArray[np.float64]
    runs: NDArray[np.int64]
    lengths: NDArray[np.float64]

    def lines(self, line: float) -> NDArray[np.int64]:
        """How many lines fit, int64 (K,); `MOST_LINES` where it is more, or no wall."""
        count = np.floor(np.minimum(self.wide / line, MOST_LINES) + 1 - MOST_REST + 1e-9)
        return np.minimum(count, MOST_LINES).astype(np.int64)

    def rest(self, line: float) -> NDArray[np.float64]:
        """How much of a line stays hollow between those that fit, float64 (K,) in lines; 0 where nothing does."""
        lines = np.minimum(self.wide / line, MOST_LINES)
        over = lines - np.floor(lines)
        return np.where((over > LEAST_REST) & (over < MOST_REST), over, 0.0)


@dataclass(frozen=True)
class WallSpot:
    """A wall that is too thin, or that fits an awkward number of lines, through neighbouring layers.

    Attributes:
        thin: whether not one line fits; otherwise a rest stays hollow.
        first, last: of the layers.
        wide: mm, in the middle of what is there.
        lines: how many lines that is.
        length: mm along the outline in the layer where it is longest.
        at: X and Y, mm, and the layer, of a place in the middle of it.
    """

    thin: bool
    first: int
    last: int
    wide: float
    lines: float
    length: float
    at: tuple[float, float, int]


def wall_places(section: manifold3d.CrossSection, line: float) -> WallPlaces:
    """How wide the walls of a layer are, all along its outlines.

    Args:
        section: what the layer covers, plain.
        line: mm that a printed line is wide.
    """
    rings = [np.asarray(ring, dtype=np.float64) for ring in section.to_polygons()]
    if not rings:
        return WallPlaces(np.empty((0, 2)), np.empty((0, 2)), np.empty(0), np.empty(0, dtype=np.int64), np.empty(0))
    starts = np.concatenate(rings)
    ends = np.concatenate([np.roll(ring, -1, axis=0) for ring in rings])
    lengths = np.linalg.norm(ends - starts, axis=1)
    ring_starts = np.cumsum([0, *(len(ring) for ring in rings[:-1])])
    ring_of = np.repeat(np.arange(len(rings)), [len(ring) for ring in rings])
    step = max(line / 2, float(lengths.sum()) / MOST_PLACES)
    counts = np.maximum(1, np.round(lengths / step).astype(np.int64))
    edges = np.repeat(np.arange(len(starts)), counts)
    within = np.arange(len(edges)) - np.repeat(np.cumsum(counts) - counts, counts)
    share = ((within + 0.5) / counts[edges])[:, np.newaxis]
    points = starts[edges] + share * (ends - starts)[edges]
    along = (ends - starts) / np.maximum(lengths, 1e-12)[:, np.newaxis]
    reach = (MOST_LINES + 1) * line
    low = starts.min(axis=0)
    cells = np.maximum(1, np.ceil((starts.max(axis=0) - low) / reach).astype(np.int64) + 1)
    first, listed = _edges_of_cells(starts, ends, low, reach, cells)
    before = np.concatenate([np.roll(own, 1) for own in np.split(np.arange(len(starts)), ring_starts[1:])])
    around = _Around(first, listed, before, np.argsort(before))
    wide = _ways_through(points, edges, starts, ends, along, low, reach, cells, around, FACING, AT_CORNER * line)
    inward = np.column_stack([-along[:, 1], along[:, 0]])[edges]
    return WallPlaces(points, inward, wide, ring_of[edges], (lengths / counts)[edges])


def wall_spots(slices: Slices, places: list[WallPlaces], line: float) -> list[WallSpot]:
    """Walls that are awkward for longer than one line, in at least two neighbouring layers, the largest first."""
    return [
        *_spots(slices, [(each, each.wide < LEAST_REST_OF_ONE * line) for each in places], line, thin=True),
        *_spots(
            slices,
            [(each, (each.rest(line) > 0) & (each.wide >= LEAST_REST_OF_ONE * line)) for each in places],
            line,
            thin=False,
        ),
    ]


# Runs whose walls differ by more lines than this are two walls.
ALIKE = 0.5
# A wall of less than this share of a line is not printed at all, or torn.
LEAST_REST_OF_ONE = MOST_REST


@dataclass
class _Run:
    layer: int
    points: NDArray[np.float64]
    wide: float
    length: float


def _spots(
    slices: Slices, marked: list[tuple[WallPlaces, NDArray[np.bool_]]], line: float, thin: bool
) -> list[WallSpot]:
    runs = [run for layer, (places, which) in enumerate(marked) for run in _runs_of(layer, places, which, line)]
    if not runs:
        return []
    layers = np.array([run.layer for run in runs])
    firsts = np.searchsorted(layers, np.arange(len(marked) + 1))
    pairs = [np.empty((0, 2), dtype=np.int64)]
    for layer in np.unique(layers).tolist():
        here = list(range(firsts[layer], firsts[layer + 1]))
        above = list(range(firsts[layer + 1], firsts[min(layer + 2, len(marked))]))
        pairs.append(_touching(runs, here, above, 1.5 * line, line))
        # Both sides of a wall, and its parts about an opening, are one within a layer.
        pairs.append(_touching(runs, here, here, None, line))
    one, other = np.concatenate(pairs).T
    count = len(runs)
    _, group = connected_components(coo_array((np.ones(len(one)), (one, other)), shape=(count, count)), directed=False)
    together: dict[int, list[_Run]] = {}
    for at, run in enumerate(runs):
        together.setdefault(int(group[at]), []).append(run)
    found = [_spot(members, line, thin) for members in together.values()]
    # What is thin for less height than a line is wide is the top of a ridge, and no wall.
    bounds = slices.bounds
    several = [
        spot
        for spot in found
        if len(slices.sections) == 1
        or (spot.last > spot.first and bounds[spot.last + 1] - bounds[spot.first] > line - 1e-9)
    ]
    return sorted(several, key=lambda spot: -spot.length * (spot.last - spot.first + 1))


def _touching(
    runs: list[_Run], ones: list[int], others: list[int], far: float | None, line: float
) -> NDArray[np.int64]:
    """Pairs of runs that come as near as `far`, or where that is None as their walls are wide, int64 (P, 2)."""
    if not (ones and others):
        return np.empty((0, 2), dtype=np.int64)
    # Ends and some places between tell whether runs meet; walls are wider than their places lie apart.
    taken, reach = [], []
    for at in ones:
        run = runs[at]
        within = max(run.wide, line) * 1.2 if far is None else far
        step = max(1, int(within * len(run.points) / (2 * max(run.length, 1e-9))))
        taken.append(np.concatenate([run.points[::step], run.points[-1:]]))
        reach.append(np.full(len(taken[-1]), within))
    own = np.repeat(ones, [len(points) for points in taken])
    owner = np.repeat(others, [len(runs[at].points) for at in others])
    tree = cKDTree(np.concatenate([runs[at].points for at in others]))
    hits = tree.query_ball_point(np.concatenate(taken), np.concatenate(reach))
    counts = np.fromiter(map(len, hits), dtype=np.int64, count=len(hits))
    flat = np.fromiter(chain.from_iterable(hits), dtype=np.int64, count=int(counts.sum()))
    coded = np.unique(np.repeat(own, counts) * len(runs) + owner[flat])
    pairs = np.column_stack([coded // len(runs), coded % len(runs)])
    # Walls of other widths are other walls.
    wide = np.array([run.wide for run in runs])
    return np.asarray(pairs[np.abs(wide[pairs[:, 0]] - wide[pairs[:, 1]]) <= ALIKE * line])


def _runs_of(layer: int, places: WallPlaces, which: NDArray[np.bool_], line: float) -> list[_Run]:
    """Places of a layer that follow each other along an outline for longer than a line."""
    found: list[_Run] = []
    for ring in np.unique(places.runs[which]).tolist():
        on = np.flatnonzero(places.runs == ring)
        flagged = which[on]
        if flagged.all():
            parts = [on]
        else:
            begin = int(np.flatnonzero(~flagged)[0])
            on, flagged = np.roll(on, -begin), np.roll(flagged, -begin)
            changes = np.flatnonzero(np.diff(np.concatenate([[0], flagged.astype(np.int8), [0]])))
            parts = [on[first:last] for first, last in changes.reshape(-1, 2)]
        for part in parts:
            length = float(places.lengths[part].sum())
            if length > line:
                found.append(_Run(layer, places.points[part], float(np.median(places.wide[part])), length))
    return found


def _spot(members: list[_Run], line: float, thin: bool) -> WallSpot:
    lengths: dict[int, float] = {}
    for run in members:
        lengths[run.layer] = lengths.get(run.layer, 0.0) + run.length
    longest = max(lengths, key=lambda layer: lengths[layer])
    chosen = max((run for run in members if run.layer == longest), key=lambda run: run.length)
    x, y = chosen.points[len(chosen.points) // 2].tolist()
    wide = float(np.median([run.wide for run in members]))
    return WallSpot(
        thin=thin,
        first=min(lengths),
        last=max(lengths),
        wide=wide,
        lines=wide / line,
        # Each side of a wall is one outline.
        length=lengths[longest] / 2,
        at=(x, y, longest),
    )


def _edges_of_cells(
    starts: NDArray[np.float64],
    ends: NDArray[np.float64],
    low: NDArray[np.float64],
    side: float,
    cells: NDArray[np.int64],
) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Where the list of each cell's edges begins, int64 (C + 1,), and the edges, int64 (L,)."""
    least = np.floor((np.minimum(starts, ends) - low) / side).astype(np.int64)
    most = np.floor((np.maximum(starts, ends) - low) / side).astype(np.int64)
    spans = most - least + 1
    count = spans[:, 0] * spans[:, 1]
    edge = np.repeat(np.arange(len(starts)), count)
    within = np.arange(len(edge)) - np.repeat(np.cumsum(count) - count, count)
    column = least[edge, 0] + within % spans[edge, 0]
    row = least[edge, 1] + within // spans[edge, 0]
    cell = row * cells[0] + column
    order = np.argsort(cell, kind="stable")
    first = np.searchsorted(cell[order], np.arange(int(cells[0] * cells[1]) + 1))
    return first, edge[order]


class _Around(NamedTuple):
    """Where the list of each cell's edges begins, the edges, and which edge comes before and after each."""

    first: NDArray[np.int64]
    listed: NDArray[np.int64]
    before: NDArray[np.int64]
    after: NDArray[np.int64]


@compiled
def _ways_through(points, edges, starts, ends, along, low, reach, cells, around, facing, at_corner):
    """From each point straight into the material, how far it is to the edge or corner that faces it.

    It is infinite where none does. A corner faces all that lies between its edges.
    """
    first, listed, before, after = around
    found = np.full(len(points), np.inf)
    for at in range(len(points)):
        own = edges[at]
        # Material is on the left.
        dx, dy = -along[own, 1], along[own, 0]
        x, y = points[at, 0], points[at, 1]
        left = int(np.floor((min(x, x + dx * reach) - low[0]) / reach))
        right = int(np.floor((max(x, x + dx * reach) - low[0]) / reach))
        under = int(np.floor((min(y, y + dy * reach) - low[1]) / reach))
        over = int(np.floor((max(y, y + dy * reach) - low[1]) / reach))
        best, turn, hit, where = reach, 1.0, -1, 0.0
        for row in range(max(under, 0), min(over, cells[1] - 1) + 1):
            for column in range(max(left, 0), min(right, cells[0] - 1) + 1):
                cell = row * cells[0] + column
                for place in range(first[cell], first[cell + 1]):
                    edge = listed[place]
                    if edge == own:
                        continue
                    ax, ay = starts[edge, 0] - x, starts[edge, 1] - y
                    ex, ey = ends[edge, 0] - starts[edge, 0], ends[edge, 1] - starts[edge, 1]
                    across = dx * ey - dy * ex
                    if across == 0.0:
                        continue
                    far = (ax * ey - ay * ex) / across
                    share = (ax * dy - ay * dx) / across
                    if 1e-9 < far < best and 0.0 <= share <= 1.0:
                        best, hit, where = far, edge, share
                        turn = along[own, 0] * along[edge, 0] + along[own, 1] * along[edge, 1]
        if best >= reach:
            continue
        if turn <= facing:
            found[at] = best * (1.0 - turn) / 2.0
            continue
        long = np.hypot(ends[hit, 0] - starts[hit, 0], ends[hit, 1] - starts[hit, 1])
        before_it = where * long <= at_corner and _lies_between(dx, dy, along, before[hit], hit)
        after_it = (1.0 - where) * long <= at_corner and _lies_between(dx, dy, along, hit, after[hit])
        if before_it or after_it:
            found[at] = best
    return found


@inlined
def _lies_between(dx, dy, along, one, other):
    """Whether a way lies between those straight against two edges that follow each other."""
    mx, my = -dx, -dy
    ax, ay = -along[one, 1], along[one, 0]
    bx, by = -along[other, 1], along[other, 0]
    if mx * (ax + bx) + my * (ay + by) <= 0.0:
        return False
    return (ax * my - ay * mx) * (mx * by - my * bx) >= -1e-6
