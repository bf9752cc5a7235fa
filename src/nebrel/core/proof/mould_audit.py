"""Whether a finished mould holds what it was made for, by places and faces of its meshes and of the solid."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nebrel.core.heightfield.from_above import heights_over
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.distance import distances_to
from nebrel.core.mould.build import Mould
from nebrel.core.mould.halves import Half

# Places looked at lie between those that the mould was made from.
OFF, MOST_PLACES = 0.37, 20_000
COUNTED_DEEP_MM, COUNTED_AREA = 0.02, 0.995


@dataclass(frozen=True)
class MouldFacts:
    """What was measured.

    Attributes:
        shallower_mm: how far the solid reaches into the mould at the most, to the nearest place of the cavity.
        least_draft_deg: how far walls of the cavity lean at least, but for 0.5 % of its area.
        holds_mm3: what it takes to fill it, its channel included.
        filled_mm3: of that, what the solid does not have: undercuts that are filled, draft, and the channel.
    """

    shallower_mm: float
    least_draft_deg: float
    holds_mm3: float
    filled_mm3: float


def measure_mould(mould: Mould, solid: TriMesh, floor: float) -> MouldFacts:
    """Look at a finished mould.

    Args:
        mould: the finished one.
        solid: what it was made for, as it was given.
        floor: of the mould, mm.
    """
    shallower, drafts, areas, holds, own = 0.0, [], [], 0.0, 0.0
    for number, (half, (_, mesh)) in enumerate(zip(mould.halves, mould.parts, strict=True)):
        moved = TriMesh(mesh.vertices - (float(mesh.vertices[:, 0].min()), 0.0, 0.0), mesh.faces)
        deep, asked = _depths(half, moved, floor), _depths_of_solid(mould, half, solid, number == 0)
        shallower = max(shallower, _reach(half, moved, floor, asked, deep))
        open_ = np.where(half.keyed[:-1, :-1], 0.0, np.maximum(deep, 0.0))
        holds += float(open_.sum()) * half.field.pitch**2
        own += float(asked.sum()) * half.field.pitch**2
        lean, area = _leaning(half, moved, floor)
        drafts.append(lean)
        areas.append(area)
    return MouldFacts(shallower, _least(np.concatenate(drafts), np.concatenate(areas)), holds, max(0.0, holds - own))


def _reach(half: Half, mesh: TriMesh, floor: float, asked: NDArray[np.float64], deep: NDArray[np.float64]) -> float:
    """How far places of the solid that lie within the mould are from the cavity, mm at the most."""
    short = np.where((asked > 0) & ~half.keyed[:-1, :-1], asked - deep, 0.0)
    row, column = np.nonzero(short > 0)
    if not len(row):
        return 0.0
    # Where there are very many, those are looked at that lie deepest under the surface.
    order = np.argsort(-short[row, column])[:MOST_PLACES]
    row, column = row[order], column[order]
    rows, pitch = half.field.heights.shape[0], half.field.pitch
    x, y = (column + OFF) * pitch, (rows - 2 - row + OFF) * pitch
    places = np.column_stack([x, y, half.parting + floor - asked[row, column]])
    return float(distances_to(mesh, places).max())


def _box(half: Half) -> tuple[tuple[float, float, float, float], int]:
    """Places between the samples of a half: their box, and how many lie along its longer side."""
    rows, columns = half.field.heights.shape
    pitch = half.field.pitch
    box = (OFF * pitch, OFF * pitch, (columns - 2 + OFF) * pitch, (rows - 2 + OFF) * pitch)
    return box, max(rows, columns) - 1


def _depths(half: Half, mesh: TriMesh, floor: float) -> NDArray[np.float64]:
    box, longest = _box(half)
    return half.parting + floor - heights_over(mesh, box, longest)


def _depths_of_solid(mould: Mould, half: Half, solid: TriMesh, front: bool) -> NDArray[np.float64]:
    """How deep the solid reaches at the same places, 0 beside it."""
    (left, low, right, high), longest = _box(half)
    cavity = mould.cavity
    x, y = cavity.corner
    plane = float(solid.vertices[:, 2].min()) + cavity.plane
    if front:
        # Seen from the cavity left and right have changed places.
        across = half.field.width
        box = (x + across - right, y + low, x + across - left, y + high)
        over = heights_over(solid, box, longest)[:, ::-1] - plane
    else:
        box = (x + left, y + low, x + right, y + high)
        turned = TriMesh(solid.vertices * (1, 1, -1), solid.faces[:, ::-1])
        over = heights_over(turned, box, longest) + plane
    return np.where(np.isfinite(over), np.maximum(over, 0.0), 0.0)


def _leaning(half: Half, mesh: TriMesh, floor: float) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Of every face of the cavity: how far it leans from the way that casts are pulled, degrees, and its area."""
    corners = mesh.corners
    crossed = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    twice = np.linalg.norm(crossed, axis=1)
    middles = corners.mean(axis=1)
    rows, pitch = half.field.heights.shape[0], half.field.pitch
    row = np.clip(np.round(rows - 1 - middles[:, 1] / pitch), 0, rows - 1).astype(int)
    column = np.clip(np.round(middles[:, 0] / pitch), 0, half.field.heights.shape[1] - 1).astype(int)
    inside = (middles[:, 0] > 0) & (middles[:, 0] < half.field.width)
    inside &= (middles[:, 1] > 0) & (middles[:, 1] < half.field.depth)
    deep = half.parting + floor - middles[:, 2] > COUNTED_DEEP_MM
    off_floor = corners[:, :, 2].min(axis=1) > 0
    counted = inside & deep & off_floor & (twice > 1e-12) & ~half.keyed[row, column]
    upright = crossed[counted, 2] / twice[counted]
    return np.degrees(np.arcsin(np.clip(upright, -1, 1))), twice[counted] / 2


def _least(lean: NDArray[np.float64], area: NDArray[np.float64]) -> float:
    if not len(lean):
        return 90.0
    order = np.argsort(lean)
    above = np.cumsum(area[order]) >= (1 - COUNTED_AREA) * area.sum()
    return float(lean[order][int(above.argmax())])
