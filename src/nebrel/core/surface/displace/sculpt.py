"""A brush on a mesh: raising, lowering, smoothing, flattening, sharpening, carving and pulling by hand, within the
faces that each stroke keeps to."""

from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.crossings import crossing_pairs
from nebrel.core.mesh.measure import face_heights
from nebrel.core.surface.displace.fence import Fence

Tool = Literal["smooth", "raise", "lower", "flatten", "sharpen", "carve", "pull"]
Profile = Literal["V", "U", "bead"]
# How long sides under a brush may be, of its radius; a groove has a profile to show.
FINE_SHARE, CARVED_SHARE = 0.25, 0.12
# Within a fence a stroke fades out towards its border over so much of its radius.
FADE_SHARE = 0.3
# How many times steeper a ridge becomes at full strength.
SHARPER = 1.5
# Sides are halved so often at the most: from a metre to a tenth of a millimetre.
MOST_ROUNDS = 14
SMOOTHINGS = 4
# How far a stroke goes by itself, of the radius of its brush.
STEP_SHARE, LINE_SHARE = 0.08, 0.4
MOST_TRIES = 7
# Where no more of the faces under a brush cross than that, it is weakened there alone.
FEW_SHARE = 0.01
MOST_NEW_FACES = 2_000_000
# So many crossings that a model came with are told apart from new ones.
MOST_COMPARED = 20_000
_Reals = NDArray[np.float64]
_Ints = NDArray[np.int64]


@dataclass(frozen=True)
class BrushStroke:
    """One stroke.

    Attributes:
        tool: what it does.
        places: float64 (K, 3) mm along it.
        radius: mm; the brush fades out to nothing there.
        strength: 0 to 1; of what has an `amount`, and of a line, all is done.
        amount: mm that `raise` and `lower` move the surface by, and that `carve` is deep or high; 0 for as much as the
            size of the brush suggests.
        profile: of `carve`: a groove with straight or with round sides, or a bead.
        pressure: float64 (K,), 0 to 1, at every place; None for 1 everywhere.
        beside: whether faces beside those that it keeps to may be divided, so that it is as fine at their border.
        fence: what it keeps to within its faces; None for all of them.
    """

    tool: Tool
    places: _Reals
    radius: float
    strength: float
    amount: float = 0.0
    profile: Profile = "V"
    pressure: _Reals | None = None
    beside: bool = False
    fence: Fence | None = None


@dataclass(frozen=True)
class Sculpted:
    """A mesh after strokes.

    Attributes:
        mesh: faces that no stroke may change are as they were, unless one divides what lies beside those that it may.
        of_face: int64 (M,): the face of the mesh before that every face lies in.
        left_out: numbers of strokes that would have made the surface cross itself however weak they were.
    """

    mesh: TriMesh
    of_face: _Ints
    left_out: tuple[int, ...]


def sculpt(mesh: TriMesh, allowed: NDArray[np.bool_], strokes: list[BrushStroke]) -> Sculpted:
    """Strokes on a mesh, one after the other.

    Vertices move that only allowed faces meet in, so the border of what a stroke keeps to stays where it is and the
    mesh stays as closed as it was. Faces under the brush are made finer first. A stroke after which faces would cross
    is made weaker, and left out when that does not help.

    Args:
        mesh: any; what is open stays open.
        allowed: bool (M,), which faces strokes may change, or (S, M) for every stroke its own.
        strokes: in their order.
    """
    of_face, left_out = np.arange(len(mesh.faces)), []
    kept_to = np.broadcast_to(allowed, (len(strokes), len(mesh.faces)))
    for number, stroke in enumerate(strokes):
        own = kept_to[number][of_face]
        finer, parent = _finer_under(mesh, own, stroke)
        moved = _apply_stroke(finer, own[parent], stroke)
        if moved is None:
            left_out.append(number)
            continue
        mesh, of_face = moved, of_face[parent]
    return Sculpted(mesh, of_face, tuple(left_out))


@dataclass(frozen=True)
class _Reach:
    """How a stroke reaches points: their distance from it, infinite beyond its radius; the pressure there; and the
    number of the place that is nearest, as many as there are places beyond the radius."""

    away: _Reals
    pressure: _Reals
    place: _Ints


