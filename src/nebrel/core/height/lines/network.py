"""Lines with a height on either side, found in a field of heights."""

from dataclasses import dataclass, replace
from itertools import pairwise

import cv2
import numpy as np
import shapely
from numpy.typing import NDArray

from nebrel.core.height.lines.chains import GOES_ON, Chains, broken_links, chains_of
from nebrel.core.height.lines.drawn import FINE, Line, lines_of, on_grid
from nebrel.core.height.lines.sharpen import Sharpened, sharpen
from nebrel.core.height.lines.sides import Ground, heights_beside, near_lines
from nebrel.core.height.lines.stretches import hats_along, straightened

# Jumps that lines are drawn for: of all that the heights span, and of the tolerance.
OF_RELIEF, OF_TOLERANCE = 0.06, 4.0
# Chains shorter than that, in places, are specks and ends of noise.
SHORTEST, SHORTEST_RING = 16, 8
# Where more than so large a share of the links around a place are broken, and so many of their chains end or meet,
# there are no edges but noise.
CROWD_PX, CROWDED, DISORDER = 16, 0.24, 0.05
# More jumps between terraces than that are those of dots and grain.
MOST_BROKEN, MOST_CHAINS, FEW_CROWDED = 400_000, 3_000, 0.02
# Heights beside a line are told in steps of that, so that what is one height is one.
STEP_MM = 2.0**-14
POINT = 0
INWARDS_PX = 1.0
_Points = NDArray[np.float64]
_Floats = NDArray[np.float32]


@dataclass(frozen=True)
class HeightLines:
    """Lines along which heights jump, in samples: column and row, the upper left sample at the origin.

    Attributes:
        places: float64 (N, 2), nodes, on a grid 128 times as fine as the samples.
        pieces: int64 (K, 2), straight pieces between nodes; they meet at nodes alone.
        beside: float64 (K, 2, 2) mm, of every piece at its start and its end: the height to its left and to its right,
            seen with Y upwards. Pieces that meet agree on what lies between them.
        heights: float32 (H, W) mm, those of the field with samples on the slope of a jump as high as the side that they
            belong to.
        free: bool (H, W), samples that nothing is asked of, since they lie on a line or beyond it.
        crossed: bool (H, W), samples so near to a line that it passes between them and others.
        shown: float64 (M, 2), where samples of the field tell that jumps run.
    """

    places: _Points
    pieces: NDArray[np.int64]
    beside: _Points
    heights: _Floats
    free: NDArray[np.bool_]
    crossed: NDArray[np.bool_]
    shown: _Points

    def raised(self, by: float) -> "HeightLines":
        """The same, `by` mm higher."""
        return replace(self, beside=self.beside + by, heights=self.heights + np.float32(by))

    @property
    def length_px(self) -> float:
        """Of all pieces, in samples."""
        return float(np.linalg.norm(self.places[self.pieces[:, 1]] - self.places[self.pieces[:, 0]], axis=1).sum())


@dataclass(frozen=True)
class Found:
    """What a look for lines came to.

    Attributes:
        lines: None where there are none.
        left_out: share of the jumps that no line was drawn for, as they are ends, specks, or those of noise.
        crowded: share of the jumps that lie so close together, and in such disorder, that they are noise.
    """

    lines: HeightLines | None
    left_out: float = 0.0
    crowded: float = 0.0


