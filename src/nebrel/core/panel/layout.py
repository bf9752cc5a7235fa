"""How a panel is laid out: its outline, the parts into which frame and margin divide it, its edge, and all that on the
grid of its heights. Worked out once, and handed on."""

from dataclasses import dataclass
from functools import cached_property

import cv2
import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import MultiPolygon

from nebrel.core.errors import BadValueError
from nebrel.core.height import HeightField
from nebrel.core.outline_solid.offset_extrusion import inset
from nebrel.core.panel.body import PanelBody
from nebrel.core.panel.openings import footprint
from nebrel.core.panel.rim import Profile, edge_profile, frame_profile
from nebrel.core.region import region_of_coverage
from nebrel.core.region.grid import polygons_of
from nebrel.core.region.raster import raster_of
from nebrel.core.region.shapes import segments_of, shape_region

STAIRS_SIGMA_PX = 1.5
Samples = NDArray[np.bool_]


@dataclass(frozen=True)
class PanelLayout:
    """A panel over a field of heights. Regions are in mm; rasters are made when they are first asked for.

    Attributes:
        field: heights above the backing.
        body: what the panel is.
        whole: everything that the panel covers.
        relief: where the surface is that of the heights.
        margin: where only the backing is, empty when there is no margin.
        frame: where the frame is, empty when there is none.
        full: whether the panel is just the whole rectangle of the heights.
    """

    field: HeightField
    body: PanelBody
    whole: MultiPolygon
    relief: MultiPolygon
    margin: MultiPolygon
    frame: MultiPolygon
    full: bool

    @property
    def plain(self) -> bool:
        """Whether it is the rectangle of its heights and nothing else."""
        return self.body.plain and self.full

    @cached_property
    def openings(self) -> MultiPolygon:
        """What holes and slots take of the upper side."""
        return footprint(self.body.openings, self.whole)

    @cached_property
    def covered(self) -> Samples:
        """Samples that the panel covers."""
        return self._raster(self.whole)

    @cached_property
    def in_relief(self) -> Samples:
        """Samples whose surface is that of the heights."""
        return self._raster(self.relief)

    @cached_property
    def in_openings(self) -> Samples:
        """Samples that are cut away from above."""
        return self._raster(self.openings)

    @cached_property
    def inwards(self) -> NDArray[np.float32]:
        """How far samples are from the outline, mm."""
        return inwards(self.covered, self.field.pitch)

    @cached_property
    def heights(self) -> NDArray[np.float32]:
        """Heights above the backing with margin and frame, before edges and openings, float32 (H, W) mm."""
        field, body = self.field, self.body
        low = np.float32(field.heights.min(where=field.material, initial=np.inf) if body.back == "follow" else 0)
        heights = field.heights - low
        if not self.margin.is_empty:
            heights = np.where(self._raster(self.margin), np.float32(0), heights)
        if body.frame is None:
            return heights
        profile = np.array(frame_profile(body.frame, 0.0))
        framed = self._raster(self.frame)
        away = inwards(framed | self.in_relief, field.pitch)
        return np.where(framed, np.interp(away, profile[:, 0], profile[:, 1]), heights).astype(np.float32)

    @cached_property
    def rim_top(self) -> float:
        """The highest point along the outline, mm above z = 0."""
        if self.body.frame is not None:
            return self.body.backing + max(height for _, height in frame_profile(self.body.frame, 0.0)[:2])
        rim = self.covered & (self.inwards < 3 * self.field.pitch)
        return self.body.backing + float(self.heights.max(where=rim, initial=0.0))

    def edge(self, top: float) -> Profile | None:
        """What bevel and leaning walls leave up to `top` mm, as `edge_profile` gives it; None when there are none."""
        if self.body.bevel <= 0 and self.body.wall_draft_deg <= 0:
            return None
        return edge_profile(self.body, top, self.rim_top)

    def _raster(self, region: MultiPolygon) -> Samples:
        return raster_of(region, self.field.heights.shape, self.field.pitch)


def layout_of(field: HeightField, body: PanelBody) -> PanelLayout:
    """How a panel over `field` is laid out.

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
        whole = shown if body.margin <= 0 else _grow(shown, body.margin, box)
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
    return PanelLayout(field, body, whole, shown, margin, frame, bool(full))


def inwards(there: Samples, pitch: float) -> NDArray[np.float32]:
    """Distance of samples from the edge of a mask, mm, softened a little because the mask's edge is a stair; the border
    of the grid is an edge."""
    padded = np.pad(there.astype(np.uint8), 1)
    away = cv2.distanceTransform(padded, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    soft = cv2.GaussianBlur(away, (0, 0), STAIRS_SIGMA_PX)[1:-1, 1:-1]
    return np.where(there, np.maximum(soft - 0.5, 0), 0).astype(np.float32) * np.float32(pitch)


def _grow(shown: MultiPolygon, margin: float, box: MultiPolygon) -> MultiPolygon:
    quarter = max(8, segments_of(margin, 1.6) // 2)
    return polygons_of(shown.buffer(margin, quad_segs=quarter).intersection(box))
