"""A brush on decorated skin: smoothing, raising, lowering and flattening by hand, within the decorations only."""

from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.crossings import crossing_pairs
from nebrel.core.mesh.measure import face_heights

Tool = Literal["smooth", "raise", "lower", "flatten"]
FINE_SHARE = 0.25
MOST_ROUNDS = 5
SMOOTHINGS = 4
STEP_SHARE = 0.08
MOST_TRIES = 4
MOST_NEW_FACES = 2_000_000
_Reals = NDArray[np.float64]
_Ints = NDArray[np.int64]


@dataclass(frozen=True)
class BrushStroke:
    """One stroke.

    Attributes:
        tool: what it does.
        places: float64 (K, 3) mm along it.
        radius: mm; the brush fades out to nothing there.
        strength: 0 to 1.
    """

    tool: Tool
    places: _Reals
    radius: float
    strength: float


@dataclass(frozen=True)
class Sculpted:
    """A mesh after strokes.

    Attributes:
        mesh: faces outside the decorations are as they were, and come in the same order.
        of_face: int64 (M,): the face of the mesh before that every face lies in.
        left_out: numbers of strokes that would have made the surface cross itself however weak they were.
    """

    mesh: TriMesh
    of_face: _Ints
    left_out: tuple[int, ...]


def sculpt(mesh: TriMesh, decorated: NDArray[np.bool_], strokes: list[BrushStroke]) -> Sculpted:
    """Strokes on a mesh, one after the other.

    Vertices move that only decorated faces meet in, so the border of a decoration stays where it is and the mesh stays
    as closed as it was. Faces under the brush are made finer first. A stroke after which faces would cross is made
    weaker, and left out when that does not help.

    Args:
        mesh: a decorated model.
        decorated: bool (M,), which faces belong to decorations.
        strokes: in their order.
    """
    of_face, left_out = np.arange(len(mesh.faces)), []
    for number, stroke in enumerate(strokes):
        finer, parent = _finer_under(mesh, decorated, stroke)
        moved = _apply_stroke(finer, decorated[parent], stroke)
        if moved is None:
            left_out.append(number)
            continue
        mesh, of_face, decorated = moved, of_face[parent], decorated[parent]
    return Sculpted(mesh, of_face, tuple(left_out))


def _away(points: _Reals, stroke: BrushStroke) -> _Reals:
    """Distance of points from the places of a stroke, infinite beyond its radius."""
    from scipy.spatial import cKDTree

    away, _ = cKDTree(_fill_in_stroke(stroke)).query(points, distance_upper_bound=stroke.radius)
    return np.asarray(away, dtype=np.float64)


def _fill_in_stroke(stroke: BrushStroke) -> _Reals:
    """The places of a stroke with others between them, a quarter of its radius apart."""
    places = stroke.places
    if len(places) < 2:
        return places
    parts = [places[:1]]
    for start, end in pairwise(places):
        count = max(1, int(np.ceil(np.linalg.norm(end - start) / (0.25 * stroke.radius))))
        parts.append(start + (np.arange(1, count + 1) / count)[:, np.newaxis] * (end - start))
    return np.vstack(parts)


def _finer_under(mesh: TriMesh, decorated: NDArray[np.bool_], stroke: BrushStroke) -> tuple[TriMesh, _Ints]:
    """Sides between decorated faces under the brush halved until they are short beside its radius."""
    parent = np.arange(len(mesh.faces))
    for _ in range(MOST_ROUNDS):
        faces = mesh.faces.astype(np.int64)
        starts, ends = faces, np.roll(faces, -1, axis=1)
        low, high = np.minimum(starts, ends), np.maximum(starts, ends)
        edges, of_side = np.unique(low.ravel() * len(mesh.vertices) + high.ravel(), return_inverse=True)
        of_side = of_side.reshape(-1, 3)
        a, b = edges // len(mesh.vertices), edges % len(mesh.vertices)
        inner = np.ones(len(edges), dtype=bool)
        inner[of_side[~decorated[parent]].ravel()] = False
        middles = (mesh.vertices[a] + mesh.vertices[b]) / 2
        length = np.linalg.norm(mesh.vertices[b] - mesh.vertices[a], axis=1)
        near = _away(middles, replace(stroke, radius=stroke.radius + float(length.max()))) <= stroke.radius + length / 2
        split = inner & near & (length > FINE_SHARE * stroke.radius)
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


def _apply_stroke(mesh: TriMesh, decorated: NDArray[np.bool_], stroke: BrushStroke) -> TriMesh | None:
    """The mesh after a stroke, as strong as its faces allow, or None."""
    free = np.zeros(len(mesh.vertices), dtype=bool)
    free[mesh.faces[decorated]] = True
    free[mesh.faces[~decorated]] = False
    away = _away(mesh.vertices, stroke)
    share = np.clip(1 - (np.where(np.isfinite(away), away, stroke.radius) / stroke.radius) ** 2, 0, 1) ** 2
    weight = np.where(free, share, 0.0)
    under = weight > 0
    if not under.any():
        return mesh
    touched = np.asarray(under[mesh.faces].any(axis=1))
    strength = stroke.strength
    for _ in range(MOST_TRIES):
        points = _displacements(mesh, weight * strength, stroke)
        moved = replace(mesh, vertices=points.astype(np.float32).astype(np.float64))
        moved.vertices[~under] = mesh.vertices[~under]
        flat = face_heights(TriMesh(moved.vertices, moved.faces[touched])).min() <= 0
        if not flat and not len(crossing_pairs(moved, 1, among=touched)):
            return moved
        strength /= 2
    return None


def _displacements(mesh: TriMesh, weight: _Reals, stroke: BrushStroke) -> _Reals:
    points = mesh.vertices.copy()
    under = np.flatnonzero(weight > 0)
    faces = mesh.faces.astype(np.int64)
    near = faces[(weight > 0)[faces].any(axis=1)]
    if stroke.tool == "smooth":
        for _ in range(SMOOTHINGS):
            total, count = np.zeros_like(points), np.zeros(len(points))
            for one, two in ((0, 1), (1, 2), (2, 0)):
                for a, b in ((near[:, one], near[:, two]), (near[:, two], near[:, one])):
                    np.add.at(total, a, points[b])
                    np.add.at(count, a, 1)
            mean = total[under] / np.maximum(count[under], 1)[:, np.newaxis]
            points[under] += weight[under, np.newaxis] * (mean - points[under])
        return points
    corners = points[near]
    areas = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normals = np.zeros_like(points)
    for corner in range(3):
        np.add.at(normals, near[:, corner], areas)
    if stroke.tool == "flatten":
        middle = (weight[under] @ points[under]) / weight[under].sum()
        out = weight[under] @ normals[under]
        out /= max(float(np.linalg.norm(out)), 1e-300)
        points[under] -= (weight[under] * ((points[under] - middle) @ out))[:, np.newaxis] * out
        return points
    # All go the way of the whole patch under the brush, so that walls do not swell sideways.
    out = weight[under] @ normals[under]
    out /= max(float(np.linalg.norm(out)), 1e-300)
    step = STEP_SHARE * stroke.radius * (1 if stroke.tool == "raise" else -1)
    points[under] += (step * weight[under])[:, np.newaxis] * out
    return points
