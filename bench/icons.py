"""Icons that nobody here drew, traced at several sizes, beside other tracers where those are installed.

The icons are those of the package that the pages take theirs from. Every one is drawn by resvg several times larger
than asked and averaged, so that each pixel shows how much of it is covered; what is traced is held against the drawing
itself. `pip install vtracer potracer` brings the other tracers; they are measured on the same pictures.
"""

import io
import random
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cached_property
from pathlib import Path

import numpy as np
import resvg_py
import shapely
from PIL import Image
from shapely.affinity import affine_transform
from shapely.geometry import MultiPolygon

from bench.report import Row
from nebrel.core.errors import NebrelError
from nebrel.core.outline_files.read import read_drawing
from nebrel.core.picture import read_picture
from nebrel.core.region.curves import Figure, figure_region
from nebrel.core.region.grid import polygons_of
from nebrel.piece.kinds.outline.tracing import Trace, trace_picture
from nebrel.settings import Settings

ICONS = Path(__file__).parent.parent / "web" / "node_modules" / "bootstrap-icons" / "icons"
SIZES, EACH, SEED = (64, 128, 256, 512, 1024), 60, 21
LARGEST_DRAWN = 2048
# Of a tracer written in Python larger pictures take minutes each.
SLOW_PX = 128
AREA_WITHIN, STEP_PX = 0.01, 0.5
UNSEEN_PX2, UNSEEN_PX = 0.05, 0.05
PX_PER_MM = 10.0


@dataclass(frozen=True)
class _Icon:
    pixels: int
    png: bytes
    truth: MultiPolygon

    @cached_property
    def topologies(self) -> set[tuple[int, int]]:
        """As drawn; and with cracks closed, or what hangs together by a hair parted, where no pixel could show it."""
        return {_topology(polygons_of(self.truth.buffer(by))) for by in (0.0, UNSEEN_PX, -UNSEEN_PX)}


@dataclass
class _Found:
    """What a tracer made of all icons; deviations in pixels."""

    right: dict[int, list[bool]] = field(default_factory=dict)
    deviations: dict[int, list[float]] = field(default_factory=dict)
    seconds: float = 0.0
    nodes: int = 0


def icons() -> list[Row]:
    """How many are right, how far outlines are off, and how long that takes."""
    if not ICONS.is_dir():
        return []
    drawn = _drawn()
    own = _measured(drawn, _nebrel)
    rows = []
    for pixels in SIZES:
        right, away = own.right[pixels], own.deviations[pixels]
        measured = (
            f"{np.mean(right):.1%} right, RMS {np.median(away):.3f} px (nine of ten ≤ {np.quantile(away, 0.9):.3f})"
        )
        rows.append(Row(f"{len(right)} icons of {pixels} px", measured, "", None))
    every = [good for each in own.right.values() for good in each]
    what = f"All {len(every)}: topology as drawn, area within {AREA_WITHIN:.0%}"
    rows.append(Row(what, f"{np.mean(every):.1%}", "≥ 99 %", bool(np.mean(every) >= 0.99)))
    off = float(np.median(own.deviations[512])) / PX_PER_MM
    rows.append(Row("RMS of the median icon of 512 px, at 10 px/mm", f"{off:.4f} mm", "≤ 0.01 mm", off <= 0.01))
    return rows + _beside_others(drawn, own)


def _beside_others(drawn: list[_Icon], own: _Found) -> list[Row]:
    rows = []
    for name, tracer, most in (("vtracer", _vtracer, SIZES[-1]), ("potracer", _potracer, SLOW_PX)):
        try:
            alike = [icon for icon in drawn if icon.pixels <= most]
            other = _measured(alike, tracer)
        except ImportError:
            continue
        if most < SIZES[-1]:
            own = _measured(alike, _nebrel)
        ratio, off = own.seconds / other.seconds, _rms(own) / _rms(other)
        right = float(np.mean([good for each in other.right.values() for good in each]))
        measured = f"{ratio:.2f} × its processor time, {off:.2f} × its RMS ({_rms(own):.3f} px, {_rms(other):.3f} px)"
        measured += f", {right:.0%} right there"
        measured += f", {own.nodes:,} nodes, {other.nodes:,} there" if other.nodes else ""
        bounded = most == SIZES[-1]
        holds = bool(ratio <= 2 and off <= 0.25) if bounded else None
        what = f"Beside {name}, the same {len(alike)} pictures up to {most} px"
        rows.append(Row(what, measured, "≤ 2 ×, ≤ 0.25 ×" if bounded else "", holds))
    return rows


def _rms(found: _Found) -> float:
    """The median of all icons: those that one of the tracers takes for something else say nothing about its edges."""
    return float(np.median([each for all_of in found.deviations.values() for each in all_of]))


