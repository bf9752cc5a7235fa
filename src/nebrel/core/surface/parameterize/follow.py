"""A patch laid flat with the least distortion: lengths along the skin become lengths in the plane, as far as they can.

First a map by discrete exponential coordinates (Schmidt, Grimm and Wyvill, "Interactive Decal Compositing with Discrete
Exponential Maps", 2006), fast enough to follow a pointer; then, for what is made, as rigid as possible.
"""

import math
from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from nebrel.core.heap import sift_down, sift_up
from nebrel.core.jit import compiled
from nebrel.core.surface.parameterize.chart import (
    Chart,
    Extent,
    Rim,
    Tangents,
    doubled_areas,
    stretches,
)
from nebrel.core.surface.parameterize.coverage import missing_of_box, spoiled_of_box
from nebrel.core.surface.parameterize.lengths import with_true_lengths
from nebrel.core.surface.parameterize.rigid import as_rigid_as_possible, unrolled
from nebrel.core.surface.parameterize.shapes import ShapedPart
from nebrel.core.surface.parameterize.wrap import ALL_BUT, as_shape, as_turned
from nebrel.core.surface.skin.patch import MOST_FACES, all_round, disc_round, hanging_together, up_to_rim
from nebrel.core.surface.skin.skin import Skin, SkinPlace

QUICK_FACES = 6_000
MOST_STRETCH = 1.0
MOSTLY = 0.9
FITS = 0.3
# What is strained no more, on average, is not tried another way.
EASY = 0.02
# Of what is laid, a sketch for following a pointer may lack so much before another way is tried.
FOLLOWED = 0.05
MOST_TRIES = 8
# How often a patch is narrowed to what is laid, until it shrinks no further; and what beside it belongs to it.
NARROWINGS, SHRUNK, BESIDE, BESIDE_REACH = 3, 0.9, 1.2, 0.05
_Reals = NDArray[np.float64]
_Ints = NDArray[np.int64]


def follow_skin(
    skin: Skin,
    place: SkinPlace,
    tangents: Tangents,
    extent: Extent,
    rim: Rim = "clip",
    quick: bool = False,
    known: Sequence[ShapedPart] = (),
) -> Chart:
    """The skin round a place, laid flat by its own lengths, so that both middles of what is laid are as long as asked.

    Where all of it is a plane, cylinder, cone or sphere, it is unrolled as that, however long its faces are.

    Args:
        extent: of what is laid.
        rim: whether it ends at sharp edges and holes.
        quick: for following a pointer: not more than `QUICK_FACES` faces, and lengths are true near the place only.
        known: parts whose shape was found before they were divided.
    """
    most = QUICK_FACES if quick else MOST_FACES
    every = all_round(skin, place, extent.reach, most)
    allowed = within_rim(skin, place, extent, rim, most)
    chart = _laid_flat(skin, place, tangents, extent, allowed, quick, known)
    ended = len(allowed) < len(every.faces)
    if rim == "continue" and extent.width > 0 and spoiled_of_box(chart, extent) > ALL_BUT:
        # What goes down into a hole from all round would lie over itself; then it ends there.
        within = within_rim(skin, place, extent, "clip", most)
        clipped = (
            _laid_flat(skin, place, tangents, extent, within, quick, known) if len(within) < len(allowed) else chart
        )
        if spoiled_of_box(clipped, extent) < spoiled_of_box(chart, extent):
            return replace(clipped, open_edge=True)
    return replace(chart, rim=ended, open_edge=every.open_edge)


def _laid_flat(
    skin: Skin,
    place: SkinPlace,
    tangents: Tangents,
    extent: Extent,
    allowed: _Ints,
    quick: bool,
    known: Sequence[ShapedPart],
) -> Chart:
    """Faces round a place as the shape that they are, as they lie flat, or round their axis."""
    chart = as_shape(skin, place, tangents, extent, allowed, False, known)
    if chart is not None:
        return chart
    if quick:
        sketched = _sketched(skin, place, tangents, extent, allowed)
        lacking = missing_of_box(sketched, extent) if extent.width else 0.0
        return sketched if lacking <= FOLLOWED else _round_its_axis(skin, place, tangents, extent, allowed, sketched)
    return _round_its_axis(skin, place, tangents, extent, allowed, _as_it_is(skin, place, tangents, extent, allowed))


def _round_its_axis(
    skin: Skin, place: SkinPlace, tangents: Tangents, extent: Extent, allowed: _Ints, chart: Chart
) -> Chart:
    """A chart, or that of the skin turned round an axis where this holds more of what is laid, or strains it less.

    A patch that goes most of the way round a ring or a vase cannot lie flat as rigidly as it is.
    """
    if not extent.width:
        return chart
    lacking, strained = missing_of_box(chart, extent), _strained(skin, chart, extent)
    if lacking <= ALL_BUT and strained <= EASY:
        return chart
    turned = as_turned(skin, place, tangents, extent, allowed)
    if turned is None or missing_of_box(turned, extent) > lacking + ALL_BUT:
        return chart
    return turned if lacking > ALL_BUT or _strained(skin, turned, extent) < strained else chart


