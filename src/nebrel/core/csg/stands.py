"""Ready parts to set things on: plates, discs, plinths with raised letters, pegs, easel feet."""

import math
from typing import Literal

import manifold3d
import numpy as np
from numpy.typing import NDArray

from nebrel.core.csg.boolean import cleanup
from nebrel.core.errors import BadValueError
from nebrel.core.mesh import TriMesh

StandShape = Literal["plate", "disc", "plinth", "peg", "easel"]
CHORD = 0.02
SLACK = 1e-3
# Letters reach so far into what they stand on.
OVERLAP = 0.01
EASEL_GROOVE = 0.2


def make_stand(
    shape: StandShape,
    size: tuple[float, float, float],
    letters: tuple[NDArray[np.float64], ...] = (),
    raised: float = 1.0,
) -> TriMesh:
    """A ready part, the middle of its foot at the origin.

    Args:
        shape: which one. A plinth is stepped and bevelled; a peg tapers at its upper end; an easel foot has a groove
            that leans back by 15 degrees.
        size: width, depth and height of its body, mm.
        letters: closed runs float64 (N, 2) mm about the middle of its front (plinth) or face (plate, disc), filled
            where they wind round.
        raised: how far they stand out, mm.

    Raises:
        BadValueError: a side is too small for it.
    """
    wide, deep, tall = size
    if min(size) < 0.2:
        raise BadValueError(f"The part is {wide:g} × {deep:g} × {tall:g} mm; at least 0.2 mm a side would be accepted.")
    body = {"plate": _plate, "disc": _disc, "plinth": _plinth, "peg": _peg, "easel": _easel}[shape](wide, deep, tall)
    if letters:
        runs = [run.tolist() for run in letters]
        flat = manifold3d.CrossSection(runs, manifold3d.FillRule.NonZero)
        solid = manifold3d.Manifold.extrude(flat, raised + OVERLAP)
        if shape == "plinth":
            solid = solid.rotate((90, 0, 0)).translate((0, OVERLAP + _plinth_step(*size) - deep / 2, tall / 2))
        else:
            solid = solid.translate((0, 0, tall - OVERLAP))
        body = body + solid
    return cleanup(body, SLACK)


def _segments(radius: float) -> int:
    sides = math.ceil(math.pi / math.acos(max(0.0, 1 - CHORD / max(radius, CHORD))))
    # Quarters alike reach the asked width and depth exactly.
    return 4 * max(6, math.ceil(sides / 4))


def _plate(wide: float, deep: float, tall: float) -> manifold3d.Manifold:
    return manifold3d.Manifold.cube((wide, deep, tall), True).translate((0, 0, tall / 2))


def _disc(wide: float, deep: float, tall: float) -> manifold3d.Manifold:
    round_ = manifold3d.Manifold.cylinder(tall, wide / 2, wide / 2, _segments(max(wide, deep) / 2))
    return round_.scale((1, deep / wide, 1))


def _plinth_step(wide: float, deep: float, tall: float) -> float:
    return min(0.12 * tall, 0.08 * min(wide, deep))


def _plinth(whole_wide: float, whole_deep: float, tall: float) -> manifold3d.Manifold:
    step = _plinth_step(whole_wide, whole_deep, tall)
    wide, deep = whole_wide - 2 * step, whole_deep - 2 * step
    foot = _plate(wide + 2 * step, deep + 2 * step, 2 * step)
    crown = _plate(wide + 2 * step, deep + 2 * step, 2 * step).translate((0, 0, tall - 2 * step))
    under = manifold3d.Manifold.hull_points(
        [(x * (wide / 2 + grow), y * (deep / 2 + grow), z) for x in (-1, 1) for y in (-1, 1) for z, grow in
         ((tall - 3 * step, 0.0), (tall - 2 * step, step))]
    )  # fmt: skip
    over = manifold3d.Manifold.hull_points(
        [(x * (wide / 2 + grow), y * (deep / 2 + grow), z) for x in (-1, 1) for y in (-1, 1) for z, grow in
         ((3 * step, 0.0), (2 * step, step))]
    )  # fmt: skip
    return _plate(wide, deep, tall) + foot + crown + under + over


def _peg(wide: float, deep: float, tall: float) -> manifold3d.Manifold:
    radius, taper = wide / 2, min(wide / 4, tall / 3)
    sides = _segments(radius)
    shaft = manifold3d.Manifold.cylinder(tall - taper, radius, radius, sides)
    tip = manifold3d.Manifold.cylinder(taper, radius, radius - taper / 2, sides).translate((0, 0, tall - taper))
    return (shaft + tip).scale((1, deep / wide, 1))


def _easel(wide: float, deep: float, tall: float) -> manifold3d.Manifold:
    groove = manifold3d.Manifold.cube((wide * 1.2, deep * EASEL_GROOVE, tall * 2), True)
    leaning = groove.rotate((-15, 0, 0)).translate((0, -deep * 0.1, tall * 0.35 + tall))
    wedge = manifold3d.Manifold.hull_points(
        [(x * wide / 2, y, z) for x in (-1, 1) for y, z in
         ((-deep / 2, 0.0), (deep / 2, 0.0), (-deep / 2, tall * 0.55), (deep * 0.1, tall), (deep * 0.3, tall))]
    )  # fmt: skip
    return wedge - leaning
