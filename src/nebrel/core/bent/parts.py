"""What a bent wall is held, hung and closed by: foot, bottom, lid seat, rails, clip, hanging hole.

Parts are made standing, Z up, in the frame of the wall before it is moved: X right, Y away from the viewer. They reach
into the wall, so that no two faces coincide.
"""

import math
from dataclasses import dataclass

import manifold3d
import numpy as np
import shapely
from shapely.geometry import MultiPolygon

from nebrel.core.bent.forms import Flat, Floats, Form, Globe, Upright
from nebrel.core.csg.boolean import solid_of, upright
from nebrel.core.errors import BadValueError
from nebrel.core.outline_solid.offset_extrusion import inset, loft
from nebrel.core.region.grid import polygons_of
from nebrel.core.region.shapes import disc

CHORD_MM = 0.005
OVERLAP_MM = 0.01
INTO_WALL_MM = 0.4
PROFILE_POINTS = 240


@dataclass(frozen=True)
class Foot:
    """A plate that reaches `margin` mm out from the lower edge all round, `height` mm high, under the wall."""

    margin: float
    height: float


@dataclass(frozen=True)
class Bottom:
    """A plate inside the lower edge with a round hole for a lamp; 0 for none."""

    thickness: float
    hole: float


@dataclass(frozen=True)
class LidSeat:
    """A ledge inside, `depth` mm under the upper edge, that a lid of that thickness lies on."""

    depth: float
    ledge: float

    @property
    def reaches(self) -> float:
        """How far below the upper edge it is joined to the inside of the wall, mm."""
        return self.depth + 1.0 + self.ledge


@dataclass(frozen=True)
class Rails:
    """Tongues along both sides that slide into slots `slot` mm wide and `depth` mm deep."""

    slot: float
    depth: float
    clearance: float = 0.2


@dataclass(frozen=True)
class Clip:
    """A hook behind the upper edge for what is `slot` mm thick: `width` mm across, reaching `length` mm down."""

    slot: float
    width: float = 20.0
    length: float = 12.0
    strength: float = 2.4


@dataclass(frozen=True)
class BorderHole:
    """A hole of `diameter` mm, its centre `from_edge` mm under the upper edge; a form that runs round has two."""

    diameter: float
    from_edge: float


@dataclass(frozen=True)
class WallParts:
    """All of them, None for none; `flat` is how many mm are cut off below, so that it stands on more than an edge."""

    foot: Foot | None = None
    bottom: Bottom | None = None
    lid: LidSeat | None = None
    rails: Rails | None = None
    clip: Clip | None = None
    hole: BorderHole | None = None
    flat: float | None = None

    @property
    def none(self) -> bool:
        """Whether there is nothing to join or cut."""
        return self == WallParts()


def refuse_misplaced(parts: WallParts, form: Form) -> None:
    """Refuse parts that the form has no place for.

    Raises:
        BadValueError: a bottom or lid seat on what does not run round, rails or a clip on what does.
    """
    if not form.around and (parts.bottom or parts.lid):
        raise BadValueError("A bottom or a lid seat needs a form that runs round, such as a cylinder or a prism.")
    if form.around and (parts.rails or parts.clip):
        raise BadValueError("Rails and clips need a form with two side edges: flat or an arc.")
    if form.pole and parts.hole:
        raise BadValueError("This form is closed on top; a hanging hole needs an opening there.")
    if isinstance(form, Globe) and parts.lid:
        raise BadValueError("A sphere or dome has no upright wall for a lid seat; a lid lies on its opening.")
    hole = parts.hole
    if hole is not None and not hole.diameter / 2 < hole.from_edge < form.height - hole.diameter / 2:
        raise BadValueError(
            f"The hanging hole is {hole.diameter:g} mm across and {hole.from_edge:g} mm under the edge; "
            f"its centre must lie more than {hole.diameter / 2:g} mm under it."
        )


def with_parts(
    wall: manifold3d.Manifold, form: Form, inside: bool, rim: float, span: tuple[float, float], parts: WallParts
) -> manifold3d.Manifold:
    """The wall with its parts.

    Args:
        wall: as the form is placed.
        form: what it was bent over.
        inside: whether thickness grows inwards.
        rim: thickness of the border, mm.
        span: thinnest and thickest place of the wall, mm.
        parts: what to join and cut.

    Raises:
        BadValueError: a part does not fit.
    """
    refuse_misplaced(parts, form)
    reach = -rim if inside else rim
    lying = isinstance(form, Flat)
    solid = wall.rotate((90, 0, 0)) if lying else wall
    low, high = _ends(form, reach)
    thinnest, thickest = span
    for added in _parts_beside(form, reach, thinnest, low, high, parts):
        solid += added
    if parts.bottom is not None and parts.bottom.hole > 0:
        through = low + abs(reach) + parts.bottom.thickness + 1
        solid -= upright(disc(*_middle(form, reach), parts.bottom.hole), low - 500, through)
    if parts.hole is not None:
        for drill in _drills(form, parts.hole, thickest + 1):
            solid -= drill
    if parts.flat is not None and not lying:
        solid = solid.trim_by_plane((0, 0, 1), solid.bounding_box()[2] + parts.flat)
    return solid.rotate((-90, 0, 0)) if lying else solid


