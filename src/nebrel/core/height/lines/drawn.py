"""Chains of jumps drawn as curves: corners stay corners, what meets stays joined, nothing crosses."""

from dataclasses import dataclass, field

import numpy as np
import shapely
from numpy.typing import NDArray

from nebrel.core.height.lines.chains import ALONG, Chains
from nebrel.core.height.lines.covered import closer_rings
from nebrel.core.height.lines.sides import Ground
from nebrel.core.height.lines.smooth import smooth_stairs
from nebrel.core.region.curves import Curve
from nebrel.core.region.fit import fit_closed, fit_open

# Places of lines lie on a grid so much finer than the samples, which makes comparing them exact.
FINE = 128
SIMPLE_PX = 0.12
# No piece of a line is shorter.
LEAST_PX = 32 / FINE
# How far from its place a line may run: where it was drawn hard, and where samples tell it.
HARD_WITHIN_PX, SOFT_WITHIN_PX = 0.55, 0.08
FEWEST_PLACES = 4
# How far curves may be off in samples, and how far corners reach, of what they do in a picture's samples. Places that
# samples tell are nearer to the edge, and show corners sooner.
MOSTLY, HARD_FIT, SOFT_FIT = 0.5, (0.12, 1.0), (0.08, 0.75)
# Chains that meet go on in each other where they turn less than that.
GOES_ON_COS = -0.9
LOOK_PLACES = 6
ROUNDS, PLAINEST = 4, 2
SMOOTH_COS = 0.99
_Points = NDArray[np.float64]
_Floats = NDArray[np.float32]


@dataclass
class Line:
    """One line to draw.

    Attributes:
        chain: float64 (N, 2), places in order, column and row.
        samples: int64 (N, 2), beside each, left and right with Y upwards.
        told, hard: bool (N,), see `Chains`.
        closed: whether the last leads to the first.
        ends: the meetings at which it begins and ends; -1 for none.
        through: meetings that lie on its way, with the place of each.
        curve: what is fitted to it; None where it has too few places.
        points: float64 (K, 2), what is drawn, on the fine grid.
    """

    chain: _Points
    samples: NDArray[np.int64]
    told: NDArray[np.bool_]
    hard: NDArray[np.bool_]
    closed: bool
    ends: tuple[int, int]
    through: dict[int, _Points] = field(default_factory=dict)
    curve: Curve | None = None
    points: _Points = field(default_factory=lambda: np.empty((0, 2)))

    def turned(self) -> "Line":
        """The same, run the other way."""
        return Line(
            self.chain[::-1],
            self.samples[::-1, ::-1],
            self.told[::-1],
            self.hard[::-1],
            self.closed,
            self.ends[::-1],
            self.through,
        )


def lines_of(chains: Chains, heights: _Floats, ground: Ground, chord: float) -> list[Line]:
    """Lines along chains, their points on the fine grid, none of which crosses another or itself.

    Args:
        chains: that meet where they meet.
        heights: float32 (H, W) mm, as they are.
        ground: the same with their jumps between neighbours.
        chord: how far straight pieces may be off the curve, in samples.
    """
    shape = heights.shape
    lines = [
        Line(
            chains.places[start:end],
            chains.beside[start:end],
            chains.told[start:end],
            chains.hard[start:end],
            bool(ring),
            (int(ends[0]), int(ends[1])),
        )
        for start, end, ring, ends in zip(
            chains.starts[:-1], chains.starts[1:], chains.closed, chains.ends, strict=True
        )
    ]
    lines = _joined(lines, chains.meetings)
    for line in lines:
        line.curve = _fitted(line, chains.meetings, shape)
    rings = [line for line in lines if line.curve is not None and _is_covered(line, line.curve)]
    fitted = [line.curve for line in rings if line.curve is not None]
    if rings:
        chain_of, samples_of = [line.chain for line in rings], [line.samples for line in rings]
        for line, curve in zip(rings, closer_rings(fitted, chain_of, samples_of, heights, ground), strict=True):
            line.curve = curve
    plain = np.zeros(len(lines), dtype=np.int64)
    for _ in range(ROUNDS):
        met = {number: on_grid(place) for number, place in enumerate(chains.meetings)}
        for number, line in enumerate(lines):
            line.points = _drawn(line, chains.meetings, int(plain[number]), shape, chord)
        for line in lines:
            for meeting, place in line.through.items():
                line.points, met[meeting] = _with_place(line.points, place, line.closed)
        for line in lines:
            line.points = _ended(line, met)
        faulty = _crossing(lines)
        if not len(faulty):
            return lines
        plain[faulty] += 1
        if plain.max() > PLAINEST:
            lines = [line for number, line in enumerate(lines) if plain[number] <= PLAINEST]
            plain = plain[plain <= PLAINEST]
    bad = set(_crossing(lines).tolist())
    return [line for number, line in enumerate(lines) if number not in bad]


