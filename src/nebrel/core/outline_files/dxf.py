"""DXF, read and written by ezdxf."""

import io
from collections.abc import Iterable, Iterator
from dataclasses import replace
from typing import Any

import ezdxf.path
import numpy as np
import shapely
from ezdxf import recover, units
from ezdxf.document import Drawing as Document
from ezdxf.entities.polyline import Polyline
from ezdxf.lldxf.tagger import binary_tags_loader
from ezdxf.math import Bezier4P, BSpline, Vec3, bezier_to_bspline
from ezdxf.protocols import virtual_entities
from numpy.typing import NDArray
from shapely.geometry import MultiPolygon

from nebrel.core.errors import BadDrawingError, TooLargeError
from nebrel.core.outline_files.dxf_units import mm_per_unit as units_of
from nebrel.core.region.curves import Curve, Figure, Layer, flatten, is_straight, layer_region, polygon_curve
from nebrel.core.region.drawing import JOIN_SHARE, Drawing, chain, drawing_of
from nebrel.core.region.grid import polygons_of
from nebrel.core.region.mend import edges_of, gaps
from nebrel.core.region.rings import rings_of
from nebrel.core.region.strokes import Stroke, stroked

MOST_CURVES, MOST_ENTITIES = 200_000, 200_000
BINARY = b"AutoCAD Binary DXF"
# Corners of wide polylines are sharp; arcs of them are followed within such a share of the width.
MITRE, CHORD_SHARE = 8.0, 1e-3
# How many places between two nodes tell how a curve bulges, and what is a straight line still.
BETWEEN, STRAIGHT_BULGE = 8, 1e-9
FLAT_CHORD = 0.003
_DRAWN = frozenset(
    (
        "LINE",
        "ARC",
        "CIRCLE",
        "ELLIPSE",
        "LWPOLYLINE",
        "POLYLINE",
        "SPLINE",
        "HATCH",
        "MPOLYGON",
        "SOLID",
        "TRACE",
        "HELIX",
    )
)
# What is told of what is left out, by kind of entity.
_LEFT_OUT = {
    "Text was left out; turn it into outlines in the program that it comes from.": (
        "TEXT", "MTEXT", "ATTRIB", "ATTDEF", "ARCALIGNEDTEXT",
    ),
    "Dimensions and leaders were left out.": (
        "DIMENSION", "ARC_DIMENSION", "LARGE_RADIAL_DIMENSION", "LEADER", "MULTILEADER", "MLEADER", "TOLERANCE",
    ),
    "Construction lines and points were left out.": ("XLINE", "RAY", "POINT"),
    "Bodies in space were left out; only outlines in the drawing's plane are read.": (
        "3DFACE", "MESH", "3DSOLID", "BODY", "REGION", "SURFACE", "EXTRUDEDSURFACE", "LOFTEDSURFACE", "PLANESURFACE",
        "REVOLVEDSURFACE", "SWEPTSURFACE",
    ),
    "Pictures inside the drawing were left out.": ("IMAGE", "WIPEOUT", "OLE2FRAME", "UNDERLAY", "PDFUNDERLAY"),
}  # fmt: skip
_REMARK_OF = {kind: remark for remark, kinds in _LEFT_OUT.items() for kind in kinds}
LEFT_OUT_KINDS = frozenset(_REMARK_OF)
_BODIES = _REMARK_OF["3DFACE"]


def read_dxf(data: bytes, name: str, mm_per_unit: float | None = None, join: float = 0.0) -> Drawing:
    """The outlines of a DXF file, one layer for each of its own.

    Lines, arcs, circles, ellipses, polylines with bulges and widths, splines, hatches and blocks are read; pieces that
    meet end to end become one outline. What is not seen (layers that are off or frozen, invisible entities, points of
    dimensions), text, dimensions, construction lines and bodies are named and left out.

    Args:
        data: the file, as text or binary.
        name: what it is called.
        mm_per_unit: for files that do not say what their unit is.
        join: mm between ends that are to be joined; 0 joins those alone that meet.

    Raises:
        BadDrawingError: not DXF, broken, or without any outline.
        TooLargeError: more curves than are accepted, or blocks that come to more.
    """
    try:
        document = open_dxf(data)
        _refuse_many(document, name)
        remarks: list[str] = []
        millimetres = units_of(document.header.get("$INSUNITS", 0))
        scale = millimetres or mm_per_unit or 1.0
        layers = _layers(document, remarks, join / scale)
    except (TooLargeError, BadDrawingError):
        raise
    except Exception as cause:
        raise BadDrawingError(f"{name} cannot be read as DXF; please export it again, as R2010 or later.") from cause
    if not any(layer.curves for layer in layers):
        also = f" {remarks[0]}" if remarks else ""
        raise BadDrawingError(
            f"{name} holds no outlines in its plane; lines, arcs, polylines or splines are needed.{also}"
        )
    return drawing_of(layers, name, scale, remarks, millimetres is not None, mm_per_unit is not None)


