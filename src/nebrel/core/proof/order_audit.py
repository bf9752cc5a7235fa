"""Whether what hides something else stands before it in a finished relief."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nebrel.core.bas_relief.nearness import Nearness
from nebrel.core.bas_relief.overlaps import links_of
from nebrel.core.heightfield.from_above import heights_over
from nebrel.core.mesh import TriMesh

# Both sides of an overlap are looked at so many cells of the form's grid away from it, and as finely as that.
AWAY_CELLS, FINER = 2.5, 2.0
# A side that stands lower by less than this is level with the other, mm.
LEVEL_MM = 1e-4

_Floats = NDArray[np.float64]


@dataclass(frozen=True)
class OrderMeasure:
    """Overlaps of a finished relief.

    Attributes:
        overlaps: how long they are, seen from above, about, mm.
        kept: share of their places at which what is in front stands no lower than what is behind.
    """

    overlaps: float
    kept: float


def audit_order(mesh: TriMesh, near: Nearness, mm_per_px: float, rows: int) -> OrderMeasure | None:
    """Measure the overlaps of a finished mesh; None where nothing in it hides anything but the ground.

    Args:
        mesh: of a relief, its picture lying over X and Y.
        near: how near everything in the picture is.
        mm_per_px: mm from pixel to pixel of the picture.
        rows: of the picture.
    """
    stage = near.stage
    top, left, step = stage.corner
    front: list[_Floats] = []
    behind: list[_Floats] = []
    for links in links_of(near.depths):
        across = links.axis == 1
        row, column = np.nonzero(links.leap)
        way = links.leap[row, column].astype(np.float64)
        middle_row, middle_column = (row, column + 0.5) if across else (row + 0.5, column)
        for side, sign in ((front, way), (behind, -way)):
            at_row = middle_row + (0 if across else AWAY_CELLS * sign)
            at_column = middle_column + (AWAY_CELLS * sign if across else 0)
            x, y = (left + step * at_column) * mm_per_px, (rows - 1 - top - step * at_row) * mm_per_px
            side.append(np.column_stack([x, y]))
    places = np.vstack(front), np.vstack(behind)
    if not len(places[0]):
        return None
    low, high = mesh.vertices[:, :2].min(axis=0), mesh.vertices[:, :2].max(axis=0)
    longest = max(2, round(float((high - low).max()) / stage.pitch * FINER))
    heights = heights_over(mesh, (low[0], low[1], high[0], high[1]), longest)
    seen = [_heights_at(heights, each, low, high) for each in places]
    there = np.isfinite(seen[0]) & np.isfinite(seen[1])
    if not there.any():
        return None
    kept = float((seen[0] - seen[1] >= -LEVEL_MM)[there].mean())
    # A line at any slope crosses about 4 / pi links of both axes a cell.
    return OrderMeasure(float(there.sum()) * stage.pitch * np.pi / 4, kept)


def _heights_at(heights: _Floats, places: _Floats, low: _Floats, high: _Floats) -> _Floats:
    """The nearest samples at places, minus infinity beside the mesh."""
    rows, columns = heights.shape
    share = (places - low) / np.maximum(high - low, 1e-9)
    column = np.round(share[:, 0] * (columns - 1)).astype(np.int64)
    row = np.round((1 - share[:, 1]) * (rows - 1)).astype(np.int64)
    within = (row >= 0) & (row < rows) & (column >= 0) & (column < columns)
    found = np.full(len(places), -np.inf)
    found[within] = heights[row[within], column[within]]
    return found
