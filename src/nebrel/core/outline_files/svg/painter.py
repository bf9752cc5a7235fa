"""From chains and styles of SVG to what is painted: fills and strokes with their colours."""

from xml.etree.ElementTree import Element

import shapely

from nebrel.core.outline_files.svg.around import Around, mapped
from nebrel.core.outline_files.svg.document import href_of, local
from nebrel.core.outline_files.svg.lengths import IDENTITY, Matrix, is_even, scale_of
from nebrel.core.outline_files.svg.seen import Painted
from nebrel.core.outline_files.svg.shapes import Chain
from nebrel.core.outline_files.svg.sides import is_line, knots_of
from nebrel.core.outline_files.svg.style import Style, StyleSheet, colour_of, opacity_of, own_style, stroke_of
from nebrel.core.region.curves import Curve, FillRule, circle
from nebrel.core.region.grid import polygons_of
from nebrel.core.region.mend import edges_of
from nebrel.core.region.strokes import stroked


class Painter:
    """Paints what a file names: colours, gradients by their id.

    Attributes:
        remarks: what is to be told is added.
        sheet: of the file.
    """

    def __init__(self, root: Element, page_px_mm: float, chord: float) -> None:
        self.remarks: list[str] = []
        self.sheet = StyleSheet(root)
        self._by_id = {key: each for each in root.iter() if (key := each.get("id"))}
        self._page_px_mm, self._chord = page_px_mm, chord

    def linked(self, text: str) -> tuple[str, Element | None]:
        """The id that `url(#id)` or `#id` names, and its element."""
        key = text.strip().removeprefix("url(").rstrip(")").strip("\"' ").removeprefix("#")
        return key, self._by_id.get(key)

    def paint(self, chains: list[Chain], own: Style, here: Around) -> list[Painted]:
        """What chains become: an area, a stroke or both, in the order in which they are painted.

        Args:
            chains: in px of their own space.
            own: what their element itself says.
            here: what holds there.
        """
        style = here.style
        shapes = []
        filled = ("#000000", 1.0) if here.in_clip else self._paint_of(style.get("fill", "black"), style)
        if filled is not None:
            opacity = filled[1] * opacity_of(style.get("fill-opacity")) * here.opacity
            told = style.get("clip-rule" if here.in_clip else "fill-rule")
            rule: FillRule = "evenodd" if told == "evenodd" else "nonzero"
            curves = [
                curve
                for chain in chains
                if not is_line(chain.sides) and (curve := _curve(chain, here.matrix, True)) is not None
            ]
            if curves:
                shapes.append(Painted(filled[0], curves, self._chord, rule, opacity, here.clip))
        inked = None if here.in_clip else self._paint_of(style.get("stroke", "none"), style)
        if inked is not None:
            curves = self._stroke(chains, own, here)
            opacity = inked[1] * opacity_of(style.get("stroke-opacity")) * here.opacity
            if curves:
                shapes.append(Painted(inked[0], curves, self._chord, "nonzero", opacity, here.clip))
        return shapes[::-1] if "stroke" in style.get("paint-order", "").split()[:1] else shapes

    def _paint_of(self, text: str, style: Style) -> tuple[str, float] | None:
        """A colour and its opacity; of a gradient its first stop, of a pattern black."""
        if not text.startswith("url("):
            return colour_of(text, style)
        link, _, rest = text.partition(")")
        _, target = self.linked(link + ")")
        if target is None:
            return colour_of(rest, style)
        if local(target) == "pattern":
            self.remarks.append("Patterns were taken as filled areas.")
            return "#000000", 1.0
        stops = self._stops(target)
        if not stops:
            return None
        self.remarks.append("Areas that change colour were taken as of one colour.")
        return max(stops, key=lambda stop: stop[1])

    def _stops(self, gradient: Element) -> list[tuple[str, float]]:
        for _ in range(8):
            stops = [each for each in gradient if local(each) == "stop"]
            if stops:
                break
            _, following = self.linked(href_of(gradient))
            if following is None:
                return []
            gradient = following
        else:
            return []
        found = []
        for stop in stops:
            own = own_style(stop, self.sheet)
            colour = colour_of(own.get("stop-color", "black"), own)
            if colour is not None:
                found.append((colour[0], colour[1] * opacity_of(own.get("stop-opacity"))))
        return found

    def _stroke(self, chains: list[Chain], own: Style, here: Around) -> list[Curve]:
        stroke = stroke_of(here.style, here.measures)
        if stroke.width <= 0:
            return []
        steady = own.get("vector-effect", here.style.get("vector-effect")) == "non-scaling-stroke"
        matrix = IDENTITY if steady else here.matrix
        if steady:
            # As wide as it says on the page, whatever the shape's own transform is.
            stroke = stroke.scaled(self._page_px_mm)
            local_curves = [_curve(chain, here.matrix, False) for chain in chains]
        else:
            local_curves = [_curve(chain, IDENTITY, False) for chain in chains]
        size = scale_of(matrix)
        if size <= 0:
            return []
        curves = [curve for curve in local_curves if curve is not None]
        if stroke.is_round and is_even(matrix):
            placed = [curve.moved(matrix[:2]) for curve in curves]
            return [
                Curve(each.knots, each.closed, stroke.width * size)
                if len(each.knots) > 1
                else circle(float(each.nodes[0, 0]), float(each.nodes[0, 1]), stroke.width * size / 2)
                for each in placed
            ]
        areas = [stroked(curve, stroke, self._chord / size) for curve in curves]
        whole = polygons_of(shapely.union_all([mapped(area, matrix) for area in areas]))
        return edges_of(whole)


def _curve(chain: Chain, matrix: Matrix, closed: bool) -> Curve | None:
    """A chain under a map; `closed` closes it as filling does. None where it encloses nothing."""
    knots, meet = knots_of(chain.sides, matrix)
    if closed or chain.closed or meet:
        return None if closed and len(knots) < 2 else Curve(knots, True)
    return Curve(knots, False)
