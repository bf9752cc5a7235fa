"""Solids whose every side is known, made by revolving, joining and bending, to be seen from the front."""

from dataclasses import dataclass

import manifold3d
import numpy as np
from numpy.typing import NDArray

from nebrel.core.csg.boolean import mesh_of
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.place import at_origin
from nebrel.core.proof.from_above import heights_from_above

PIXELS = 384
SEGMENTS = 96

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
    """A hare, a jug, a snail and a branching creature."""
    return {"hare": seen(_hare()), "jug": seen(_jug()), "snail": seen(_snail()), "creature": seen(_creature())}


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


def _oval(x: float, y: float, z: float, wide: float, tall: float, deep: float, lean: float = 0.0) -> _Solid:
    return _Solid.sphere(1, SEGMENTS).scale((wide, tall, deep)).rotate((0, 0, lean)).translate((x, y, z))


def _hare() -> _Solid:
    parts = [
        _oval(0, 0, 0, 26, 34, 24), _oval(10, 40, 4, 17, 16, 15), _oval(4, 66, 0, 5, 20, 4, 8),
        _oval(18, 66, 6, 5, 20, 4, -10), _oval(22, -26, 14, 9, 13, 10), _oval(-8, -28, 16, 14, 10, 12),
        _oval(-26, -12, -8, 8, 8, 8), _oval(24, 36, 10, 6, 5, 5),
    ]  # fmt: skip
    return sum(parts[1:], parts[0])


def _jug() -> _Solid:
    turn = np.linspace(0, 1, 60)
    radius = 20 + 14 * np.sin(np.pi * (0.15 + 0.75 * turn)) - 8 * turn
    outline = manifold3d.CrossSection([np.column_stack([np.append(radius, [0, 0]), np.append(80 * turn, [80, 0])])])
    body = _Solid.revolve(outline, SEGMENTS).rotate((-90, 0, 0))
    ring = manifold3d.CrossSection.circle(4, 32).translate((16, 0))
    handle = _Solid.revolve(ring, SEGMENTS).translate((34, 44, 0))
    spout = _oval(-26, 74, 0, 10, 7, 6, 35)
    return body + handle + spout


def _snail() -> _Solid:
    shell = [
        _oval(14 - 0.3 * at, 34 + 0.2 * at, 0.4 * at, 26 - 3.4 * at, 26 - 3.4 * at, 13 - 0.6 * at) for at in range(6)
    ]
    foot = [_oval(0, 8, 0, 46, 8, 10), _oval(-40, 18, 0, 9, 16, 9, 20)]
    horns = [_oval(-46, 38, 5, 2.2, 11, 2.2, 12), _oval(-38, 39, -5, 2.2, 11, 2.2, -8)]
    parts = [*shell, *foot, *horns]
    return sum(parts[1:], parts[0])


def _creature(seed: int = 11) -> _Solid:
    """Limbs that branch to all sides, also towards the viewer."""
    rng = np.random.default_rng(seed)
    solid = _oval(0, 0, 0, 14, 18, 13)
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
