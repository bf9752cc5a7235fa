"""SVG files as outlines: everything that a person sees of them, in mm."""

from xml.etree.ElementTree import Element

import numpy as np
import shapely

from nebrel.core.errors import BadDrawingError, NebrelError
from nebrel.core.outline_files.svg.around import Around
from nebrel.core.outline_files.svg.copies import refuse_endless_copies
from nebrel.core.outline_files.svg.document import parse_tree
from nebrel.core.outline_files.svg.lengths import MM_PER_PX, Measures, is_physical, length, numbers, view_box_map
from nebrel.core.outline_files.svg.seen import Painted, layers_seen
from nebrel.core.outline_files.svg.walk import Walk
from nebrel.core.region.drawing import Drawing, drawing_of
from nebrel.core.region.grid import polygons_of
from nebrel.core.region.mend import fine_chord


def read_svg(data: bytes, name: str, mm_per_unit: float | None = None) -> Drawing:
    """What is seen of an SVG file: filled areas, and strokes as areas of their width.

    Followed are groups, transforms, view boxes, style sheets, symbols and their copies, clip paths, masks, markers,
    caps, joins and dashes. Shapes in the colour of the paper cut away what lies below them; what lies outside of the
    page is cut off. Text is read where its typeface ships with Nebrel; pictures, scripts and links to other files are
    named and left out.

    Args:
        data: the file.
        name: what it is called.
        mm_per_unit: what a unit of the view box is, for files that do not say; None takes 96 to the inch.

    Raises:
        BadDrawingError: not SVG, broken, with entities that hold more than text, or without any shape.
        TooLargeError: more curves than are accepted, also by copies of copies.
    """
    root = parse_tree(data, name)
    refuse_endless_copies(root, name)
    view_box = numbers(root.get("viewBox"))
    stated = _is_stated(root)
    width, height = page_px(root)
    scale = MM_PER_PX if stated or mm_per_unit is None else mm_per_unit
    matrix = np.diag([scale, -scale, 1.0])
    if len(view_box) == 4 and min(view_box[2:]) > 0:
        matrix = matrix @ view_box_map(view_box, width, height, root.get("preserveAspectRatio"))
    reader = Walk(root, name, scale, fine_chord(max(width, height) * scale))
    inner = Measures(*(view_box[2:] if len(view_box) == 4 else (width, height)))
    page, known = (0.0, -height * scale, width * scale, 0.0), _has_page(root, view_box)
    try:
        reader.visit_children(root, Around(matrix, reader.style_of_root(), inner))
        if known:
            _crop(reader.painted, page, reader.remarks)
        layers = layers_seen(reader.painted, page, reader.remarks)
    except NebrelError:
        raise
    except Exception as cause:
        raise BadDrawingError(f"{name} cannot be read as SVG: it is damaged; please export it again.") from cause
    if not any(layer.curves for layer in layers):
        also = f" {reader.remarks[0]}" if reader.remarks else ""
        raise BadDrawingError(
            f"{name} holds no shapes that are seen; at least one path, rectangle, circle or line is needed.{also}"
        )
    return drawing_of(layers, name, 1.0, reader.remarks, stated, mm_per_unit is not None, page if known else None)


def _has_page(root: Element, view_box: list[float]) -> bool:
    """Whether a file says what its page is: by a view box, or by both sides of it."""
    if len(view_box) == 4 and min(view_box[2:]) > 0:
        return True
    whole = Measures(0.0, 0.0)
    return all(length(root.get(side), 0.0, whole) > 0 for side in ("width", "height"))


def _is_stated(root: Element) -> bool:
    """Whether a file says how large its page is, in units that can be measured."""
    return is_physical(root.get("width")) or is_physical(root.get("height"))


def page_px(root: Element) -> tuple[float, float]:
    """Width and height of the page of a file. Where they are not stated, a unit of the view box is a px."""
    view_box = numbers(root.get("viewBox"))
    boxed = len(view_box) == 4 and min(view_box[2:]) > 0
    if boxed and not _is_stated(root):
        return view_box[2], view_box[3]
    whole = Measures(*(view_box[2:] if boxed else (300.0, 150.0)))
    wide = length(root.get("width"), whole.width, whole)
    high = length(root.get("height"), whole.height, whole)
    ratio = whole.height / whole.width
    if wide <= 0 and high <= 0:
        return whole.width, whole.height
    return (wide or high / ratio, high or wide * ratio)


def _crop(shapes: list[Painted], page: tuple[float, float, float, float], remarks: list[str]) -> None:
    """Cut off what lies outside of the page."""
    low_x, low_y, high_x, high_y = page
    slack = 1e-6 * (high_x - low_x)
    sheet = polygons_of(shapely.box(*page))
    cut = 0
    for shape in shapes:
        left, foot, right, top = shape.box
        if left >= low_x - slack and foot >= low_y - slack and right <= high_x + slack and top <= high_y + slack:
            continue
        inside = polygons_of(shapely.intersection(shape.region, sheet))
        if inside.area < (1 - 1e-6) * shape.region.area:
            cut += 1
            shape.take(inside)
    if cut:
        many = "One shape reaches" if cut == 1 else f"{cut:,} shapes reach"
        remarks.append(f"{many} beyond the page; what lies outside of it was cut off.")