def find_lines(heights: _Floats, where: NDArray[np.bool_], tolerance: float, chord: float = 0.03) -> Found:
    """Lines where heights jump between neighbouring samples, or over the soft edge of what was drawn.

    Args:
        heights: float32 (H, W) mm, finite.
        where: bool (H, W), samples between which lines are looked for.
        tolerance: mm that the surface may be off.
        chord: how far straight pieces may be off the curves that they follow, in samples.
    """
    spanned = heights[where]
    least = max(OF_RELIEF * float(np.ptp(spanned)), OF_TOLERANCE * tolerance) if spanned.size else np.inf
    if not np.isfinite(least) or not _may_jump(heights, least):
        return Found(None)
    sharp = sharpen(heights, GOES_ON * least)
    across, down = broken_links(sharp, GOES_ON * least, where)
    broken = int(across.sum()) + int(down.sum())
    if broken == 0:
        return Found(None)
    crowd = _crowded(across, down)
    across &= ~crowd
    down &= ~crowd
    crowded = 1 - (int(across.sum()) + int(down.sum())) / broken
    chains = _kept(sharp, across, down, least)
    sharp = sharp._replace(heights=_sharp_beside(heights, sharp.heights, chains))
    lines, left_out = _along(chains, heights, sharp.heights, (across, down), (tolerance, chord))
    return Found(lines, 1 - (1 - left_out) * len(chains.places) / broken, crowded)


def find_steps(
    heights: _Floats, levels: _Floats, where: NDArray[np.bool_], tolerance: float, chord: float = 0.03
) -> Found:
    """Lines between terraces, every one of them.

    Args:
        heights: float32 (H, W) mm, going over from terrace to terrace as the picture does.
        levels: float32 (H, W) mm, of the terrace that every sample is on.
        where: bool (H, W), samples between which lines are looked for.
        tolerance, chord: see `find_lines`.
    """
    across, down = (np.zeros(levels.shape, dtype=np.bool_) for _ in range(2))
    across[:, :-1] = (levels[:, 1:] != levels[:, :-1]) & where[:, 1:] & where[:, :-1]
    down[:-1] = (levels[1:] != levels[:-1]) & where[1:] & where[:-1]
    broken = int(across.sum()) + int(down.sum())
    if not 0 < broken <= MOST_BROKEN:
        return Found(None, left_out=1.0)
    crowd = _crowded(across, down)
    if (across & crowd).sum() + (down & crowd).sum() > FEW_CROWDED * broken:
        return Found(None, left_out=1.0)
    steps = np.unique(levels)
    sharp = sharpen(heights, GOES_ON * float(np.diff(steps).min()))._replace(heights=levels)
    chains = chains_of(sharp, across, down)
    if len(chains.closed) > MOST_CHAINS:
        return Found(None, left_out=1.0)
    return Found(*_along(chains, heights, levels, (across, down), (tolerance, chord)), crowded=0.0)


def _along(
    chains: Chains,
    heights: _Floats,
    sharp: _Floats,
    broken: tuple[NDArray[np.bool_], NDArray[np.bool_]],
    fineness: tuple[float, float],
) -> tuple[HeightLines | None, float]:
    """Lines along chains, and the share of their places that none goes along; see `find_lines` for the rest."""
    if not len(chains.closed):
        return None, 1.0
    ground = Ground(sharp, *broken, float(heights.min()), float(heights.max()))
    lines = lines_of(chains, heights, ground, fineness[1])
    while lines:
        places, pieces, beside, of_line = _network(lines, ground, fineness[0])
        crossed_by = set(of_line[pieces_that_cross(places, pieces)].tolist())
        if not crossed_by:
            break
        lines = [line for number, line in enumerate(lines) if number not in crossed_by]
    if not lines:
        return None, 1.0
    free, crossed = near_lines(sharp, places[pieces[:, 0]], places[pieces[:, 1]], beside)
    crossed.ravel()[chains.beside.ravel()] = True
    left_out = 1 - sum(len(line.chain) for line in lines) / len(chains.places)
    return HeightLines(places, pieces, beside, sharp, free, crossed, chains.places[chains.told]), left_out


def _may_jump(heights: _Floats, least: float) -> bool:
    """Whether any two neighbours are so far apart that a jump could run through between them."""
    third = GOES_ON * least / 3
    return bool((np.abs(np.diff(heights, axis=0)) >= third).any() or (np.abs(np.diff(heights, axis=1)) >= third).any())


