"""What hangs over the layer below: overhangs, islands in mid-air, bridges, and the support that they need."""

from dataclasses import dataclass

import manifold3d
import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from nebrel.core.csg.rings import dense_ring
from nebrel.core.jit import compiled
from nebrel.core.layers.slices import Slices

# Degrees from upright that a printer follows without support, and mm that it bridges.
STEEPEST_DEG, LONGEST_BRIDGE_MM = 45.0, 10.0
# An overhang that goes beyond the steepest slope by less than this share of a layer's height is none.
NARROW = 0.1
# So much of what lies below holds what hangs beside it, in lines.
HELD = 0.6
# A speck smaller than a line is wide both ways is an island if it is still apart from others so many layers up.
APART = 2
# A bridge of fewer lines is none.
LEAST_SPAN = 2.0
# Of the outline of what hangs, so much is held all round where it is a roof.
ROOF = 0.7
# Support is laid out no finer than this, mm.
COARSE_MM = 0.1
_SEGMENTS = 8


@dataclass(frozen=True)
class Island:
    """A part of a layer that has nothing below it.

    Attributes:
        layer: in which it begins.
        area: mm² there; of a speck, of what it becomes in the next layers.
        at: X and Y of a place in it, mm.
    """

    layer: int
    area: float
    at: tuple[float, float]


@dataclass(frozen=True)
class Bridge:
    """A part of a layer that hangs between places that hold it.

    Attributes:
        layer: in which it is laid.
        span: mm between what holds it.
        area: mm².
        at: X and Y of its middle, mm.
    """

    layer: int
    span: float
    area: float
    at: tuple[float, float]


@dataclass(frozen=True)
class Hanging:
    """What is not held from below.

    Attributes:
        overhang: float64 (N,) mm² of each layer that lie beyond the steepest slope, bridges that hold left out.
        support: float64 (N,) mm² of support beside each layer.
        islands, bridges: the smallest islands and the longest bridges first.
        regions: what of each layer counts as overhang.
        standing: what support covers beside each layer.
    """

    overhang: NDArray[np.float64]
    support: NDArray[np.float64]
    islands: list[Island]
    bridges: list[Bridge]
    regions: list[manifold3d.CrossSection]
    standing: list[manifold3d.CrossSection]

    def support_mm3(self, heights: NDArray[np.float64]) -> float:
        """How much support there is in all."""
        return float(np.dot(self.support, heights))


def hanging(
    slices: Slices, line: float, steepest_deg: float = STEEPEST_DEG, longest_bridge: float = LONGEST_BRIDGE_MM
) -> Hanging:
    """What of a solid hangs, layer by layer, as it stands.

    Args:
        slices: its layers.
        line: mm that a printed line is wide.
        steepest_deg: from upright, up to which layers hold each other.
        longest_bridge: mm that need no support when both ends are held.
    """
    sections = slices.plain
    slope = float(np.tan(np.radians(steepest_deg)))
    heights = slices.heights
    empty = manifold3d.CrossSection()
    regions, islands, bridges = [empty], [], []
    for layer in range(1, len(sections)):
        here, below = sections[layer], sections[layer - 1]
        reach = slope * float(heights[layer - 1] + heights[layer]) / 2
        narrow = NARROW * float(heights[layer])
        past = here - below
        # Where layers grow smaller, nothing hangs.
        wide = past if past.is_empty() else _grown(past, -narrow / 2)
        beyond = wide if wide.is_empty() else here - _grown(below, reach)
        beyond = beyond if beyond.is_empty() else _grown(beyond, -narrow / 2)
        if beyond.is_empty():
            regions.append(empty)
            continue
        # Of an underside that is too steep somewhere, all of it counts from what lies below on.
        over = _grown(beyond, narrow + reach) ^ past
        islands += _islands(sections, layer, line)
        carried = empty
        near = _grown(over, HELD * line) ^ below
        for part in over.decompose():
            bridge = _bridge(layer, part, near, line)
            if bridge is not None:
                bridges.append(bridge)
                if bridge.span <= longest_bridge:
                    carried += part
        regions.append(over - carried)
    overhang = np.array([region.area() for region in regions])
    standing = _standing(sections, regions)
    return Hanging(
        overhang,
        np.array([each.area() for each in standing]),
        sorted(islands, key=lambda island: island.area),
        sorted(bridges, key=lambda bridge: -bridge.span),
        regions,
        standing,
    )


