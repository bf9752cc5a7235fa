"""Cutters for clay and dough: a wall along an outline, an edge that cuts, a rim to press on, and an imprint inside.

A cutter lies on its rim, as it is printed; in use it is turned over, so it is a mirror image of what it cuts.
"""

import math
from dataclasses import dataclass, field

import manifold3d
import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import MultiPolygon
from shapely.ops import nearest_points

from nebrel.core.csg.boolean import solid_of
from nebrel.core.errors import BadValueError
from nebrel.core.mesh import TriMesh
from nebrel.core.outline_solid.offset_extrusion import loft, prism
from nebrel.core.outline_solid.raised import edge_rise, place, snap_to_grid
from nebrel.core.region.grid import polygons_of
from nebrel.core.region.mend import offset_region

OVERLAP = 0.01
ROUNDED_SHARE = 0.4
TOUCHING = 1e-6
APART_SHARE = 0.4
MOST_BARS = 4


@dataclass(frozen=True)
class Cutter:
    """Lengths in mm; heights are measured from the rim's outer face, on which the cutter lies.

    Attributes:
        lines, line: how many printed lines of which width make the wall.
        height: of the whole cutter.
        edge, edge_height: thickness of the cutting edge, and how far down from it the wall is that thin; 0 leaves the
            wall as it is.
        rim, rim_height, rim_round: width of the rim, how thick it is, and whether its outer corners are rounded.
        clearance: by how much what is cut is larger than the outline, all round.
        bars, bar: how many bars join parts that would fall apart, and how wide they are.
        handle: width of a bar across the middle to hold it by, or 0.
        imprint_plate: thickness of the plate that carries the imprint.
        imprint_gap: how far the imprint stays away from the wall.
        mirror: whether the outline is mirrored, so that what is cut looks like the outline.
    """

    lines: int = 4
    line: float = 0.45
    height: float = 16.0
    edge: float = 0.8
    edge_height: float = 4.0
    rim: float = 4.0
    rim_height: float = 2.5
    rim_round: bool = False
    clearance: float = 0.0
    bars: int = 2
    bar: float = 4.0
    handle: float = 0.0
    imprint_plate: float = 2.0
    imprint_gap: float = 0.6
    mirror: bool = True

    @property
    def wall(self) -> float:
        """Thickness of the wall."""
        return self.lines * self.line


@dataclass(frozen=True)
class Imprint:
    """A region pressed into what is cut, `setback` mm behind the cutting edge."""

    region: MultiPolygon
    setback: float


@dataclass(frozen=True)
class MadeCutter:
    """A cutter, and what joins it.

    Attributes:
        mesh: its lowest corner at the origin.
        parts: how many walls stand apart from each other.
        joined: whether something holds them all together.
    """

    mesh: TriMesh
    parts: int
    joined: bool


@dataclass(frozen=True)
class _Foot:
    """What lies in the rim's plane."""

    rim: MultiPolygon
    bars: list[MultiPolygon] = field(default_factory=list)


def make_cutter(outline: MultiPolygon, imprints: list[Imprint], cutter: Cutter) -> MadeCutter:
    """The cutter of an outline; the wall stands outside of it.

    Raises:
        BadValueError: measures that do not fit each other, or nothing to cut.
    """
    _refuse_unfit(cutter)
    if outline.is_empty:
        raise BadValueError("There is no outline to cut along; at least one closed outline is needed.")
    if cutter.mirror:
        outline, imprints = mirror(outline), [Imprint(mirror(one.region), one.setback) for one in imprints]
    cut = offset_region(outline, cutter.clearance, "round") if cutter.clearance > 0 else outline
    if cut.is_empty:
        raise BadValueError("There is no outline to cut along; at least one closed outline is needed.")
    thin_from = cutter.height - cutter.edge_height
    thick = _band(cut, cutter.wall)
    solids = [_upright(thick, 0.0, thin_from if cutter.edge_height > 0 else cutter.height)]
    if cutter.edge_height > 0:
        solids.append(_upright(_band(cut, cutter.edge), thin_from - OVERLAP, cutter.height))
    rim = _band(cut, max(cutter.rim, cutter.wall))
    solids.append(_rim(rim, cut, cutter))
    solids += _add_imprints(cut, imprints, cutter)
    parts = len(rim.geoms)
    bars = bridges(rim, cutter.bars, cutter.bar) if parts > 1 and cutter.bars > 0 else []
    solids += [_upright(bar, 0.0, cutter.rim_height) for bar in bars]
    if cutter.handle > 0:
        solids.append(_upright(_handle(cut, rim, cutter.handle), 0.0, cutter.rim_height))
    whole = manifold3d.Manifold.batch_boolean(solids, manifold3d.OpType.Add)
    return MadeCutter(place(whole), parts, len(whole.decompose()) == 1)