def _reach(points: _Reals, stroke: BrushStroke) -> _Reach:
    from scipy.spatial import cKDTree

    filled = _fill_in_stroke(stroke)
    away, nearest = cKDTree(filled[:, :3]).query(points, distance_upper_bound=stroke.radius)
    return _Reach(np.asarray(away, dtype=np.float64), np.append(filled[:, 3], 0.0)[nearest], np.asarray(nearest))


def _fill_in_stroke(stroke: BrushStroke) -> _Reals:
    """The places of a stroke with others between them, a quarter of its radius apart, with the pressure at each; of a
    pull the first alone, as that is what it takes hold of."""
    pressure = np.ones(len(stroke.places)) if stroke.pressure is None else stroke.pressure
    places = np.column_stack([stroke.places, pressure])
    if len(places) < 2 or stroke.tool == "pull":
        return places[:1]
    parts = [places[:1]]
    share = 0.08 if stroke.tool == "carve" else 0.25
    for start, end in pairwise(places):
        count = max(1, int(np.ceil(np.linalg.norm((end - start)[:3]) / (share * stroke.radius))))
        parts.append(start + (np.arange(1, count + 1) / count)[:, np.newaxis] * (end - start))
    return np.vstack(parts)


def _finer_under(mesh: TriMesh, allowed: NDArray[np.bool_], stroke: BrushStroke) -> tuple[TriMesh, _Ints]:
    """Sides of allowed faces under the brush halved until they are short beside its radius."""
    parent = np.arange(len(mesh.faces))
    usual, fine = FINE_SHARE * stroke.radius, CARVED_SHARE * stroke.radius
    for _ in range(MOST_ROUNDS):
        faces = mesh.faces.astype(np.int64)
        starts, ends = faces, np.roll(faces, -1, axis=1)
        low, high = np.minimum(starts, ends), np.maximum(starts, ends)
        edges, of_side = np.unique(low.ravel() * len(mesh.vertices) + high.ravel(), return_inverse=True)
        of_side = of_side.reshape(-1, 3)
        a, b = edges // len(mesh.vertices), edges % len(mesh.vertices)
        inner = np.ones(len(edges), dtype=bool)
        if stroke.beside:
            inner[:] = False
            inner[of_side[allowed[parent]].ravel()] = True
        else:
            inner[of_side[~allowed[parent]].ravel()] = False
        middles = (mesh.vertices[a] + mesh.vertices[b]) / 2
        length = np.linalg.norm(mesh.vertices[b] - mesh.vertices[a], axis=1)
        reach = replace(stroke, radius=stroke.radius + float(length.max()))
        split = inner & (length > (fine if stroke.tool == "carve" else usual))
        if stroke.fence is not None:
            border = np.flatnonzero(inner & ~split & (length > fine))
            within = stroke.fence.inwards(middles[border])
            split[border] = np.abs(within) <= FADE_SHARE * stroke.radius + length[border] / 2
        split &= _reach(middles, reach).away <= stroke.radius + length / 2
        if not split.any() or len(faces) > MOST_NEW_FACES:
            break
        mesh, parent = _halve_edges(mesh, parent, of_side, split, middles)
    return mesh, parent


def _halve_edges(
    mesh: TriMesh, parent: _Ints, of_side: _Ints, split: NDArray[np.bool_], middles: _Reals
) -> tuple[TriMesh, _Ints]:
    """The mesh with some edges halved; faces that keep all their sides come first, in their order."""
    number = np.full(len(split), -1, dtype=np.int64)
    number[split] = len(mesh.vertices) + np.arange(int(split.sum()))
    vertices = np.vstack([mesh.vertices, middles[split].astype(np.float32).astype(np.float64)])
    faces = mesh.faces.astype(np.int64)
    cut = number[of_side]
    count = (cut >= 0).sum(axis=1)
    kept = np.flatnonzero(count == 0)
    made: list[_Ints] = [faces[kept]]
    parents = [parent[kept]]
    for sides in (1, 2, 3):
        at = np.flatnonzero(count == sides)
        if not len(at):
            continue
        # Turned so that the first side is cut and, of two, the third is not.
        first = np.argmax(cut[at] >= 0, axis=1) if sides != 2 else (np.argmin(cut[at], axis=1) + 1) % 3
        turn = (first[:, np.newaxis] + np.arange(3)) % 3
        v, m = np.take_along_axis(faces[at], turn, axis=1), np.take_along_axis(cut[at], turn, axis=1)
        a, b, c = v.T
        parts = {
            1: [(a, m[:, 0], c), (m[:, 0], b, c)],
            2: [(m[:, 0], b, m[:, 1]), (a, m[:, 0], m[:, 1]), (a, m[:, 1], c)],
            3: [(a, m[:, 0], m[:, 2]), (m[:, 0], b, m[:, 1]), (m[:, 2], m[:, 1], c), (m[:, 0], m[:, 1], m[:, 2])],
        }[sides]
        made += [np.column_stack(part) for part in parts]
        parents += [parent[at]] * len(parts)
    order = np.concatenate(parents)
    colours = None
    if mesh.colours is not None:
        low, high = _ends_of(faces, of_side, len(split))
        between = (mesh.colours[low[split]].astype(np.uint16) + mesh.colours[high[split]]) // 2
        colours = np.vstack([mesh.colours, between.astype(np.uint8)])
    here = np.concatenate([kept, *(np.flatnonzero(count == sides) for sides in (1, 1, 2, 2, 2, 3, 3, 3, 3))])
    corner_colours = None if mesh.corner_colours is None else mesh.corner_colours[here]
    return TriMesh(vertices, np.vstack(made).astype(np.uint32), colours, corner_colours), order