def _is_covered(line: Line, curve: Curve) -> bool:
    """Whether the samples beside a line tell more than its places: of hard ones without corners they do not."""
    if not line.closed or line.through:
        return False
    before, after = curve.nodes - curve.knots[:, 0], curve.knots[:, 2] - curve.nodes
    lengths = np.linalg.norm(before, axis=1) * np.linalg.norm(after, axis=1)
    has_corners = bool(((before * after).sum(axis=1) <= SMOOTH_COS * lengths).any())
    return has_corners or line.hard.mean() <= MOSTLY


def on_grid(places: _Points) -> _Points:
    """The nearest places of the fine grid."""
    return np.round(places * FINE) / FINE


def _joined(lines: list[Line], meetings: _Points) -> list[Line]:
    """Lines that go straight on through a meeting made one."""
    for meeting in range(len(meetings)):
        here = [(number, end) for number, line in enumerate(lines) for end in (0, 1) if line.ends[end] == meeting]
        if len(here) != 3:
            continue
        ways = []
        for number, end in here:
            chain = lines[number].chain if end == 0 else lines[number].chain[::-1]
            way = chain[min(LOOK_PLACES, len(chain) - 1)] - meetings[meeting]
            ways.append(way / max(float(np.linalg.norm(way)), 1e-9))
        pairs = [(float(ways[a] @ ways[b]), a, b) for a, b in ((0, 1), (0, 2), (1, 2))]
        straightest, a, b = min(pairs)
        if straightest > GOES_ON_COS:
            continue
        (one, one_end), (two, two_end) = here[a], here[b]
        place = meetings[meeting]
        if one == two:
            lines[one].closed, lines[one].ends = True, (-1, -1)
            lines[one].through[meeting] = place
            continue
        first = lines[one] if one_end == 1 else lines[one].turned()
        second = lines[two] if two_end == 0 else lines[two].turned()
        merged = Line(
            np.vstack([first.chain, second.chain]),
            np.vstack([first.samples, second.samples]),
            np.concatenate([first.told, second.told]),
            np.concatenate([first.hard, second.hard]),
            False,
            (first.ends[0], second.ends[1]),
            {**first.through, **second.through, meeting: place},
        )
        lines[one] = merged
        lines = [line for number, line in enumerate(lines) if number != two]
    return lines


def _fitted(line: Line, meetings: _Points, shape: tuple[int, ...]) -> Curve | None:
    """The curve along the places that tell where a line runs; None where they are too few."""
    ring = _with_ends(_chosen(line, shape), line.ends, meetings)
    if len(ring) < FEWEST_PLACES:
        return None
    allowed, reach = HARD_FIT if line.hard.mean() > MOSTLY else SOFT_FIT
    return Curve((fit_closed if line.closed else fit_open)(np.ascontiguousarray(ring), allowed, reach), line.closed)


