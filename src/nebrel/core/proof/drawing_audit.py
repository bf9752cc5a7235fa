"""Whether outlines are what a drawing shows: it is drawn by other programs than the one that read it, and compared."""

import io
from collections.abc import Callable
from dataclasses import dataclass
from xml.etree.ElementTree import Element, tostring

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image
from shapely.affinity import affine_transform

from nebrel.core.outline_files.read import drawing_format
from nebrel.core.outline_files.svg.document import parse_tree
from nebrel.core.outline_files.svg.lengths import numbers
from nebrel.core.outline_files.svg.read import page_px
from nebrel.core.proof.finding import Finding
from nebrel.core.region.curves import Figure, figure_region, flatten
from nebrel.core.region.drawing import Drawing
from nebrel.core.region.raster import raster_of
from nebrel.core.region.typefaces import PACKAGES, folder_of

LONGEST_PX, CSS_DPI = 1200, 96.0
# Pages that are so many times as long as wide are not drawn once more.
MOST_DRAWN_OUT = 100
# How much a pixel must differ from the paper, of 255, and of which differences it is nothing but rounding.
INKED, ROUNDING_PX = 6, 3
TELLING_SHARE, TELLING_LINES = 0.005, 0.03
# How far lines may be apart, px, and beyond how many entities a drawing is not drawn once more.
LINE_APART_PX, RIM_PX, MOST_REDRAWN = 4, 8, 20_000
WHITE, BLACK = np.full(3, 255, dtype=np.int16), np.zeros(3, dtype=np.int16)
_Mask = NDArray[np.bool_]


@dataclass(frozen=True)
class Difference:
    """How a drawing as it is seen differs from outlines.

    Attributes:
        share: of what is seen or made, from 0.
        where: the middle of the largest difference, mm; None where there is none.
        lines: whether lines were compared, and not areas.
    """

    share: float
    where: tuple[float, float] | None
    lines: bool = False


def compare_with_drawing(data: bytes, name: str, drawing: Drawing) -> Difference | None:
    """How far outlines are from what another program draws of the same file; None where none can draw it.

    SVG is drawn by resvg. DXF is drawn by the drawing add-on of ezdxf; there only lines can be compared, since it draws
    no areas inside of them.

    Args:
        data: the file.
        name: what it is called.
        drawing: what was read of it.
    """
    try:
        return _of_svg(data, name, drawing) if drawing_format(name) == "svg" else _of_dxf(data, drawing)
    except Exception:
        # What another program cannot draw says nothing about what was read.
        return None


def difference_finding(found: Difference | None) -> tuple[Finding, ...]:
    """What is to be told of a difference that is more than rounding."""
    if found is None or found.share < (TELLING_LINES if found.lines else TELLING_SHARE):
        return ()
    return (
        Finding(
            "caution",
            f"{found.share:.1%} of what is made differs from the drawing as another program shows it.",
            "Something of the drawing was taken otherwise than it looks; please look at that place before making it.",
            "differs-from-drawing",
            None if found.where is None else (*found.where, 0.0),
            round(found.share, 4),
        ),
    )


def _of_svg(data: bytes, name: str, drawing: Drawing) -> Difference | None:
    import resvg_py

    if drawing.page is None:
        return None
    low_x, low_y, high_x, high_y = drawing.page
    wide, high = high_x - low_x, high_y - low_y
    if max(wide, high) > MOST_DRAWN_OUT * min(wide, high):
        return None
    columns = max(8, round(LONGEST_PX * min(1.0, wide / high)))
    text = _sized(parse_tree(data, name), columns, max(8, round(columns * high / wide)))

    def seen_on(background: str) -> NDArray[np.int16]:
        drawn = resvg_py.svg_to_bytes(
            svg_string=text,
            dpi=CSS_DPI,
            background=background,
            skip_system_fonts=True,
            font_dirs=[str(folder_of(package)) for package in PACKAGES],
        )
        return np.asarray(Image.open(io.BytesIO(bytes(drawn))).convert("RGB"), dtype=np.int16)

    inked = _inked(seen_on)
    made = _made(drawing.figure, drawing.page, inked.shape)
    return _difference(made, inked, drawing.page)


def _inked(seen_on: Callable[[str], NDArray[np.int16]]) -> _Mask:
    """Where a drawing is not its paper. What is white on nothing is seen on black; what fills the page is no paper."""
    on_white = seen_on("#ffffff")
    inked = _differs(on_white, _paper(on_white, WHITE))
    if not inked.any():
        on_black = seen_on("#000000")
        tried = (on_black, _paper(on_black, BLACK)), (on_white, WHITE), (on_black, BLACK)
        inked = next((ink for seen, paper in tried if (ink := _differs(seen, paper)).any()), inked)
    return inked


def _differs(seen: NDArray[np.int16], paper: NDArray[np.int16]) -> _Mask:
    return np.asarray(np.abs(seen - paper).max(axis=2) > INKED)


def _sized(root: Element, columns: int, rows: int) -> str:
    """The same drawing as large as so many pixels; by its own size its page would be rounded up to whole ones."""
    box = numbers(root.get("viewBox"))
    if len(box) != 4 or min(box[2:]) <= 0:
        wide, high = page_px(root)
        root.set("viewBox", f"0 0 {wide} {high}")
    root.set("width", str(columns))
    root.set("height", str(rows))
    return tostring(root, encoding="unicode")


def _paper(seen: NDArray[np.int16], ground: NDArray[np.int16]) -> NDArray[np.int16]:
    """The colour in most of the corners, the ground where they differ."""
    # The outermost pixels may be half on the page.
    corners = [tuple(seen[row, column].tolist()) for row in (2, -3) for column in (2, -3)]
    most = max(set(corners), key=corners.count)
    return np.array(most, dtype=np.int16) if corners.count(most) > 2 else ground


