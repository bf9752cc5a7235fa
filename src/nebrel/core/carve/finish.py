"""Finishing over the offset surface, and how its lines are put in a row."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal, TypeVar

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.carve.asked import Asked
from nebrel.core.carve.bits import Bit, widened
from nebrel.core.carve.entries import eased
from nebrel.core.carve.lines import Line, lines_between, raster_over, scallop_distance, zig_zag
from nebrel.core.carve.paths import Tips, densified, follow, step_of
from nebrel.core.carve.program import Pass, Way
from nebrel.core.carve.rings import distances_from_edge
from nebrel.core.carve.standing import Standing
from nebrel.core.units import in_range

FLAT_STEPOVER = 0.1
RING_PX, RING_SHARE, RING_STEP = 0.2, 0.85, 0.15
MAP_PITCH = 0.1
AnyNumber = TypeVar("AnyNumber", bound=np.generic)
Direction = float | Literal["crossed", "contour"]
Steep = Literal["lines", "contours"]
HOLLOW, HALVINGS, LINK = 1.0, 3, 4.0
CLOSEST = 0.15
WIDEN = 2e-4


@dataclass(frozen=True)
class Finishing:
    """How to finish.

    Attributes:
        scallop: height of the ridges between lines, mm.
        tolerance: by how much a path may pass over the surface so that it needs fewer points, mm.
        direction: degrees of the lines, or `crossed` for two rasters, or `contour` for rings.
        steep: whether steep places get lines that lie closer, or ways along their contours.
    """

    scallop: float = 0.01
    tolerance: float = 0.0075
    direction: Direction = 0.0
    steep: Steep = "contours"

    def __post_init__(self) -> None:
        in_range(self.scallop, "The scallop", 0.0005, 1)
        in_range(self.tolerance, "The tolerance of paths", 0.0005, 0.5)


def line_distance(bit: Bit, scallop: float) -> float:
    """How far apart lines of a bit lie on flat ground, mm."""
    if bit.tip > 0:
        return scallop_distance(bit.tip, scallop)
    if bit.kind == "v":
        return max(CLOSEST, 2 * scallop / bit.profile.slope)
    return bit.diameter * FLAT_STEPOVER


@dataclass(frozen=True)
class Field:
    """Where a bit is led.

    Attributes:
        asked: the heights.
        within: bool (H, W), over what its tip goes.
        slopes: float64 (2, H, W), rise along X and Y of what it will leave; None for lines at even distances.
    """

    asked: Asked
    within: NDArray[np.bool_]
    slopes: NDArray[np.float64] | None = None


def raster(
    bit: Bit,
    how: Finishing,
    over: Field,
    direction_deg: float,
    islands: bool = False,
    hollow: float = 0.0,
    told: Callable[[float], None] = lambda _: None,
) -> list[Line]:
    """Parallel lines for a bit, closer where it is steep across them, and further ones in hollows between two.

    Args:
        bit: that is led along them.
        how: with what scallop.
        over: where.
        direction_deg: of the lines.
        islands: whether lines are put so that each begins near where the one before ends.
        hollow: hollows between lines that may stay, mm; the scallop if that is more.
        told: told the share that is done.
    """
    spread = raster_over(over.asked, over.within, line_distance(bit, how.scallop), direction_deg, over.slopes)
    if spread is None:
        return []
    lines = zig_zag(over.asked, over.within, spread)
    more: list[Line] = []
    if bit.tip > 0:
        more = lines_between(
            over.asked, over.within, spread, tips_of(over.asked, bit), max(hollow, HOLLOW * how.scallop), HALVINGS, told
        )
    return in_turn(lines + more) if islands else lines + in_turn(more)


def rings(bit: Bit, how: Finishing, over: Field) -> list[Line]:
    """Rings from the edge inwards, everywhere at the distance that leaves the wanted scallop on the surface."""
    from skimage.measure import approximate_polygon, find_contours

    asked = over.asked
    slopes = over.slopes
    slowness = np.ones(over.within.shape) if slopes is None else np.sqrt(1 + np.square(slopes).sum(axis=0))
    away = distances_from_edge(over.within, slowness, asked.pitch)
    # Where rings turn a corner they lie farther apart by half as much again.
    distance = RING_SHARE * line_distance(bit, how.scallop)
    found: list[Line] = []
    for number in range(int(float(away.max()) / distance) + 1):
        for ring in find_contours(away, 0.01 * distance + number * distance):
            if len(ring) > 3:
                plan = approximate_polygon(ring, RING_PX)[:, ::-1] * asked.pitch
                found.append(plan + np.array([asked.left, asked.low]))
    return in_turn(found + _lines_in_hollows(bit, how, over, found))


def _lines_in_hollows(bit: Bit, how: Finishing, over: Field, rings: list[Line]) -> list[Line]:
    """Lines where the offset surface lies deeper between rings than straight from one to the next."""
    from scipy.interpolate import LinearNDInterpolator

    if bit.tip <= 0 or not rings:
        return []
    step = max(1, round(MAP_PITCH / over.asked.pitch))
    coarse = over.asked.every(step)
    places = np.concatenate([densified(ring, RING_STEP) for ring in rings])
    surface = LinearNDInterpolator(places, tips_of(over.asked, bit)(places))
    rows, columns = np.indices(coarse.heights.shape)
    x, y = coarse.left + columns * coarse.pitch, coarse.low + rows * coarse.pitch
    hollow = surface(np.stack([x, y], axis=-1)) - coarse.tips(bit.profile) > HOLLOW * how.scallop
    hollow &= over.within[::step, ::step][: hollow.shape[0], : hollow.shape[1]]
    near = cv2.dilate(hollow.astype(np.uint8), np.ones((3, 3), np.uint8)).astype(bool)
    field = Field(over.asked, spread_over(near, step, over.within.shape), over.slopes)
    return raster(bit, how, field, 0.0, islands=True)


def spread_over(values: NDArray[AnyNumber], step: int, shape: tuple[int, ...]) -> NDArray[AnyNumber]:
    """Values of every so many samples, for all samples."""
    if step == 1:
        return values
    rows, columns = shape
    at_row = np.minimum((np.arange(rows) + step // 2) // step, values.shape[-2] - 1)
    at_column = np.minimum((np.arange(columns) + step // 2) // step, values.shape[-1] - 1)
    return values[..., at_row[:, np.newaxis], at_column]


def led_along(
    asked: Asked,
    bit: Bit,
    lines: list[Line],
    standing: Standing,
    kind: str,
    tolerance: float,
    floor: Tips | None = None,
    told: Callable[[float], None] = lambda _: None,
) -> Pass | None:
    """Lead a bit along lines on the offset surface; None where there are none.

    Lines that follow each other are linked over the surface where they end and begin within `LINK` mm.

    Args:
        asked: the heights.
        bit: that goes.
        lines: in their order.
        standing: the stock, which is taken from.
        kind: of the pass.
        tolerance: by how much paths may pass over the surface so that they need fewer points, mm.
        floor: how low the tip may go for other reasons.
        told: told the share that is done.
    """
    if not lines:
        return None
    surface = tips_of(asked, bit)

    def tips(places: NDArray[np.float64]) -> NDArray[np.float64]:
        return surface(places) if floor is None else np.maximum(surface(places), floor(places))

    step = step_of(bit.profile, asked.pitch)
    paths = follow(linked(lines, LINK), tips, step, tolerance, bit.kind == "flat", told)
    ways = []
    for path in paths:
        approach = max(standing.above(path[0], bit.radius), float(path[0, 2]))
        ways.append(Way(eased(path, standing, bit), approach))
    standing.take(paths, bit.profile)
    return Pass(kind, bit, tuple(ways))


def tips_of(asked: Asked, bit: Bit) -> Tips:
    """The lowest tip over places, with a hair's breadth around the bit: programs round places, and where its side is
    steep that would cut in."""
    profile = widened(bit.profile, WIDEN)
    return lambda places: asked.tips_at(places, profile)


def linked(lines: list[Line], farthest: float) -> list[Line]:
    """Lines in a row, joined by straight ways no longer than `farthest` mm."""
    joined: list[list[Line]] = []
    for line in lines:
        if joined and np.linalg.norm(joined[-1][-1][-1] - line[0]) <= farthest:
            joined[-1].append(line)
        else:
            joined.append([line])
    return [np.concatenate(group) for group in joined]


def in_turn(lines: list[Line]) -> list[Line]:
    """Lines so that each begins near where the one before ends; they may be turned round."""
    if len(lines) < 3:
        return lines
    ends = np.array([[line[0], line[-1]] for line in lines])
    open_lines = np.ones(len(lines), dtype=np.bool_)
    ordered = [lines[0]]
    open_lines[0] = False
    at = lines[0][-1]
    for _ in range(len(lines) - 1):
        left = np.flatnonzero(open_lines)
        away = np.square(ends[left] - at).sum(axis=2)
        nearest = int(np.argmin(away.min(axis=1)))
        chosen = left[nearest]
        line = lines[chosen]
        if away[nearest, 1] < away[nearest, 0]:
            line = line[::-1]
        ordered.append(line)
        open_lines[chosen] = False
        at = line[-1]
    return ordered


def slopes_of(surface: NDArray[np.float64], pitch: float) -> NDArray[np.float64]:
    """Rise along X and along Y, float64 (2, H, W)."""
    up, over = np.gradient(surface, pitch)
    return np.stack([over, up])
