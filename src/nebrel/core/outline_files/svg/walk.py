"""The walk through the tree of an SVG file: groups, copies, frames, clips, masks, markers and text."""

from collections.abc import Callable
from dataclasses import replace
from xml.etree.ElementTree import Element

import numpy as np
import shapely
from shapely.geometry import MultiPolygon

from nebrel.core.errors import BadDrawingError, TooLargeError
from nebrel.core.outline_files.svg.around import Around, mapped, shared
from nebrel.core.outline_files.svg.document import href_of, local
from nebrel.core.outline_files.svg.lengths import (
    IDENTITY,
    Matrix,
    Measures,
    length,
    moved,
    numbers,
    scale_of,
    transform,
    view_box_map,
)
from nebrel.core.outline_files.svg.markers import vertices_of
from nebrel.core.outline_files.svg.painter import Painter
from nebrel.core.outline_files.svg.seen import Painted
from nebrel.core.outline_files.svg.shapes import Chain, chains_of
from nebrel.core.outline_files.svg.sides import is_finite
from nebrel.core.outline_files.svg.style import Style, handed_on, opacity_of, own_style, stroke_of
from nebrel.core.outline_files.svg.text import Lettered, lettered
from nebrel.core.region.grid import polygons_of

MOST_CURVES = 200_000
MOST_VISITED = 1_000_000
DEEPEST_USE = 40
GROUPS = ("g", "a", "svg", "switch")
SHAPES = ("path", "rect", "circle", "ellipse", "line", "polyline", "polygon")
UNSEEN = ("defs", "symbol", "clipPath", "mask", "marker", "pattern", "linearGradient", "radialGradient", "style",
          "title", "desc", "metadata", "filter", "")  # fmt: skip
OUTSIDE = "Links to other files were left out; nothing is fetched."


