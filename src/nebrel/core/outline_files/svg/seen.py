"""What a person sees of shapes that lie over each other: paper-coloured ones cut away what is below them."""

from collections import Counter
from dataclasses import dataclass, field
from functools import lru_cache

import numpy as np
import shapely
from shapely.geometry import MultiPolygon

from nebrel.core.outline_files.svg.sides import box_of
from nebrel.core.region.curves import Curve, FillRule, Layer, layer_region
from nebrel.core.region.grid import polygons_of
from nebrel.core.region.mend import edges_of

WHITE = "#ffffff"
# As good as white, and how opaque it must be to hide what is below.
PAPER_LIGHT, HIDING = 250, 0.5
SAME_SHARE = 1e-4
PAGE_SHARE = 0.002


@dataclass
class Painted:
    """One shape as it is painted, in mm, Y up.

    Attributes:
        colour: #rrggbb.
        curves: edges of areas, and strokes of a round pen.
        chord: mm that chords may be off the curves where areas are worked out.
        rule: how its edges enclose areas.
        opacity: from 0 to 1.
        clip: outside of which nothing of it is seen, or None.
    """

    colour: str
    curves: list[Curve]
    chord: float
    rule: FillRule = "nonzero"
    opacity: float = 1.0
    clip: MultiPolygon | None = None
    _region: MultiPolygon | None = field(default=None, repr=False)

    @property
    def region(self) -> MultiPolygon:
        """The area that it covers."""
        if self._region is None:
            whole = layer_region(Layer("", tuple(self.curves), rule=self.rule), self.chord)
            self._region = whole if self.clip is None else polygons_of(shapely.intersection(whole, self.clip))
        return self._region

    @property
    def box(self) -> tuple[float, float, float, float]:
        """A box that it does not reach out of: lowest and highest X and Y."""
        if self._region is not None or self.clip is not None:
            return self.region.bounds if not self.region.is_empty else (0.0, 0.0, 0.0, 0.0)
        boxes = [box_of(curve.knots) for curve in self.curves]
        reach = max((curve.width or 0.0) / 2 for curve in self.curves)
        left, foot, right, top = zip(*boxes, strict=True)
        return min(left) - reach, min(foot) - reach, max(right) + reach, max(top) + reach

    def take(self, region: MultiPolygon) -> None:
        """Let it be another area; edges are drawn anew round it."""
        self._region, self.clip, self.rule = region, None, "evenodd"
        self.curves = edges_of(region)


def layers_seen(shapes: list[Painted], page: tuple[float, float, float, float], remarks: list[str]) -> list[Layer]:
    """Layers by colour, of what is left to be seen.

    Args:
        shapes: in the order in which they are painted.
        page: lowest and highest X and Y of the page, mm.
        remarks: what is to be told is added.
    """
    shapes = [shape for shape in shapes if shape.opacity > 0 and shape.curves]
    paper, shapes = _without_ground(shapes, page, remarks)
    drawn = [at for at, shape in enumerate(shapes) if not _is_like(shape.colour, paper)]
    if not drawn:
        if shapes and paper == WHITE:
            remarks.append("All of it is white, so white was taken for what is drawn.")
        drawn, hiding = list(range(len(shapes))), []
    else:
        hiding = [at for at, shape in enumerate(shapes) if _is_like(shape.colour, paper) and shape.opacity >= HIDING]
    for at in drawn:
        shape = shapes[at]
        if shape.clip is not None and not _is_within(shape):
            shape.take(shape.region)
    _cut_away(shapes, drawn, hiding)
    return _by_colour([shapes[at] for at in drawn])


def _without_ground(
    shapes: list[Painted], page: tuple[float, float, float, float], remarks: list[str]
) -> tuple[str, list[Painted]]:
    """The colour of the paper, and what is painted on it: a first shape that is all of the page is its ground."""
    if len(shapes) < 2 or shapes[0].opacity < HIDING:
        return WHITE, shapes
    first, (low_x, low_y, high_x, high_y) = shapes[0], page
    whole = (high_x - low_x) * (high_y - low_y)
    box = np.array(first.box)
    if whole <= 0 or (box[:2] > np.array([low_x, low_y]) + PAGE_SHARE * (high_x - low_x)).any():
        return WHITE, shapes
    if (box[2:] < np.array([high_x, high_y]) - PAGE_SHARE * (high_x - low_x)).any():
        return WHITE, shapes
    covered = shapely.intersection(first.region, shapely.box(*page)).area
    if covered < (1 - PAGE_SHARE) * whole or all(_is_like(shape.colour, first.colour) for shape in shapes[1:]):
        return WHITE, shapes
    remarks.append(f"What covers all of the page, {first.colour}, was taken for its ground, not for a part.")
    return first.colour, shapes[1:]


def _is_like(colour: str, paper: str) -> bool:
    if colour == paper:
        return True
    return paper == WHITE and _darkest(colour) >= PAPER_LIGHT


@lru_cache(maxsize=1024)
def _darkest(colour: str) -> int:
    """The least of its three shares, of 255."""
    return min(int(colour[at : at + 2], 16) for at in (1, 3, 5))


def _is_within(shape: Painted) -> bool:
    """Whether the clip takes nothing of a shape; then its curves stay as they are."""
    whole = layer_region(Layer("", tuple(shape.curves), rule=shape.rule), shape.chord)
    return shape.region.area >= (1 - 1e-9) * whole.area


def _cut_away(shapes: list[Painted], drawn: list[int], hiding: list[int]) -> None:
    if not hiding:
        return
    covers = [shapes[at] for at in hiding]
    tree = shapely.STRtree([shapely.box(*cover.box) for cover in covers])
    order = np.array(hiding)
    for at in drawn:
        over = [int(number) for number in tree.query(shapely.box(*shapes[at].box)) if order[number] > at]
        if not over:
            continue
        before = shapes[at].region
        left = polygons_of(before.difference(shapely.union_all([covers[number].region for number in over])))
        if left.area < before.area - SAME_SHARE**2 * max(before.area, 1e-9):
            holes = [curve for number in over for curve in covers[number].curves]
            if not _take_holes(shapes[at], holes, left):
                shapes[at].take(left)


def _take_holes(shape: Painted, holes: list[Curve], left: MultiPolygon) -> bool:
    """Let covers that lie within a shape be its holes, so that all curves stay what they are; whether that serves."""
    curves = [*shape.curves, *holes]
    if shape.clip is not None or any(curve.width is not None for curve in curves):
        return False
    one = [Curve(curve.knots, True, None, 0) for curve in curves]
    region = layer_region(Layer("", tuple(one), rule="evenodd"), shape.chord)
    if region.symmetric_difference(left).area > SAME_SHARE**2 * left.area:
        return False
    shape.curves, shape.rule, shape._region = one, "evenodd", region
    return True


def _by_colour(shapes: list[Painted]) -> list[Layer]:
    rules = Counter((shape.colour, shape.rule) for shape in shapes)
    found: dict[tuple[str, FillRule], list[Curve]] = {key: [] for key in rules}
    for part, shape in enumerate(shapes, start=1):
        curves = found[shape.colour, shape.rule]
        curves += [Curve(curve.knots, curve.closed, curve.width, part) for curve in shape.curves]
    return [Layer(colour, tuple(curves), rule=rule) for (colour, rule), curves in found.items() if curves]