def open_dxf(data: bytes) -> Document:
    """The document of a DXF file, text or binary."""
    if data.startswith(BINARY):
        return Document.load(binary_tags_loader(data))
    return recover.read(io.BytesIO(data))[0]


def _refuse_many(document: Document, name: str) -> None:
    """Refuse blocks in blocks that come to more entities than are accepted, before any is taken apart."""
    counts: dict[str, int] = {}

    def count(entities: Iterable[Any], within: tuple[str, ...]) -> int:
        total = 0
        for entity in entities:
            if entity.dxftype() != "INSERT":
                total += 1
                continue
            block = str(entity.dxf.name)
            if block in within:
                raise BadDrawingError(f"{name} puts the block “{block}” into itself, so it has no end; please mend it.")
            if block not in counts:
                found = document.blocks.get(block)
                counts[block] = 0 if found is None else count(found, (*within, block))
            total += max(1, entity.mcount) * counts[block]
            if total > MOST_ENTITIES:
                raise TooLargeError(
                    f"{name} comes to more than {MOST_ENTITIES:,} entities by blocks in blocks; fewer are accepted."
                )
        return total

    count(document.modelspace(), ())


def _seen(document: Document, entities: Iterable[Any], remarks: list[str], layer: str | None = None) -> Iterator[Any]:
    """Entities that are seen, blocks taken apart, each with the layer that it is on."""
    for entity in entities:
        own = str(entity.dxf.get("layer", "0"))
        on = layer if own == "0" and layer is not None else own
        if bool(entity.dxf.get("invisible", 0)):
            remarks.append("Invisible parts were left out.")
        elif not _is_shown(document, on):
            remarks.append(f"The layer “{on}” is off or not printed, so it was left out.")
        elif entity.dxftype() != "INSERT":
            yield on, entity
        elif entity.mcount > 1:
            for each in entity.multi_insert():
                yield from _seen(document, virtual_entities(each), remarks, on)
        else:
            yield from _seen(document, [*entity.attribs, *virtual_entities(entity)], remarks, on)


def _is_shown(document: Document, layer: str) -> bool:
    if layer.lower() == "defpoints":
        return False
    if layer not in document.layers:
        return True
    found = document.layers.get(layer)
    return not (found.is_off() or found.is_frozen()) and bool(found.dxf.get("plot", 1))


def _layers(document: Document, remarks: list[str], join: float) -> list[Layer]:
    found: dict[str, list[Curve]] = {}
    for part, (layer, entity) in enumerate(_seen(document, document.modelspace(), remarks), start=1):
        kind = entity.dxftype()
        if kind in _REMARK_OF:
            remarks.append(_REMARK_OF[kind])
        elif isinstance(entity, Polyline) and (entity.is_poly_face_mesh or entity.is_polygon_mesh):
            remarks.append(_BODIES)
        elif kind in _DRAWN:
            found.setdefault(layer, []).extend(_drawn(entity, kind, part))
            if sum(map(len, found.values())) > MOST_CURVES:
                raise TooLargeError(f"The drawing holds more than {MOST_CURVES:,} curves, which is the most accepted.")
        elif kind == "MLINE":
            for each in virtual_entities(entity):
                if each.dxftype() in ("LINE", "ARC"):
                    found.setdefault(layer, []).extend(_drawn(each, each.dxftype(), 0))
        else:
            remarks.append(f"Parts of the kind {kind} were left out.")
    return _joined(found, join, remarks)