def _strained(skin: Skin, chart: Chart, extent: Extent) -> float:
    """By how much faces under the box of what is laid are stretched, on average over them."""
    under = _near_box(chart, extent)
    faces, plane = chart.faces[under], chart.plane[under]
    areas = np.abs(doubled_areas(plane))
    if not areas.sum() > 0:
        return 0.0
    return float(np.minimum(stretches(skin, faces, plane), 1.0) @ areas / areas.sum())


def within_rim(skin: Skin, place: SkinPlace, extent: Extent, rim: Rim, most: int = MOST_FACES) -> _Ints:
    """Faces within reach over which what is laid may go, int64 (K,), the nearest first. Textures go over edges."""
    if rim == "clip" and extent.width > 0:
        return up_to_rim(skin, place, extent.reach, most)
    return all_round(skin, place, extent.reach, most).faces


def _sketched(skin: Skin, place: SkinPlace, tangents: Tangents, extent: Extent, allowed: _Ints) -> Chart:
    """The part round a place, laid flat at once."""
    patch = disc_round(skin, place, extent.reach, QUICK_FACES, allowed)
    _, local, plane, _ = _first_map(skin, patch.faces, place, tangents)
    return Chart(patch.faces, plane[local], 0.0, 0.0, "skin", patch.whole)


def _as_it_is(skin: Skin, place: SkinPlace, tangents: Tangents, extent: Extent, allowed: _Ints) -> Chart:
    """Any skin laid flat as rigidly as it can be: first all within reach, then only what is under the box."""
    chart = _rigid(skin, place, tangents, extent.reach, allowed)
    if extent.width:
        for _ in range(NARROWINGS):
            under = _under_box(skin, place, chart, extent)
            if len(under) > SHRUNK * len(chart.faces):
                break
            chart = _rigid(skin, place, tangents, extent.reach, under)
    return with_true_lengths(skin, chart, extent)


def _under_box(skin: Skin, place: SkinPlace, chart: Chart, extent: Extent) -> _Ints:
    """Faces of a chart that lie under the box of what is laid or a little beside it."""
    return hanging_together(skin, place.face, chart.faces[_near_box(chart, extent)])


def _near_box(chart: Chart, extent: Extent) -> NDArray[np.bool_]:
    angle = math.radians(extent.turn_deg + chart.upright_deg)
    turn = np.array([[math.cos(angle), -math.sin(angle)], [math.sin(angle), math.cos(angle)]])
    half = (BESIDE / 2) * np.array([extent.width, extent.height]) + BESIDE_REACH * extent.reach
    there = chart.plane @ turn
    found: NDArray[np.bool_] = ((there.max(axis=1) >= -half) & (there.min(axis=1) <= half)).all(axis=1)
    return found


def _rigid(skin: Skin, place: SkinPlace, tangents: Tangents, reach: float, allowed: _Ints) -> Chart:
    """The largest disc of faces round a place that lies flat without much strain."""
    for _ in range(MOST_TRIES):
        patch = disc_round(skin, place, reach, within=allowed)
        faces = patch.faces
        points, local, plane, used = _first_map(skin, faces, place, tangents)
        plane = min((plane, unrolled(points, local)), key=lambda start: _strain(skin, faces, start[local]))
        plane = as_rigid_as_possible(points, local, plane)
        plane = _settled_at(plane, local[0], points[local[0]], place, tangents)
        kept = stretches(skin, faces, plane[local]) <= MOST_STRETCH
        if kept[0] and kept.mean() > MOSTLY:
            break
        # Too much skin to be laid flat: the part round the place comes first.
        reach *= 0.75
    faces, local = faces[kept], local[kept]
    whole = bool(kept.all())
    if not patch.whole:
        more, where, fits = _left_out(skin, patch.faces, used, plane)
        faces, local = np.concatenate([faces, more[fits]]), np.vstack([local, where[fits]])
        whole = whole and bool(fits.all())
    return Chart(faces, plane[local], 0.0, 0.0, "skin", whole)


def _left_out(skin: Skin, faces: _Ints, used: _Ints, plane: _Reals) -> tuple[_Ints, _Ints, NDArray[np.bool_]]:
    """Faces that a disc had to leave out though all their vertices are known: behind a hole they fit, round a cylinder
    they do not. Gives their numbers, their vertices among those used, and which fit."""
    local = np.full(len(skin.mesh.vertices), -1, dtype=np.int64)
    local[used] = np.arange(len(used))
    known = np.asarray((local[skin.faces] >= 0).all(axis=1))
    known[faces] = False
    more = np.flatnonzero(known)
    where = local[skin.faces[more]]
    return more, where, stretches(skin, more, plane[where]) <= FITS


def _first_map(skin: Skin, faces: _Ints, place: SkinPlace, tangents: Tangents) -> tuple[_Reals, _Ints, _Reals, _Ints]:
    """The vertices of a patch, its faces over them, where the vertices lie by exponential coordinates, and their
    numbers."""
    used, local = np.unique(skin.faces[faces], return_inverse=True)
    local = local.reshape(-1, 3)
    points = skin.mesh.vertices[used]
    normals = np.zeros((len(used), 3))
    for corner in range(3):
        np.add.at(normals, local[:, corner], skin.offset_vectors[skin.corners[faces, corner]])
    unit = normals / np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-12)
    plane = _exponential(points, local, unit, place.point, tangents.right, tangents.up, tangents.out)
    return points, local, plane, used


