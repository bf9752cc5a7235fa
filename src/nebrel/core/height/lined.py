"""Fields of heights with the lines along which they jump."""

from dataclasses import replace

import cv2
import numpy as np

from nebrel.core.height.field import HeightField
from nebrel.core.height.lines.network import HeightLines, find_lines
from nebrel.core.height.nearest_fill import fill_from_nearest
from nebrel.core.height.steps import Terraces

# Lines go on so far beyond what is shown, so that they end outside of its outline.
BEYOND_PX = 8
# What is no further from a terrace is on it.
LEVEL_MM = 1e-3


def with_lines(field: HeightField, tolerance: float) -> HeightField:
    """The field with lines where its heights jump, when it has such places.

    Terraces become heights with lines where every one of their edges is a line, which has no teeth then; others keep
    their own edges.

    Args:
        field: heights.
        tolerance: mm that the surface may be off.
    """
    if not field.material.any() or min(field.heights.shape) < 3:
        return field
    material, heights = field.material, field.heights if field.terraces is None else field.terraces.blended
    window = np.ones((2 * BEYOND_PX + 1,) * 2, np.uint8)
    where = material if material.all() else cv2.dilate(material.astype(np.uint8), window) > 0
    found = find_lines(fill_from_nearest(material, heights), where, tolerance)
    if field.terraces is not None:
        if found.lines is None or found.left_out > 0 or not _has_levels(found.lines, field.terraces):
            return field
        field = replace(field, heights=found.lines.heights, terraces=None)
    return replace(field, lines=found.lines, crowded=found.crowded)


def _has_levels(lines: HeightLines, terraces: Terraces) -> bool:
    """Whether all that a surface along lines is asked for lies on a terrace."""
    asked = lines.heights[~lines.free]
    nearest = np.searchsorted((terraces.levels[1:] + terraces.levels[:-1]) / 2, asked)
    return bool((np.abs(terraces.levels[nearest] - asked) < LEVEL_MM).all())