def _ends_of(faces: _Ints, of_side: _Ints, count: int) -> tuple[_Ints, _Ints]:
    low, high = np.zeros(count, dtype=np.int64), np.zeros(count, dtype=np.int64)
    low[of_side.ravel()] = faces.ravel()
    high[of_side.ravel()] = np.roll(faces, -1, axis=1).ravel()
    return low, high


def _share_at(away: _Reals, stroke: BrushStroke) -> _Reals:
    """How much of a stroke reaches places so far from its middle, 0 to 1."""
    inwards = np.clip(1 - np.where(np.isfinite(away), away, stroke.radius) / stroke.radius, 0, 1)
    round_ = 1 - (1 - inwards) ** 2
    if stroke.tool != "carve":
        return np.asarray(round_**2)
    # The sides of a U are steep and not upright, as upright ones would run into what is beside them.
    profiles = {"V": inwards, "U": 1 - (1 - inwards) ** 4, "bead": np.sqrt(round_)}
    return np.asarray(profiles[stroke.profile])


def _apply_stroke(mesh: TriMesh, allowed: NDArray[np.bool_], stroke: BrushStroke) -> TriMesh | None:
    """The mesh after a stroke, as strong as its faces allow, or None."""
    free = np.zeros(len(mesh.vertices), dtype=bool)
    free[mesh.faces[allowed]] = True
    free[mesh.faces[~allowed]] = False
    reached = _reach(mesh.vertices, stroke)
    weight = np.where(free, _share_at(reached.away, stroke) * reached.pressure, 0.0)
    under = weight > 0
    if stroke.fence is not None and under.any():
        inwards = stroke.fence.inwards(mesh.vertices[under])
        weight[under] *= np.clip(inwards / (FADE_SHARE * stroke.radius), 0, 1)
        under = weight > 0
    if not under.any():
        return mesh
    touched = np.asarray(under[mesh.faces].any(axis=1))
    whole = stroke.tool == "carve" or (stroke.amount > 0 and stroke.tool in ("raise", "lower"))
    strength = 1.0 if whole else stroke.strength
    for _ in range(MOST_TRIES):
        points = _displacements(mesh, weight * strength, stroke, reached.place)
        moved = replace(mesh, vertices=points.astype(np.float32).astype(np.float64))
        moved.vertices[~under] = mesh.vertices[~under]
        flat = face_heights(TriMesh(moved.vertices, moved.faces[touched])).min() <= 0
        crossing = _new_crossings(mesh, moved, touched)
        if not flat and not len(crossing):
            return moved
        if flat or len(crossing) > FEW_SHARE * touched.sum():
            strength /= 2
            continue
        # Where a few faces cross, it is made weaker there alone.
        around = np.isin(mesh.faces, mesh.faces[np.unique(crossing)]).any(axis=1)
        weight[np.unique(mesh.faces[around])] *= 0.5
    return None


def _new_crossings(before: TriMesh, after: TriMesh, touched: NDArray[np.bool_]) -> _Ints:
    """Pairs of faces that cross and did not, (K, 2); models come with crossings of their own."""
    found = np.asarray(crossing_pairs(after, MOST_COMPARED, among=touched), dtype=np.int64)
    if not len(found):
        return found
    known = {frozenset(pair) for pair in crossing_pairs(before, MOST_COMPARED, among=touched).tolist()}
    return found[[frozenset(pair) not in known for pair in found.tolist()]]


