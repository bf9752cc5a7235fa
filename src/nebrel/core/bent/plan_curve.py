"""Ways seen from above that a sheet follows: chains of arcs and straight lines, left to right for a viewer in front.

Places are (right, towards the viewer), mm. Outside is to the left of the way; a way that goes round starts at the back.
"""

import math
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import BadValueError

Floats = NDArray[np.float64]
NOTCH, TIP = 0.42, 0.3
NOTCH_TURN, TIP_LEAN = math.radians(55), math.radians(44)


@dataclass(frozen=True)
class ArcSegment:
    """Part of a way: `bend` is by how much its heading grows per mm, so above 0 where it turns left and is hollow.

    Attributes:
        start: place, mm.
        heading: direction at its start, radians from the right towards the viewer.
        length: mm.
        bend: 1/mm, 0 for a straight line.
    """

    start: tuple[float, float]
    heading: float
    length: float
    bend: float

    def at(self, along: Floats) -> tuple[Floats, Floats]:
        """Places (N, 2) and headings (N,)."""
        heading = self.heading + self.bend * along
        if abs(self.bend) < 1e-12:
            across = along * math.cos(self.heading)
            deep = along * math.sin(self.heading)
        else:
            across = (np.sin(heading) - math.sin(self.heading)) / self.bend
            deep = (math.cos(self.heading) - np.cos(heading)) / self.bend
        return np.column_stack([self.start[0] + across, self.start[1] + deep]), heading

    @property
    def end(self) -> tuple[float, float]:
        """Its last place."""
        places, _ = self.at(np.array([self.length]))
        return float(places[0, 0]), float(places[0, 1])

    def nearest(self, points: Floats) -> tuple[Floats, Floats, Floats]:
        """How far along the nearest place lies, how far outside each point is, and the plain distance."""
        if abs(self.bend) < 1e-12:
            curve = np.array([math.cos(self.heading), math.sin(self.heading)])
            along = (points - self.start) @ curve
        else:
            out = np.array([-math.sin(self.heading), math.cos(self.heading)])
            spoke = points - (np.array(self.start) + out / self.bend)
            heading = np.arctan2(spoke[:, 1], spoke[:, 0]) + math.copysign(math.pi / 2, self.bend)
            turned = (heading - self.heading) * math.copysign(1.0, self.bend)
            middle = self.length * abs(self.bend) / 2
            along = (middle + (turned - middle + math.pi) % (2 * math.pi) - math.pi) / abs(self.bend)
        along = np.clip(along, 0, self.length)
        places, headings = self.at(along)
        apart = points - places
        outside = apart[:, 1] * np.cos(headings) - apart[:, 0] * np.sin(headings)
        return along, outside, np.hypot(apart[:, 0], apart[:, 1])


