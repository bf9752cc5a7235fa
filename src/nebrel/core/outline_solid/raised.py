"""Solids over outlines: raised or cut through, with a base, shaped edges, or as an inlay pair."""

import math
from dataclasses import dataclass
from typing import Literal

import manifold3d
import numpy as np
import shapely
from shapely.affinity import translate
from shapely.geometry import MultiPolygon

from nebrel.core.csg.boolean import cleanup, solid_of
from nebrel.core.errors import BadValueError
from nebrel.core.height.from_edge import ROPE_LAY
from nebrel.core.height.over_region import SHAPES, HeightAt, edge_of, shape_over
from nebrel.core.mesh import TriMesh
from nebrel.core.outline_solid.offset_extrusion import inset, loft, prism, rounded
from nebrel.core.region.edge_distance import distances_from
from nebrel.core.region.grid import grid_for, on_grid, polygons_of
from nebrel.core.region.mend import offset_region
from nebrel.core.region.shapes import shape_region

BaseKind = Literal["none", "rectangle", "ellipse", "outline"]
EdgeKind = Literal["square", "bevel", "round", "roof", "dome", "cove", "pillow", "rope"]
# Edges that take the whole height, and go on inwards as far as the outline lets them.
PROFILES = ("roof", "dome", "cove", *SHAPES)
ShellKind = Literal["none", "inside", "centred", "outside"]
OVERLAP = 0.01
ROUND_STEPS = 8
# How many straight pieces follow a quarter of an ellipse.
FEWEST_STEPS, MOST_STEPS = 12, 64
DEEPEST_STEPS = 24
MOST_ACROSS_ROPE, CORNERS_A_TURN = 32, 16
# Between the edge and the first curve within it; strips that are finer turn into slivers where solids are joined.
FIRST_MM = 0.01
CHORD_MM = 0.005
# What is left at the deepest place is so wide that it does not vanish on the grid.
STILL_THERE_MM = 2e-3
SETTLE_MM = 1e-4
APART = 5.0
_Profile = list[tuple[float, float]]


@dataclass(frozen=True)
class Base:
    """A plate under the outlines.

    Attributes:
        kind: `rectangle` and `ellipse` are drawn around everything; `outline` is the outline grown, its holes filled.
        margin: how far it reaches beyond the outline, mm.
        thickness: mm.
    """

    kind: BaseKind = "none"
    margin: float = 3.0
    thickness: float = 1.2


@dataclass(frozen=True)
class RaisedBody:
    """What is made of outlines. Lengths in mm.

    Attributes:
        base: the plate below.
        edge, edge_size: of the upper rim of what is raised, and of the lower one too when `both`. A roof rises evenly,
            a dome and a cove as a quarter of an ellipse, from the foot to their full height `edge_size` from the edge.
            A pillow is at its full height where the outline is widest; a rope is a cord `edge_size` thick along the
            edge, and nothing stands within it.
        chord: how far straight pieces may stray from a profile that is curved, mm.
        cut: cut the outlines out of the base in place of raising them.
        shell, shell_width: only a band along the edge.
        inlay: clearance all round between a plate with a pocket and its insert, or None; the pocket is as deep as the
            outlines would be tall.
    """

    base: Base = Base()
    edge: EdgeKind = "square"
    edge_size: float = 0.5
    both: bool = False
    cut: bool = False
    shell: ShellKind = "none"
    shell_width: float = 1.2
    inlay: float | None = None
    chord: float = CHORD_MM


def raised_outline(regions: list[tuple[MultiPolygon, float]], body: RaisedBody) -> TriMesh:
    """A closed solid from regions and the heights they stand above the base, its lower left corner at the origin.

    Where regions overlap, the taller one counts.

    Raises:
        BadValueError: nothing to raise, an edge larger than the piece, or a cut without a base.
    """
    standing = [(_shell(region, body), height) for region, height in regions if height > 0]
    standing = [(region, height) for region, height in standing if not region.is_empty]
    if not standing:
        raise BadValueError("Nothing of the outlines stands out; at least one area and a height above 0 are needed.")
    whole = standing[0][0]
    if len(standing) > 1:
        whole = polygons_of(shapely.union_all([region for region, _ in standing]))
    if body.inlay is not None:
        return place(_inlay_pair(standing, whole, body, body.inlay))
    if body.cut:
        if body.base.kind == "none":
            raise BadValueError("There is no base to cut the outlines out of; choose a rectangle, ellipse or outline.")
        plate = polygons_of(base_region(whole, body.base).difference(whole))
        return place(solid_of(shaped_prism(plate, body.base.thickness, body)))
    if body.base.kind == "none":
        return place(_standing(standing, body, 0.0))
    plate = solid_of(prism(snap_to_grid(base_region(whole, body.base)), 0.0, body.base.thickness))
    return place(plate + _standing(standing, body, body.base.thickness - OVERLAP))


