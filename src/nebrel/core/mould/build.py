"""A mould as solids, and what is measured on them."""

from dataclasses import dataclass

import cv2
import numpy as np

from nebrel.core.heightfield.slab import Progress, build_slab, sketch_slab
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.surface_error import Deviation
from nebrel.core.mould.cavity import Cavity, cavity_of, with_border
from nebrel.core.mould.halves import Half, mould_halves
from nebrel.core.mould.wish import MouldWish

MOST_SKETCHED = 40_000
SKETCH_SHARE = 0.01


@dataclass(frozen=True)
class Mould:
    """A finished mould.

    Attributes:
        parts: name and closed mesh of every part, cavity upwards, side by side.
        halves: what they were made from.
        cavity: what they are hollow of.
        deviation: of their upper sides from that.
        lined: whether their walls follow curves where the piece jumps, and not samples.
    """

    parts: list[tuple[str, TriMesh]]
    halves: list[Half]
    cavity: Cavity
    deviation: Deviation
    lined: bool = True


def cavity_for(mesh: TriMesh, wish: MouldWish, pitch: float, plane: float | None, widest: bool = False) -> Cavity:
    """What a mould of a solid is hollow of, with room for its rim.

    Args:
        mesh: closed, mm, pulled off upwards.
        wish: what the mould is to be like.
        pitch: mm between samples.
        plane: of the parting, mm over the lowest place; None to have it found.
        widest: see `cavity_of`.

    Raises:
        BadValueError: nothing lies above the plane.
    """
    if wish.kind == "die" and plane is None:
        plane = _ground(cavity_of(mesh, pitch, 0.0, 1))
    cavity = cavity_of(mesh, pitch, plane, wish.sides, widest)
    # Draft makes it wider at the parting.
    wider = cavity.deepest * float(np.tan(np.radians(wish.draft_deg)))
    return with_border(cavity, wish.rim + wider)


def build_mould(
    cavity: Cavity, wish: MouldWish, tolerance: float, progress: Progress = lambda *_: None, lined: bool = True
) -> Mould:
    """The parts of a mould, closed by construction, each within `tolerance` mm of its cavity.

    Args:
        cavity: of `cavity_for`.
        wish: what it is to be like.
        tolerance: mm.
        progress: called with stage name and fraction.
        lined: whether walls follow curves where it jumps.
    """
    halves = mould_halves(cavity, wish, tolerance, lined)
    # Vertices stay at samples: what is cast would reach in further where they are moved up.
    slabs = [build_slab(half.field, wish.floor, tolerance, progress, settled=False) for half in halves]
    worst = max(slabs, key=lambda slab: slab.deviation.max).deviation
    rms = float(np.sqrt(np.mean([slab.deviation.rms**2 for slab in slabs])))
    deviation = Deviation(worst.max, rms, worst.how, worst.where, worst.max_between)
    parts = _side_by_side(halves, [slab.mesh for slab in slabs], wish.apart)
    return Mould(parts, halves, cavity, deviation, lined)


def sketch_mould(cavity: Cavity, wish: MouldWish) -> Mould:
    """The same for looking at: quick, and not proved sound."""
    tolerance = max(SKETCH_SHARE * cavity.deepest, 1e-3)
    halves = mould_halves(cavity, wish, tolerance)
    meshes = [sketch_slab(half.field, wish.floor, tolerance, MOST_SKETCHED) for half in halves]
    return Mould(
        _side_by_side(halves, meshes, wish.apart), halves, cavity, Deviation(0.0, 0.0, "not measured", "nowhere")
    )


def _side_by_side(halves: list[Half], meshes: list[TriMesh], apart: float) -> list[tuple[str, TriMesh]]:
    found, right = [], 0.0
    for half, mesh in zip(halves, meshes, strict=True):
        found.append((half.name, TriMesh(mesh.vertices + np.array([right, 0.0, 0.0]), mesh.faces)))
        right += float(np.float32(half.field.width + apart))
    return found


def _ground(cavity: Cavity) -> float:
    """The lowest place of the upper side, mm: the level that a die's face is to touch."""
    inside = cv2.erode((cavity.front > 0).astype(np.uint8), np.ones((5, 5), np.uint8), borderValue=0) > 0
    return float(cavity.front[inside].min()) if inside.any() else 0.0
