"""Lines of a chart followed along the skin: how long they are there."""

import math
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from nebrel.core.surface.parameterize.chart import Chart, Extent
from nebrel.core.surface.skin.skin import Skin

ROUNDS = 4
SETTLED = 1e-5
# A line that runs along sides of faces would be counted on both; it is moved aside by this share of its length.
ASIDE = 1e-6
# Beyond so much a chart is wrong by more than its scale.
MOST_SCALED = 0.25
_Reals = NDArray[np.float64]


@dataclass(frozen=True)
class Followed:
    """A straight line of a chart as it runs along the skin.

    Attributes:
        over: mm of it in the chart that lie over skin.
        length: mm that those are on the skin.
    """

    over: float
    length: float

    @property
    def scale(self) -> float:
        """How much longer it is on the skin; 1 where there is none."""
        return self.length / self.over if self.over > 0 else 1.0


def followed(skin: Skin, chart: Chart, start: _Reals, end: _Reals) -> Followed:
    """A line of a chart from `start` to `end`, float64 (2,) mm each, along the faces as they are in space."""
    way = end - start
    aside = ASIDE * np.array([-way[1], way[0]])
    found = [_passed(skin, chart, start + aside + turn, way) for turn in turns_of(chart)]
    shares, scales = np.concatenate([each[0] for each in found]), np.concatenate([each[1] for each in found])
    over = float(shares.sum()) * float(np.linalg.norm(way))
    return Followed(over, float(shares @ scales))


def turns_of(chart: Chart) -> list[_Reals]:
    """Shifts, float64 (2,), under which the same skin is met once more."""
    return [np.array([turn * chart.period, 0.0]) for turn in ((0, 1, -1) if chart.period else (0,))]


def _passed(skin: Skin, chart: Chart, start: _Reals, way: _Reals) -> tuple[_Reals, _Reals]:
    """Which share of a line runs over each face that it meets, and how long all of it would be at the scale there."""
    near = (chart.plane.max(axis=1) >= np.minimum(start, start + way)).all(axis=1)
    near &= (chart.plane.min(axis=1) <= np.maximum(start, start + way)).all(axis=1)
    corners = chart.plane[near]
    sides = np.roll(corners, -1, axis=1) - corners
    # The inside of a side lies to its left.
    at = _cross(sides, start - corners)
    grows = _cross(sides, np.broadcast_to(way, sides.shape))
    with np.errstate(divide="ignore", invalid="ignore"):
        meets = -at / grows
    low = np.where(grows > 0, meets, np.where((grows == 0) & (at < 0), np.inf, -np.inf)).max(axis=1, initial=0.0)
    high = np.where(grows < 0, meets, np.inf).min(axis=1, initial=1.0)
    share = np.maximum(high - low, 0.0)
    hit = np.flatnonzero(share > 0)
    one, two = sides[hit, 0], -sides[hit, 2]
    whole = _cross(one, two)
    along, across = (
        _cross(np.broadcast_to(way, two.shape), two) / whole,
        _cross(one, np.broadcast_to(way, one.shape)) / whole,
    )
    points = skin.mesh.vertices[skin.faces[chart.faces[near][hit]]]
    there = along[:, np.newaxis] * (points[:, 1] - points[:, 0]) + across[:, np.newaxis] * (points[:, 2] - points[:, 0])
    return share[hit], np.linalg.norm(there, axis=1)


def _cross(one: _Reals, two: _Reals) -> _Reals:
    return np.asarray(one[..., 0] * two[..., 1] - one[..., 1] * two[..., 0])


def with_true_lengths(skin: Skin, chart: Chart, extent: Extent) -> Chart:
    """The chart scaled so that both middles of what is laid are as long on the skin as they were asked to be."""
    if not extent.width or not extent.height:
        return chart
    angle = math.radians(extent.turn_deg + chart.upright_deg)
    sizes = np.array([extent.width, extent.height])
    if chart.period:
        # So that it comes round still, it is scaled that way and square to it.
        corner_x, corner_y = extent.corners(math.radians(chart.upright_deg))
        angle, sizes = 0.0, 2 * np.array([corner_x.max(), corner_y.max()])
    axes = np.array([[math.cos(angle), math.sin(angle)], [-math.sin(angle), math.cos(angle)]])
    for _ in range(ROUNDS):
        ends = axes * sizes[:, np.newaxis] / 2
        scales = np.array([followed(skin, chart, -end, end).scale for end in ends])
        scales = np.clip(scales, 1 - MOST_SCALED, 1 + MOST_SCALED)
        if np.abs(scales - 1).max() < SETTLED:
            break
        plane = chart.plane @ axes.T * scales @ axes
        chart = replace(chart, plane=plane, period=chart.period * float(scales[0]))
    return chart
