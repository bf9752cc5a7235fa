"""What is cut out of a panel: holes to hang it by, slots to stand it on."""

import math

import manifold3d
import shapely
from shapely.geometry import MultiPolygon

from nebrel.core.csg.boolean import mesh_of
from nebrel.core.errors import BadValueError
from nebrel.core.mesh import TriMesh
from nebrel.core.outline_solid.offset_extrusion import prism
from nebrel.core.panel.body import CornerHoles, HangingHole, Keyhole, Opening, StandSlot
from nebrel.core.region.grid import polygons_of
from nebrel.core.region.shapes import capsule, disc

BEYOND = 1.0


def footprint(openings: tuple[Opening, ...], whole: MultiPolygon) -> MultiPolygon:
    """Where openings go right through, mm.

    Raises:
        BadValueError: one of them would not lie inside the panel.
    """
    return polygons_of(shapely.union_all([region for opening in openings for region in _through(opening, whole)]))


def cutters(openings: tuple[Opening, ...], whole: MultiPolygon, backing: float, top: float) -> list[TriMesh]:
    """Closed solids to subtract from a panel with that backing, whose highest point is `top`, mm.

    Raises:
        BadValueError: one of them would not lie inside the panel, or a pocket in the back would come through.
    """
    made: list[TriMesh] = []
    for opening in openings:
        made.extend(prism(region, -BEYOND, top + BEYOND) for region in _through(opening, whole))
        if isinstance(opening, Keyhole):
            _stays_inside("keyhole", opening.depth, backing)
            made.extend(_keyhole(opening, whole))
        elif isinstance(opening, StandSlot):
            _stays_inside("stand slot", lean_reach(opening), backing)
            made.append(_groove(opening, whole))
    return made


def _through(opening: Opening, whole: MultiPolygon) -> list[MultiPolygon]:
    left, bottom, right, top = whole.bounds
    if isinstance(opening, HangingHole):
        hole = disc((left + right) / 2, _top_at(whole, (left + right) / 2) - opening.from_edge, opening.diameter)
        return [_inside(hole, whole, "hanging hole")]
    if isinstance(opening, CornerHoles):
        places = [(x, y) for x in (left + opening.inset, right - opening.inset)
                  for y in (bottom + opening.inset, top - opening.inset)]  # fmt: skip
        return [_inside(disc(x, y, opening.diameter), whole, "corner hole") for x, y in places]
    return []


def _keyhole(keyhole: Keyhole, whole: MultiPolygon) -> list[TriMesh]:
    left, _, right, _ = whole.bounds
    x = (left + right) / 2
    y = _top_at(whole, x) - keyhole.from_edge
    if not keyhole.neck < keyhole.head:
        raise BadValueError(
            f"The keyhole's slot is {keyhole.neck:g} mm wide and its mouth {keyhole.head:g} mm; it must be narrower."
        )
    if not keyhole.lip < keyhole.depth:
        raise BadValueError(
            f"The keyhole is {keyhole.depth:g} mm deep and its lip {keyhole.lip:g} mm thick; it must be deeper."
        )
    hollow = _inside(capsule(x, y, x, y + keyhole.rise, keyhole.head), whole, "keyhole")
    mouth = polygons_of(shapely.union(disc(x, y, keyhole.head), capsule(x, y, x, y + keyhole.rise, keyhole.neck)))
    return [prism(hollow, keyhole.lip, keyhole.depth), prism(mouth, -BEYOND, (keyhole.lip + keyhole.depth) / 2)]


def _groove(slot: StandSlot, whole: MultiPolygon) -> TriMesh:
    left, bottom, right, _ = whole.bounds
    x, y = (left + right) / 2, bottom + slot.from_edge
    box = shapely.box(x - slot.length / 2, y - slot.thickness / 2, x + slot.length / 2, y + slot.thickness / 2)
    _inside(polygons_of(box), whole, "stand slot")
    strip = manifold3d.Manifold.cube((slot.length, slot.thickness, slot.depth + BEYOND), False)
    placed = strip.translate((-slot.length / 2, -slot.thickness / 2, -BEYOND)).rotate((-slot.lean_deg, 0, 0))
    return mesh_of(placed.translate((x, y, 0)))


def _stays_inside(what: str, depth: float, backing: float) -> None:
    if depth >= backing:
        raise BadValueError(
            f"The {what} reaches {depth:.1f} mm deep and the backing is {backing:g} mm thick; a shallower one or a "
            "thicker backing is needed."
        )


def _top_at(whole: MultiPolygon, x: float) -> float:
    _, bottom, _, top = whole.bounds
    along = shapely.LineString([(x, bottom - 1), (x, top + 1)]).intersection(whole)
    return float(along.bounds[3]) if not along.is_empty else float(top)


def _inside(region: MultiPolygon, whole: MultiPolygon, what: str) -> MultiPolygon:
    if not whole.contains(region):
        raise BadValueError(f"The {what} does not lie inside the piece; make it smaller or move it away from the edge.")
    return region


def lean_reach(slot: StandSlot) -> float:
    """How deep a stand slot goes from the back, straight inwards, mm."""
    lean = math.radians(slot.lean_deg)
    return slot.depth * math.cos(lean) + slot.thickness / 2 * math.sin(abs(lean))
