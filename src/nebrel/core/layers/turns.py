"""Which side of a solid should lie on the plate: candidates, what each would take, and which is best by whose weights.

What each takes is estimated from its faces alone, so that dozens are compared in a moment; those that are chosen are
cut into layers afterwards.
"""

from dataclasses import astuple, dataclass, fields, replace

import manifold3d
import numpy as np
from numpy.typing import NDArray
from scipy.spatial import ConvexHull, QhullError

from nebrel.core.csg.boolean import solid_of
from nebrel.core.errors import BadMeshError
from nebrel.core.jit import compiled
from nebrel.core.layers.slices import FLAT
from nebrel.core.layers.support import STEEPEST_DEG
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.measure import volume
from nebrel.core.mesh.pose import turn_onto

# Sides of the hull that are looked at, the largest first, and how nearly alike two directions are one: cosine.
MOST_SIDES, ALIKE = 12, float(np.cos(np.radians(4)))
# What is this near to the plate stands on it, in layers.
STANDING = 0.5
# Sides that look this much into the direction from which it is seen show: cosine.
SHOWN = 0.2


@dataclass(frozen=True)
class TurnWeights:
    """How much each counts; none of them at 0."""

    support: float = 1.0
    height: float = 0.3
    footprint: float = 0.4
    wobble: float = 0.6
    steps: float = 0.4
    scars: float = 0.5


@dataclass(frozen=True)
class Turn:
    """A solid turned so that another side is below.

    Attributes:
        down: unit direction of the solid that points at the plate.
        support_mm3: below undersides that are too steep, down to the plate.
        height_mm: of what is printed.
        footprint_mm2: what lies on the plate.
        tips_deg: how far it could be tilted before it falls; 0 where it does not stand.
        steps_mm: how high steps of layers stand out on slopes, on average over the sides that show.
        scars_mm2: what of them support would touch.
        score: what counts against it, 0 for the best in all.
        own: whether it is as the solid came.
    """

    down: tuple[float, float, float]
    support_mm3: float
    height_mm: float
    footprint_mm2: float
    tips_deg: float
    steps_mm: float
    scars_mm2: float
    score: float
    own: bool

    @property
    def matrix(self) -> NDArray[np.float64]:
        """Turns the solid so, float64 (3, 3); the least turn that does."""
        return turn_to(np.array(self.down))


def turn_to(down: NDArray[np.float64]) -> NDArray[np.float64]:
    """The least turn that lets a direction point straight down, float64 (3, 3)."""
    return turn_onto(down, np.array([0.0, 0.0, -1.0]))


def ranked_turns(
    mesh: TriMesh,
    layer: float,
    weights: TurnWeights | None = None,
    steepest_deg: float = STEEPEST_DEG,
    show: tuple[float, float, float] | None = None,
) -> list[Turn]:
    """All candidates, the best first: as the solid came, the sides of its hull, and 26 directions of a sphere.

    Args:
        mesh: closed, mm.
        layer: mm that a layer is high.
        weights: how much each measure counts.
        steepest_deg: from upright, up to which layers hold each other.
        show: unit direction that sides look into which are seen; None where all are.

    Raises:
        BadMeshError: it is empty, or open.
    """
    return ranked(measured_turns(mesh, layer, steepest_deg, show), weights)


def measured_turns(
    mesh: TriMesh,
    layer: float,
    steepest_deg: float = STEEPEST_DEG,
    show: tuple[float, float, float] | None = None,
    also: tuple[float, float, float] | None = None,
) -> list[Turn]:
    """The candidates of `ranked_turns` as they come, the present one first, without scores.

    Args:
        mesh, layer, steepest_deg, show: as there.
        also: a direction that is a candidate besides.
    """
    if not len(mesh.faces) or solid_of(mesh).status() != manifold3d.Error.NoError:
        raise BadMeshError("The mesh is not closed, so how it would stand cannot be told; repair it first.")
    downs = _candidates(mesh, also)
    measures = _measured(mesh, downs, layer, steepest_deg, show)
    own = np.array([0.0, 0.0, -1.0])
    return [
        Turn(
            down=(float(down[0]), float(down[1]), float(down[2])),
            support_mm3=float(row[0]),
            height_mm=float(row[1]),
            footprint_mm2=float(row[2]),
            tips_deg=float(row[3]),
            steps_mm=float(row[4]),
            scars_mm2=float(row[5]),
            score=0.0,
            own=bool(np.dot(down, own) > 1 - 1e-9),
        )
        for down, row in zip(downs, measures, strict=True)
    ]


