"""Where parts come to stand."""

import math

import numpy as np
from numpy.typing import NDArray

from nebrel.core.csg.put_together import placed
from nebrel.core.heightfield.from_above import heights_over
from nebrel.core.mesh import TriMesh
from nebrel.piece.kinds.assembly.document import PlacedPart

LOOKED_PX = 360


def stood(part: PlacedPart, mesh: TriMesh, below: list[TriMesh]) -> list[TriMesh]:
    """A part, and its copies, where they stand.

    Args:
        part: says where.
        mesh: of its source, in any place.
        below: what stands already.
    """
    return [_stood_at(part, mesh, below, at, turn) for at, turn in _places(part)]


def _places(part: PlacedPart) -> list[tuple[tuple[float, float], float]]:
    """Places of all copies, x and y in mm, and how far each is turned upright, degrees."""
    if part.copies == 1:
        return [((part.x_mm, part.y_mm), 0.0)]
    if part.spread == "row":
        return [((part.x_mm + at * part.step_x_mm, part.y_mm + at * part.step_y_mm), 0.0) for at in range(part.copies)]
    found = []
    for at in range(part.copies):
        turn = 2 * math.pi * at / part.copies
        cosine, sine = math.cos(turn), math.sin(turn)
        x, y = part.x_mm * cosine - part.y_mm * sine, part.x_mm * sine + part.y_mm * cosine
        found.append(((x, y), math.degrees(turn)))
    return found


def _stood_at(part: PlacedPart, mesh: TriMesh, below: list[TriMesh], at: tuple[float, float], turn: float) -> TriMesh:
    turns = (part.turn_x_deg, part.turn_y_deg, part.turn_z_deg + turn)
    free = placed(mesh, (*at, part.z_mm if part.stands == "free" else 0.0), turns, part.scale)
    if part.stands == "free" or not below:
        return free
    rise = _rise_onto(free, below, all_in=part.stands == "into") - part.sink_mm
    return TriMesh(free.vertices + np.array([0.0, 0.0, rise]), free.faces, free.colours, free.corner_colours)


def _rise_onto(mesh: TriMesh, below: list[TriMesh], all_in: bool) -> float:
    """How far up a mesh goes so that it touches what is below; or so that all of its foot just lies in it, mm.

    Both are looked at over a grid, its underside from below. Where nothing is below it, it stands on the ground.
    """
    low, high = mesh.vertices.min(axis=0), mesh.vertices.max(axis=0)
    box = (float(low[0]), float(low[1]), float(high[0]), float(high[1]))
    under = -heights_over(TriMesh(mesh.vertices * (1, 1, -1), mesh.faces[:, ::-1]), box, LOOKED_PX)
    over = np.full(under.shape, -np.inf)
    for other in below:
        over = np.maximum(over, heights_over(other, box, LOOKED_PX))
    both = np.isfinite(under) & np.isfinite(over)
    if not both.any():
        return float(-low[2])
    gaps: NDArray[np.float64] = (over - under)[both]
    if not all_in:
        return float(gaps.max())
    foot = under[both] <= low[2] + 1e-3 * max(1.0, float(high[2] - low[2]))
    return float(gaps[foot].min()) if foot.any() else float(gaps.max())
