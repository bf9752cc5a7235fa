"""How true the walls of reliefs are to the curves that their pictures were drawn from."""

import io
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from bench.heights import as_png, fractal
from bench.report import Row
from bench.timing import best_of
from nebrel.core.height import HeightField, straight_heights, with_lines
from nebrel.core.heightfield.slab import build_slab
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.formats.stl import write_stl
from nebrel.core.picture import read_picture
from nebrel.core.proof import check_soundness
from nebrel.core.region.lettering import lettering_runs
from nebrel.core.region.typefaces import folder_of

TOLERANCE_MM, BACKING_MM, RELIEF_MM = 0.02, 1.2, 3.0
SIDE_MM = 24.0
SHARES = (0.1, 0.5, 0.9)
FINER = 8
LOOKED_PX = 0.25
LETTERS = "Farn\nSeg 7"


@dataclass(frozen=True)
class Drawn:
    """A shape, and how high it stands within its outline.

    Attributes:
        outline: mm, the lower left corner of a square of `SIDE_MM` at the origin.
        height: of the places in it, mm, by X and Y; 0 outside.
        low: of its wall at its lowest, mm.
    """

    outline: shapely.Geometry
    height: Callable[[NDArray[np.float64], NDArray[np.float64]], NDArray[np.float64]]
    low: float = RELIEF_MM


def level(x: NDArray[np.float64], _: NDArray[np.float64]) -> NDArray[np.float64]:
    """As high everywhere."""
    return np.full_like(x, RELIEF_MM)


def dome(x: NDArray[np.float64], y: NDArray[np.float64]) -> NDArray[np.float64]:
    """A cap over a wall of half the height."""
    away = np.hypot(x - SIDE_MM / 2 - 0.07, y - SIDE_MM / 2 + 0.05) / 9.3
    return RELIEF_MM * (0.5 + 0.5 * (1 - np.minimum(away, 1) ** 2))


def star() -> shapely.Polygon:
    """With five tips."""
    turn = np.arange(10) * np.pi / 5 + 0.3
    reach = np.where(np.arange(10) % 2 == 0, 10.6, 5.1)
    return shapely.Polygon(
        np.column_stack([SIDE_MM / 2 + 0.07 + reach * np.cos(turn), SIDE_MM / 2 - 0.05 + reach * np.sin(turn)])
    )


def letters() -> shapely.Geometry:
    """Two lines of them."""
    font = folder_of("font_source_sans_pro") / "SourceSansPro-Semibold.ttf"
    runs = lettering_runs(LETTERS, font, 7.0)
    whole = shapely.Polygon()
    for run in runs:
        whole = whole.symmetric_difference(shapely.Polygon(run + SIDE_MM / 2).buffer(0))
    return whole


def shapes() -> dict[str, Drawn]:
    """What is drawn, by name."""
    round_ = shapely.Point(SIDE_MM / 2 + 0.07, SIDE_MM / 2 - 0.05).buffer(9.3, quad_segs=720)
    return {
        "disc": Drawn(round_, level),
        "star": Drawn(star(), level),
        "lettering": Drawn(letters(), level),
        "dome": Drawn(round_, dome, RELIEF_MM / 2),
    }


def drawn(shape: Drawn, px_per_mm: float, soft: bool) -> HeightField:
    """The shape as heights at so many samples a millimetre; its edges soft, by what it covers of pixels, or hard."""
    side, pitch = round(SIDE_MM * px_per_mm) + 1, 1 / px_per_mm
    finer = FINER if soft else 1
    within = ((np.arange(side * finer) + 0.5) / finer - 0.5) * pitch
    x, y = np.meshgrid(within, within[::-1])
    shapely.prepare(shape.outline)
    heights = np.where(shapely.contains_xy(shape.outline, x, y), shape.height(x, y), 0.0)
    heights = heights.reshape(side, finer, side, finer).mean(axis=(1, 3)).astype(np.float32)
    # As a picture of 8 bits has them.
    heights = (np.round(heights / RELIEF_MM * 255) / 255 * RELIEF_MM).astype(np.float32)
    return HeightField(heights, np.ones_like(heights), pitch)


