"""Outlines as the page draws them."""

import numpy as np
import shapely

from nebrel.api.messages import CurveView, FlawView, LayerView, OutlinesView, PlanHead
from nebrel.api.serving.frames import pack_frame
from nebrel.api.views.pieces import above_frame
from nebrel.core.proof.from_above import heights_from_above
from nebrel.core.region.curves import Curve, Figure, bounds_of, flattened, layer_region
from nebrel.core.region.flaws import find_flaws
from nebrel.core.region.mend import gaps
from nebrel.piece.document import OutlineDocument
from nebrel.piece.evaluation.evaluator import Progress
from nebrel.piece.kinds.outline.document import Cutter
from nebrel.piece.kinds.outline.evaluator import OutlineEvaluator

MOST_NODES = 400
GAP_SHARE = 0.05
TINY_LINES = 1.5
BLANK_PX = 64


def outlines_of(evaluator: OutlineEvaluator, document: OutlineDocument, progress: Progress) -> OutlinesView:
    """Curves with their nodes, layers and faults, in mm of the source."""
    found = evaluator.outlines(document, progress)
    figure, width = found.figure, document.width_mm
    line = document.solid.line_mm if isinstance(document.solid, Cutter) else document.maker.line_width_mm
    curves: list[CurveView] = []
    layers: list[LayerView] = []
    for number, layer in enumerate(figure.layers):
        layers.append(
            LayerView(name=layer.name, tone=layer.tone, ground=layer.ground, area_mm2=layer_region(layer, 0.02).area)
        )
        curves += [_curve_view(len(curves) + at, number, curve) for at, curve in enumerate(layer.curves)]
    return OutlinesView(
        width_mm=width,
        depth_mm=evaluator.depth_mm(document),
        box=bounds_of(Figure(tuple(layer for layer in figure.layers if not layer.ground) or figure.layers)),
        nodes=sum(len(curve.knots) for curve in figure.curves),
        max_deviation_mm=found.max_deviation,
        rms_deviation_mm=found.rms_deviation,
        layers=layers,
        curves=curves,
        flaws=[
            FlawView(kind=flaw.kind, curve=flaw.curve, where=flaw.where, size=flaw.size)
            for flaw in find_flaws(figure, (TINY_LINES * line) ** 2)
        ],
        gaps=[((one[0], one[1]), (other[0], other[1])) for one, other in gaps(figure, GAP_SHARE * width)],
    )


def _curve_view(number: int, layer: int, curve: Curve) -> CurveView:
    points = flattened(curve, 0.02)
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


def solid_plan_frame(evaluator: OutlineEvaluator, document: OutlineDocument, longest_px: int) -> bytes:
    """The solid from above, as the plan of a piece."""
    width, depth, _ = evaluator.size(document)
    return above_frame(heights_from_above(evaluator.mesh(document, longest_px), longest_px), width, depth)


def sheet_plan_frame(evaluator: OutlineEvaluator, document: OutlineDocument) -> bytes:
    """An empty sheet as large as a drawing, to draw its outlines on."""
    width, depth = document.width_mm, evaluator.depth_mm(document)
    columns = max(2, round(BLANK_PX * min(1.0, width / depth)))
    rows = max(2, round(BLANK_PX * min(1.0, depth / width)))
    head = PlanHead(
        size_mm=(width, depth, 1.0),
        pitch_mm=width / (columns - 1),
        backing_mm=0.0,
        relief_mm=1.0,
        full_px=(columns, rows),
        from_source=np.eye(3).tolist(),
    )
    sheet = np.full((rows, columns), 65_535, dtype=np.uint16)
    return pack_frame(head.model_dump(mode="json"), {"tones": sheet, "heights": np.zeros(sheet.shape, np.float32)})
