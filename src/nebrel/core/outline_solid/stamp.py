"""Stamps: a raised face that prints its mirror image, on a plate with a grip."""

import math
from dataclasses import dataclass, field
from typing import Literal

import manifold3d
import shapely
from shapely.affinity import translate
from shapely.geometry import MultiPolygon

from nebrel.core.csg.boolean import solid_of
from nebrel.core.errors import BadValueError
from nebrel.core.mesh import TriMesh
from nebrel.core.outline_solid.cutter import mirror
from nebrel.core.outline_solid.offset_extrusion import mound, prism
from nebrel.core.outline_solid.raised import Base, base_region, place, snap_to_grid
from nebrel.core.region.grid import polygons_of
from nebrel.core.region.shapes import disc, shape_region

Grip = Literal["none", "knob", "bar"]
OVERLAP = 0.01
FLANK_STEPS = 4
KNOB_SHARE, BAR_SHARE, WAIST = 0.45, 0.28, 0.7


@dataclass(frozen=True)
class Stamp:
    """Lengths in mm.

    Attributes:
        relief: how far the face stands out of the plate.
        draft_deg: how far its flanks lean outwards towards the plate.
        plate: what the face stands on; its thickness is that of the plate.
        grip, grip_height: behind the plate.
        mirror: whether the face is mirrored, so that its print reads right.
    """

    relief: float = 2.0
    draft_deg: float = 5.0
    plate: Base = field(default_factory=lambda: Base("rectangle", 2.0, 3.0))
    grip: Grip = "none"
    grip_height: float = 18.0
    mirror: bool = True


def make_stamp(face: MultiPolygon, stamp: Stamp) -> TriMesh:
    """A closed stamp, face up, its lowest corner at the origin.

    Raises:
        BadValueError: no face, or no plate.
    """
    if face.is_empty:
        raise BadValueError("There is no area to stamp with; at least one closed outline is needed.")
    if stamp.plate.kind == "none":
        raise BadValueError("A stamp needs a plate; choose a rectangle, ellipse or outline.")
    shown = mirror(face) if stamp.mirror else face
    reach = stamp.relief * math.tan(math.radians(stamp.draft_deg))
    covered = base_region(shown, stamp.plate)
    if reach > 0:
        raised = solid_of(mound(snap_to_grid(shown), stamp.relief + OVERLAP, reach, FLANK_STEPS))
        covered = polygons_of(shapely.union_all([covered, shown.buffer(reach)]))
    else:
        raised = solid_of(prism(snap_to_grid(shown), 0.0, stamp.relief + OVERLAP))
    plate = solid_of(prism(snap_to_grid(covered), 0.0, stamp.plate.thickness))
    whole = plate + raised.translate((0, 0, stamp.plate.thickness - OVERLAP))
    grip = _grip(covered, stamp)
    return place(whole if grip is None else whole + grip)


def _grip(covered: MultiPolygon, stamp: Stamp) -> manifold3d.Manifold | None:
    if stamp.grip == "none":
        return None
    low_x, low_y, high_x, high_y = covered.bounds
    x, y = (low_x + high_x) / 2, (low_y + high_y) / 2
    narrow = min(high_x - low_x, high_y - low_y)
    if stamp.grip == "knob":
        foot, neck = disc(x, y, KNOB_SHARE * narrow), disc(x, y, WAIST * KNOB_SHARE * narrow)
    else:
        wide = BAR_SHARE * narrow
        long = max(high_x - low_x, high_y - low_y) * 0.8
        sides = (long, wide) if high_x - low_x >= high_y - low_y else (wide, long)
        foot = _round_rectangle(x, y, *sides)
        neck = _round_rectangle(x, y, *(side - (1 - WAIST) * wide for side in sides))
    half = stamp.grip_height / 2
    parts = [
        solid_of(prism(snap_to_grid(foot), -stamp.grip_height, -half)),
        solid_of(prism(snap_to_grid(neck), -half - OVERLAP, OVERLAP)),
    ]
    return parts[0] + parts[1]


def _round_rectangle(x: float, y: float, wide: float, deep: float) -> MultiPolygon:
    shape = shape_region("rounded", wide, deep, 0.35 * min(wide, deep))
    return polygons_of(translate(shape, x - wide / 2, y - deep / 2))
