"""Where markers of SVG stand: at the ends and nodes of lines, and which way lines go there."""

import math
from collections.abc import Iterator
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from nebrel.core.outline_files.svg.lengths import Matrix, moved
from nebrel.core.outline_files.svg.shapes import Chain


class Vertex(NamedTuple):
    """One node.

    Attributes:
        kind: start, mid or end.
        place: px.
        before, after: directions in which the line comes and goes, or None at its ends.
    """

    kind: str
    place: NDArray[np.float64]
    before: NDArray[np.float64] | None
    after: NDArray[np.float64] | None

    def matrix(self, orient: str) -> Matrix:
        """The map that puts a marker there, turned as `orient` says."""
        angle = 0.0
        if orient.startswith("auto"):
            ways = [way / max(float(np.hypot(*way)), 1e-12) for way in (self.before, self.after) if way is not None]
            along = np.sum(ways, axis=0) if ways else np.array([1.0, 0.0])
            angle = math.atan2(float(along[1]), float(along[0]))
            if self.kind == "start" and orient == "auto-start-reverse":
                angle += math.pi
        else:
            try:
                angle = math.radians(float(orient.strip().removesuffix("deg")))
            except ValueError:
                angle = 0.0
        turn = np.array([[math.cos(angle), -math.sin(angle), 0], [math.sin(angle), math.cos(angle), 0], [0, 0, 1.0]])
        return moved(float(self.place[0]), float(self.place[1])) @ turn


def vertices_of(chains: list[Chain]) -> Iterator[Vertex]:
    """All nodes of a shape; its first is where it starts, its last where it ends, all others are in between."""
    total = sum(len(chain.sides) + 1 for chain in chains)
    number = 0
    for chain in chains:
        sides = chain.sides
        for at in range(len(sides) + 1):
            kind = "start" if number == 0 else "end" if number == total - 1 else "mid"
            number += 1
            before = _end_way(sides[at - 1]) if at > 0 or chain.closed else None
            after = _start_way(sides[at % len(sides)]) if at < len(sides) or chain.closed else None
            place = sides[at, 0] if at < len(sides) else sides[-1, 3]
            yield Vertex(kind, place, before, after)


def _start_way(side: NDArray[np.float64]) -> NDArray[np.float64]:
    return next((side[at] - side[0] for at in (1, 2, 3) if (side[at] != side[0]).any()), np.array([1.0, 0.0]))


def _end_way(side: NDArray[np.float64]) -> NDArray[np.float64]:
    return next((side[3] - side[at] for at in (2, 1, 0) if (side[at] != side[3]).any()), np.array([1.0, 0.0]))