def _chosen(line: Line, shape: tuple[int, ...]) -> _Points:
    """The places that tell where a line runs, on a smooth way."""
    kept = _telling(line)
    kept = kept if line.closed else _ends_too(kept)
    if kept.sum() < FEWEST_PLACES:
        kept[:] = True
    chosen = line.chain[kept]
    if not line.hard[kept].any():
        return chosen
    smooth = smooth_stairs(chosen, line.closed, np.where(line.hard[kept], HARD_WITHIN_PX, SOFT_WITHIN_PX))
    return smooth if line.closed else _at_the_border(smooth, line.chain, shape)


def _drawn(line: Line, meetings: _Points, plain: int, shape: tuple[int, ...], chord: float) -> _Points:
    """Points of one line: along its curve, or once it crossed something, along fewer or all of its own places."""
    if plain == PLAINEST:
        return on_grid(_with_ends(line.chain, line.ends, meetings))
    if plain == 0 and line.curve is not None:
        points = _in_chords(line.curve, chord)
    else:
        ring = _with_ends(_chosen(line, shape), line.ends, meetings)
        flat = shapely.LinearRing(ring) if line.closed and len(ring) > 2 else shapely.LineString(ring)
        points = shapely.get_coordinates(flat.simplify(SIMPLE_PX))
        points = points[:-1] if line.closed else points
    last = np.array(shape[::-1]) - 1.0
    points = np.clip(points, LEAST_PX, last - LEAST_PX)
    for end, meeting in ((0, line.ends[0]), (-1, line.ends[1])):
        if not line.closed and meeting < 0:
            outer = (line.chain[end] <= 0) | (line.chain[end] >= last)
            points[end] = np.where(outer, line.chain[end], points[end])
    return _distinct(on_grid(points), line.closed)


def _in_chords(curve: Curve, chord: float) -> _Points:
    """Places along a curve, evenly on every side of it, between which it is straight within `chord` (Wang's bound)."""
    sides = curve.sides
    straight = (sides[:, 0] == sides[:, 1]).all(axis=1) & (sides[:, 2] == sides[:, 3]).all(axis=1)
    bend = np.linalg.norm(sides[:, :-2] - 2 * sides[:, 1:-1] + sides[:, 2:], axis=2).max(axis=1)
    counts = np.maximum(np.ceil(np.sqrt(0.75 * np.where(straight, 0.0, bend) / chord)), 1).astype(np.int64)
    step = np.arange(counts.sum()) - np.repeat(np.cumsum(counts) - counts, counts)
    t = (step / np.repeat(counts, counts))[:, np.newaxis]
    a, b, c, d = sides[np.repeat(np.arange(len(sides)), counts)].swapaxes(0, 1)
    points = (1 - t) ** 3 * a + 3 * (1 - t) ** 2 * t * b + 3 * (1 - t) * t**2 * c + t**3 * d
    return points if curve.closed else np.vstack([points, curve.nodes[-1:]])


def _telling(line: Line) -> NDArray[np.bool_]:
    """Which places say where the line runs: those that samples tell, where soft ones are passed across."""
    chain = line.chain
    ahead, behind = np.roll(chain, -2, axis=0), np.roll(chain, 2, axis=0)
    if not line.closed:
        ahead[-2:], behind[:2] = chain[-1], chain[0]
    way = ahead - behind
    way /= np.maximum(np.linalg.norm(way, axis=1, keepdims=True), 1e-9)
    flat = chain[:, 1] == np.round(chain[:, 1])
    across = np.where(flat, np.abs(way[:, 1]), np.abs(way[:, 0])) >= ALONG
    return line.told & (line.hard | across)


def _ends_too(kept: NDArray[np.bool_]) -> NDArray[np.bool_]:
    kept = kept.copy()
    kept[[0, -1]] = True
    return kept