def mirror(region: MultiPolygon) -> MultiPolygon:
    """The region mirrored left to right about x = 0."""
    return shapely.orient_polygons(shapely.transform(region, lambda at: at * (-1, 1)))


def bridges(parts: MultiPolygon, count: int, width: float) -> list[MultiPolygon]:
    """Bars of `width` mm that join all parts, the shortest that do; up to `count` side by side between two parts."""
    shapes = list(parts.geoms)
    joined, bars = [0], []
    while len(joined) < len(shapes):
        away, here, there = min(
            (shapes[i].distance(shapes[j]), i, j) for i in joined for j in range(len(shapes)) if j not in joined
        )
        del away
        bars += _bars_between(shapes[here], shapes[there], min(count, MOST_BARS), width)
        joined.append(there)
    return bars


def _bars_between(one: shapely.Polygon, other: shapely.Polygon, count: int, width: float) -> list[MultiPolygon]:
    smaller = min((one, other), key=lambda shape: shape.length)
    keep_off = APART_SHARE * math.hypot(smaller.bounds[2] - smaller.bounds[0], smaller.bounds[3] - smaller.bounds[1])
    left, bars = smaller.boundary, []
    larger = other if smaller is one else one
    for _ in range(count):
        if left.is_empty:
            break
        here, there = nearest_points(left, larger)
        bars.append(_bar(_xy(here), _xy(there), width))
        left = left.difference(here.buffer(keep_off))
    return bars


def _bar(here: NDArray[np.float64], there: NDArray[np.float64], width: float) -> MultiPolygon:
    """A bar that reaches into both parts that it joins; where they touch in a point, a square over it."""
    way = there - here
    length = float(np.linalg.norm(way))
    reach = (way / length if length > TOUCHING else np.array([1.0, 0.0])) * width / 2
    return polygons_of(shapely.LineString([here - reach, there + reach]).buffer(width / 2, cap_style="flat"))


def _xy(place: shapely.Point) -> NDArray[np.float64]:
    return np.array([place.x, place.y])


def _band(cut: MultiPolygon, width: float) -> MultiPolygon:
    """The strip of `width` mm outside of what is cut."""
    return polygons_of(offset_region(cut, width, "round").difference(cut))


def _upright(region: MultiPolygon, low: float, high: float) -> manifold3d.Manifold:
    placed = snap_to_grid(region)
    # What is thinner than the grid of coordinates leaves nothing.
    return manifold3d.Manifold() if placed.is_empty else solid_of(prism(placed, low, high))


def _rim(rim: MultiPolygon, cut: MultiPolygon, cutter: Cutter) -> manifold3d.Manifold:
    """The rim; rounded at its outer corners above and below where asked."""
    high = cutter.rim_height
    if not cutter.rim_round:
        return _upright(rim, 0.0, high)
    outer = snap_to_grid(offset_region(cut, max(cutter.rim, cutter.wall), "round"))
    above = solid_of(loft(outer, edge_rise("round", ROUNDED_SHARE * high, high)))
    both = above ^ above.mirror((0, 0, 1)).translate((0, 0, high))
    return both - _upright(cut, -1.0, high + 1.0)


def _add_imprints(cut: MultiPolygon, imprints: list[Imprint], cutter: Cutter) -> list[manifold3d.Manifold]:
    inside = offset_region(cut, -cutter.imprint_gap, "round")
    ridges = []
    for one in imprints:
        region = polygons_of(one.region.intersection(inside))
        top = cutter.height - one.setback
        if not region.is_empty and top > cutter.imprint_plate:
            ridges.append(_upright(region, cutter.imprint_plate - OVERLAP, top))
    if not ridges:
        return []
    plate = offset_region(cut, min(cutter.wall, cutter.line) / 2, "round")
    return [_upright(plate, 0.0, cutter.imprint_plate), *ridges]


def _handle(cut: MultiPolygon, rim: MultiPolygon, width: float) -> MultiPolygon:
    low_x, low_y, high_x, high_y = rim.bounds
    middle = cut.centroid
    if high_x - low_x <= high_y - low_y:
        bar = shapely.box(low_x, middle.y - width / 2, high_x, middle.y + width / 2)
    else:
        bar = shapely.box(middle.x - width / 2, low_y, middle.x + width / 2, high_y)
    return polygons_of(bar.intersection(shapely.union_all([rim, cut])))


def _refuse_unfit(cutter: Cutter) -> None:
    if cutter.edge_height > 0 and cutter.edge > cutter.wall:
        raise BadValueError(
            f"The cutting edge of {cutter.edge:g} mm is thicker than the wall of {cutter.wall:g} mm; "
            "a thinner edge or more lines are needed."
        )
    if cutter.edge_height + cutter.rim_height >= cutter.height:
        raise BadValueError(
            f"Edge and rim take {cutter.edge_height + cutter.rim_height:g} mm of a height of {cutter.height:g} mm; "
            "a taller cutter, or a lower edge or rim is needed."
        )
