"""Cutting a piece out of its stock, along its outline and through its holes, with tabs that hold it."""

import math
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from nebrel.core.carve.asked import Asked
from nebrel.core.carve.bits import Bit
from nebrel.core.carve.paths import Path
from nebrel.core.carve.program import Pass, Way
from nebrel.core.carve.standing import CLEAR, Standing
from nebrel.core.errors import BadValueError
from nebrel.core.region.coverage import region_of_coverage
from nebrel.core.region.curves import Curve, Figure, Layer
from nebrel.core.region.grid import polygons_of
from nebrel.core.units import in_range

HAIR = 0.01
QUARTER = 48
DENSE = 1.0
SPIRAL = 0.05
ROOM = 5.0


@dataclass(frozen=True)
class CutOut:
    """How a piece is cut out.

    Attributes:
        depth: mm below the stock's face to which it is cut.
        tabs: how many hold every outline; 0 for none.
        tab_width, tab_height: of one, mm.
    """

    depth: float
    tabs: int = 4
    tab_width: float = 6.0
    tab_height: float = 1.5

    def __post_init__(self) -> None:
        in_range(self.depth, "The depth of the cut-out", 0.05, 500)
        in_range(self.tab_width, "The width of tabs", 0.2, 100)
        in_range(self.tab_height, "The height of tabs", 0.1, 50)


def cut_out(asked: Asked, bit: Bit, how: CutOut, standing: Standing) -> Pass:
    """Lead a flat bit round the piece, down a spiral layer by layer, over tabs where it holds the piece.

    Args:
        asked: the heights; holes are where the piece is blank inside.
        bit: that cuts; its radius is kept away from the outline.
        how: how deep, with what tabs.
        standing: the stock as the other passes left it.

    Raises:
        BadValueError: the bit is not flat, or too short.
    """
    if bit.kind != "flat":
        raise BadValueError(f"The {bit.name} bit does not cut straight walls; a flat one is needed for the cut-out.")
    if how.depth > bit.flute:
        raise BadValueError(
            f"The cut-out is {how.depth:.1f} mm deep, and the flutes of the {bit.name} bit are {bit.flute:g} mm long; "
            "a longer bit would be accepted."
        )
    ways = []
    for ring in _rings(asked, bit):
        path = _spiralled(ring, how, bit)
        ways.append(Way(path, max(standing.above(path[0], bit.radius), CLEAR)))
    return Pass("cut-out", bit, tuple(ways))


def cut_out_figure(outline: shapely.MultiPolygon, zero: tuple[float, float, float]) -> Figure:
    """The outline of a piece that is cut out, as a drawing whose origin is the zero point of the programs.

    Args:
        outline: mm.
        zero: the zero point, mm of the piece.
    """
    curves = []
    for number, part in enumerate(outline.geoms):
        for ring in (part.exterior, *part.interiors):
            spots = np.asarray(ring.coords)[:-1, :2] - np.array(zero[:2])
            curves.append(Curve(np.repeat(spots[:, np.newaxis], 3, axis=1), part=number))
    return Figure((Layer("cut-out", tuple(curves)),))


def outline_of(asked: Asked) -> shapely.MultiPolygon:
    """What the piece covers, mm."""
    rows, columns = np.flatnonzero(asked.there.any(axis=1)), np.flatnonzero(asked.there.any(axis=0))
    inside = asked.there[rows[0] : rows[-1] + 1, columns[0] : columns[-1] + 1]
    if inside.all():
        low, left = asked.low + rows[0] * asked.pitch, asked.left + columns[0] * asked.pitch
        far = left + (len(inside[0]) - 1) * asked.pitch, low + (len(inside) - 1) * asked.pitch
        return shapely.MultiPolygon([shapely.box(left, low, *far)])
    found = region_of_coverage(asked.there[::-1].astype(np.float32), asked.pitch)
    # Corners of the traced outline are rounded by about a sample; that much is left standing all round.
    return polygons_of(shapely.affinity.translate(found, asked.left, asked.low).buffer(asked.pitch))


def _rings(asked: Asked, bit: Bit) -> list[NDArray[np.float64]]:
    """Closed ways of the bit's axis, holes first, (N, 2) mm; climbing round both."""
    around = polygons_of(outline_of(asked).buffer(bit.radius + HAIR, quad_segs=QUARTER))
    inner = [ring for part in around.geoms for ring in part.interiors]
    outer = [part.exterior for part in around.geoms]
    rings = []
    for ring in (*inner, *outer):
        spots = np.asarray(shapely.segmentize(ring, DENSE).coords)[:, :2]
        clockwise = not shapely.is_ccw(ring)
        # The piece lies to the right of a climbing cut: round outlines clockwise, round holes the other way.
        rings.append(spots if clockwise == (ring in outer) else spots[::-1])
    return rings


def _spiralled(ring: NDArray[np.float64], how: CutOut, bit: Bit) -> Path:
    """A ring taken down layer by layer, then once round on the ground; over tabs it stays up."""
    way = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(ring, axis=0), axis=1))])
    length = float(way[-1])
    layers = max(1, math.ceil(how.depth / bit.step_down - 1e-9))
    deep = how.depth / layers
    floor = np.full(len(way), -how.depth)
    # The bit takes its radius off both ends of a tab. A short way, such as that of a small hole, has room for few.
    half = how.tab_width / 2 + bit.radius
    tabs = min(how.tabs, int(length / (ROOM * half)))
    if tabs > 0:
        middles = (np.arange(tabs) + 0.5) * length / tabs
        near = np.abs(way[:, np.newaxis] - middles).min(axis=1)
        slope = np.clip((half + how.tab_height - near) / max(how.tab_height, SPIRAL), 0, 1)
        floor += slope * how.tab_height
    rounds = [np.maximum(-deep * (layer + way / length), floor) for layer in range(layers)]
    rounds.append(floor)
    return np.concatenate([np.column_stack([ring, heights]) for heights in rounds])