def ranked(turns: list[Turn], weights: TurnWeights | None = None) -> list[Turn]:
    """Turns with their scores by some weights, the best first."""
    bad = _badness(
        np.array(
            [
                (turn.support_mm3, turn.height_mm, turn.footprint_mm2, turn.tips_deg, turn.steps_mm, turn.scars_mm2)
                for turn in turns
            ]
        )
    )
    weight = np.array(astuple(weights or TurnWeights()))
    scores = bad @ weight / max(float(weight.sum()), 1e-9)
    found = [replace(turn, score=float(score)) for turn, score in zip(turns, scores, strict=True)]
    # Of equals the one as it came, so that nothing is turned for nothing.
    return sorted(found, key=lambda turn: (round(turn.score, 6), not turn.own))


def _candidates(mesh: TriMesh, also: tuple[float, float, float] | None) -> NDArray[np.float64]:
    """Directions that could point down, unit float64 (D, 3); the present one first."""
    steps = (-1, 0, 1)
    sphere = np.array([(x, y, z) for x in steps for y in steps for z in steps if x or y or z], dtype=float)
    sphere /= np.linalg.norm(sphere, axis=1)[:, np.newaxis]
    directions = [_hull_sides(mesh), sphere]
    own = np.array([0.0, 0.0, -1.0])
    kept = [own] if also is None or float(np.dot(also, own)) > 1 - 1e-9 else [own, np.array(also)]
    for direction in np.concatenate(directions):
        if all(float(np.dot(direction, other)) < ALIKE for other in kept):
            kept.append(direction)
    return np.array(kept)


def _hull_sides(mesh: TriMesh) -> NDArray[np.float64]:
    """Outward directions of the largest sides of the hull, float64 (K, 3)."""
    points = mesh.vertices[np.unique(mesh.faces)]
    try:
        hull = ConvexHull(points)
    except QhullError:
        return np.empty((0, 3))
    corners = points[hull.simplices]
    areas = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1) / 2
    normals = hull.equations[:, :3]
    sides: list[NDArray[np.float64]] = []
    sums: list[float] = []
    for at in np.argsort(-areas):
        same = next((k for k, side in enumerate(sides) if float(np.dot(side, normals[at])) > 1 - 1e-6), None)
        if same is None:
            sides.append(normals[at])
            sums.append(float(areas[at]))
        else:
            sums[same] += float(areas[at])
        if len(sides) > 40 * MOST_SIDES:
            break
    return np.array([sides[at] for at in np.argsort(sums)[::-1][:MOST_SIDES]]).reshape(-1, 3)


