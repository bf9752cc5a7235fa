"""Outlines as the page draws them."""

from typing import Literal

import shapely

from nebrel.api.messages.outlines import CurveView, FlawView, LayerView, OutlinesView
from nebrel.api.views.look import Look
from nebrel.core.outline_files.write import drawing_bytes
from nebrel.core.region.curves import Curve, bounds_of, flatten, layer_region
from nebrel.core.region.flaws import find_flaws
from nebrel.core.region.mend import gaps
from nebrel.piece.evaluation.abilities import HasOutlines
from nebrel.piece.parts.naming import file_name

MOST_NODES = 400
GAP_SHARE = 0.05
TINY_LINES = 1.5


def outlines_of(look: Look) -> OutlinesView:
    """Curves with their nodes, layers and faults, in mm of the source."""
    outlined, progress = look.piece.having(HasOutlines), look.progress
    found, line, guess = outlined.outlines(progress), outlined.line_mm, outlined.guessed_ink(progress)
    figure = found.figure
    width, depth = outlined.source_mm
    curves: list[CurveView] = []
    layers: list[LayerView] = []
    for number, layer in enumerate(figure.layers):
        layers.append(
            LayerView(name=layer.name, tone=layer.tone, ground=layer.ground, area_mm2=layer_region(layer, 0.02).area)
        )
        curves += [_curve_view(len(curves) + at, number, curve) for at, curve in enumerate(layer.curves)]
    return OutlinesView(
        width_mm=width,
        depth_mm=depth,
        box=bounds_of(figure.drawn),
        nodes=sum(len(curve.knots) for curve in figure.curves),
        max_deviation_mm=found.max_deviation,
        rms_deviation_mm=found.rms_deviation,
        layers=layers,
        curves=curves,
        flaws=[
            FlawView(kind=flaw.kind, curve=flaw.curve, where=flaw.where, size=flaw.size)
            for flaw in find_flaws(figure, (TINY_LINES * line) ** 2)
        ],
        ink=None if guess is None else guess.ink,
        ink_sure=None if guess is None else guess.sure,
        gaps=[((one[0], one[1]), (other[0], other[1])) for one, other in gaps(figure, GAP_SHARE * width)],
    )


def outlines_file(look: Look, form: Literal["svg", "dxf"], splines: bool) -> tuple[str, bytes]:
    """Name and bytes of a file of the mended outlines, in mm at true size."""
    data = drawing_bytes(look.piece.having(HasOutlines).outlines().figure, form, splines)
    return file_name(look.piece.document.title, look.piece.evaluator.size_mm[:2], form), data


def _curve_view(number: int, layer: int, curve: Curve) -> CurveView:
    points = flatten(curve, 0.02)
    area = shapely.Polygon(points).area if curve.closed and len(points) > 2 else 0.0
    nodes = curve.nodes if len(curve.knots) <= MOST_NODES else curve.nodes[:1]
    return CurveView(
        number=number,
        layer=layer,
        path=_path(curve),
        nodes=[(float(x), float(y)) for x, y in nodes],
        closed=curve.closed,
        width_mm=curve.width,
        area_mm2=float(area),
    )


def _path(curve: Curve) -> str:
    sides = curve.sides.tolist()
    x, y = curve.nodes[0].tolist()
    words = [f"M{x:.4f} {y:.4f}"]
    for start, ahead, behind, end in sides:
        if start == ahead and behind == end:
            words.append(f"L{end[0]:.4f} {end[1]:.4f}")
        else:
            words.append(f"C{ahead[0]:.4f} {ahead[1]:.4f} {behind[0]:.4f} {behind[1]:.4f} {end[0]:.4f} {end[1]:.4f}")
    return "".join(words) + ("Z" if curve.closed else "")