def base_region(whole: MultiPolygon, base: Base) -> MultiPolygon:
    """What the base covers, mm."""
    low_x, low_y, high_x, high_y = whole.bounds
    width, depth = high_x - low_x, high_y - low_y
    if base.kind == "outline":
        closed = polygons_of(shapely.union_all([shapely.Polygon(part.exterior) for part in whole.geoms]))
        return offset_region(closed, base.margin, "round") if base.margin > 0 else closed
    if base.kind == "ellipse":
        wide, deep = width * math.sqrt(2) + 2 * base.margin, depth * math.sqrt(2) + 2 * base.margin
        shape = shape_region("ellipse", wide, deep)
    else:
        wide, deep = width + 2 * base.margin, depth + 2 * base.margin
        shape = shape_region("rectangle", wide, deep)
    return polygons_of(translate(shape, (low_x + high_x - wide) / 2, (low_y + high_y - deep) / 2))


def shaped_prism(region: MultiPolygon, height: float, body: RaisedBody) -> TriMesh:
    """The upright solid over a region from 0 to `height` mm with the body's edges.

    Raises:
        BadValueError: the edge is larger than the region or the height allow.
    """
    over = snap_to_grid(region)
    if body.edge == "square":
        return prism(over, 0.0, height)
    size = body.edge_size
    if body.edge in PROFILES:
        return _risen(over, body.edge, size, height, body.chord)
    sides = 2 if body.both else 1
    if size * sides >= height:
        raise BadValueError(f"An edge of {size:g} mm does not fit a height of {height:g} mm; a smaller one is needed.")
    above = loft(over, edge_rise(body.edge, size, height))
    if not body.both:
        return above
    turned = solid_of(above).mirror((0, 0, 1)).translate((0, 0, height))
    return cleanup(solid_of(above) ^ turned, SETTLE_MM)


def edge_rise(edge: EdgeKind, size: float, height: float) -> _Profile:
    """(distance inwards, height) in mm of an upper edge."""
    if edge == "bevel":
        return [(0.0, height - size), (size, height)]
    turns = np.linspace(0, math.pi / 2, ROUND_STEPS + 1)
    return [(size * (1 - math.cos(turn)), height - size + size * math.sin(turn)) for turn in turns.tolist()]


def _risen(region: MultiPolygon, edge: EdgeKind, reach: float, height: float, chord: float) -> TriMesh:
    """What rises from the edge of a region all the way."""
    if edge == "rope":
        steps = min(2 * _steps(max(reach / 2, height), chord), MOST_ACROSS_ROPE)
        away = reach / 2 * (1 - np.cos(np.linspace(0, math.pi, steps + 1)))
        away = np.append(away[away < reach - FIRST_MM], reach)
        along = ROPE_LAY * reach / CORNERS_A_TURN
    else:
        low_x, low_y, high_x, high_y = region.bounds
        deepest = _deepest(region, min(reach if edge != "pillow" else math.inf, high_x - low_x, high_y - low_y))
        steps = _steps(max(deepest, height), chord)
        share = np.linspace(0, math.pi / 2, steps + 1)
        away = deepest * {"roof": share / share[-1], "cove": np.sin(share)}.get(edge, 1 - np.cos(share))
        along = deepest * math.pi / steps if edge == "pillow" else math.inf
    away = away[(away == 0) | (away >= FIRST_MM)]
    rise = _rise(region, edge, reach)
    return rounded(region, away.tolist(), along, lambda places: height * rise(places), chord, hollow=edge == "rope")