class Walk:
    """Walks the tree of a file and gathers what is painted."""

    def __init__(self, root: Element, name: str, page_px_mm: float, chord: float) -> None:
        self.painted: list[Painted] = []
        self._painter = Painter(root, page_px_mm, chord)
        self._name, self._root = name, root
        self._visited = self._curves = 0

    @property
    def remarks(self) -> list[str]:
        """What was left out, in sentences."""
        return self._painter.remarks

    def style_of_root(self) -> Style:
        """What the root hands down."""
        return handed_on({}, own_style(self._root, self._painter.sheet))

    def visit_children(self, element: Element, around: Around) -> None:
        """Everything in an element, in order."""
        for child in element:
            self.visit(child, around)
            if local(element) == "switch" and local(child) not in UNSEEN:
                return

    def visit(self, element: Element, around: Around) -> None:
        """One element and what is in it."""
        self._visited += 1
        if self._visited > MOST_VISITED:
            raise TooLargeError(
                f"{self._name} comes to more than {MOST_VISITED:,} elements by copies of copies; fewer are accepted."
            )
        kind = local(element)
        self._remark(element, kind)
        if kind in UNSEEN:
            return
        own = own_style(element, self._painter.sheet)
        style = handed_on(around.style, own)
        if own.get("display") == "none":
            return
        here = around._replace(
            matrix=around.matrix @ transform(own["transform"]) if "transform" in own else around.matrix,
            style=style,
            measures=self._measures(style, around.measures),
            opacity=around.opacity * opacity_of(own.get("opacity")),
        )
        if here.opacity <= 0 or scale_of(here.matrix) <= 0:
            return
        here = self._clipped(element, own, here)
        if here.clip is not None and here.clip.is_empty:
            return
        if kind == "svg":
            self.visit_children(element, self._viewport(element, here, here.measures.width, here.measures.height))
        elif kind in GROUPS:
            self.visit_children(element, here)
        elif kind == "use":
            self._use(element, here)
        elif kind in SHAPES:
            self._shape(element, own, here)
        elif kind == "text":
            self._text(element, here)

    def _measures(self, style: Style, before: Measures) -> Measures:
        size = style.get("font-size")
        return before if size is None else replace(before, em=length(size, before.em, before, before.em))

    def _remark(self, element: Element, kind: str) -> None:
        if kind == "image":
            self.remarks.append("A picture inside the drawing was left out; open it as a file of its own.")
        elif kind == "foreignObject":
            self.remarks.append("A part that is no drawing was left out.")
        if kind == "script" or any(key.startswith("on") for key in element.attrib):
            self.remarks.append("A script inside the drawing was left out; nothing in a file is run.")
        link = href_of(element)
        if link and not link.startswith(("#", "data:")) and kind != "a":
            self.remarks.append(OUTSIDE)
        if element.get("filter", "none") != "none":
            self.remarks.append("Filters, like shadows and blurs, were left out.")

    def _use(self, element: Element, here: Around) -> None:
        link = href_of(element)
        if not link.startswith("#"):
            return
        key, target = self._painter.linked(link)
        if target is None:
            return
        if key in here.uses or target is self._root:
            raise BadDrawingError(f"{self._name} copies “{key}” into itself, so it has no end; please mend it.")
        if len(here.uses) >= DEEPEST_USE:
            raise TooLargeError(f"{self._name} nests copies more than {DEEPEST_USE} deep; fewer are accepted.")
        at = here.measures
        place = moved(length(element.get("x"), at.width, at), length(element.get("y"), at.height, at))
        within = here._replace(matrix=here.matrix @ place, uses=(*here.uses, key))
        if local(target) not in ("symbol", "svg"):
            self.visit(target, within)
            return
        wide = length(element.get("width") or target.get("width") or "100%", at.width, at)
        high = length(element.get("height") or target.get("height") or "100%", at.height, at)
        own = own_style(target, self._painter.sheet)
        within = within._replace(style=handed_on(within.style, own))
        self.visit_children(target, self._framed(target, within, wide, high))

    def _viewport(self, element: Element, here: Around, width: float, height: float) -> Around:
        """What holds inside an svg that lies in another."""
        at = here.measures
        place = moved(length(element.get("x"), width, at), length(element.get("y"), height, at))
        wide = length(element.get("width") or "100%", width, at)
        high = length(element.get("height") or "100%", height, at)
        return self._framed(element, here._replace(matrix=here.matrix @ place), wide, high)

    def _framed(self, element: Element, here: Around, wide: float, high: float) -> Around:
        """What holds inside a frame of its own, with its view box; what reaches out of it is cut off."""
        if wide <= 0 or high <= 0:
            return here._replace(opacity=0.0, clip=MultiPolygon())
        clip = here.clip
        if own_style(element, self._painter.sheet).get("overflow", "hidden") not in ("visible", "auto"):
            clip = shared(clip, mapped(polygons_of(shapely.box(0, 0, wide, high)), here.matrix))
        box = numbers(element.get("viewBox"))
        if len(box) != 4 or min(box[2:]) <= 0:
            return here._replace(clip=clip, measures=replace(here.measures, width=wide, height=high))
        inner = view_box_map(box, wide, high, element.get("preserveAspectRatio"))
        measures = replace(here.measures, width=box[2], height=box[3])
        return here._replace(matrix=here.matrix @ inner, measures=measures, clip=clip)

    def _clipped(self, element: Element, own: Style, here: Around) -> Around:
        clip = here.clip
        for name in ("clip-path", "mask"):
            told = own.get(name, "none")
            if not told.startswith("url("):
                continue
            key, target = self._painter.linked(told)
            if target is None:
                continue
            if f"{name}|{key}" in here.uses:
                raise BadDrawingError(f"{self._name} clips “{key}” by itself, so it has no end; please mend it.")
            within = here._replace(uses=(*here.uses, f"{name}|{key}"), clip=None, opacity=1.0)
            box = self._box_of(element, own, here) if "objectBoundingBox" in target.attrib.values() else None
            if name == "clip-path":
                clip = shared(clip, self._clip_region(target, within, box))
            elif local(target) == "mask":
                clip = shared(clip, self._mask_region(target, within, box))
        return here._replace(clip=clip)

    def _box_of(self, element: Element, own: Style, here: Around) -> Matrix:
        """The map from shares of an element's box to px."""
        plain = here._replace(matrix=IDENTITY, clip=None)
        if local(element) in SHAPES:
            filled = {**plain.style, "fill": "black", "stroke": "none"}
            shapes = self._gathered(lambda: self._shape(element, own, plain._replace(style=filled)))
        else:
            shapes = self._gathered(lambda: self.visit_children(element, plain))
        if not shapes:
            return IDENTITY
        boxes = np.array([shape.box for shape in shapes])
        low, high = boxes[:, :2].min(axis=0), boxes[:, 2:].max(axis=0)
        return moved(float(low[0]), float(low[1])) @ np.diag([*(high - low), 1.0])

    def _gathered(self, paint: Callable[[], None]) -> list[Painted]:
        """What something paints, kept apart."""
        before, self.painted = self.painted, []
        try:
            paint()
            return self.painted
        finally:
            self.painted = before

    def _inside(self, target: Element, here: Around, box: Matrix | None, own: Style) -> list[Painted]:
        """What is painted in a clip path or mask."""
        matrix = here.matrix @ transform(own.get("transform"))
        placed = here._replace(matrix=matrix if box is None else matrix @ box)
        return self._gathered(lambda: self.visit_children(target, placed))

    def _clip_region(self, target: Element, here: Around, box: Matrix | None) -> MultiPolygon:
        own = own_style(target, self._painter.sheet)
        in_box = target.get("clipPathUnits") == "objectBoundingBox"
        shapes = self._inside(target, here._replace(style={}, in_clip=True), box if in_box else None, own)
        found = polygons_of(shapely.union_all([shape.region for shape in shapes]))
        inner = self._clipped(target, {key: own[key] for key in ("clip-path",) if key in own}, here)
        return found if inner.clip is None else polygons_of(found.intersection(inner.clip))

    def _mask_region(self, target: Element, here: Around, box: Matrix | None) -> MultiPolygon:
        own = own_style(target, self._painter.sheet)
        in_box = target.get("maskContentUnits") == "objectBoundingBox"
        shapes = self._inside(target, here._replace(style=handed_on({}, own)), box if in_box else None, own)
        by_alpha = own.get("mask-type", target.get("mask-type", "luminance")) == "alpha"
        shown, soft = MultiPolygon(), False
        for shape in shapes:
            light = shape.opacity if by_alpha else shape.opacity * _luminance(shape.colour)
            soft = soft or 0.02 < light < 0.98
            if by_alpha and light < 0.5:
                continue
            mixed = shown.union(shape.region) if light >= 0.5 else shown.difference(shape.region)
            shown = polygons_of(mixed)
        if soft:
            self.remarks.append("A mask that fades was taken as one with an edge, where it lets half of it through.")
        return shown

    def _shape(self, element: Element, own: Style, here: Around) -> None:
        chains = chains_of(element, own, here.measures)
        if not chains:
            return
        if not all(is_finite(chain.sides) for chain in chains):
            raise BadDrawingError(f"{self._name} holds coordinates that are not numbers; every one must be a number.")
        if here.style.get("visibility", "visible") == "visible":
            self._add(self._painter.paint(chains, own, here))
        if not here.in_clip:
            self._markers(chains, here)

    def _markers(self, chains: list[Chain], here: Around) -> None:
        style = here.style
        told = {name: style.get(f"marker-{name}", "none") for name in ("start", "mid", "end")}
        if all(not each.startswith("url(") for each in told.values()):
            return
        width = stroke_of(style, here.measures).width
        for vertex in vertices_of(chains):
            key, marker = self._painter.linked(told[vertex.kind])
            if marker is None or local(marker) != "marker" or f"marker|{key}" in here.uses:
                continue
            self._marker(marker, key, vertex.matrix(marker.get("orient", "0")), width, here)

    def _marker(self, marker: Element, key: str, place: Matrix, width: float, here: Around) -> None:
        at = here.measures
        wide, high = (length(marker.get(name, "3"), at.width, at) for name in ("markerWidth", "markerHeight"))
        size = 1.0 if marker.get("markerUnits") == "userSpaceOnUse" else width
        box = numbers(marker.get("viewBox"))
        boxed = len(box) == 4 and min(box[2:]) > 0
        inner = view_box_map(box, wide, high, marker.get("preserveAspectRatio")) if boxed else IDENTITY
        x, y = length(marker.get("refX"), wide, at), length(marker.get("refY"), high, at)
        held = inner @ np.array([x, y, 1.0])
        matrix = here.matrix @ place @ np.diag([size, size, 1.0]) @ moved(-float(held[0]), -float(held[1]))
        clip = here.clip
        if own_style(marker, self._painter.sheet).get("overflow", "hidden") not in ("visible", "auto"):
            clip = shared(clip, mapped(polygons_of(shapely.box(0, 0, wide, high)), matrix))
        style = handed_on({}, own_style(marker, self._painter.sheet))
        within = here._replace(
            matrix=matrix @ inner, style=style, clip=clip, uses=(*here.uses, f"marker|{key}"), opacity=here.opacity
        )
        self.visit_children(marker, within)

    def _text(self, element: Element, here: Around) -> None:
        found = lettered(element, here.style, here.measures, lambda each: own_style(each, self._painter.sheet))
        if isinstance(found, str):
            self.remarks.append(found)
            return
        for run in found:
            self._letters(run, here)

    def _letters(self, run: Lettered, here: Around) -> None:
        if run.chains:
            self._add(self._painter.paint(run.chains, {}, here._replace(style=run.style)))

    def _add(self, shapes: list[Painted]) -> None:
        self._curves += sum(len(shape.curves) for shape in shapes)
        if self._curves > MOST_CURVES:
            raise TooLargeError(f"The drawing holds more than {MOST_CURVES:,} curves, which is the most accepted.")
        self.painted += shapes


def _luminance(colour: str) -> float:
    red, green, blue = (int(colour[at : at + 2], 16) / 255 for at in (1, 3, 5))
    return 0.2126 * red + 0.7152 * green + 0.0722 * blue
