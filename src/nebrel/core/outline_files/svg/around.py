"""What holds at a place of an SVG tree, and areas under maps."""

from typing import NamedTuple

from shapely.affinity import affine_transform
from shapely.geometry import MultiPolygon

from nebrel.core.outline_files.svg.lengths import IDENTITY, Matrix, Measures
from nebrel.core.outline_files.svg.style import Style
from nebrel.core.region.grid import polygons_of


class Around(NamedTuple):
    """What holds at a place of the tree.

    Attributes:
        matrix: from px there to mm.
        style: what is handed down.
        measures: what lengths refer to.
        opacity: of all groups around, together.
        clip: what of it is seen, mm, or None.
        uses: the copies within which it lies, by what they are copies of.
        in_clip: whether shapes only say what is seen of another, whatever they are painted with.
    """

    matrix: Matrix
    style: Style
    measures: Measures
    opacity: float = 1.0
    clip: MultiPolygon | None = None
    uses: tuple[str, ...] = ()
    in_clip: bool = False


def mapped(region: MultiPolygon, matrix: Matrix) -> MultiPolygon:
    """The region under a map."""
    if (matrix == IDENTITY).all():
        return region
    (a, b, x), (c, d, y) = matrix[:2].tolist()
    return polygons_of(affine_transform(region, [a, b, c, d, x, y]))


def shared(one: MultiPolygon | None, other: MultiPolygon) -> MultiPolygon:
    """What two regions share; None is all there is."""
    return other if one is None else polygons_of(one.intersection(other))