def _standing(
    sections: list[manifold3d.CrossSection], regions: list[manifold3d.CrossSection]
) -> list[manifold3d.CrossSection]:
    """What has to stand beside each layer for what hangs above it, from the topmost down."""
    standing = manifold3d.CrossSection()
    found = [standing] * len(sections)
    for layer in range(len(sections) - 2, -1, -1):
        above = regions[layer + 1]
        if standing.is_empty() and above.is_empty():
            continue
        standing = ((standing + above) - sections[layer]).simplify(COARSE_MM)
        found[layer] = standing
    return found


def _islands(sections: list[manifold3d.CrossSection], layer: int, line: float) -> list[Island]:
    """Parts of a layer that nothing lies below; specks only where they are apart from others for some layers."""
    below, found = sections[layer - 1], []
    for part in sections[layer].decompose():
        if not (part ^ below).is_empty():
            continue
        grown: manifold3d.CrossSection | None = part
        for above in range(layer + 1, min(layer + 1 + APART, len(sections)) if part.area() < line * line else layer):
            grown = _followed(grown, sections[above - 1], sections[above])
            if grown is None:
                break
        if grown is not None:
            found.append(Island(layer, max(part.area(), grown.area()), _middle(part)))
    return found


def _followed(
    part: manifold3d.CrossSection, here: manifold3d.CrossSection, above: manifold3d.CrossSection
) -> manifold3d.CrossSection | None:
    """What becomes of a part one layer up, or None where it is gone or has joined others by then."""
    others = here - part
    for next_part in above.decompose():
        if not (next_part ^ part).is_empty():
            return None if not (next_part ^ others).is_empty() else next_part
    return None


def _bridge(
    layer: int,
    part: manifold3d.CrossSection,
    near: manifold3d.CrossSection,
    line: float,
) -> Bridge | None:
    """How far a part that hangs has to reach from one place that holds it to the next; None where it has but one."""
    low_x, low_y, high_x, high_y = part.bounds()
    if max(high_x - low_x, high_y - low_y) < LEAST_SPAN * line:
        return None
    holds = [hold for hold in (_grown(part, HELD * line) ^ near).decompose() if hold.area() > 1e-4]
    if len(holds) > 1:
        span = _widest_gap(holds)
        return Bridge(layer, span, part.area(), _middle(part)) if span >= LEAST_SPAN * line else None
    if not holds:
        return None
    outline = max((np.asarray(ring) for ring in part.to_polygons()), key=_signed_area)
    # A strip along an edge is soon told from a roof: it is narrower all over.
    around = float(np.linalg.norm(np.roll(outline, -1, axis=0) - outline, axis=1).sum())
    if 2 * part.area() / around < LEAST_SPAN * line / 2:
        return None
    held = _near(outline, holds[0], HELD * line / 2)
    if held < ROOF:
        return None
    span = _narrowest(outline)
    return Bridge(layer, span, part.area(), _middle(part)) if span >= LEAST_SPAN * line else None


def _widest_gap(holds: list[manifold3d.CrossSection]) -> float:
    """The longest way from one hold to the nearest other, where all are joined by the shortest ways, mm."""
    rings = [_dense(hold) for hold in holds]
    trees = [cKDTree(ring) for ring in rings]
    count = len(rings)
    gaps = np.array([[_far(trees[b], rings[a]).min() for b in range(count)] for a in range(count)])
    reached, left, widest = {0}, set(range(1, count)), 0.0
    while left:
        gap, nearest = min((gaps[a, b], b) for a in reached for b in left)
        widest = max(widest, gap)
        reached.add(nearest)
        left.discard(nearest)
    return widest