def _measured(
    mesh: TriMesh,
    downs: NDArray[np.float64],
    layer: float,
    steepest_deg: float,
    show: tuple[float, float, float] | None,
) -> NDArray[np.float64]:
    """Support, height, footprint, how far it tips, steps and scars, for each direction, float64 (D, 6)."""
    corners = mesh.vertices[mesh.faces]
    doubled = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    length = np.linalg.norm(doubled, axis=1)
    areas, normals = length / 2, doubled / np.maximum(length, 1e-300)[:, np.newaxis]
    used = np.zeros(len(mesh.vertices), dtype=bool)
    used[mesh.faces.ravel()] = True
    points = mesh.vertices[used]
    along = points @ downs.T
    lowest, highest = along.max(axis=0), along.min(axis=0)
    steep = float(np.sin(np.radians(steepest_deg)))
    seen = np.ones(len(areas)) if show is None else (normals @ np.array(show) > SHOWN).astype(np.float64)
    sums = _sums(normals, areas, seen, corners.mean(axis=1), downs, lowest, steep, STANDING * layer, FLAT)
    heavy = _middle_of_mass(mesh, corners, doubled)
    tips = [
        _tips(points[along[:, at] > lowest[at] - STANDING * layer], down, float(lowest[at]), heavy)
        for at, down in enumerate(downs)
    ]
    steps = layer * sums[:, 2] / max(float(areas @ seen), 1e-12)
    return np.column_stack([sums[:, 0], lowest - highest, sums[:, 1], tips, steps, sums[:, 3]])


@compiled
def _sums(normals, areas, seen, middles, downs, lowest, steep, near, flat):
    """For each direction: below undersides that do not hold themselves, mm³; what lies on the plate, mm²; how much of
    what is seen slopes, by how much, and what of it support would touch, mm². What lies on the plate does not hang;
    faces that lie or stand have no steps.
    """
    sums = np.zeros((len(downs), 4))
    for face in range(len(areas)):
        nx, ny, nz = normals[face, 0], normals[face, 1], normals[face, 2]
        x, y, z = middles[face, 0], middles[face, 1], middles[face, 2]
        area = areas[face]
        for at in range(len(downs)):
            dx, dy, dz = downs[at, 0], downs[at, 1], downs[at, 2]
            facing = nx * dx + ny * dy + nz * dz
            if facing > steep + 1e-6:
                above = lowest[at] - (x * dx + y * dy + z * dz)
                if above > near:
                    sums[at, 0] += area * facing * above
                    sums[at, 3] += area * seen[face]
                elif facing > flat:
                    sums[at, 1] += area * facing
            slope = abs(facing)
            if 1e-3 < slope < flat:
                sums[at, 2] += area * slope * seen[face]
    return sums


def _badness(measures: NDArray[np.float64]) -> NDArray[np.float64]:
    """What counts against each, 0 to 1 among the candidates, in the order of `TurnWeights`, float64 (D, 6)."""
    assert measures.shape[1] == len(fields(TurnWeights))
    support, height, footprint, tips, steps, scars = measures.T
    worse = np.column_stack([support, height, -np.sqrt(footprint), -np.minimum(tips, 45.0), steps, scars])
    low, high = worse.min(axis=0), worse.max(axis=0)
    spread = np.where(high - low > 1e-9 * np.maximum(np.abs(high), 1e-9), high - low, np.inf)
    return np.asarray((worse - low) / spread)


def _middle_of_mass(mesh: TriMesh, corners: NDArray[np.float64], doubled: NDArray[np.float64]) -> NDArray[np.float64]:
    held = volume(mesh)
    if abs(held) < 1e-12:
        return np.asarray(corners.mean(axis=(0, 1)))
    parts = np.einsum("ij,ij->i", corners[:, 0], doubled) / 6
    return np.asarray((parts[:, np.newaxis] * corners.sum(axis=1) / 4).sum(axis=0) / held)


def _tips(standing: NDArray[np.float64], down: NDArray[np.float64], low: float, heavy: NDArray[np.float64]) -> float:
    """How far it could be tilted before it falls over the edge of the points that it stands on, degrees."""
    matrix = turn_to(down)
    flat = (standing @ matrix.T)[:, :2]
    x, y, z = (matrix @ heavy).tolist()
    up = z + low
    if len(flat) < 3:
        return 0.0
    try:
        edges = ConvexHull(flat).equations
    except QhullError:
        return 0.0
    inside = -(edges[:, :2] @ np.array([x, y]) + edges[:, 2]).max()
    return float(np.degrees(np.arctan2(max(float(inside), 0.0), max(up, 1e-9))))
