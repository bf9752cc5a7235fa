"""The upper side that a panel is asked to have, on the grid of its heights."""

from dataclasses import replace

import cv2
import numpy as np

from nebrel.core.height import HeightField
from nebrel.core.panel.layout import PanelLayout, Samples, inwards

COUNTED_INSIDE_PX = 2


def target_field(layout: PanelLayout) -> HeightField:
    """Heights above the backing with frame, margin and edges, blank where there is no material."""
    if layout.plain:
        return layout.field
    backing, heights = layout.body.backing, layout.heights
    edge = layout.edge(float(heights.max()) + backing)
    if edge is not None:
        limit = np.interp(layout.inwards, *np.array(edge).T) - backing
        heights = np.minimum(heights, limit).astype(np.float32)
    there = layout.covered & ~layout.in_openings
    coverage = np.where(there, np.maximum(layout.field.coverage, np.float32(0.5)), np.float32(0))
    return replace(layout.field, heights=heights, coverage=coverage, terraces=None, lines=None)


def counted_samples(layout: PanelLayout) -> Samples:
    """Samples whose height must be that of the field: not beside walls, frames, edges or openings."""
    field, pitch = layout.field, layout.field.pitch
    counted = field.material & layout.in_relief & ~layout.in_openings
    edge = layout.edge(float(field.heights.max()) + layout.body.backing)
    if edge is not None:
        counted &= layout.inwards > edge[-1][0] + COUNTED_INSIDE_PX * pitch
    if not layout.body.plain:
        counted &= inwards(counted, pitch) > pitch * COUNTED_INSIDE_PX
    if field.terraces is not None:
        counted &= field.terraces.settled
        if field.steepest_deg < 90:
            counted &= _level(field)
    return counted


def _level(field: HeightField) -> Samples:
    """Samples of terraces that no flank of another reaches."""
    terraces = field.terraces
    assert terraces is not None
    window = np.ones((5, 5), np.uint8)
    on_level = np.isclose(field.heights, terraces.levels[terraces.labels], atol=1e-6)
    return cv2.erode(on_level.astype(np.uint8), window).astype(bool)
