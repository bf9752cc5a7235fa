"""Truth and speed of figures in the round."""

import time
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage
from skimage.graph import MCP_Geometric, route_through_array
from training.solids import Seen

from bench.held_out import LONGER_MM, held_out, pictures_of, seen_solid
from bench.known_solids import KnownSolid, known_solids
from bench.report import Row
from nebrel.core.figure.depth import DepthSource, from_outline
from nebrel.core.figure.figure import FigureWish, Hand, ShapedFigure, shape_figure
from nebrel.core.figure.hand import HandStroke
from nebrel.core.figure.learned import LearnedDepth
from nebrel.core.figure.normals import normals_of
from nebrel.core.figure.shading import Shading
from nebrel.core.figure.silhouette import silhouette_of
from nebrel.core.figure.surface import surface_of
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.lattice import lattice_of
from nebrel.core.proof import check_soundness
from nebrel.core.proof.from_front import silhouette_overlap

CELLS, VOXELS = 128, 96
STROKES, COARSE, BRUSH_PX = 4, 0.2, 6.0
_NO_MESH = TriMesh(np.zeros((0, 3)), np.zeros((0, 3), dtype=np.uint32))

_Grid = NDArray[np.float64]


def truth() -> list[Row]:
    """How near figures come to solids that are known, by every source of depth, and what four strokes are worth."""
    rows = []
    for known, solid in known_solids().items():
        name = f"an {known}" if known[0] in "aeiou" else f"a {known}"
        for source, found in _sources(seen_solid(solid), 0).items():
            figure = _figure(solid, (), found)
            rows.append(_told(f"Figure of {name}, {source}", _errors(solid, figure), _overlap(solid, figure)))
        for source, found in (("by its outline", from_outline), ("learned", LearnedDepth(_clean(solid)))):
            figure = _figure(solid, _four_strokes(solid, found), found)
            words = f"Figure of {name}, {source}, four strokes"
            rows.append(_told(words, _errors(solid, figure), _overlap(solid, figure)))
    return rows


def drawn() -> list[Row]:
    """The same over 36 drawn shapes that nothing was trained on; their overlap is that of columns, front to back."""
    found: dict[str, list[tuple[float, float, float]]] = {}
    for number, seen in enumerate(held_out()):
        solid = KnownSolid(_NO_MESH, seen.front * LONGER_MM, seen.back * LONGER_MM, seen.pitch * LONGER_MM)
        for source, depth in _sources(seen, number).items():
            figure = _figure(solid, (), depth)
            found.setdefault(source, []).append((*_errors(solid, figure), _column_overlap(solid, figure)))
    means = {source: np.mean(scores, axis=0) for source, scores in found.items()}
    level = means["by its outline"]
    rows = [_told(f"36 drawn shapes, {source}", scores[:2], scores[2]) for source, scores in means.items()]
    for light in ("clean", "varied"):
        depth, normals, overlap = means[f"learned, {light} light"]
        better = 1 - normals / level[1], 1 - depth / level[0]
        told = f"normals {better[0]:.1%} and depth {better[1]:.1%} better, overlap {overlap:.3f}"
        kept = better[0] >= 0.15 and better[1] >= 0.12 and overlap >= 0.6
        rows.append(Row(f"Learned against the outline, {light} light", told, "≥ 15 %, ≥ 12 %, ≥ 0.60", kept))
    return rows


def _sources(seen: Seen, number: int) -> dict[str, DepthSource]:
    """Every source of depth, over pictures in clean and in varied light."""
    found: dict[str, DepthSource] = {"by its outline": from_outline}
    for light, picture in pictures_of(seen, number).items():
        found[f"learned, {light} light"] = LearnedDepth(picture)
        found[f"light and shade, {light} light"] = Shading(picture, 0.5)
    return found


def _clean(solid: KnownSolid) -> NDArray[np.float32]:
    return pictures_of(seen_solid(solid), 0)["clean"]


def _told(words: str, errors: Sequence[float], overlap: float) -> Row:
    told = f"depth {errors[0]:.3f} of its span, normals {errors[1]:.1f}°, overlap {overlap:.3f}"
    return Row(words, told, "not bound", None)