def _near(points: NDArray[np.float64], hold: manifold3d.CrossSection, most: float) -> float:
    """The share of an outline that is near to a hold."""
    dense = dense_ring(points, 0.25)
    return float((_far(cKDTree(_dense(hold)), dense) <= most).mean())


def _narrowest(points: NDArray[np.float64]) -> float:
    """How wide an outline is where it is narrowest, of all directions, mm."""
    angles = np.radians(np.arange(0, 180, 5))
    along = points @ np.stack([np.cos(angles), np.sin(angles)])
    return float((along.max(axis=0) - along.min(axis=0)).min())


def _far(tree: cKDTree, points: NDArray[np.float64]) -> NDArray[np.float64]:
    """How far points are from the nearest of a tree, float64 (N,) mm."""
    far, _ = tree.query(points)
    return np.asarray(far, dtype=np.float64)


def _signed_area(ring: NDArray[np.float64]) -> float:
    x, y = ring.T
    return float(np.dot(x, np.roll(y, -1)) - np.dot(y, np.roll(x, -1))) / 2


def _dense(section: manifold3d.CrossSection) -> NDArray[np.float64]:
    return np.concatenate([dense_ring(np.asarray(ring), 0.25) for ring in section.to_polygons()])


def _grown(section: manifold3d.CrossSection, by: float) -> manifold3d.CrossSection:
    return section.offset(by, manifold3d.JoinType.Round, 2.0, _SEGMENTS)


def _middle(section: manifold3d.CrossSection) -> tuple[float, float]:
    """A place in a section: of those of a coarse grid the one that is furthest from its outline, or near its middle."""
    low_x, low_y, high_x, high_y = section.bounds()
    middle = np.array([(low_x + high_x) / 2, (low_y + high_y) / 2])
    xs, ys = np.linspace(low_x, high_x, 13)[1:-1], np.linspace(low_y, high_y, 13)[1:-1]
    places = np.concatenate([middle[np.newaxis], np.stack(np.meshgrid(xs, ys), axis=-1).reshape(-1, 2)])
    inside = places_within(section, places)
    if not inside.any():
        return float(middle[0]), float(middle[1])
    places = places[inside]
    # Of places that are as far from it, the one nearest to the middle.
    far = _far(cKDTree(_dense(section)), places) - 1e-3 * np.hypot(*(places - middle).T)
    x, y = places[int(np.argmax(far))].tolist()
    return x, y


def places_within(section: manifold3d.CrossSection, places: NDArray[np.float64]) -> NDArray[np.bool_]:
    """Which places lie in a section: those from which outlines are crossed an odd number of times."""
    rings = [np.asarray(ring, dtype=np.float64) for ring in section.to_polygons()]
    if not rings:
        return np.zeros(len(places), dtype=bool)
    ends = np.concatenate([np.roll(ring, -1, axis=0) for ring in rings])
    return np.asarray(_crossed_oddly(np.concatenate(rings), ends, np.ascontiguousarray(places, dtype=np.float64)))


@compiled
def _crossed_oddly(starts, ends, places):
    """From which places to the right edges are crossed an odd number of times, bool (N,)."""
    odd = np.zeros(len(places), dtype=np.bool_)
    for edge in range(len(starts)):
        ax, ay, bx, by = starts[edge, 0], starts[edge, 1], ends[edge, 0], ends[edge, 1]
        if ay == by:
            continue
        low, high = min(ay, by), max(ay, by)
        for at in range(len(places)):
            x, y = places[at, 0], places[at, 1]
            if low <= y < high and x < (bx - ax) * (y - ay) / (by - ay) + ax:
                odd[at] = not odd[at]
    return odd