def _parts_beside(
    form: Form, reach: float, thinnest: float, low: float, high: float, parts: WallParts
) -> list[manifold3d.Manifold]:
    made = []
    if parts.foot is not None:
        made.append(_foot(form, reach, low, parts.foot))
    if parts.bottom is not None or parts.lid is not None:
        into = math.copysign(min(thinnest, abs(reach)) / 2, reach)
        filled = _fill(form, into)
    if parts.bottom is not None:
        # Where the wall leans, its outer edge lies lower than what it holds.
        made.append(_bottom(filled, max(low, filled.bounding_box()[2]), parts.bottom))
    if parts.lid is not None:
        made.append(_ledge(filled, abs(into) if reach > 0 else into - reach, high, parts.lid))
    if parts.rails is not None:
        made += _rails(form, abs(reach), reach < 0, parts.rails)
    if parts.clip is not None:
        made.append(_clip(form, reach, parts.clip))
    return made


def _standing(points: Floats) -> Floats:
    """From a form's frame: right, away from the viewer, up."""
    return np.stack([points[..., 0], -points[..., 2], points[..., 1]], axis=-1)


def _edge(form: Form, v: float, away: float) -> Floats:
    """A level line of the form, `away` mm outside, (N, 3), standing."""
    if isinstance(form, Upright):
        two = form.curve.outline(away, CHORD_MM)
        return np.column_stack([two[:, 0], -two[:, 1], np.full(len(two), v)])
    count = 2 if isinstance(form, Flat) else 4 * math.ceil(form.width / math.sqrt(32 * form.width * CHORD_MM))
    u = np.linspace(0, form.width, count) if isinstance(form, Flat) else np.arange(count) / count * form.width
    base, _, grow = form.at(u, np.full(len(u), v))
    return _standing(base + away * grow)


def _ends(form: Form, reach: float) -> tuple[float, float]:
    """The lowest place of the lower edge and the highest of the upper one, mm."""
    lower = [float(_edge(form, 0.0, away)[0, 2]) for away in (0.0, reach)]
    upper = [float(_edge(form, form.height, away)[0, 2]) for away in (0.0, reach)]
    return min(lower), max(upper)


def _ring(form: Form, v: float, reach: float) -> tuple[shapely.Geometry, shapely.Geometry]:
    """What the outer and what the inner edge of the wall enclose at a level; where it is open, the wall and nothing."""
    one, other = _edge(form, v, 0.0)[:, :2], _edge(form, v, reach)[:, :2]
    if not form.around:
        return shapely.Polygon(np.vstack([one, other[::-1]])), shapely.Polygon()
    outlines = sorted((shapely.Polygon(one), shapely.Polygon(other)), key=lambda outline: outline.area)
    return outlines[1], outlines[0]


def _middle(form: Form, reach: float) -> tuple[float, float]:
    _, inner = _ring(form, 0.0, reach)
    return float(inner.centroid.x), float(inner.centroid.y)


def _foot(form: Form, reach: float, low: float, foot: Foot) -> manifold3d.Manifold:
    outer, inner = _ring(form, 0.0, reach)
    plan = polygons_of(outer.buffer(foot.margin, quad_segs=32).difference(inner))
    top = max(float(_edge(form, 0.0, away)[0, 2]) for away in (0.0, reach))
    return upright(plan, low - foot.height, top + OVERLAP_MM)


def _fill(form: Form, into: float) -> manifold3d.Manifold:
    """Everything within a form that runs round, and `into` mm of its wall, so that nothing shows outside."""
    if isinstance(form, Upright):
        plan = polygons_of(shapely.Polygon(_edge(form, 0.0, into)[:, :2]))
        return upright(plan, 0.0, form.height)
    v = np.linspace(0, form.height, PROFILE_POINTS)
    base, _, grow = form.at(np.full(len(v), form.width / 2), v)
    side = base + into * grow
    outline = np.vstack([[0.0, side[0, 1]], side[:, [2, 1]], [0.0, side[-1, 1]]])
    return manifold3d.Manifold.revolve(manifold3d.CrossSection([outline]), 512)


def _bottom(filled: manifold3d.Manifold, low: float, bottom: Bottom) -> manifold3d.Manifold:
    left, front, _, right, back, _ = filled.bounding_box()
    if bottom.hole >= min(right - left, back - front) - 2:
        raise BadValueError(
            f"The hole for the lamp is {bottom.hole:g} mm across and the bottom "
            f"{min(right - left, back - front):.1f} mm; a hole of up to "
            f"{min(right - left, back - front) - 2:.1f} mm would be accepted."
        )
    return filled ^ _layer(low, low + bottom.thickness)


