"""The upper side that a panel is asked to have, on the grid of its heights."""

from dataclasses import replace

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.height import HeightField
from nebrel.core.panel.body import PanelBody
from nebrel.core.panel.layout import Outlines, outlines_of
from nebrel.core.panel.openings import footprint
from nebrel.core.panel.rim import Profile, edge_profile, frame_profile
from nebrel.core.region.raster import raster_of

COUNTED_INSIDE_PX = 2
STAIRS_SIGMA_PX = 1.5
_Mask = NDArray[np.bool_]


def target_field(field: HeightField, body: PanelBody) -> HeightField:
    """Heights above the backing with frame, margin and edges, blank where there is no material."""
    outlines = outlines_of(field, body)
    if body.plain and outlines.full:
        return field
    there = raster_of(outlines.whole, field.heights.shape, field.pitch)
    heights = _with_frame(field, body, outlines)
    edge = edge_of(field, body, outlines, float(heights.max()) + body.backing)
    if edge is not None:
        limit = np.interp(_inwards(there, field.pitch), *np.array(edge).T) - body.backing
        heights = np.minimum(heights, limit).astype(np.float32)
    there &= ~raster_of(footprint(body.openings, outlines.whole), field.heights.shape, field.pitch)
    coverage = np.where(there, np.maximum(field.coverage, np.float32(0.5)), np.float32(0))
    return replace(field, heights=heights, coverage=coverage, terraces=None)


def edge_of(field: HeightField, body: PanelBody, outlines: Outlines, top: float) -> Profile | None:
    """What bevel and leaning walls leave, as `edge_profile` gives it, or None when there are none."""
    if body.bevel <= 0 and body.wall_draft_deg <= 0:
        return None
    return edge_profile(body, top, _edge_top(field, body, outlines))


def _edge_top(field: HeightField, body: PanelBody, outlines: Outlines) -> float:
    """The highest point along the outline, mm above z = 0."""
    there = raster_of(outlines.whole, field.heights.shape, field.pitch)
    rim = there & (_inwards(there, field.pitch) < 3 * field.pitch)
    heights = _with_frame(field, body, outlines)
    if body.frame is not None:
        return body.backing + max(height for _, height in frame_profile(body.frame, 0.0)[:2])
    return body.backing + float(heights.max(where=rim, initial=0.0))


def counted_samples(field: HeightField, body: PanelBody, outlines: Outlines) -> _Mask:
    """Samples whose height must be that of the field: not beside walls, frames, edges or openings."""
    shape, pitch = field.heights.shape, field.pitch
    counted = field.material & raster_of(outlines.relief, shape, pitch)
    counted &= ~raster_of(footprint(body.openings, outlines.whole), shape, pitch)
    edge = edge_of(field, body, outlines, float(field.heights.max()) + body.backing)
    if edge is not None:
        inside = _inwards(raster_of(outlines.whole, shape, pitch), pitch)
        counted &= inside > edge[-1][0] + COUNTED_INSIDE_PX * pitch
    if not body.plain:
        counted &= _inwards(counted, pitch) > pitch * COUNTED_INSIDE_PX
    if field.terraces is not None:
        counted &= field.terraces.settled
        if field.steepest_deg < 90:
            counted &= _level(field)
    return counted


def _level(field: HeightField) -> _Mask:
    """Samples of terraces that no flank of another reaches."""
    terraces = field.terraces
    assert terraces is not None
    window = np.ones((5, 5), np.uint8)
    on_level = np.isclose(field.heights, terraces.levels[terraces.labels], atol=1e-6)
    return cv2.erode(on_level.astype(np.uint8), window).astype(bool)


def _with_frame(field: HeightField, body: PanelBody, outlines: Outlines) -> NDArray[np.float32]:
    shape, pitch = field.heights.shape, field.pitch
    low = np.float32(field.heights.min(where=field.material, initial=np.inf) if body.back == "follow" else 0)
    heights = field.heights - low
    if not outlines.margin.is_empty:
        heights = np.where(raster_of(outlines.margin, shape, pitch), np.float32(0), heights)
    if body.frame is None:
        return heights
    profile = np.array(frame_profile(body.frame, 0.0))
    framed = raster_of(outlines.frame, shape, pitch)
    away = _inwards(framed | raster_of(outlines.relief, shape, pitch), pitch)
    return np.where(framed, np.interp(away, profile[:, 0], profile[:, 1]), heights).astype(np.float32)


def _inwards(there: _Mask, pitch: float) -> NDArray[np.float32]:
    """Distance of samples from the edge of a mask, mm, softened a little because the mask's edge is a stair; the border
    of the grid is an edge."""
    padded = np.pad(there.astype(np.uint8), 1)
    away = cv2.distanceTransform(padded, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    soft = cv2.GaussianBlur(away, (0, 0), STAIRS_SIGMA_PX)[1:-1, 1:-1]
    return np.where(there, np.maximum(soft - 0.5, 0), 0).astype(np.float32) * np.float32(pitch)
