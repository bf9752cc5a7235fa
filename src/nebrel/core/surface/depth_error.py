"""How far a decorated mesh is from the depths that were asked for, measured on the finished mesh.

Nothing is taken from how the mesh was made: every sample of a decorated face is followed back to the skin, and what it
stands off there is compared with what the decorations ask for at that place.
"""

from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import MultiPolygon

from nebrel.core.cores import cores
from nebrel.core.jit import compiled
from nebrel.core.mesh.nearest import (
    empty_stack,
    nearest_triangle,
    shares_in_triangle,
    squared_to_triangle,
    times_normal,
    triangle_tree,
)
from nebrel.core.mesh.surface_error import Deviation
from nebrel.core.mesh.trimesh import TriMesh
from nebrel.core.surface.parameterize.chart import Chart
from nebrel.core.surface.skin.skin import Skin
from nebrel.core.surface.subdivide.carving import Field, Laid

HOW = "from the depths asked for, square to the skin, at corners, sides and middles of decorated faces"
ROUNDS = 3
LOOKING_BACK, ALIKE = -0.3, 0.7
AS_NEAR, TINY = 1.2, 1e-12
UPRIGHT = 0.17
# A sample that is off by less is not looked for on the walls.
CLEARLY_OFF = 1e-4
SAMPLES_AT_ONCE = 20_000
MOST_FACES = 60_000
# So near to a part of a picture, in samples, its depth counts as that beyond a wall.
BESIDE_PX = 1.0
WORTH_SAYING, LEFT_OUT = 0.005, "of their area stands upright or beyond the skin and is not measured"
_Reals = NDArray[np.float64]
_Ints = NDArray[np.int64]
_Flags = NDArray[np.bool_]


