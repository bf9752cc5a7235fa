"""Tracing a large line drawing, and how true traced shapes are."""

import time

import cv2
import numpy as np
import shapely

from bench.report import Row
from nebrel.core.region.curves import flatten
from nebrel.core.region.trace import Smoothing, trace_level

SIDE_PX, STROKES, STROKE_PX = 2000, 60, 6
TURNS = 4
PX_PER_MM, FINER, SHAPE_PX = 10, 8, 301


def tracing() -> list[Row]:
    """Four megapixels of drawn curves, best of four."""
    drawing = _drawing()
    best = np.inf
    for _ in range(TURNS):
        started = time.perf_counter()
        traced = trace_level(drawing, 0.5, 0.05, Smoothing())
        best = min(best, time.perf_counter() - started)
    curves = traced.layers[0].curves
    nodes = sum(len(curve.knots) for curve in curves)
    what = f"Line drawing of {SIDE_PX}² pixels: {len(curves):,} outlines, {nodes:,} nodes"
    return [Row(what, f"{best:.2f} s", "≤ 1 s", best <= 1)]


def truth() -> list[Row]:
    """A disc, a star and a turned square, drawn smoothly at 10 pixels to the mm, against their true edges."""
    rows = []
    shapes = (("disc", _disc(), 4), ("star", _polygon(10, 13.0, 6.0), 10), ("square", _polygon(4, 12.0, 12.0), 4))
    for name, shape, ideal in shapes:
        (curve,) = trace_level(_drawn(shape), 0.5, 1 / PX_PER_MM, Smoothing()).layers[0].curves
        points = flatten(curve, 0.0005)
        there = shapely.distance(shape.exterior, shapely.points(points))
        back = shapely.distance(shapely.LinearRing(points), shapely.points(shape.exterior.segmentize(0.05).coords))
        away = np.concatenate([there, back])
        rms = float(np.sqrt((away**2).mean()))
        holds = rms <= 0.01 and away.max() <= 0.03 and len(curve.nodes) <= 4 * ideal
        measured = f"RMS {rms:.4f} mm, max {away.max():.4f} mm, {len(curve.nodes)} nodes"
        rows.append(Row(f"Traced {name}", measured, f"RMS 0.01, max 0.03 mm, {4 * ideal} nodes", holds))
    return rows


def _drawing() -> np.ndarray:
    rng = np.random.default_rng(1)
    sheet = np.zeros((SIDE_PX, SIDE_PX), np.uint8)
    t = np.linspace(0, 1, 200)[:, np.newaxis]
    for _ in range(STROKES):
        a, b, c, d = rng.uniform(100, SIDE_PX - 100, (4, 2))
        line = (1 - t) ** 3 * a + 3 * t * (1 - t) ** 2 * b + 3 * t * t * (1 - t) * c + t**3 * d
        cv2.polylines(sheet, [(line * 16).astype(np.int32)], False, 255, STROKE_PX, cv2.LINE_AA, 4)
    return sheet.astype(np.float32) / 255


def _disc() -> shapely.Polygon:
    return shapely.Point(15, 15).buffer(12, quad_segs=500)


def _polygon(count: int, outer: float, inner: float) -> shapely.Polygon:
    angles = np.arange(count) * 2 * np.pi / count + 0.3
    radii = np.where(np.arange(count) % 2 == 0, outer, inner)
    return shapely.Polygon(np.column_stack([15 + radii * np.cos(angles), 15 + radii * np.sin(angles)]))


def _drawn(shape: shapely.Polygon) -> np.ndarray:
    places = (np.arange(SHAPE_PX * FINER) + 0.5) / FINER
    x, y = np.meshgrid(places / PX_PER_MM, (SHAPE_PX - places) / PX_PER_MM)
    inside = shapely.contains_xy(shape, x.ravel(), y.ravel()).reshape(SHAPE_PX, FINER, SHAPE_PX, FINER)
    return inside.mean(axis=(1, 3)).astype(np.float32)