def _joined(found: dict[str, list[Curve]], join: float, remarks: list[str]) -> list[Layer]:
    """Layers whose open pieces are one where their ends meet, or lie no further than `join` from each other."""
    layers: list[Layer] = []
    closed: list[float] = []
    for layer, curves in found.items():
        if not curves:
            continue
        every = np.vstack([curve.nodes for curve in curves])
        reach = max(join, JOIN_SHARE * float(np.ptp(every, axis=0).max()))
        if join > 0:
            ends = gaps(Figure((Layer(layer, tuple(curves)),)), reach)
            apart = [float(np.hypot(*(one - other))) for one, other in ends]
            closed += [size for size in apart if size > 0]
        layers.append(Layer(layer, tuple(chain(curves, reach))))
    if closed:
        many = "One gap was" if len(closed) == 1 else f"{len(closed):,} gaps were"
        remarks.append(f"{many} closed, up to {max(closed):.3g} units of the drawing wide.")
    return layers


def _drawn(entity: Any, kind: str, part: int) -> list[Curve]:
    """The curves of an entity. Outlines lie in each other to make holes, whatever entities they were, so all are of
    part 0; what is filled, or drawn with a width, is a part of its own."""
    if kind in ("HATCH", "MPOLYGON"):
        paths = list(ezdxf.path.from_hatch(entity))
        return [curve for path in paths for sub in path.sub_paths() if (curve := _curve(sub, part)) is not None]
    if kind in ("SOLID", "TRACE"):
        return [curve for sub in ezdxf.path.make_path(entity).sub_paths() if (curve := _curve(sub, part)) is not None]
    curves = [curve for sub in ezdxf.path.make_path(entity).sub_paths() if (curve := _curve(sub, 0)) is not None]
    widths = _widths(entity, kind)
    if not widths.any():
        return curves
    if (widths == widths[0, 0]).all():
        stroke = Stroke(float(widths[0, 0]), limit=MITRE)
        areas = [stroked(curve, stroke, stroke.width * CHORD_SHARE) for curve in curves]
    else:
        areas = [_tapered(curve, widths) for curve in curves]
    return [replace(edge, part=part) for area in areas for edge in edges_of(area)]


def _widths(entity: Any, kind: str) -> NDArray[np.float64]:
    """How wide a polyline is drawn at both ends of every side, float64 (S, 2) units; 0 where it is only a line."""
    if kind == "LWPOLYLINE":
        constant = float(entity.dxf.get("const_width", 0.0))
        told = np.array([point[2:4] for point in entity.get_points("xyseb")], dtype=np.float64).reshape(-1, 2)
        return np.where(told.any(), told, constant) if len(told) else np.zeros((1, 2))
    if kind == "POLYLINE" and entity.is_2d_polyline:
        usual = [float(entity.dxf.get(f"default_{end}_width", 0.0)) for end in ("start", "end")]
        each = [
            [float(vertex.dxf.get(f"{end}_width", width)) for end, width in zip(("start", "end"), usual, strict=True)]
            for vertex in entity.vertices
        ]
        return np.array(each or [[0.0, 0.0]], dtype=np.float64)
    return np.zeros((1, 2))


def _tapered(curve: Curve, widths: NDArray[np.float64]) -> MultiPolygon:
    """The area of a chain whose sides go from one width to another."""
    parts = []
    for at, side in enumerate(curve.sides):
        start, end = widths[min(at, len(widths) - 1)]
        one = Curve(np.stack([side[[0, 0, 1]], side[[2, 3, 3]]]), False)
        points = flatten(one, max(start, end) * CHORD_SHARE)
        along = np.append(0.0, np.cumsum(np.hypot(*np.diff(points, axis=0).T)))
        half = (start + (end - start) * along / max(along[-1], 1e-300)) / 2
        ways = np.gradient(points, axis=0)
        across = np.column_stack([-ways[:, 1], ways[:, 0]]) / np.maximum(np.hypot(*ways.T), 1e-300)[:, None]
        left, right = points + across * half[:, None], points - across * half[:, None]
        parts.append(shapely.make_valid(shapely.Polygon(np.vstack([left, right[::-1]]))))
    return polygons_of(shapely.union_all(parts))