def _displacements(mesh: TriMesh, weight: _Reals, stroke: BrushStroke, place: _Ints) -> _Reals:
    points = mesh.vertices.copy()
    under = np.flatnonzero(weight > 0)
    faces = mesh.faces.astype(np.int64)
    near = faces[(weight > 0)[faces].any(axis=1)]
    if stroke.tool == "smooth":
        return _evened(points, near, under, weight)
    if stroke.tool == "sharpen":
        even = _evened(points, near, under, np.ones_like(weight))
        return points + SHARPER * weight[:, np.newaxis] * (points - even)
    if stroke.tool == "pull":
        return points + weight[:, np.newaxis] * (stroke.places[-1] - stroke.places[0])
    corners = points[near]
    areas = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normals = np.zeros_like(points)
    for corner in range(3):
        np.add.at(normals, near[:, corner], areas)
    amount = stroke.amount or (LINE_SHARE if stroke.tool == "carve" else STEP_SHARE) * stroke.radius
    if stroke.tool == "carve":
        ways = _ways_along(stroke, points[under], normals[under], place[under])
        points[under] += (amount if stroke.profile == "bead" else -amount) * weight[under, np.newaxis] * ways
        return points
    if stroke.tool == "flatten":
        middle = (weight[under] @ points[under]) / weight[under].sum()
        out = weight[under] @ normals[under]
        out /= max(float(np.linalg.norm(out)), 1e-300)
        points[under] -= (weight[under] * ((points[under] - middle) @ out))[:, np.newaxis] * out
        return points
    # All go the way of the whole patch under the brush, so that walls do not swell sideways.
    out = weight[under] @ normals[under]
    out /= max(float(np.linalg.norm(out)), 1e-300)
    step = amount if stroke.tool == "raise" else -amount
    points[under] += (step * weight[under])[:, np.newaxis] * out
    return points


def _ways_along(stroke: BrushStroke, points: _Reals, normals: _Reals, place: _Ints) -> _Reals:
    """Which way a line goes in at every vertex, (V, 3) of length 1: that of the surface about where it is nearest.

    A line may run round the model; but what lies side by side goes the same way, so that wrinkles do not run into each
    other.
    """
    from scipy.ndimage import gaussian_filter1d

    line = _fill_in_stroke(stroke)[:, :3]
    ways = np.zeros((len(line), 3))
    np.add.at(ways, place, normals)
    if len(line) > 1:
        steps = np.diff(line, axis=0)
        lengths = np.maximum(np.linalg.norm(steps, axis=1), 1e-12)
        ways = gaussian_filter1d(ways, stroke.radius / float(np.median(lengths)), axis=0, mode="nearest")
        # Between two places the way goes over from the one to the other, so that no two neighbours are torn apart.
        ahead = np.minimum(place, len(steps) - 1)
        share = ((points - line[ahead]) * steps[ahead]).sum(axis=1) / lengths[ahead] ** 2
        behind = np.maximum(place - 1, 0)
        back = ((points - line[behind]) * steps[behind]).sum(axis=1) / lengths[behind] ** 2
        start, share = np.where(share >= 0, ahead, behind), np.clip(np.where(share >= 0, share, back), 0, 1)
        found = ways[start] + share[:, np.newaxis] * (ways[start + 1] - ways[start])
    else:
        found = ways[place]
    return np.asarray(found / np.maximum(np.linalg.norm(found, axis=1, keepdims=True), 1e-300))


def _evened(values: _Reals, near: _Ints, under: _Ints, weight: _Reals) -> _Reals:
    """Values of vertices, (V, 3), those `under` brought towards the mean of their neighbours' by their weight, a few
    times over."""
    values = values.copy()
    for _ in range(SMOOTHINGS):
        total, count = np.zeros_like(values), np.zeros(len(values))
        for one, two in ((0, 1), (1, 2), (2, 0)):
            for a, b in ((near[:, one], near[:, two]), (near[:, two], near[:, one])):
                np.add.at(total, a, values[b])
                np.add.at(count, a, 1)
        mean = total[under] / np.maximum(count[under], 1)[:, np.newaxis]
        values[under] += weight[under, np.newaxis] * (mean - values[under])
    return values