def _rise(region: MultiPolygon, edge: EdgeKind, reach: float) -> HeightAt:
    """How high it stands over places, from 0 at the edge to 1."""
    if edge == "pillow" or edge == "rope":  # noqa: PLR1714
        return shape_over(region, edge, reach)
    segments = edge_of(region)
    if edge == "roof":
        return lambda places: distances_from(segments, places, reach) / reach
    if edge == "dome":
        return lambda places: np.sqrt(np.maximum(0, 1 - (1 - distances_from(segments, places, reach) / reach) ** 2))
    return lambda places: 1 - np.sqrt(np.maximum(0, 1 - (distances_from(segments, places, reach) / reach) ** 2))


def _steps(longest: float, chord: float) -> int:
    """Into how many straight pieces a quarter of an ellipse is cut, the longer half axis of which is `longest` mm."""
    turn = 2 * math.acos(max(0.0, 1 - chord / longest))
    return min(max(math.ceil(math.pi / 2 / turn), FEWEST_STEPS), MOST_STEPS)


def _deepest(region: MultiPolygon, most: float) -> float:
    """How far inwards something of a region is left, up to `most` mm; by halving."""
    if not inset(region, most).is_empty:
        return most + 1e-9
    low, high = 0.0, most
    for _ in range(DEEPEST_STEPS):
        middle = (low + high) / 2
        low, high = (low, middle) if inset(region, middle).is_empty else (middle, high)
    return max(low - STILL_THERE_MM, low / 2)


def _standing(standing: list[tuple[MultiPolygon, float]], body: RaisedBody, foot: float) -> manifold3d.Manifold:
    """All regions at their heights, from `foot` up; each height stands on the union of all that are as tall."""
    parts, lower = [], 0.0
    ground = foot + OVERLAP if foot > 0 else 0.0
    for height in sorted({height for _, height in standing}):
        reaching = [region for region, other in standing if other >= height]
        area = reaching[0] if len(reaching) == 1 else polygons_of(shapely.union_all(reaching))
        start = ground + lower - OVERLAP if lower else foot
        part = solid_of(shaped_prism(area, ground + height - start, body))
        parts.append(part.translate((0, 0, start)))
        lower = height
    return parts[0] if len(parts) == 1 else manifold3d.Manifold.batch_boolean(parts, manifold3d.OpType.Add)


def _shell(region: MultiPolygon, body: RaisedBody) -> MultiPolygon:
    width = body.shell_width
    if body.shell == "none":
        return region
    if body.shell == "inside":
        return polygons_of(region.difference(offset_region(region, -width, "mitre")))
    if body.shell == "outside":
        return polygons_of(offset_region(region, width, "round").difference(region))
    outer, inner = offset_region(region, width / 2, "round"), offset_region(region, -width / 2, "mitre")
    return polygons_of(outer.difference(inner))


def _inlay_pair(
    standing: list[tuple[MultiPolygon, float]], whole: MultiPolygon, body: RaisedBody, clearance: float
) -> manifold3d.Manifold:
    depth = max(height for _, height in standing)
    kind = "rectangle" if body.base.kind == "none" else body.base.kind
    base = base_region(whole, Base(kind, body.base.margin, body.base.thickness))
    pocket = solid_of(prism(snap_to_grid(whole), body.base.thickness, body.base.thickness + depth + 1.0))
    plate = solid_of(prism(snap_to_grid(base), 0.0, body.base.thickness + depth)) - pocket
    insert = offset_region(whole, -clearance, "round")
    if insert.is_empty:
        raise BadValueError(f"A clearance of {clearance:g} mm leaves nothing of the insert; a smaller one is needed.")
    beside = base.bounds[2] - insert.bounds[0] + APART
    return plate + solid_of(shaped_prism(insert, depth, body)).translate((beside, 0, 0))


def snap_to_grid(region: MultiPolygon) -> MultiPolygon:
    """The region on the grid whose places a float32 holds exactly."""
    return on_grid(region, grid_for(max(abs(bound) for bound in region.bounds)))


def place(solid: manifold3d.Manifold) -> TriMesh:
    """The finished mesh of a solid, its lowest corner at the origin."""
    low = solid.bounding_box()[:3]
    return cleanup(solid.translate((-low[0], -low[1], -low[2])), SETTLE_MM)