def measure_depths(skin: Skin, laid: list[Laid], mesh: TriMesh, decorated: _Flags) -> Deviation:
    """Maximum and RMS over samples of the decorated faces: their corners, the middles of their sides, their middles.

    Where depths jump, a wall stands: a sample on it is as far off as it is from the outline along the skin, or from
    where the skin of the chart ends, as it does at holes. RMS weighs the middle of every face by its area. Of very many
    faces, some evenly chosen are measured, and `how` says so. Walls round picked faces and round all of a chart are not
    measured, nor is what faces no skin that was decorated; how much of the area that is, `how` says.

    Args:
        skin: before it was decorated.
        laid: what was asked for, in its order.
        mesh: after it.
        decorated: bool (M,), its faces that belong to decorations.
    """
    faces = mesh.faces[decorated].astype(np.int64)
    if not len(faces):
        return Deviation(0.0, 0.0, HOW)
    every = -(-len(faces) // MOST_FACES)
    faces = faces[::every]
    some = HOW if every == 1 else f"{HOW}, one of every {every}"
    points, normals, areas = _samples(mesh.vertices, faces)
    at, shares, heights, facing = _on_skin(
        skin, np.unique(np.concatenate([each.chart.faces for each in laid])), points, normals
    )
    wanted, low, high = np.zeros((3, len(points)))
    away = np.full(len(points), np.inf)
    unknown = np.zeros(len(points), dtype=bool)
    outlined = []
    for each in laid:
        if each.field is None or each.flat:
            continue
        there, places, carried = _places(each, at, shares, len(skin.faces))
        inside, *depths = _target_depth(each, places)
        given, lowest, highest = (np.where(there, depth * carried, 0.0) for depth in depths)
        taken = there & inside
        wanted = np.where(taken, _overlay_depth(wanted, given, each.overlap), wanted)
        for limit, pick in ((low, np.minimum), (high, np.maximum)):
            for bound in (lowest, highest):
                pick(limit, np.where(there, _overlay_depth(limit, bound, each.overlap), limit), out=limit)
        if each.region is not None:
            outlined.append((each, there, places))
        if each.region is None or each.within is not None:
            unknown |= np.abs(facing) < UPRIGHT
    error = np.abs(heights - wanted)
    for each, there, places in outlined:
        assert each.region is not None
        off = np.flatnonzero(there & (error > CLEARLY_OFF))
        lines = np.vstack([*map(_sides, _regions(each)), _ends(skin, each.chart)])
        away[off] = np.minimum(away[off], _from_lines(lines, places[off], each.chart.period))
    beyond_wall = np.maximum(np.maximum(low - heights, heights - high), 0.0)
    error = np.minimum(error, np.hypot(away, beyond_wall))
    known = (at >= 0) & ~unknown
    if not known.any():
        return Deviation(0.0, 0.0, "not measured: none of it faces the skin", "nowhere")
    weights = areas * known[-len(faces) :]
    rms = float(np.sqrt((weights * error[-len(faces) :] ** 2).sum() / max(float(weights.sum()), 1e-300)))
    left_out = 1.0 - float(weights.sum()) / max(float(areas.sum()), 1e-300)
    how = some if left_out < WORTH_SAYING else f"{some}; {left_out:.0%} {LEFT_OUT}"
    return Deviation(float(error[known].max()), rms, how)


def _samples(vertices: _Reals, faces: _Ints) -> tuple[_Reals, _Reals, _Reals]:
    """Places (K, 3) and the normals there, and the areas of the faces; the middles of faces come last."""
    corners = vertices[faces]
    cross = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    doubled = np.linalg.norm(cross, axis=1)
    normals = cross / np.maximum(doubled, 1e-300)[:, np.newaxis]
    used, first = np.unique(faces, return_index=True)
    sides = np.sort(np.stack([faces, np.roll(faces, -1, axis=1)], axis=2).reshape(-1, 2), axis=1)
    _, of_side = np.unique(sides[:, 0] * len(vertices) + sides[:, 1], return_index=True)
    sides = sides[of_side]
    points = np.vstack([vertices[used], vertices[sides].mean(axis=1), corners.mean(axis=1)])
    return points, np.vstack([normals[first // 3], normals[of_side // 3], normals]), doubled / 2


def _on_skin(skin: Skin, among: _Ints, points: _Reals, normals: _Reals) -> tuple[_Ints, _Reals, _Reals, _Reals]:
    """Where on the skin samples were raised from: the face (-1 where there is none), the shares of its second and
    third corner (K, 2), how far they stand off, and how much they look the way the skin does."""
    sound = among[(skin.normals[among] != 0).any(axis=1)]
    tree = triangle_tree(TriMesh(skin.mesh.vertices, skin.mesh.faces[sound]))
    order = sound[tree.order]
    offset_vectors = np.ascontiguousarray(skin.offset_vectors[skin.corners[order]])
    at, shares, heights = np.empty(len(points), np.int64), np.empty((len(points), 2)), np.empty(len(points))

    def follow(start: int) -> None:
        part = slice(start, start + SAMPLES_AT_ONCE)
        at[part], shares[part], heights[part] = _followed_back(points[part], normals[part], tree, offset_vectors)

    with ThreadPoolExecutor(max_workers=min(8, cores())) as threads:
        list(threads.map(follow, range(0, len(points), SAMPLES_AT_ONCE)))
    face = np.where(at >= 0, order[at], -1)
    facing = np.einsum("ij,ij->i", skin.normals[face], normals)
    return face, shares, heights, facing


@compiled
def _followed_back(points, normals, tree, offset_vectors):
    """Index in the tree, shares and depth of every sample, along the way that the skin moves there."""
    found = np.empty(len(points), dtype=np.int64)
    shares = np.zeros((len(points), 2), dtype=np.float64)
    depths = np.zeros(len(points), dtype=np.float64)
    stack = empty_stack()
    for k in range(len(points)):
        p = points[k]
        facing = (normals[k, 0], normals[k, 1], normals[k, 2])
        q0, q1, q2 = p[0], p[1], p[2]
        # The one before is near, so nothing further than its triangle has to be looked at.
        at = found[k - 1] if k > 0 else -1
        for _ in range(ROUNDS):
            within = np.inf
            if at >= 0 and times_normal(tree.normals, at, facing) > LOOKING_BACK:
                within = AS_NEAR * squared_to_triangle((q0, q1, q2), tree.corners, at) + TINY
            at, away = nearest_triangle((q0, q1, q2), facing, LOOKING_BACK, within, tree, stack)
            if at < 0:
                break
            # Beyond a sharp edge both sides are as near; the one that looks the same way is meant.
            if times_normal(tree.normals, at, facing) <= ALIKE:
                alike, _ = nearest_triangle((q0, q1, q2), facing, ALIKE, AS_NEAR * away + TINY, tree, stack)
                at = alike if alike >= 0 else at
            s, t = shares_in_triangle((q0, q1, q2), tree.corners, at)
            depth, square = 0.0, 0.0
            off = np.empty(3, dtype=np.float64)
            offset_vector = np.empty(3, dtype=np.float64)
            for i in range(3):
                a, b, c = tree.corners[at, i], tree.corners[at, 3 + i], tree.corners[at, 6 + i]
                off[i] = p[i] - (a + s * (b - a) + t * (c - a))
                offset_vector[i] = (
                    (1 - s - t) * offset_vectors[at, 0, i] + s * offset_vectors[at, 1, i] + t * offset_vectors[at, 2, i]
                )
                depth += off[i] * tree.normals[at, i]
                square += offset_vector[i] * tree.normals[at, i]
            depth = depth / square if abs(square) > 1e-6 else depth
            q0, q1, q2 = (
                p[0] - depth * offset_vector[0],
                p[1] - depth * offset_vector[1],
                p[2] - depth * offset_vector[2],
            )
            shares[k, 0], shares[k, 1], depths[k] = s, t, depth
        found[k] = at
    return found, shares, depths


def _places(laid: Laid, at: _Ints, shares: _Reals, faces: int) -> tuple[_Flags, _Reals, _Reals]:
    """Which samples lie on the chart, where, (K, 2) mm, NaN for the others, and how much of the depth they carry."""
    local = np.full(faces, -1, dtype=np.int64)
    local[laid.chart.faces] = np.arange(len(laid.chart.faces))
    if laid.within is not None:
        kept = np.zeros(faces, dtype=bool)
        kept[laid.within] = True
        local[~kept] = -1
    there = (at >= 0) & (local[at] >= 0)
    corners = laid.chart.plane[local[at[there]]]
    whole = np.column_stack([1 - shares[there].sum(axis=1), shares[there]])
    places = np.full((len(at), 2), np.nan)
    places[there] = np.einsum("ki,kij->kj", whole, corners)
    carried = np.ones(len(at))
    if laid.over is not None:
        carried[there] = np.einsum("ki,ki->k", whole, laid.over.share[local[at[there]]])
    return there & np.isfinite(places[:, 0]), places, carried


def _regions(laid: Laid) -> list[MultiPolygon]:
    """The regions at whose edges walls of a decoration stand."""
    regions = [laid.region, *(part.region for part in laid.parts)]
    return [region for region in regions if region is not None]


def _target_depth(laid: Laid, places: _Reals) -> tuple[_Flags, _Reals, _Reals, _Reals]:
    """Whether a decoration covers places of its chart, how deep it is there, wherever it ends, and the least and the
    greatest depth on either side of walls beside them."""
    inside, depth = _depth_within(laid, places)
    low, high = depth.copy(), depth.copy()
    for part in laid.parts:
        near = _near(part.region, places, laid.chart.period, BESIDE_PX * part.field.pitch)
        own, there = _depth_within(replace(laid, region=part.region, field=part.field), places[near])
        depth[near] = np.where(own, there, depth[near])
        low[near], high[near] = np.minimum(low[near], there), np.maximum(high[near], there)
    return inside, depth, low, high


def _near(region: MultiPolygon, places: _Reals, period: float, within: float) -> _Ints:
    """Which places of the chart are no further from a region than so many mm, about."""
    reach = shapely.simplify(region.buffer(within), within / 4)
    shapely.prepare(reach)
    low_x, low_y, high_x, high_y = reach.bounds
    found = np.zeros(len(places), dtype=bool)
    for turn in (0.0, period, -period) if period else (0.0,):
        x, y = places[:, 0] + turn, places[:, 1]
        boxed = np.flatnonzero((x >= low_x) & (x <= high_x) & (y >= low_y) & (y <= high_y))
        found[boxed[shapely.contains_xy(reach, x[boxed], y[boxed])]] = True
    return np.flatnonzero(found)


def _depth_within(laid: Laid, places: _Reals) -> tuple[_Flags, _Reals]:
    """Whether the region of a decoration covers places of its chart, and how deep its field is there."""
    assert laid.field is not None
    period = 0.0 if laid.field.tiled else laid.chart.period
    inside = np.full(len(places), laid.region is None)
    depth = _depth(laid.field, places)
    if laid.region is None:
        return inside, depth
    shapely.prepare(laid.region)
    nearest = _beyond(laid.field, places)
    for turn in (0.0, period, -period) if period else (0.0,):
        moved = places + np.array([turn, 0.0])
        found = shapely.contains_xy(laid.region, moved[:, 0], moved[:, 1])
        beyond = _beyond(laid.field, moved)
        depth = np.where(found | (~inside & (beyond < nearest)), _depth(laid.field, moved), depth)
        nearest = np.minimum(nearest, beyond)
        inside |= found
    return inside, depth


def _beyond(field: Field, places: _Reals) -> _Reals:
    """How many samples places lie outside a field."""
    column, row = _grid(field, places)
    rows, columns = field.depths.shape
    return np.maximum(np.maximum(-column, column - (columns - 1)), 0) + np.maximum(
        np.maximum(-row, row - (rows - 1)), 0
    )


def _depth(field: Field, places: _Reals) -> _Reals:
    """A field between its samples, bilinear; beyond its edge as at its edge, or from the start where it is tiled."""
    from scipy.ndimage import map_coordinates

    column, row = _grid(field, places)
    there = np.isfinite(column)
    found = np.zeros(len(places))
    depths, at = field.depths.astype(np.float64), np.stack([row[there], column[there]])
    found[there] = map_coordinates(depths, at, order=1, mode="grid-wrap" if field.tiled else "nearest")
    return found


def _grid(field: Field, places: _Reals) -> tuple[_Reals, _Reals]:
    column, row = field.to_grid[:, :2] @ places.T + field.to_grid[:, 2:]
    return column, row


def _overlay_depth(before: _Reals, depth: _Reals, overlap: str) -> _Reals:
    """The depth where a decoration lies over what was there."""
    if overlap == "sum":
        return before + depth
    if overlap == "last":
        return depth
    return np.where(np.abs(depth) > np.abs(before), depth, before)


def _sides(region: MultiPolygon) -> _Reals:
    """Sides of an outline, (K, 2, 2) mm."""
    lines = shapely.get_parts(shapely.boundary(region))
    corners, line = shapely.get_coordinates(lines, return_index=True)
    on = np.flatnonzero(line[1:] == line[:-1])
    return np.stack([corners[on], corners[on + 1]], axis=1)


def _ends(skin: Skin, chart: Chart) -> _Reals:
    """Sides of a chart beyond which none of its faces lies, (K, 2, 2) mm."""
    corners = skin.faces[chart.faces]
    starts, ends = corners.ravel(), np.roll(corners, -1, axis=1).ravel()
    key = np.minimum(starts, ends) * len(skin.mesh.vertices) + np.maximum(starts, ends)
    _, back, count = np.unique(key, return_inverse=True, return_counts=True)
    lines = np.stack([chart.plane, np.roll(chart.plane, -1, axis=1)], axis=2).reshape(-1, 2, 2)
    return np.asarray(lines[count[back] == 1])


def _from_lines(lines: _Reals, places: _Reals, period: float) -> _Reals:
    """How far places of the chart are from lines, mm."""
    tree = shapely.STRtree(shapely.linestrings(lines))
    away = np.full(len(places), np.inf)
    for turn in (0.0, period, -period) if period else (0.0,):
        if not len(places):
            break
        moved = shapely.points(places + np.array([turn, 0.0]))
        (which, _), found = tree.query_nearest(moved, return_distance=True, all_matches=False)
        away[which] = np.minimum(away[which], found)
    return away