def _column_overlap(solid: KnownSolid, made: ShapedFigure) -> float:
    """Intersection over union of what is between front and back, at the best shift in depth."""
    sides = [_on_pixels(solid, made, side) for side in (made.form.front, made.form.back)]
    both = np.isfinite(solid.front) & np.isfinite(sides[0])
    front, back = solid.front[both], solid.back[both]
    best = 0.0
    for shift in np.linspace(-0.5, 0.5, 81) * _span(solid):
        own = [side[both] + shift for side in sides]
        shared = np.clip(np.minimum(front, own[0]) - np.maximum(back, own[1]), 0, None).sum()
        best = max(best, float(shared / ((front - back).sum() + (own[0] - own[1]).sum() - shared)))
    return best


def silhouettes() -> list[Row]:
    """What is seen from the front against what was cut out, and whether all solids are sound."""
    least, sound = 1.0, True
    for solid in known_solids().values():
        silhouette = silhouette_of(solid.covered.astype(np.float32), solid.mm_per_px, 256)
        mesh = surface_of(shape_figure(silhouette, FigureWish(thinnest=0)).form)
        corner = silhouette.pixel_place(0, solid.covered.shape[0] - 1)
        least = min(least, silhouette_overlap(mesh, solid.covered, solid.mm_per_px, corner))
        sound = sound and check_soundness(mesh).sound
    return [
        Row("Figures seen from the front", f"{least:.4f} of their outlines at least", "≥ 0.995", least >= 0.995),
        Row("Figures of all known solids", "sound" if sound else "not all sound", "sound", sound),
    ]  # fmt: skip


def speed() -> list[Row]:
    """From a cut-out picture to a solid on a grid."""
    solid = known_solids()["hare"]
    rows = []
    for cells, bound in ((256, 3.0), (512, 20.0)):
        started = time.perf_counter()
        silhouette = silhouette_of(solid.covered.astype(np.float32), solid.mm_per_px, cells)
        mesh = surface_of(shape_figure(silhouette, FigureWish()).form)
        took = time.perf_counter() - started
        told = f"{took:.2f} s, {len(mesh.faces):,} triangles"
        rows.append(Row(f"Figure on {cells} cells", told, f"≤ {bound:g} s", took <= bound))
    return rows


def _figure(solid: KnownSolid, strokes: tuple[HandStroke, ...], source: DepthSource = from_outline) -> ShapedFigure:
    silhouette = silhouette_of(solid.covered.astype(np.float32), solid.mm_per_px, CELLS)
    hand = Hand(strokes, _clean(solid)) if strokes else None
    return shape_figure(silhouette, FigureWish(thinnest=0), source, hand)


def _four_strokes(solid: KnownSolid, source: DepthSource) -> tuple[HandStroke, ...]:
    """A hand that turns the figure, and sees which side of it is most wrong.

    Of what is true it knows which way front and back are off, and that by coarse steps of the depth. Where both are off
    the same way it moves the part, else it makes it thicker or thinner, along all that is off alike.
    """
    strokes: tuple[HandStroke, ...] = ()
    coarse = COARSE * _span(solid)
    for _ in range(STROKES):
        made = _figure(solid, strokes, source)
        front, back = (ndimage.gaussian_filter(np.nan_to_num(each), 8) for each in _side_errors(solid, made))
        steps = {
            ("nearer", "farther"): np.round((front + back) / 2 / coarse),
            ("thicker", "thinner"): np.round((front - back) / coarse),
        }
        kinds, most = max(steps.items(), key=lambda each: float(np.abs(each[1]).max()))
        row, column = np.unravel_index(int(np.abs(most).argmax()), most.shape)
        found = float(most[row, column])
        if found == 0:
            break
        alike = ndimage.label(solid.covered & (most == found))[0]
        places = _along(alike == alike[row, column])
        strokes = (*strokes, HandStroke(kinds[0] if found > 0 else kinds[1], places, BRUSH_PX, coarse * abs(found)))
    return strokes


