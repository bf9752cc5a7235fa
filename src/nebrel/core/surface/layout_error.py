"""How large a decoration lies on the skin, beside how large it was asked to be.

Measured along the faces as they are in space; nothing is taken from how they were laid flat.
"""

import math
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from nebrel.core.surface.parameterize.chart import Chart, Extent, doubled_areas
from nebrel.core.surface.parameterize.coverage import coverage_of
from nebrel.core.surface.parameterize.lengths import followed
from nebrel.core.surface.skin.skin import Skin
from nebrel.core.surface.subdivide.carving import Laid

# Further off than this it is told, and further than that refused.
NOTICED_OFF, MOST_OFF = 0.02, 0.1
_Reals = NDArray[np.float64]
_Ints = NDArray[np.int64]


@dataclass(frozen=True)
class Layout:
    """How a decoration lies.

    Attributes:
        asked_mm, laid_mm: width and height of its box, and of that box on the skin, along its middles; what lies
            beyond the skin is counted as asked.
        area: of the skin under it, of the area asked there, 1 where both are the same.
        twice: share of it that lies on the skin in more than one place.
        missing: share of it that lies on no skin.
        ends: whether the skin ends there, at an edge, a hole or a rim.
    """

    asked_mm: tuple[float, float]
    laid_mm: tuple[float, float]
    area: float
    twice: float
    missing: float
    ends: bool

    @property
    def off(self) -> float:
        """The largest share by which width, height or area differ from what was asked, or that lies there twice or is
        missing though the skin goes on."""
        sides = (abs(laid / asked - 1) for laid, asked in zip(self.laid_mm, self.asked_mm, strict=True) if asked > 0)
        return max(*sides, abs(self.area - 1), self.twice, 0.0 if self.ends else self.missing)


def measure_layout(skin: Skin, laid: Laid, extent: Extent, of_face: _Ints, places: _Reals) -> Layout:
    """How a decoration with an outline of its own lies on its chart.

    Width and height are followed along its middles, face by face; its area is that of the parts of faces within its
    outline; what is missing and what is there twice are counted on a grid of places.

    Args:
        of_face: int64 (K,), which face every part within the outline belongs to.
        places: float64 (K, 3, 2) mm, the corners of the parts in the chart.
    """
    assert laid.region is not None
    chart = laid.chart
    angle = math.radians(extent.turn_deg + chart.upright_deg)
    axes = np.array([[math.cos(angle), math.sin(angle)], [-math.sin(angle), math.cos(angle)]])
    asked = extent.width, extent.height
    lengths = []
    for axis, size in zip(axes, asked, strict=True):
        lengths.append(size * followed(skin, chart, -size / 2 * axis, size / 2 * axis).scale)
    found = coverage_of(chart, laid.region.bounds)
    inside, counts = shapely.contains_xy(laid.region, *np.meshgrid(found.x, found.y)), found.counts
    whole = max(int(inside.sum()), 1)
    missing, twice = (float((inside & those).sum()) / whole for those in (counts == 0, counts > 1))
    area = _scale(skin, chart, of_face, places)
    return Layout(asked, (lengths[0], lengths[1]), area, twice, missing, chart.open_edge or chart.rim)


def _scale(skin: Skin, chart: Chart, of_face: _Ints, places: _Reals) -> float:
    """How much larger parts of faces are on the skin than in the chart."""
    corners = skin.mesh.vertices[skin.faces[chart.faces]]
    there = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1)
    scales = np.zeros(len(skin.faces))
    scales[chart.faces] = there / np.maximum(doubled_areas(chart.plane), 1e-300)
    flat = np.abs(doubled_areas(places))
    return float(scales[of_face] @ flat / flat.sum()) if flat.any() else 1.0


def not_as_asked(layout: Layout) -> str:
    """What is said where a decoration would lie far from as large as asked."""
    sizes = [" × ".join(f"{side:.1f}" for side in pair) + " mm" for pair in (layout.laid_mm, layout.asked_mm)]
    twice = f", {layout.twice:.0%} of it twice" if layout.twice > NOTICED_OFF else ""
    missing = "" if layout.ends or layout.missing <= NOTICED_OFF else f", without {layout.missing:.0%} of it"
    return (
        f"The decoration would lie {sizes[0]} large where {sizes[1]} was asked, on {layout.area:.0%} of the area{twice}"
        f"{missing}; a smaller width, a flatter place or another way to lie keeps it, or let it be distorted."
    )
