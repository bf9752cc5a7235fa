"""Terraces whose walls lean: every terrace a mound, joined."""

import math

import manifold3d
import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import MultiPolygon

from nebrel.core.csg.boolean import solid_of, upright
from nebrel.core.height.steps import Terraces
from nebrel.core.outline_solid.offset_extrusion import mound
from nebrel.core.region.coverage import outline_at_half
from nebrel.core.region.grid import polygons_of

FLANK_STEPS = 6
SIMPLIFY_PX = 0.1
# Where two terraces have one edge, the lower one steps back a little, so that no two flanks coincide.
STEP_BACK_MM = 0.002


def drafted_plate(
    terraces: Terraces, levels: NDArray[np.float64], pitch: float, steepest_deg: float, outline: MultiPolygon
) -> manifold3d.Manifold:
    """Terraces with flat tops of their full size and flanks that fall outwards at `steepest_deg` from the level.

    Args:
        terraces: which sample belongs to which.
        levels: float64 (K,) mm above z = 0.
        pitch: mm between samples.
        steepest_deg: above 0 and below 90.
        outline: mm, what the plate has to cover; the result may reach beyond it.
    """
    around = polygons_of(outline.envelope.buffer(pitch, join_style="mitre"))
    slope = math.tan(math.radians(steepest_deg))
    solid = upright(around, 0.0, float(levels[0]))
    for terrace in range(1, len(levels)):
        region = shapely.simplify(outline_at_half(terraces.coverage(terrace), pitch), SIMPLIFY_PX * pitch)
        back = STEP_BACK_MM * (len(levels) - 1 - terrace)
        region = polygons_of(region.buffer(-back).intersection(around) if back else region.intersection(around))
        if not region.is_empty:
            height = float(levels[terrace])
            solid += solid_of(mound(region, height, height / slope, FLANK_STEPS))
    return solid
