"""Solids whose every side is known, made by revolving, joining and bending, to be seen from the front."""

from dataclasses import dataclass

import manifold3d
import numpy as np
from numpy.typing import NDArray

from nebrel.core.csg.boolean import mesh_of
from nebrel.core.heightfield.from_above import heights_from_above
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.place import at_origin
from nebrel.demo.models.garden import GARDEN, oval, whole

PIXELS = 384

_Grid = NDArray[np.float64]
_Solid = manifold3d.Manifold


@dataclass(frozen=True)
class KnownSolid:
    """A solid, its lowest corner at the origin, and its two sides over a grid of pixels, top row first.

    Attributes:
        mesh: mm.
        front, back: float64 (H, W) mm over its furthest place behind; NaN beside it.
        mm_per_px: mm.
    """

    mesh: TriMesh
    front: _Grid
    back: _Grid
    mm_per_px: float

    @property
    def covered(self) -> NDArray[np.bool_]:
        """Bool (H, W)."""
        return np.isfinite(self.front)


def known_solids() -> dict[str, KnownSolid]:
    """The figures of Fernhollow's garden, and a branching creature."""
    return {**{name: seen(whole(parts())) for name, parts in GARDEN.items()}, "creature": seen(_creature())}


def seen(solid: _Solid) -> KnownSolid:
    """A solid looked at against Z."""
    mesh = at_origin(mesh_of(solid))
    tall = float(mesh.vertices[:, 2].max())
    front = heights_from_above(mesh, PIXELS)
    turned = TriMesh(mesh.vertices * [1, 1, -1] + [0, 0, tall], mesh.faces[:, ::-1])
    behind = heights_from_above(turned, PIXELS)
    there = front.material & behind.material
    room = ((8, 8), (8, 8))
    sides = (np.where(there, front.heights, np.nan), np.where(there, tall - behind.heights, np.nan))
    padded = [np.pad(side.astype(np.float64), room, constant_values=np.nan) for side in sides]
    return KnownSolid(mesh, padded[0], padded[1], front.pitch)


def _creature(seed: int = 11) -> _Solid:
    """Limbs that branch to all sides, also towards the viewer."""
    rng = np.random.default_rng(seed)
    solid = oval(0, 0, 0, 14, 18, 13)
    ends = [(np.zeros(3), direction) for direction in _directions(rng, 6)]
    for _ in range(2):
        further = []
        for start, direction in ends:
            end = start + direction * rng.uniform(20, 30)
            solid += _limb(start, end, 5.0)
            further += [(end, _unit(direction + 0.8 * rng.normal(size=3))) for _ in range(2)]
        ends = further
    return solid


def _limb(start: _Grid, end: _Grid, radius: float) -> _Solid:
    balls = [_Solid.sphere(radius, 32).translate(tuple(place)) for place in (start, end)]
    return _Solid.batch_hull(balls)


def _directions(rng: np.random.Generator, count: int) -> list[_Grid]:
    return [_unit(each) for each in rng.normal(size=(count, 3))]


def _unit(vector: _Grid) -> _Grid:
    return np.asarray(vector / np.linalg.norm(vector))