def _ledge(filled: manifold3d.Manifold, wall: float, high: float, lid: LidSeat) -> manifold3d.Manifold:
    top = high - lid.depth
    middle = filled.slice(top)
    outline = polygons_of(shapely.Polygon(max(middle.to_polygons(), key=len))).buffer(INTO_WALL_MM)
    across = INTO_WALL_MM + wall + lid.ledge
    if inset(polygons_of(outline), across + 1).is_empty:
        raise BadValueError(f"The opening is too narrow for a ledge of {lid.ledge:g} mm; a smaller one is needed.")
    ring = solid_of(loft(polygons_of(outline), [(0.0, 1.0 + across), (across, 1.0)], hollow=True))
    return ring.mirror((0, 0, 1)).translate((0, 0, top)) ^ filled


def _layer(low: float, high: float) -> manifold3d.Manifold:
    return manifold3d.Manifold.cube((4000, 4000, high - low)).translate((-2000, -2000, low))


def _frame_at(form: Form, u: float, v: float) -> tuple[Floats, Floats, Floats]:
    """Place, direction of rising u and normal of a spot, each (3,), standing."""
    step = 1e-4
    base, normal, _ = form.at(np.array([u]), np.array([v]))
    ahead, _, _ = form.at(np.array([min(u + step, form.width)]), np.array([v]))
    behind, _, _ = form.at(np.array([max(u - step, 0.0)]), np.array([v]))
    way = _standing(ahead - behind)[0]
    return _standing(base)[0], way / np.linalg.norm(way), _standing(normal)[0]


def _plank(
    place: Floats, way: Floats, normal: Floats, along: tuple[float, float], out: tuple[float, float],
    up: tuple[float, float],
) -> manifold3d.Manifold:  # fmt: skip
    """A box on a frame: from and to along u, outwards, and upwards from z = 0."""
    corners = [place[:2] + s * way[:2] + t * normal[:2] for s, t in zip(
        (along[0], along[1], along[1], along[0]), (out[0], out[0], out[1], out[1]), strict=True)]  # fmt: skip
    return upright(polygons_of(shapely.Polygon(corners)), *up)


def _rails(form: Form, rim: float, inside: bool, rails: Rails) -> list[manifold3d.Manifold]:
    thick = rails.slot - rails.clearance
    if thick < 0.4:
        raise BadValueError(f"The slot is {rails.slot:g} mm wide; at least {rails.clearance + 0.4:g} mm is needed.")
    low = -rim + OVERLAP_MM if inside else OVERLAP_MM
    made = []
    for u, sign in ((0.0, -1.0), (form.width, 1.0)):
        place, way, normal = _frame_at(form, u, 0.0)
        span = (-INTO_WALL_MM, rails.depth) if sign > 0 else (-rails.depth, INTO_WALL_MM)
        made.append(_plank(place, way, normal, span, (low, low + thick), (0.0, form.height)))
    return made


def _clip(form: Form, reach: float, clip: Clip) -> manifold3d.Manifold:
    if clip.width > form.width:
        raise BadValueError(f"The clip is {clip.width:g} mm wide, wider than the piece; up to {form.width:.1f} mm fit.")
    place, way, normal = _frame_at(form, form.width / 2, form.height)
    front, back = max(reach, 0.0), min(reach, 0.0)
    half, top = clip.width / 2, form.height
    sagitta = 0.0 if isinstance(form, Flat) else float(_sagitta(form, half))
    gap = back - sagitta - clip.slot
    bar = _plank(place, way, normal, (-half, half), (gap - clip.strength, front - OVERLAP_MM),
                 (top - OVERLAP_MM, top + clip.strength))  # fmt: skip
    leg = _plank(place, way, normal, (-half, half), (gap - clip.strength, gap),
                 (max(top - clip.length, 0.0), top))  # fmt: skip
    return bar + leg


def _sagitta(form: Form, half: float) -> float:
    place, _, normal = _frame_at(form, form.width / 2, 0.0)
    away, _, _ = _frame_at(form, form.width / 2 + half, 0.0)
    return abs(float((away - place) @ normal))


def _drills(form: Form, hole: BorderHole, reach: float) -> list[manifold3d.Manifold]:
    v = form.up_from(form.height, -hole.from_edge)
    places = [0.25, 0.75] if form.around else [0.5]
    drills = []
    for share in places:
        place, _, normal = _frame_at(form, share * form.width, v)
        drill = manifold3d.Manifold.cylinder(2 * reach, hole.diameter / 2, hole.diameter / 2, 96, True)
        turn = math.degrees(math.atan2(normal[1], normal[0]))
        lean = math.degrees(math.acos(max(-1.0, min(1.0, float(normal[2])))))
        drills.append(drill.rotate((0, lean, 0)).rotate((0, 0, turn)).translate(tuple(place)))
    return drills


def plan_of(form: Form, reach: float) -> MultiPolygon:
    """What the lower edge of a wall `reach` mm thick stands on, seen from above."""
    outer, inner = _ring(form, 0.0, reach)
    return polygons_of(outer.difference(inner))
