"""Fernhollow's garden figures as solids: what is drawn from them has a front and a back that are known."""

from collections.abc import Callable
from dataclasses import dataclass

import manifold3d
import numpy as np

from nebrel.core.csg.boolean import mesh_of
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.place import at_origin

SEGMENTS = 96
Colour = tuple[int, int, int]

SAND, SNOW, NIGHT, CLAY, GLAZE, MOSS, SHELL, STRAW, BARK = (
    (188, 152, 106), (236, 230, 218), (44, 42, 48), (176, 98, 66), (74, 112, 128),
    (132, 138, 84), (150, 92, 58), (218, 166, 70), (116, 84, 58),
)  # fmt: skip


@dataclass(frozen=True)
class GardenPart:
    """A part of a figure: a solid, X right, Y up and Z towards the viewer, and what it is painted."""

    solid: manifold3d.Manifold
    colour: Colour


def oval(x: float, y: float, z: float, wide: float, tall: float, deep: float, lean: float = 0.0) -> manifold3d.Manifold:
    """An ellipsoid of three half widths, leaning by so many degrees."""
    return manifold3d.Manifold.sphere(1, SEGMENTS).scale((wide, tall, deep)).rotate((0, 0, lean)).translate((x, y, z))


def hare() -> list[GardenPart]:
    """A hare that sits and looks aside."""
    coat = [
        oval(0, 0, 0, 26, 34, 24), oval(10, 40, 4, 17, 16, 15), oval(4, 66, 0, 5, 20, 4, 8),
        oval(18, 66, 6, 5, 20, 4, -10), oval(22, -26, 14, 9, 13, 10), oval(-8, -28, 16, 14, 10, 12),
    ]  # fmt: skip
    return [
        *(GardenPart(each, SAND) for each in coat),
        GardenPart(oval(-26, -12, -8, 8, 8, 8), SNOW),
        GardenPart(oval(24, 36, 10, 6, 5, 5), SNOW),
    ]


def jug() -> list[GardenPart]:
    """A jug with a handle and a spout."""
    turn = np.linspace(0, 1, 60)
    radius = 20 + 14 * np.sin(np.pi * (0.15 + 0.75 * turn)) - 8 * turn
    outline = manifold3d.CrossSection([np.column_stack([np.append(radius, [0, 0]), np.append(80 * turn, [80, 0])])])
    body = manifold3d.Manifold.revolve(outline, SEGMENTS).rotate((-90, 0, 0))
    ring = manifold3d.CrossSection.circle(4, 32).translate((16, 0))
    handle = manifold3d.Manifold.revolve(ring, SEGMENTS).translate((34, 44, 0))
    return [GardenPart(body, GLAZE), GardenPart(handle, CLAY), GardenPart(oval(-26, 74, 0, 10, 7, 6, 35), CLAY)]


def snail() -> list[GardenPart]:
    """A snail with a shell of growing turns."""
    wide = [26 - 3.4 * at for at in range(6)]
    turns = [oval(14 - 0.3 * at, 34 + 0.2 * at, 2.2 * at, r, r, 13 - 0.6 * at) for at, r in enumerate(wide)]
    foot = [oval(0, 8, 0, 46, 8, 10), oval(-40, 18, 0, 9, 16, 9, 20)]
    horns = [oval(-46, 38, 5, 2.2, 11, 2.2, 12), oval(-38, 39, -5, 2.2, 11, 2.2, -8)]
    return [
        *(GardenPart(each, SHELL if at % 2 == 0 else STRAW) for at, each in enumerate(turns)),
        *(GardenPart(each, MOSS) for each in (*foot, *horns)),
    ]


def owlet() -> list[GardenPart]:
    """A little owl whose wings lie before its body."""
    body = [oval(0, 0, 0, 26, 34, 22), oval(0, 34, 2, 24, 19, 20)]
    ears = [oval(side * 17, 52, 0, 5, 10, 5, side * -18) for side in (-1, 1)]
    wings = [oval(side * 22, 0, 8, 10, 26, 16, side * 8) for side in (-1, 1)]
    eyes = [oval(side * 10, 38, 17, 8, 8, 5) for side in (-1, 1)]
    pupils = [oval(side * 10, 38, 21, 4, 4, 2.5) for side in (-1, 1)]
    return [
        *(GardenPart(each, BARK) for each in (*body, *ears)),
        *(GardenPart(each, SHELL) for each in wings),
        *(GardenPart(each, SNOW) for each in eyes),
        *(GardenPart(each, NIGHT) for each in pupils),
        GardenPart(oval(0, 30, 20, 4, 6, 6), STRAW),
        *(GardenPart(oval(side * 9, -34, 8, 8, 5, 12), STRAW) for side in (-1, 1)),
    ]


GARDEN: dict[str, Callable[[], list[GardenPart]]] = {"hare": hare, "jug": jug, "snail": snail, "owlet": owlet}


def whole(parts: list[GardenPart]) -> manifold3d.Manifold:
    """All parts as one solid."""
    return manifold3d.Manifold.batch_boolean([each.solid for each in parts], manifold3d.OpType.Add)


def garden_mesh(name: str) -> TriMesh:
    """A figure of the garden, its lowest corner at the origin, mm."""
    return at_origin(mesh_of(whole(GARDEN[name]())))
