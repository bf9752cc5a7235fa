"""Pockets with straight walls and a flat floor, by flat bits: rings from the wall inwards, layer by layer."""

import math

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import MultiPolygon

from nebrel.core.carve.bits import Bit
from nebrel.core.carve.entries import ramped
from nebrel.core.carve.paths import Path
from nebrel.core.carve.program import Pass, Way
from nebrel.core.carve.standing import Standing
from nebrel.core.carve.sunk.outline import inset, reached, rings_of
from nebrel.core.region.grid import polygons_of

HAIR = 0.003
STEPOVER = 0.8
SMALLEST = 0.02
FILLS = 3
Line = NDArray[np.float64]


def pocket(
    region: MultiPolygon, depth: float, bit: Bit, standing: Standing, before: MultiPolygon | None = None
) -> Pass | None:
    """Clear a region down to a depth.

    Args:
        region: that no part of the bit may leave, mm.
        depth: mm below the face.
        bit: a flat one.
        standing: the stock, which is taken from.
        before: what is cleared already; only the rest of the region is cleared, and ways may lead over it.

    Returns:
        None where the bit reaches nothing.
    """
    room = inset(region, bit.radius + HAIR)
    if room.is_empty:
        return None
    wanted = reached(region, bit.radius + HAIR)
    within = room
    if before is not None:
        rest = polygons_of(wanted.difference(before.buffer(HAIR)).buffer(-SMALLEST / 2).buffer(SMALLEST / 2))
        if rest.is_empty:
            return None
        wanted = rest
        within = polygons_of(room.intersection(rest.buffer(bit.radius)))
    chains = joined(_rings(within, wanted, bit), room, bit.diameter)
    layers = max(1, math.ceil(depth / bit.step_down - 1e-9))
    ways: list[Way] = []
    for layer in range(1, layers + 1):
        level = -depth * layer / layers
        paths: list[Path] = []
        for chain in chains:
            plan = np.column_stack([chain, np.full(len(chain), level)])
            approach = standing.above(plan[0], bit.radius)
            # Ramps begin where the last layer ended, or on the face.
            path = ramped(plan, min(approach, level + depth / layers + HAIR))
            ways.append(Way(path, approach))
            paths.append(path)
        standing.take(paths, bit.profile)
    return Pass("pocket", bit, tuple(ways))


def _rings(within: MultiPolygon, wanted: MultiPolygon, bit: Bit) -> list[Line]:
    """Rings of the bit's axis so that its end passes over all that is wanted; part by part, from the wall inwards."""
    step = STEPOVER * bit.radius
    rings: list[Line] = []
    for part in within.geoms:
        inner = MultiPolygon([part])
        mine: list[Line] = []
        while not inner.is_empty:
            mine += rings_of(inner)
            inner = inset(inner, step)
        # In narrow corners rings pass each other too far apart: what stays there gets ways of its own.
        near = wanted.intersection(part.buffer(bit.radius))
        for _ in range(FILLS):
            swept = shapely.union_all([shapely.LineString(ring).buffer(bit.radius) for ring in mine])
            missed = polygons_of(polygons_of(near.difference(swept)).buffer(-SMALLEST / 2))
            fills = polygons_of(missed.intersection(part))
            if fills.is_empty:
                break
            mine += rings_of(fills)
        rings += mine
    return rings


def joined(rings: list[Line], room: MultiPolygon, farthest: float) -> list[Line]:
    """Rings that follow each other are joined where the straight way between them is short and stays in the room."""
    # A corner of the room itself lies on its edge, and must count as inside.
    free = room.buffer(HAIR / 2)
    shapely.prepare(free)
    chains: list[Line] = []
    for ring in rings:
        turned = ring
        if chains:
            at = chains[-1][-1]
            nearest = int(np.argmin(np.hypot(*(ring[:-1] - at).T)))
            turned = np.concatenate([ring[nearest:-1], ring[: nearest + 1]])
            link = shapely.LineString([at, turned[0]])
            if link.length <= farthest and free.covers(link):
                chains[-1] = np.concatenate([chains[-1], turned])
                continue
        chains.append(turned)
    return chains