def _along(area: NDArray[np.bool_]) -> _Grid:
    """The way from end to end of an area, through the middle of it: columns and rows, float64 (N, 2)."""
    cost = np.where(area, 1 / np.maximum(ndimage.distance_transform_edt(area), 1), -1)
    ends = [tuple(np.argwhere(area)[0])]
    for _ in range(2):
        ways, _ = MCP_Geometric(np.where(area, 1.0, -1.0)).find_costs([ends[-1]])
        ends.append(np.unravel_index(int(np.where(area, ways, -1).argmax()), area.shape))
    route = np.array(route_through_array(cost, ends[1], ends[2])[0])
    return route[:: max(1, len(route) // 40), ::-1].astype(np.float64)


def _side_errors(solid: KnownSolid, made: ShapedFigure) -> tuple[_Grid, _Grid]:
    """By how much true front and back are nearer than the figure's, after the best shift, float64 (H, W) mm each."""
    front, back = (
        solid.front - _on_pixels(solid, made, made.form.front),
        solid.back - _on_pixels(solid, made, made.form.back),
    )
    shift = np.nanmean((front + back) / 2)
    return front - shift, back - shift


def _errors(solid: KnownSolid, made: ShapedFigure) -> tuple[float, float]:
    """RMSE of the front after the best shift and scale as a share of its span, and the mean angle between normals."""
    asked, found = solid.front, _on_pixels(solid, made, made.form.front)
    both = np.isfinite(asked) & np.isfinite(found)
    scale, shift = np.polyfit(found[both], asked[both], 1)
    off = asked[both] - scale * found[both] - shift
    one, other = (normals_of(each, solid.mm_per_px) for each in (asked, found))
    angle = np.degrees(np.arccos(np.clip((one * other).sum(axis=2), -1, 1)))
    return float(np.sqrt((off**2).mean()) / _span(solid)), float(np.nanmean(angle[both]))


def _span(solid: KnownSolid) -> float:
    return float(np.nanmax(solid.front) - np.nanmin(solid.back))


def _overlap(solid: KnownSolid, made: ShapedFigure) -> float:
    """Intersection over union of both solids on a lattice of 96 points a side, at the best shift in depth."""
    spacing = float(np.ptp(solid.mesh.vertices, axis=0).max()) / VOXELS
    lattice = lattice_of(solid.mesh, spacing)
    x, y, z = (lattice.origin[axis] + spacing * np.arange(lattice.inside.shape[axis]) for axis in range(3))
    low = _lower_left(solid)
    columns, rows = (x - low[0]) / solid.mm_per_px, solid.covered.shape[0] - 1 - (y - low[1]) / solid.mm_per_px
    at = np.meshgrid(rows, columns, indexing="xy")
    sides = [
        ndimage.map_coordinates(np.nan_to_num(_on_pixels(solid, made, side), nan=value), at, order=0, mode="nearest")
        for side, value in ((made.form.front, -1e6), (made.form.back, 1e6))
    ]
    best = 0.0
    for shift in np.linspace(-0.5, 1.0, 61) * _span(solid):
        inside = (z > sides[1][..., np.newaxis] + shift) & (z < sides[0][..., np.newaxis] + shift)
        best = max(best, float((inside & lattice.inside).sum() / (inside | lattice.inside).sum()))
    return best


def _lower_left(solid: KnownSolid) -> tuple[float, float]:
    """X and Y of the middle of the lower left pixel, in the coordinates of the solid's mesh."""
    room = 8 * solid.mm_per_px
    return -room, -room


def _on_pixels(solid: KnownSolid, made: ShapedFigure, values: _Grid) -> _Grid:
    """Values of the figure's grid over the pixels of the solid, float64 (H, W)."""
    top, left, step = made.form.silhouette.corner
    rows, columns = np.indices(solid.covered.shape)
    at = [(rows - top) / step, (columns - left) / step]
    return np.asarray(ndimage.map_coordinates(values, at, order=1, mode="constant", cval=np.nan))