def _strain(skin: Skin, faces: _Ints, plane: _Reals) -> float:
    """How badly a patch is stretched, by the median and the mean of its faces."""
    found = np.minimum(stretches(skin, faces, plane), 10.0)
    return float(np.median(found) + found.mean())


@compiled
def _turn(normal, out, right, up):
    """The directions `right` and `up` at `out`, carried to another normal by the shortest turn."""
    x = out[1] * normal[2] - out[2] * normal[1]
    y = out[2] * normal[0] - out[0] * normal[2]
    z = out[0] * normal[1] - out[1] * normal[0]
    cosine = max(-0.999999, out[0] * normal[0] + out[1] * normal[1] + out[2] * normal[2])
    share = 1.0 / (1.0 + cosine)
    result = np.empty((2, 3), dtype=np.float64)
    for row in range(2):
        vx, vy, vz = (right[0], right[1], right[2]) if row == 0 else (up[0], up[1], up[2])
        dot = (x * vx + y * vy + z * vz) * share
        result[row, 0] = cosine * vx + (y * vz - z * vy) + x * dot
        result[row, 1] = cosine * vy + (z * vx - x * vz) + y * dot
        result[row, 2] = cosine * vz + (x * vy - y * vx) + z * dot
    return result


@compiled
def _step(at, to, frame):
    """A step between two places in the directions of a frame, as long as it is through space."""
    dx, dy, dz = to[0] - at[0], to[1] - at[1], to[2] - at[2]
    length = np.sqrt(dx * dx + dy * dy + dz * dz)
    u = frame[0, 0] * dx + frame[0, 1] * dy + frame[0, 2] * dz
    v = frame[1, 0] * dx + frame[1, 1] * dy + frame[1, 2] * dz
    flat = np.sqrt(u * u + v * v)
    if flat < 1e-12:
        return u, v
    return u * length / flat, v * length / flat


@compiled
def _exponential(points, faces, normals, origin, right, up, out):
    """Places of all vertices in the plane by steps from vertex to vertex, the nearest first, float64 (N, 2)."""
    count = len(points)
    first = np.zeros(count + 1, dtype=np.int64)
    for f in range(len(faces)):
        for i in range(3):
            first[faces[f, i] + 1] += 2
    for v in range(count):
        first[v + 1] += first[v]
    fill = first[:-1].copy()
    near = np.empty(first[count], dtype=np.int64)
    for f in range(len(faces)):
        for i in range(3):
            a = faces[f, i]
            near[fill[a]], near[fill[a] + 1] = faces[f, (i + 1) % 3], faces[f, (i + 2) % 3]
            fill[a] += 2
    plane = np.zeros((count, 2), dtype=np.float64)
    # The nearest vertex first: a heap of those with the least negative distance.
    nearness = np.full(count, -np.inf)
    done = np.zeros(count, dtype=np.bool_)
    heap = np.empty(count, dtype=np.int64)
    place = np.full(count, -1, dtype=np.int64)
    home = np.empty((2, 3), dtype=np.float64)
    home[0], home[1] = right, up
    size = 0
    for i in range(3):
        v = faces[0, i]
        plane[v, 0], plane[v, 1] = _step(origin, points[v], home)
        nearness[v] = -np.sqrt(((points[v] - origin) ** 2).sum())
        heap[size] = v
        sift_up(heap, place, nearness, size)
        size += 1
    while size > 0:
        v = heap[0]
        size -= 1
        heap[0] = heap[size]
        sift_down(heap, place, nearness, 0, size)
        done[v] = True
        frame = _turn(normals[v], out, right, up)
        for k in range(first[v], first[v + 1]):
            w = near[k]
            if done[w]:
                continue
            far = np.sqrt(((points[w] - points[v]) ** 2).sum()) - nearness[v]
            if far < -nearness[w] - 1e-12:
                nearness[w] = -far
                du, dv = _step(points[v], points[w], frame)
                plane[w, 0], plane[w, 1] = plane[v, 0] + du, plane[v, 1] + dv
                if place[w] < 0:
                    heap[size] = w
                    place[w] = size
                    size += 1
                sift_up(heap, place, nearness, place[w])
    return plane


def _settled_at(plane: _Reals, face: _Ints, corners: _Reals, place: SkinPlace, tangents: Tangents) -> _Reals:
    """The map shifted and turned so that the place is the origin and the directions there are the axes."""
    laid = plane[face]
    wished = (corners - place.point) @ np.column_stack([tangents.right, tangents.up])
    origin = place.shares @ laid
    together = (wished - wished.mean(axis=0)).T @ (laid - laid.mean(axis=0))
    angle = np.arctan2(together[0, 1] - together[1, 0], together[0, 0] + together[1, 1])
    turn = np.array([[np.cos(angle), np.sin(angle)], [-np.sin(angle), np.cos(angle)]])
    return (plane - origin) @ turn.T