def _at_the_border(smoothed: _Points, chain: _Points, shape: tuple[int, ...]) -> _Points:
    """Ends that lie on the outermost samples do so again."""
    smoothed = smoothed.copy()
    last = np.array(shape[::-1]) - 1.0
    for end in (0, -1):
        on = (chain[end] <= 0) | (chain[end] >= last)
        smoothed[end] = np.where(on, chain[end], smoothed[end])
    return smoothed


def _with_ends(places: _Points, ends: tuple[int, int], meetings: _Points) -> _Points:
    before = meetings[ends[0] : ends[0] + 1] if ends[0] >= 0 else places[:0]
    after = meetings[ends[1] : ends[1] + 1] if ends[1] >= 0 else places[:0]
    return np.vstack([before, places, after])


def _ended(line: Line, met: dict[int, _Points]) -> _Points:
    """The points, beginning and ending where what they meet came to lie."""
    points = line.points.copy()
    for end, meeting in ((0, line.ends[0]), (-1, line.ends[1])):
        if meeting >= 0 and len(points):
            points[end] = met[meeting]
    return _distinct(points, line.closed)


def _with_place(points: _Points, place: _Points, closed: bool) -> tuple[_Points, _Points]:
    """The points with the one nearest to `place` on the line among them, and that."""
    ends = np.vstack([points, points[:1]]) if closed else points
    line = shapely.LineString(ends)
    at = line.project(shapely.Point(place))
    found = on_grid(np.array(line.interpolate(at).coords[0]))
    along = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(ends, axis=0), axis=1))])
    index = int(np.searchsorted(along, at))
    for near in (index - 1, index):
        if 0 <= near < len(ends) and np.linalg.norm(ends[near] - found) < LEAST_PX:
            return points, ends[near].copy()
    return np.insert(points, min(index, len(points)), found, axis=0), found


def _distinct(points: _Points, closed: bool) -> _Points:
    """The points without those that lie on the one before; both ends of an open line stay."""
    if len(points) < 2:
        return points
    following = np.roll(points, -1, axis=0) if closed else np.vstack([points[1:], [[np.inf, np.inf]]])
    kept = np.linalg.norm(following - points, axis=1) >= LEAST_PX
    if not closed:
        kept[0] = True
        if len(points) > 2 and np.linalg.norm(points[1] - points[0]) < LEAST_PX:
            kept[1] = False
    return points[kept]


def _crossing(lines: list[Line]) -> NDArray[np.int64]:
    """Lines that cross or touch themselves or another one anywhere but at meetings."""
    drawn = np.empty(len(lines), dtype=object)
    faulty = set()
    for number, line in enumerate(lines):
        if len(line.points) < (3 if line.closed else 2):
            drawn[number] = shapely.LineString()
            faulty.add(number)
            continue
        drawn[number] = shapely.LinearRing(line.points) if line.closed else shapely.LineString(line.points)
    faulty |= set(np.flatnonzero(~shapely.is_simple(drawn)).tolist())
    tree = shapely.STRtree(drawn)
    one, other = tree.query(drawn, predicate="intersects")
    apart = one < other
    one, other = one[apart], other[apart]
    for a, b, shared in zip(one.tolist(), other.tolist(), shapely.intersection(drawn[one], drawn[other]), strict=True):
        if not _only_meet(lines[a], lines[b], shared):
            faulty |= {a, b}
    return np.array(sorted(faulty), dtype=np.int64)


def _only_meet(one: Line, other: Line, shared: shapely.Geometry) -> bool:
    """Whether what two lines share are points of both, at meetings that both come to."""
    if shared.geom_type not in ("Point", "MultiPoint"):
        return False
    if not ({*one.ends, *one.through} & {*other.ends, *other.through}) - {-1}:
        return False
    points = {tuple(place) for place in one.points.tolist()} & {tuple(place) for place in other.points.tolist()}
    return all(tuple(place) in points for place in shapely.get_coordinates(shared).tolist())
