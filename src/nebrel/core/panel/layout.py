"""The outline of a panel, and the parts into which its frame and margin divide it."""

from dataclasses import dataclass

import shapely
from shapely.geometry import MultiPolygon

from nebrel.core.errors import BadValueError
from nebrel.core.height import HeightField
from nebrel.core.outline_solid.offset_extrusion import inset
from nebrel.core.panel.body import PanelBody
from nebrel.core.region import region_of_coverage
from nebrel.core.region.grid import polygons_of
from nebrel.core.region.shapes import segments_of, shape_region


@dataclass(frozen=True)
class Outlines:
    """Regions in mm.

    Attributes:
        whole: everything that the panel covers.
        relief: where the surface is that of the heights.
        margin: where only the backing is, empty when there is no margin.
        frame: where the frame is, empty when there is none.
        full: whether the panel is just the whole rectangle of the heights.
    """

    whole: MultiPolygon
    relief: MultiPolygon
    margin: MultiPolygon
    frame: MultiPolygon
    full: bool


def outlines_of(field: HeightField, body: PanelBody) -> Outlines:
    """How a panel over `field` is divided.

    Raises:
        BadValueError: nothing is left of the outline, or the frame takes up all of it.
    """
    nothing = shapely.MultiPolygon()
    if body.margin > min(field.width, field.depth):
        raise BadValueError(
            f"The margin of {body.margin:g} mm is larger than the piece of {field.width:.1f} × {field.depth:.1f} mm; a "
            "smaller one is needed."
        )
    box = shape_region("rectangle", field.width, field.depth)
    shown = box if field.material.all() else region_of_coverage(field.coverage, field.pitch)
    if body.shape == "outline":
        shown = polygons_of(shown.intersection(box))
        whole = shown if body.margin <= 0 else _grown(shown, body.margin, box)
    else:
        shape = shape_region(body.shape, field.width, field.depth, body.corner, body.sides)
        whole = shown = shape if field.material.all() else polygons_of(shown.intersection(shape))
    if whole.is_empty:
        raise BadValueError("Nothing of the picture lies inside the outline; choose a larger outline.")
    frame, inner = nothing, whole
    if body.frame is not None:
        filled = polygons_of(shapely.MultiPolygon([shapely.Polygon(part.exterior) for part in whole.geoms]))
        inner = inset(filled, body.frame.width)
        if inner.is_empty:
            raise BadValueError(
                f"The frame is {body.frame.width:g} mm wide and would cover the whole piece; a narrower one is needed."
            )
        frame = polygons_of(filled.difference(inner))
        inner = polygons_of(whole.intersection(inner))
        shown = polygons_of(shown.intersection(inner))
    margin = polygons_of(inner.difference(shown)) if body.shape == "outline" and body.margin > 0 else nothing
    full = whole.equals(box) and frame.is_empty and margin.is_empty
    return Outlines(whole, shown, margin, frame, bool(full))


def _grown(shown: MultiPolygon, margin: float, box: MultiPolygon) -> MultiPolygon:
    quarter = max(8, segments_of(margin, 1.6) // 2)
    return polygons_of(shown.buffer(margin, quad_segs=quarter).intersection(box))