def _measured(drawn: list[_Icon], tracer: Callable[[_Icon], tuple[MultiPolygon, int, float]]) -> _Found:
    found = _Found()
    tracer(drawn[0])
    for icon in drawn:
        region, nodes, seconds = tracer(icon)
        good = _topology(region) in icon.topologies and abs(region.area / icon.truth.area - 1) <= AREA_WITHIN
        found.right.setdefault(icon.pixels, []).append(good)
        found.deviations.setdefault(icon.pixels, []).append(_deviation(region, icon.truth))
        found.seconds += seconds
        found.nodes += nodes
    return found


def _nebrel(icon: _Icon) -> tuple[MultiPolygon, int, float]:
    started = time.process_time()
    picture = read_picture(icon.png, "icon.png", Settings().read_limits)
    traced = trace_picture(picture, Trace(smallest_part_mm2=0, smallest_hole_mm2=0), float(icon.pixels))
    seconds = time.process_time() - started
    figure = Figure(traced.layers)
    return figure_region(figure, 0.01), sum(len(curve.knots) for curve in figure.curves), seconds


def _vtracer(icon: _Icon) -> tuple[MultiPolygon, int, float]:
    import vtracer

    started = time.process_time()
    svg = vtracer.convert_raw_image_to_svg(icon.png, img_format="png", colormode="binary")
    seconds = time.process_time() - started
    try:
        drawing = read_drawing(svg.encode(), "icon.svg")
    except NebrelError:
        return MultiPolygon(), 0, seconds
    return _in_pixels(figure_region(drawing.figure), drawing.page, icon), _nodes(svg), seconds


def _potracer(icon: _Icon) -> tuple[MultiPolygon, int, float]:
    import potrace

    tones = np.asarray(Image.open(io.BytesIO(icon.png)).convert("L"))
    started = time.process_time()
    curves = potrace.Bitmap(tones >= 128).trace()
    seconds = time.process_time() - started
    region, nodes = MultiPolygon(), 0
    for curve in curves:
        places = [np.array([[curve.start_point.x, curve.start_point.y]])]
        for segment in curve.segments:
            start, end = places[-1][-1], np.array([segment.end_point.x, segment.end_point.y])
            nodes += 1
            if segment.is_corner:
                places.append(np.array([[segment.c.x, segment.c.y], end]))
                continue
            one, two = np.array([segment.c1.x, segment.c1.y]), np.array([segment.c2.x, segment.c2.y])
            t = np.linspace(0, 1, 33)[1:, None]
            places.append((1 - t) ** 3 * start + 3 * t * (1 - t) ** 2 * one + 3 * t * t * (1 - t) * two + t**3 * end)
        ring = shapely.make_valid(shapely.Polygon(np.vstack(places)))
        region = polygons_of(region.symmetric_difference(ring))
    return polygons_of(affine_transform(region, [1, 0, 0, -1, 0, len(tones)])), nodes, seconds


def _nodes(svg: str) -> int:
    return sum(svg.count(letter) for letter in "CL")


def _drawn() -> list[_Icon]:
    files = random.Random(SEED).sample(sorted(ICONS.glob("*.svg")), EACH * len(SIZES))
    found = []
    for number, path in enumerate(files):
        data, pixels = path.read_bytes(), SIZES[number % len(SIZES)]
        drawing = read_drawing(data, path.name)
        finer = min(8, LARGEST_DRAWN // pixels)
        large = resvg_py.svg_to_bytes(
            svg_string=data.decode().replace("currentColor", "#000"), width=pixels * finer, background="#ffffff", dpi=96
        )
        picture = Image.open(io.BytesIO(bytes(large))).convert("L")
        held = io.BytesIO()
        picture.resize((pixels, picture.height // finer), Image.Resampling.BOX).save(held, "PNG")
        icon = _Icon(pixels, held.getvalue(), MultiPolygon())
        found.append(_Icon(pixels, icon.png, _in_pixels(figure_region(drawing.figure), drawing.page, icon)))
    return found


def _in_pixels(region: MultiPolygon, page: tuple[float, float, float, float] | None, icon: _Icon) -> MultiPolygon:
    assert page is not None
    scale = icon.pixels / (page[2] - page[0])
    return polygons_of(affine_transform(region, [scale, 0, 0, scale, -page[0] * scale, -page[1] * scale]))


def _topology(region: MultiPolygon) -> tuple[int, int]:
    """Parts and holes, but for those that no pixel could show."""
    holes = [hole for part in region.geoms for hole in part.interiors if shapely.Polygon(hole).area > UNSEEN_PX2]
    return sum(part.area > UNSEEN_PX2 for part in region.geoms), len(holes)


def _deviation(one: MultiPolygon, other: MultiPolygon) -> float:
    """RMS between the edges of both, looked at from each side, in pixels."""
    if one.is_empty:
        return float(other.length)
    edges = [each.boundary for each in (one, other)]
    places = [shapely.points(shapely.get_coordinates(shapely.segmentize(edge, STEP_PX))) for edge in edges]
    for edge in edges:
        shapely.prepare(edge)
    away = np.concatenate([shapely.distance(edges[1], places[0]), shapely.distance(edges[0], places[1])])
    return float(np.sqrt((away**2).mean()))