def _curve(path: Any, part: int) -> Curve | None:
    at = np.array(path.start)[:2]
    sides = []
    for command in path.commands():
        end = np.array(command.end)[:2]
        if command.type == ezdxf.path.Command.CURVE4_TO:
            sides.append((at, np.array(command.ctrl1)[:2], np.array(command.ctrl2)[:2], end))
        elif command.type == ezdxf.path.Command.CURVE3_TO:
            control = np.array(command.ctrl)[:2]
            sides.append((at, at + (control - at) * 2 / 3, end + (control - end) * 2 / 3, end))
        elif np.hypot(*(end - at)) > 0:
            sides.append((at, at, end, end))
        at = end
    if not sides:
        return None
    knots = np.empty((len(sides) + 1, 3, 2))
    knots[0, 0], knots[-1, 2] = sides[0][0], sides[-1][3]
    for number, (start, ahead, behind, end) in enumerate(sides):
        knots[number, 1:] = start, ahead
        knots[number + 1, :2] = behind, end
    if len(sides) > 1 and bool(path.is_closed):
        knots[0, 0] = knots[-1, 0]
        return Curve(knots[:-1], True, None, part)
    return Curve(knots, False, None, part)


def dxf_bytes(figure: Figure, splines: bool = False) -> bytes:
    """The figure as DXF R2010 in millimetres: LWPOLYLINEs or SPLINEs.

    The nodes of polylines lie so close that straight lines between them would be off by up to 3 µm; bulges make arcs of
    them that enclose what the curves do. Strokes are written as the outlines of what they draw; open edges stay open.
    """
    document = _empty()
    space = document.modelspace()
    used: set[str] = set()
    for layer in figure.layers:
        name = _layer_name(layer.name, used)
        document.layers.add(name)
        for curve in _to_curves(layer):
            if splines and not all(is_straight(side) for side in curve.sides):
                space.add_spline(dxfattribs={"layer": name}).apply_construction_tool(_spline(curve))
            else:
                space.add_lwpolyline(_bulged(curve), "xyb", close=curve.closed, dxfattribs={"layer": name})
    text = io.StringIO()
    document.write(text)
    return text.getvalue().encode(document.output_encoding)


def _empty() -> Document:
    document = Document.new("AC1024")
    document.units = units.MM
    return document


def _to_curves(layer: Layer) -> list[Curve]:
    if all(curve.width is None for curve in layer.curves):
        return list(layer.curves)
    edges = [curve for curve in layer.curves if curve.width is None and not curve.closed]
    return [*edges, *(polygon_curve(ring) for ring in rings_of(layer_region(layer, FLAT_CHORD)))]


def _bulged(curve: Curve) -> NDArray[np.float64]:
    """Nodes along a curve, and the bulge of an arc from each to the next that encloses as much as the curve, (K, 3)."""
    nodes, fine = flatten(curve, FLAT_CHORD), flatten(curve, FLAT_CHORD, BETWEEN)
    places = iter(enumerate(fine.tolist()))
    at = np.array([next(number for number, place in places if place == node) for node in nodes.tolist()])
    ends = np.roll(nodes, -1, axis=0) if curve.closed else np.vstack([nodes[1:], nodes[-1:]])
    # Twice the area between every chord and the curve, by triangles over the node where it begins.
    starts = np.repeat(nodes, np.diff(at, append=len(fine)), axis=0)
    beyond = np.roll(fine, -1, axis=0) if curve.closed else np.vstack([fine[1:], fine[-1:]])
    (x, y), (to_x, to_y) = (fine - starts).T, (beyond - starts).T
    between = np.add.reduceat(x * to_y - y * to_x, at)
    squares = ((ends - nodes) ** 2).sum(axis=1)
    # So many straight pieces lack just this share of what a parabola cuts off.
    between /= 1 - 1 / BETWEEN**2
    bulges = np.divide(1.5 * between, squares, out=np.zeros_like(squares), where=squares > 0)
    bulges[np.abs(bulges) < STRAIGHT_BULGE] = 0.0
    return np.column_stack([nodes, bulges])


def _spline(curve: Curve) -> BSpline:
    """The whole chain as one B-spline; straight sides with their handles at thirds."""
    sides = [
        Bezier4P([start, start + (end - start) / 3, start + (end - start) * 2 / 3, end])
        if is_straight(side)
        else Bezier4P([Vec3(place) for place in side.tolist()])
        for side in curve.sides
        for start, end in [(Vec3(side[0].tolist()), Vec3(side[3].tolist()))]
    ]
    return bezier_to_bspline(sides)


def _layer_name(name: str, used: set[str]) -> str:
    plain = "".join(letter if letter.isalnum() or letter in " -_" else "-" for letter in name).strip() or "Outline"
    own, number = plain, 2
    while own in used or own == "0":
        own, number = f"{plain} {number}", number + 1
    used.add(own)
    return own