@dataclass(frozen=True)
class PlanCurve:
    """A chain of stretches, each starting where the one before ends; `closed` when the last ends where it began."""

    segments: tuple[ArcSegment, ...]
    closed: bool

    @property
    def length(self) -> float:
        """Of all of it, mm."""
        return float(self._starts[-1])

    @cached_property
    def _starts(self) -> Floats:
        return np.concatenate([[0.0], np.cumsum([stretch.length for stretch in self.segments])])

    @cached_property
    def corners(self) -> list[tuple[float, float, float]]:
        """(how far along, heading before, heading after) wherever the heading jumps."""
        found = []
        for at, stretch in enumerate(self.segments):
            if at + 1 == len(self.segments) and not self.closed:
                break
            before = stretch.heading + stretch.bend * stretch.length
            after = self.segments[(at + 1) % len(self.segments)].heading
            if abs(math.remainder(after - before, 2 * math.pi)) > 1e-9:
                found.append((float(self._starts[at + 1]), before, after))
        return found

    def at(self, along: Floats) -> tuple[Floats, Floats, Floats]:
        """Places, unit normals to the outside, and mitred normals, each (N, 2).

        The mitred normal of a corner reaches to where the two sides meet one mm further out; elsewhere, where there is
        no corner at all, it is the same array as the normal.
        """
        along = np.asarray(along, dtype=np.float64)
        places, normals = np.empty((len(along), 2)), np.empty((len(along), 2))
        which = np.clip(np.searchsorted(self._starts, along, side="right") - 1, 0, len(self.segments) - 1)
        for at in np.unique(which):
            there = which == at
            places[there], heading = self.segments[at].at(along[there] - self._starts[at])
            normals[there] = np.column_stack([-np.sin(heading), np.cos(heading)])
        if self.closed:
            places[along >= self.length] = self.segments[0].start
        if not self.corners:
            return places, normals, normals
        grow = normals.copy()
        for place, before, after in self.corners:
            there = np.isclose(along, place, rtol=0, atol=1e-7)
            if self.closed and place >= self.length - 1e-7:
                there |= np.isclose(along, 0, rtol=0, atol=1e-7)
            half = math.remainder(after - before, 2 * math.pi) / 2
            bisector = np.array([-math.sin(before + half), math.cos(before + half)])
            normals[there], grow[there] = bisector, bisector / math.cos(half)
        return places, normals, grow

    def nearest(self, points: Floats) -> tuple[Floats, Floats]:
        """How far along the way the place nearest to each point is, and how far outside the point lies, mm."""
        best = np.full(len(points), np.inf)
        along, outside = np.zeros(len(points)), np.zeros(len(points))
        for at, stretch in enumerate(self.segments):
            here, out, apart = stretch.nearest(points)
            closer = apart < best - 1e-9
            best[closer], along[closer], outside[closer] = apart[closer], self._starts[at] + here[closer], out[closer]
        return along, outside

    def tightest(self, hollow: bool) -> float:
        """The smallest radius among its stretches that are hollow, or among those that bulge; infinite for none."""
        radii = [1 / abs(part.bend) for part in self.segments if abs(part.bend) > 1e-12 and (part.bend > 0) == hollow]
        return min(radii, default=math.inf)

    @property
    def gentlest(self) -> float:
        """The largest radius among its arcs, infinite where it has none."""
        return max((1 / abs(part.bend) for part in self.segments if abs(part.bend) > 1e-12), default=math.inf)

    def outline(self, outside: float, chord: float) -> Floats:
        """The way `outside` mm further out, as points (N, 2) with chords within `chord` mm of it."""
        along = [0.0]
        for start, stretch in zip(self._starts[:-1].tolist(), self.segments, strict=True):
            radius = 1 / max(abs(stretch.bend), 1e-12)
            step = 2 * radius * math.acos(max(-1.0, 1 - chord / max(radius + abs(outside), chord)))
            count = max(1, math.ceil(stretch.length / step)) if abs(stretch.bend) > 1e-12 else 1
            along.extend((start + stretch.length * np.arange(1, count + 1) / count).tolist())
        places, _, grow = self.at(np.array(along[:-1] if self.closed else along))
        return np.asarray(places + outside * grow)


def round_curve(length: float, turn: float) -> PlanCurve:
    """An arc of `length` mm that turns by `turn` radians, its middle in front; a full turn closes."""
    radius = length / turn
    heading = turn / 2
    start = (-radius * math.sin(heading), radius * math.cos(heading))
    return PlanCurve((ArcSegment(start, heading, length, -1 / radius),), closed=turn >= 2 * math.pi - 1e-12)


def prism_curve(length: float, sides: int) -> PlanCurve:
    """A polygon of equal sides, `length` mm once round; one side faces the viewer.

    Raises:
        BadValueError: fewer than 3 sides.
    """
    if sides < 3:
        raise BadValueError(f"A prism of {sides} sides is asked for; 3 to 24 would be accepted.")
    side = length / sides
    radius = side / 2 / math.sin(math.pi / sides)
    first = math.pi if sides % 2 == 0 else math.pi - math.pi / sides
    segments = []
    for at in range(sides):
        heading = first - 2 * math.pi / sides * at
        corner = heading + math.pi / sides + math.pi / 2
        start = (radius * math.cos(corner), radius * math.sin(corner))
        segments.append(ArcSegment(start, heading, side, 0.0))
    return PlanCurve(tuple(segments), closed=True)


def heart_curve(length: float) -> PlanCurve:
    """A heart, `length` mm once round, its tip towards the viewer; notch and tip are rounded for walls to follow."""
    sine, cosine = math.sin(NOTCH_TURN), math.cos(TIP_LEAN)
    straight = (NOTCH * sine + cosine + sine - TIP * cosine) / math.sin(TIP_LEAN)
    half = [
        (NOTCH * NOTCH_TURN, 1 / NOTCH),
        (NOTCH_TURN + math.pi / 2 + TIP_LEAN, -1.0),
        (straight, 0.0),
        (TIP * (math.pi / 2 - TIP_LEAN), -1 / TIP),
    ]
    whole = [*half, *reversed(half)]
    unit = length / sum(part for part, _ in whole)
    segments: list[ArcSegment] = []
    place, heading = (0.0, 0.0), math.pi
    for part, bend in whole:
        segments.append(ArcSegment(place, heading, part * unit, bend / unit))
        place = segments[-1].end
        heading += bend * part
    return PlanCurve(tuple(segments), closed=True)