def wall_at(mesh: TriMesh, z: float) -> shapely.MultiLineString:
    """Where a solid is cut at a height, without its outer walls."""
    corners = mesh.vertices[mesh.faces.astype(np.int64)]
    above = corners[:, :, 2] > z
    cut = corners[above.any(axis=1) & ~above.all(axis=1)]
    above = cut[:, :, 2] > z
    alone = np.where(above.sum(axis=1) == 1, above.argmax(axis=1), (~above).argmax(axis=1))
    each = np.arange(len(cut))
    ends = []
    for step in (1, 2):
        one, two = cut[each, alone], cut[each, (alone + step) % 3]
        share = ((z - one[:, 2]) / (two[:, 2] - one[:, 2]))[:, np.newaxis]
        ends.append((one + share * (two - one))[:, :2])
    segments = np.round(np.stack(ends, axis=1), 6)
    segments = segments[(segments[:, 0] != segments[:, 1]).any(axis=1)]
    middle = segments.mean(axis=1)
    inner = ((middle > 1e-3) & (middle < SIDE_MM - 1e-3)).all(axis=1)
    return shapely.MultiLineString(list(segments[inner]))


def off_curve(mesh: TriMesh, shape: Drawn, pitch: float) -> tuple[float, float]:
    """RMS and largest distance of the wall from the true outline, at three heights, in samples."""
    outline = shape.outline.boundary
    shapely.prepare(outline)
    every = []
    for share in SHARES:
        cut = wall_at(mesh, BACKING_MM + share * shape.low)
        places = shapely.get_coordinates(shapely.segmentize(cut, LOOKED_PX * pitch))
        every.append(shapely.distance(outline, shapely.points(places)) / pitch)
    away = np.concatenate(every)
    return float(np.sqrt(np.mean(away**2))), float(away.max())


def sharpest_turn(mesh: TriMesh) -> float:
    """Of a round wall: the largest angle between two of its facets, over that of a true polygon of as many."""
    cut = shapely.line_merge(wall_at(mesh, BACKING_MM + 0.5 * RELIEF_MM))
    ring = shapely.get_coordinates(cut.simplify(1e-9))[:-1]
    way = np.diff(np.vstack([ring, ring[:2]]), axis=0)
    angle = np.arctan2(way[:, 1], way[:, 0])
    turns = np.abs((np.diff(angle) + np.pi) % (2 * np.pi) - np.pi)
    return float(turns.max() / (2 * np.pi / len(ring)))


def walls() -> list[Row]:
    """Walls of shapes drawn with soft and with hard edges, as curves and as pixels."""
    rows = []
    for px_per_mm in (4, 10, 20):
        for soft in (True, False):
            for name, shape in shapes().items():
                rows.append(_wall(name, shape, px_per_mm, soft))
    return rows


def _wall(name: str, shape: Drawn, px_per_mm: float, soft: bool) -> Row:
    field = drawn(shape, px_per_mm, soft)
    plain = build_slab(field, BACKING_MM, TOLERANCE_MM).mesh
    lined = build_slab(with_lines(field, TOLERANCE_MM), BACKING_MM, TOLERANCE_MM).mesh
    rms, most = off_curve(lined, shape, field.pitch)
    rms_before, most_before = off_curve(plain, shape, field.pitch)
    share = len(lined.faces) / len(plain.faces)
    holds = rms <= 0.1 and most <= 0.5 and share <= 1.1
    told = ""
    if name == "disc":
        turn = sharpest_turn(lined)
        holds, told = holds and turn <= 2, f", sharpest turn {turn:.1f} × a polygon's"
    return Row(
        f"Wall of a {name}, {px_per_mm} px/mm, {'soft' if soft else 'hard'} edge",
        f"RMS {rms:.3f} px, at most {most:.2f} (pixels: {rms_before:.3f}, {most_before:.2f}); "
        f"{len(lined.faces):,} triangles, {share:.2f} × those of pixels{told}",
        "RMS ≤ 0.1 px, most ≤ 0.5, triangles ≤ 1.1 ×",
        holds,
    )


def speed() -> list[Row]:
    """What lines cost, from the heights to the proved file."""
    rows = []
    for name, field in (("lettering", drawn(shapes()["lettering"], 40, True)), ("fractal ground", _fractal())):

        def make(lined: bool, field: HeightField = field) -> None:
            slab = build_slab(with_lines(field, TOLERANCE_MM) if lined else field, BACKING_MM, TOLERANCE_MM)
            check_soundness(slab.mesh)
            write_stl(slab.mesh, io.BytesIO())

        plain, lined = best_of(5, lambda: make(False), lambda: make(True))
        rows.append(
            Row(
                f"Relief of {name}, {field.heights.shape[0]:,}², with its edges as curves, proved and written",
                f"{lined / plain:.2f} × as long as with pixels ({lined:.2f} s against {plain:.2f} s)",
                "≤ 1.5 ×",
                lined <= 1.5 * plain,
            )
        )
    return rows


def _fractal() -> HeightField:
    return straight_heights(read_picture(as_png(fractal(1025))), "bright", RELIEF_MM, 80.0)
