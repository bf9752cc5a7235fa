"""DXF, read and written by ezdxf."""

import io
from collections.abc import Iterable
from typing import Any

import ezdxf.path
import numpy as np
from ezdxf import recover, units
from ezdxf.disassemble import recursive_decompose
from ezdxf.document import Drawing as Document
from ezdxf.entities.polyline import Polyline
from ezdxf.enums import InsertUnits
from ezdxf.math import Bezier4P, BSpline, Vec3, bezier_to_bspline

from nebrel.core.errors import BadDrawingError, TooLargeError
from nebrel.core.region.curves import Curve, Figure, Layer, flatten, is_straight, layer_region, polygon_curve
from nebrel.core.region.drawing import JOIN_SHARE, Drawing, chain, drawing_of
from nebrel.core.region.rings import rings_of

MOST_CURVES = 200_000
FLAT_CHORD = 0.003
_DRAWN = frozenset(
    ("LINE", "ARC", "CIRCLE", "ELLIPSE", "LWPOLYLINE", "POLYLINE", "SPLINE", "HATCH", "MPOLYGON", "SOLID", "TRACE")
)
_TEXT = frozenset(("TEXT", "MTEXT", "ATTRIB", "ATTDEF", "DIMENSION", "LEADER", "MULTILEADER"))
_SOLID = frozenset(("3DFACE", "MESH", "3DSOLID", "BODY", "REGION", "SURFACE"))


def read_dxf(data: bytes, name: str, mm_per_unit: float | None = None) -> Drawing:
    """The outlines of a DXF file, one layer for each of its own.

    Lines, arcs, circles, ellipses, polylines with bulges, splines, hatches and blocks are read; pieces that meet end to
    end become one outline. Text and bodies are named and left out.

    Args:
        data: the file.
        name: what it is called.
        mm_per_unit: for files that do not say what their unit is.

    Raises:
        BadDrawingError: not DXF, broken, or without any outline.
        TooLargeError: more curves than are accepted.
    """
    try:
        document, _ = recover.read(io.BytesIO(data))
        remarks: list[str] = []
        layers = _layers(document.modelspace(), remarks)
        millimetres = _mm_per_unit(document.header.get("$INSUNITS", 0))
    except TooLargeError:
        raise
    except Exception as cause:
        raise BadDrawingError(f"{name} cannot be read as DXF; please export it again, as R2010 or later.") from cause
    if not any(layer.curves for layer in layers):
        also = f" {remarks[0]}" if remarks else ""
        raise BadDrawingError(
            f"{name} holds no outlines in its plane; lines, arcs, polylines or splines are needed.{also}"
        )
    size_given = millimetres is not None
    scale = millimetres or mm_per_unit or 1.0
    return drawing_of(layers, name, scale, size_given or mm_per_unit is not None, remarks)


def _mm_per_unit(code: object) -> float | None:
    """What a drawing unit is, or None for a file that does not say, or says nothing that is known."""
    try:
        unit = InsertUnits(int(str(code)))
    except ValueError:
        return None
    return None if unit == InsertUnits.Unitless else float(units.conversion_factor(unit, InsertUnits.Millimeters))


def _layers(space: Iterable[Any], remarks: list[str]) -> list[Layer]:
    found: dict[str, list[Curve]] = {}
    for part, entity in enumerate(recursive_decompose(space)):
        kind = entity.dxftype()
        if kind in _TEXT:
            remarks.append("Text was left out; turn it into outlines in the program that it comes from.")
        elif kind in _SOLID or (isinstance(entity, Polyline) and (entity.is_poly_face_mesh or entity.is_polygon_mesh)):
            remarks.append("Bodies in space were left out; only outlines in the drawing's plane are read.")
        elif kind in _DRAWN:
            curves = found.setdefault(str(entity.dxf.layer), [])
            for path in _paths(entity, kind):
                curves += [curve for sub in path.sub_paths() if (curve := _curve(sub, part)) is not None]
            if sum(map(len, found.values())) > MOST_CURVES:
                raise TooLargeError(f"The drawing holds more than {MOST_CURVES:,} curves, which is the most accepted.")
    layers = []
    for layer, curves in found.items():
        if not curves:
            continue
        every = np.vstack([curve.nodes for curve in curves])
        reach = JOIN_SHARE * float(np.ptp(every, axis=0).max())
        joined = chain(curves, reach)
        # Outlines of a drawing lie in each other to make holes, whatever entities they were.
        layers.append(Layer(layer, tuple(Curve(curve.knots, curve.closed, None, 0) for curve in joined)))
    return layers


def _paths(entity: Any, kind: str) -> list[Any]:
    if kind in ("HATCH", "MPOLYGON"):
        return list(ezdxf.path.from_hatch(entity))
    return [ezdxf.path.make_path(entity)]


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
    """The figure as DXF R2010 in millimetres: closed LWPOLYLINEs no further than 3 µm off, or SPLINEs.

    Strokes are written as the outlines of what they draw; open edges stay open.
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
                space.add_lwpolyline(flatten(curve, FLAT_CHORD), close=curve.closed, dxfattribs={"layer": name})
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