def _crowded(across: NDArray[np.bool_], down: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """Where jumps lie close together and end and meet everywhere, as those of noise do and drawn lines do not."""
    around = (CROWD_PX, CROWD_PX)
    share = cv2.blur((across.astype(np.float32) + down) / 2, around, borderType=cv2.BORDER_REFLECT)
    count = across.astype(np.uint8) + down
    count[:-1] += across[1:]
    count[:, :-1] += down[:, 1:]
    passed = cv2.blur((count > 0).astype(np.float32), around, borderType=cv2.BORDER_REFLECT)
    odd = cv2.blur(((count == 1) | (count > 2)).astype(np.float32), around, borderType=cv2.BORDER_REFLECT)
    return (share > CROWDED) & (odd > DISORDER * passed)


def _kept(sharp: Sharpened, across: NDArray[np.bool_], down: NDArray[np.bool_], least: float) -> Chains:
    """The chains that are edges; links of all others are no longer broken, so `across` and `down` change."""
    columns = across.shape[1]
    while True:
        chains = chains_of(sharp, across, down)
        sizes, count = np.diff(chains.starts), len(chains.closed)
        if not count:
            return chains
        largest = np.maximum.reduceat(chains.jumps, chains.starts[:-1])
        loose = ~chains.closed & ((chains.ends < 0).any(axis=1))
        dropped = (
            (loose & (sizes < SHORTEST))
            | (chains.closed & (sizes < SHORTEST_RING))
            | (largest < least)
            | (_of_component(chains, sizes) < SHORTEST_RING)
        )
        if not dropped.any():
            return chains
        pairs = np.sort(chains.beside[np.repeat(dropped, sizes)], axis=1)
        beside = pairs[:, 1] - pairs[:, 0] == 1
        across.ravel()[pairs[beside, 0]] = False
        down.ravel()[pairs[~beside & (pairs[:, 1] - pairs[:, 0] == columns), 0]] = False


def _of_component(chains: Chains, sizes: NDArray[np.int64]) -> NDArray[np.int64]:
    """For every chain the number of places of all that it is joined to."""
    from scipy.sparse import coo_array
    from scipy.sparse.csgraph import connected_components

    count = len(sizes)
    chain, end = np.nonzero(chains.ends >= 0)
    nodes = count + chains.ends[chain, end]
    whole = count + len(chains.meetings)
    graph = coo_array((np.ones(len(chain)), (chain, nodes)), shape=(whole, whole))
    _, label = connected_components(graph, directed=False)
    return np.asarray(np.bincount(label[:count], weights=sizes)[label[:count]], dtype=np.int64)


def _sharp_beside(heights: _Floats, sharp: _Floats, chains: Chains) -> _Floats:
    """Heights that are sharp beside chains, and as they came elsewhere."""
    near = np.zeros(heights.shape, dtype=np.uint8)
    near.ravel()[chains.beside.ravel()] = 1
    return np.where(cv2.dilate(near, np.ones((5, 5), np.uint8)) > 0, sharp, heights)


def pieces_that_cross(places: _Points, pieces: NDArray[np.int64]) -> NDArray[np.int64]:
    """Pieces that meet others away from their nodes, where rounding to the grid has brought them; some twice."""
    drawn = shapely.linestrings(places[pieces])
    one, other = shapely.STRtree(drawn).query(drawn, predicate="intersects")
    one, other = one[one < other], other[one < other]
    shared = (pieces[one][:, :, np.newaxis] == pieces[other][:, np.newaxis, :]).any(axis=(1, 2))
    met = shapely.intersection(drawn[one], drawn[other])
    bad = ~shared | (shapely.get_type_id(met) != POINT)
    return np.concatenate([one[bad], other[bad]])


def _network(
    lines: list[Line], ground: Ground, tolerance: float
) -> tuple[_Points, NDArray[np.int64], _Points, NDArray[np.int64]]:
    """Nodes, pieces, the heights beside them, and the line that each belongs to."""
    from scipy.spatial import cKDTree

    ends = [tuple(line.points[at].tolist()) for line in lines for at in (0, -1) if line.ends[at] >= 0]
    meetings = set(ends)
    of_each = [_parts(line, meetings) for line in lines]
    parts = [part for own in of_each for part in own]
    numbers = [number for number, own in enumerate(of_each) for _ in own]
    dense = [_dense(points, closed) for _, points, closed in parts]
    seeds = []
    for (line, _, closed), (points, _) in zip(parts, dense, strict=True):
        # What lies beside the end of a part is told by what lies a little before that.
        looked = points if closed else np.vstack([_inwards(points), points[1:-1], _inwards(points[::-1])])
        seeds.append(line.samples[cKDTree(line.chain).query(looked)[1]])
    every, both = np.vstack([points for points, _ in dense]), np.vstack(seeds)
    sides = np.column_stack([heights_beside(ground, every, both[:, side]) for side in (0, 1)])
    ends_at = np.cumsum([0, *(len(points) for points, _ in dense)]).tolist()
    hats = [
        hats_along(points, sides[start:end], closed, tolerance)
        for (_, _, closed), (points, _), (start, end) in zip(parts, dense, pairwise(ends_at), strict=True)
    ]
    straight = straightened(sides, hats)
    starts, stops, beside, of_line = [], [], [], []
    for (_, _, closed), (points, needed), hat, start, number in zip(
        parts, dense, hats, ends_at[:-1], numbers, strict=True
    ):
        mine = straight[start : start + len(points)]
        needed[hat.keys] = True
        chosen = np.flatnonzero(needed)
        ahead = np.roll(chosen, -1) if closed else chosen[1:]
        behind = chosen if closed else chosen[:-1]
        starts.append(points[behind])
        stops.append(points[ahead])
        beside.append(np.stack([mine[behind], mine[ahead]], axis=1))
        of_line.append(np.full(len(behind), number))
    both_ends = np.vstack([*starts, *stops])
    places, node = np.unique(np.round(both_ends * FINE).astype(np.int64), axis=0, return_inverse=True)
    pieces = node.reshape(2, -1).T
    nodes = places / FINE
    heights = np.concatenate(beside)
    _agree(nodes, pieces, heights, ground.heights.shape)
    return _without_twists(nodes, pieces, np.round(heights / STEP_MM) * STEP_MM, np.concatenate(of_line))


def _parts(line: Line, meetings: set[tuple[float, float]]) -> list[tuple[Line, _Points, bool]]:
    """A line between the meetings on its way: the points of each part, and whether it is closed."""
    met = [number for number, point in enumerate(line.points.tolist()) if tuple(point) in meetings]
    if line.closed:
        if not met:
            return [(line, line.points, True)]
        ring = np.roll(line.points, -met[0], axis=0)
        points, met = np.vstack([ring, ring[:1]]), [number - met[0] for number in met] + [len(ring)]
    else:
        points, met = line.points, sorted({0, *met, len(line.points) - 1})
    return [(line, points[start : end + 1], False) for start, end in pairwise(met)]


def _inwards(points: _Points) -> _Points:
    """The place a little after the first of some points, float64 (1, 2)."""
    way = points[1] - points[0]
    return points[:1] + way * min(INWARDS_PX / max(float(np.linalg.norm(way)), 1e-9), 0.5)


def _dense(points: _Points, closed: bool) -> tuple[_Points, NDArray[np.bool_]]:
    """Places along points no further than a sample apart, and which of them are those points."""
    ends = np.vstack([points, points[:1]]) if closed else points
    steps = np.linalg.norm(np.diff(ends, axis=0), axis=1)
    counts = np.maximum(1, np.ceil(steps)).astype(np.int64)
    within = np.arange(counts.sum()) - np.repeat(np.cumsum(counts) - counts, counts)
    share = (within / np.repeat(counts, counts))[:, np.newaxis]
    dense = on_grid(np.repeat(ends[:-1], counts, axis=0) * (1 - share) + np.repeat(ends[1:], counts, axis=0) * share)
    needed = within == 0
    if not closed:
        dense, needed = np.vstack([dense, ends[-1:]]), np.append(needed, True)
    return dense, needed


def _agree(nodes: _Points, pieces: NDArray[np.int64], heights: _Points, shape: tuple[int, ...]) -> None:
    """Have pieces that meet tell one height for what lies between them; `heights` is changed."""
    degree = np.bincount(pieces.ravel(), minlength=len(nodes))
    last = np.array(shape[::-1]) - 1.0
    outer = ((nodes <= 0) | (nodes >= last)).any(axis=1)
    for node in np.flatnonzero((degree != 2) & ~(outer & (degree == 1))):
        piece, end = np.nonzero(pieces == node)
        away = nodes[pieces[piece, 1 - end]] - nodes[node]
        order = np.argsort(np.arctan2(-away[:, 1], away[:, 0]))
        piece, end = piece[order], end[order]
        # What lies between a piece and the next one counter-clockwise is left of the one and right of the other.
        one = (piece, end, np.where(end == 0, 0, 1))
        two = (np.roll(piece, -1), np.roll(end, -1), np.where(np.roll(end, -1) == 0, 1, 0))
        between = _rising_once((heights[one] + heights[two]) / 2)
        heights[one] = heights[two] = between


def _rising_once(levels: _Points) -> _Points:
    """Heights round a node that rise to the highest and fall to the lowest, and no more often.

    Otherwise more than two walls would meet along an upright edge.

    Args:
        levels: float64 (N,) mm, in order.
    """
    if len(levels) < 4:
        return levels
    lowest = int(levels.argmin())
    turned = np.roll(levels, -lowest)
    highest = int(turned.argmax())
    up = np.maximum.accumulate(turned[: highest + 1])
    down = np.maximum.accumulate(turned[:highest:-1])[::-1]
    return np.roll(np.concatenate([up, down]), lowest)


def _without_twists(
    nodes: _Points, pieces: NDArray[np.int64], heights: _Points, of_line: NDArray[np.int64]
) -> tuple[_Points, NDArray[np.int64], _Points, NDArray[np.int64]]:
    """The same with a node where the higher side of a piece becomes the lower one."""
    apart = heights[:, :, 0] - heights[:, :, 1]
    twisted = np.flatnonzero(apart[:, 0] * apart[:, 1] < 0)
    if not len(twisted):
        return nodes, pieces, heights, of_line
    start, end = nodes[pieces[twisted, 0]], nodes[pieces[twisted, 1]]
    least = 2 / FINE / np.linalg.norm(end - start, axis=1)
    share = np.clip(apart[twisted, 0] / (apart[twisted, 0] - apart[twisted, 1]), least, 1 - least)[:, np.newaxis]
    middle = on_grid(start * (1 - share) + end * share)
    level = (heights[twisted, 0] * (1 - share) + heights[twisted, 1] * share).mean(axis=1)
    level = np.round(level / STEP_MM)[:, np.newaxis] * STEP_MM
    number = len(nodes) + np.arange(len(twisted))
    first, second = pieces[twisted].copy(), pieces[twisted].copy()
    first[:, 1], second[:, 0] = number, number
    one, two = heights[twisted].copy(), heights[twisted].copy()
    one[:, 1], two[:, 0] = level, level
    others = np.delete(np.arange(len(pieces)), twisted)
    return (
        np.vstack([nodes, middle]),
        np.vstack([pieces[others], first, second]),
        np.concatenate([heights[others], one, two]),
        np.concatenate([of_line[others], of_line[twisted], of_line[twisted]]),
    )
