"""Fields of heights with the lines along which they jump."""

from dataclasses import replace

import cv2
import numpy as np

from nebrel.core.height.field import HeightField
from nebrel.core.height.lines.network import find_lines, find_steps
from nebrel.core.height.nearest_fill import fill_from_nearest

# Lines go on so far beyond what is shown, so that they end outside of its outline.
BEYOND_PX = 8
# Of heights up to this many: lines are found on all of them at once, and take many times their memory.
MOST_LINED = 100_000_000


def with_lines(field: HeightField, tolerance: float) -> HeightField:
    """The field with lines where its heights jump, when it has such places.

    Terraces become heights with lines where every one of their edges is a line, which has no teeth then; others keep
    their own edges. Fields of more than `MOST_LINED` samples have none.

    Args:
        field: heights.
        tolerance: mm that the surface may be off; infinite for no lines at all.
    """
    if (
        field.heights.size > MOST_LINED
        or not np.isfinite(tolerance)
        or not field.material.any()
        or min(field.heights.shape) < 3
    ):
        return field
    material, terraces = field.material, field.terraces
    window = np.ones((2 * BEYOND_PX + 1,) * 2, np.uint8)
    where = material if material.all() else cv2.dilate(material.astype(np.uint8), window) > 0
    if terraces is None:
        found = find_lines(fill_from_nearest(material, field.heights), where, tolerance)
        return replace(field, lines=found.lines, crowded=found.crowded)
    levels = terraces.levels[terraces.labels].astype(np.float32)
    found = find_steps(
        fill_from_nearest(material, terraces.blended), fill_from_nearest(material, levels), where, tolerance
    )
    if found.lines is None or found.left_out > 0:
        return field
    return replace(field, heights=found.lines.heights, terraces=None, lines=found.lines)


def lined_anew(field: HeightField, tolerance: float) -> HeightField:
    """The field with the lines that it has at another tolerance, mm.

    Lines that came from terraces, and those that walls lean from, are kept as they are.
    """
    if field.lines is None or field.steepest_deg < 90 or field.heights is field.lines.heights:
        return field
    return with_lines(replace(field, lines=None), tolerance)
