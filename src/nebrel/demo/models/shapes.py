"""Models to decorate, made by formula and closed: a pot, a dome stone, a ring band, a handle, a tile, a shell."""

import io
from collections.abc import Callable

import manifold3d
import numpy as np
from numpy.typing import NDArray

from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.formats.stl import write_stl

SIDES = 240
Points = NDArray[np.float64]


def make_planter() -> bytes:
    """A pot with a taper of 7.5°, 62 mm high, its wall 3 mm, with a rim and a drain."""
    outer = [(4, 0), (29, 0), (36.2, 55), (38.6, 55), (39.4, 62), (36.2, 62)]
    inner = [(34.4, 55), (26.1, 3), (4, 3)]
    return _stl(manifold3d.Manifold.revolve(manifold3d.CrossSection([np.array([*outer, *inner])]), SIDES))


def make_dome() -> bytes:
    """A garden stone, 90 by 76 mm and 34 mm high, flat below and a little uneven above."""
    ball = manifold3d.Manifold.sphere(1.0, 320)

    def stone(points: Points) -> Points:
        x, y, z = points.T
        swell = 1 + 0.035 * np.sin(3.1 * x + 1) * np.cos(2.7 * y) + 0.02 * np.sin(5.3 * y + 2 * x)
        return np.column_stack([45 * x * swell, 38 * y * swell, 36 * z * swell])

    solid = ball.warp_batch(stone)
    return _stl(solid.trim_by_plane((0.0, 0.0, 1.0), 2.0).translate((0, 0, -2)))


def make_band() -> bytes:
    """A ring band of 44 mm inside, 22 mm wide and 4 mm thick, rounded outside and at its edges."""
    angles = np.linspace(-np.pi / 2, np.pi / 2, 33)
    outside = np.column_stack([24.6 + 1.6 * np.cos(angles), 11 * np.sin(angles)])
    inside = np.array([(22.4, 10.6), (22.0, 10.0), (22.0, -10.0), (22.4, -10.6)])
    return _stl(manifold3d.Manifold.revolve(manifold3d.CrossSection([np.vstack([outside, inside])]), SIDES))


def make_handle() -> bytes:
    """A tool handle curved both ways, 120 mm long, thicker where the palm lies."""
    rod = manifold3d.Manifold.extrude(manifold3d.CrossSection.circle(1.0, 120), 1.0, 100)

    def curved(points: Points) -> Points:
        along = points[:, 2]
        palm = 11 + 4.5 * np.sin(np.pi * along) ** 2 - 2.5 * np.cos(2 * np.pi * along) * along
        ends = np.sqrt(np.clip(1 - (2 * along - 1) ** 12, 0.0, 1.0)) * 0.9 + 0.1
        y = points[:, 1] * palm * ends * 0.85 + 9 * np.sin(np.pi * along)
        return np.column_stack([points[:, 0] * palm * ends, y, 120 * along])

    return _stl(rod.warp_batch(curved))


def make_tile() -> bytes:
    """A wall tile of 80 by 80 by 8 mm with round corners and a bevel."""
    plate = manifold3d.CrossSection.square((72.0, 72.0), True).offset(
        4.0, manifold3d.JoinType.Round, circular_segments=64
    )
    lower = manifold3d.Manifold.extrude(plate, 6.5)
    upper = manifold3d.Manifold.extrude(plate, 1.5, scale_top=(73.5 / 76, 73.5 / 76)).translate((0, 0, 6.5))
    return _stl(lower + upper)


def make_shell() -> bytes:
    """A cockle-like shell, 84 mm wide, its ribs spreading from the hinge."""
    ball = manifold3d.Manifold.sphere(1.0, 480)

    def cockle(points: Points) -> Points:
        x, y, z = points.T
        spread = np.arctan2(x, y + 1.25)
        away = np.hypot(x, y + 1.25)
        rib = 0.045 * np.cos(22 * spread) * np.clip(away - 0.5, 0, 1) * np.clip(z, 0, 1)
        rings = 0.012 * np.cos(9 * away) * np.clip(z, 0, 1)
        high = 27 * z * (1 - 0.28 * y) * (1 + rib + rings)
        return np.column_stack([42 * x * (1 + 0.12 * y) * (1 + 0.3 * rib), 37 * y * (1 + 0.3 * rib), high])

    return _stl(ball.warp_batch(cockle).trim_by_plane((0.0, 0.0, 1.0), -3.0).translate((0, 0, 3)))


def _stl(solid: manifold3d.Manifold) -> bytes:
    made = solid.to_mesh64()
    mesh = TriMesh(np.asarray(made.vert_properties)[:, :3], np.asarray(made.tri_verts).astype(np.uint32))
    file = io.BytesIO()
    write_stl(mesh, file)
    return file.getvalue()


SHAPES: dict[str, Callable[[], bytes]] = {
    "planter": make_planter,
    "dome": make_dome,
    "band": make_band,
    "handle": make_handle,
    "tile": make_tile,
    "shell": make_shell,
}