def _made(figure: Figure, page: tuple[float, float, float, float], shape: tuple[int, ...]) -> _Mask:
    """Where outlines enclose the middles of pixels of a picture of the page."""
    low_x, low_y, high_x, _ = page
    pitch = (high_x - low_x) / shape[1]
    region = figure_region(figure, pitch / 10)
    return raster_of(affine_transform(region, [1, 0, 0, 1, -low_x - pitch / 2, -low_y - pitch / 2]), shape[:2], pitch)


def _difference(made: _Mask, seen: _Mask, page: tuple[float, float, float, float]) -> Difference:
    kernel = np.ones((ROUNDING_PX, ROUNDING_PX), np.uint8)
    other = cv2.morphologyEx((made ^ seen).astype(np.uint8), cv2.MORPH_OPEN, kernel)
    whole = int((made | seen).sum())
    if whole == 0 or not other.any():
        return Difference(0.0, None)
    count, _, stats, middles = cv2.connectedComponentsWithStats(other)
    largest = 1 + int(np.argmax(stats[1:count, cv2.CC_STAT_AREA]))
    column, row = middles[largest]
    pitch = (page[2] - page[0]) / made.shape[1]
    place = page[0] + (float(column) + 0.5) * pitch, page[3] - (float(row) + 0.5) * pitch
    return Difference(float(other.sum()) / whole, place)


def _of_dxf(data: bytes, drawing: Drawing) -> Difference | None:
    lines = _lines_of_dxf(data)
    if lines is None or not lines:
        return None
    every = np.vstack(lines)
    low, extent = every.min(axis=0), np.ptp(every, axis=0)
    longest = float(extent.max())
    if longest <= 0:
        return None
    # Both are laid on each other by their boxes; where those differ, so do the lines.
    mm = max(drawing.size) / longest
    pitch = max(drawing.size) / LONGEST_PX
    shape = tuple(int(side * mm / pitch) + 2 * RIM_PX for side in extent[::-1])
    seen = _lines_drawn([(line - low) * mm for line in lines], shape, pitch)
    own = [_closed(flatten(curve, pitch / 10), curve.closed) for curve in drawing.figure.curves]
    made = _lines_drawn(own, shape, pitch)
    missing, added = _far_from(seen, made), _far_from(made, seen)
    away = missing | added
    if not away.any():
        return Difference(0.0, None, True)
    row, column = np.argwhere(away)[0]
    place = (float(column) - RIM_PX) * pitch, (shape[0] - 1 - float(row) - RIM_PX) * pitch
    return Difference(float(away.sum()) / int((seen | made).sum()), place, True)


def _lines_of_dxf(data: bytes) -> list[NDArray[np.float64]] | None:
    """What the drawing add-on of ezdxf draws, as chains in units of the drawing; None where that is too much."""
    from ezdxf.addons.drawing.config import Configuration, HatchPolicy
    from ezdxf.addons.drawing.frontend import Frontend
    from ezdxf.addons.drawing.properties import RenderContext
    from ezdxf.addons.drawing.svg import SVGBackend

    from nebrel.core.outline_files.dxf import LEFT_OUT_KINDS, open_dxf

    document = open_dxf(data)
    if len(document.entitydb) > MOST_REDRAWN:
        return None
    backend = SVGBackend()
    # Hatches as areas, and what is printed alone.
    settings = Configuration(hatch_policy=HatchPolicy.SHOW_SOLID)
    Frontend(RenderContext(document, export_mode=True), backend, config=settings).draw_layout(
        document.modelspace(), filter_func=lambda entity: entity.dxftype() not in LEFT_OUT_KINDS
    )
    player = backend.player()
    extent = player.bbox()
    if not extent.has_data:
        return []
    fine = max(extent.size.x, extent.size.y) / (4 * LONGEST_PX)
    chains = []
    for record, _ in player.recordings():
        paths = getattr(record, "paths", None) or ([record.path] if hasattr(record, "path") else [])
        for path in paths:
            chains += [np.array([(at.x, at.y) for at in sub.flattening(fine)]) for sub in path.to_path().sub_paths()]
        points = getattr(record, "lines", None) or getattr(record, "points", None)
        if points is not None:
            places = np.array([(at.x, at.y) for at in points.vertices()])
            # Lines come as pairs of ends, areas as the chain round them.
            pairs = hasattr(record, "lines")
            chains += list(places.reshape(-1, 2, 2)) if pairs else [np.vstack([places, places[:1]])]
    return [chain for chain in chains if len(chain)]


def _closed(line: NDArray[np.float64], closed: bool) -> NDArray[np.float64]:
    return np.vstack([line, line[:1]]) if closed else line


def _lines_drawn(lines: list[NDArray[np.float64]], shape: tuple[int, ...], pitch: float) -> _Mask:
    """Lines in mm from the lower left corner, as pixels."""
    sheet = np.zeros(shape, np.uint8)
    for line in lines:
        places = np.column_stack([line[:, 0] / pitch + RIM_PX, shape[0] - 1 - RIM_PX - line[:, 1] / pitch])
        cv2.polylines(sheet, [np.round(places).astype(np.int32)], False, 1)
    return sheet.astype(bool)


def _far_from(one: _Mask, other: _Mask) -> _Mask:
    """Pixels of one that lie further from any of the other than lines may be apart."""
    if not other.any():
        return one
    away = cv2.distanceTransform((~other).astype(np.uint8), cv2.DIST_L2, 5)
    return np.asarray(one & (away > LINE_APART_PX))
