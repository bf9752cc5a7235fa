"""Several solids on one bed, side by side without overlap."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import rectpack

from nebrel.core.errors import BadValueError
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.shells import together_coloured

# Boxes are packed in whole micrometres.
GRAIN = 1000
MOST_ITEMS = 500


@dataclass(frozen=True)
class Placed:
    """Where a solid comes to lie.

    Attributes:
        number: which of them.
        x, y: lower left corner of its box on the bed, mm.
        turned: whether it is turned by a quarter.
    """

    number: int
    x: float
    y: float
    turned: bool


def packed(sizes: Sequence[tuple[float, float]], bed: tuple[float, float], gap: float) -> list[Placed]:
    """Places of boxes on a bed, by their number.

    Args:
        sizes: width and depth of each, mm.
        bed: width and depth, mm.
        gap: mm between any two.

    Raises:
        BadValueError: they do not fit.
    """
    wide, deep = bed
    if not 1 <= len(sizes) <= MOST_ITEMS:
        raise BadValueError(f"{len(sizes):,} pieces are to lie on the bed; 1 to {MOST_ITEMS} would be accepted.")
    if gap < 0 or min(bed) <= 0:
        raise BadValueError(f"A bed of {wide:g} × {deep:g} mm with {gap:g} mm between is none that can be filled.")
    for number, (width, depth) in enumerate(sizes, 1):
        if not (max(width, depth) <= max(bed) and min(width, depth) <= min(bed)):
            raise BadValueError(
                f"Piece {number} is {width:.1f} × {depth:.1f} mm, more than the bed of {wide:g} × {deep:g} mm; "
                "cut it, or make it smaller."
            )
    best: list[Placed] = []
    for way in (rectpack.MaxRectsBssf, rectpack.MaxRectsBl, rectpack.MaxRectsBaf):
        packer = rectpack.newPacker(pack_algo=way, sort_algo=rectpack.SORT_LSIDE, rotation=True)
        # Every box takes its gap along, and so does the bed.
        packer.add_bin(*(int(np.floor((side + gap) * GRAIN)) for side in bed))
        boxes = [tuple(int(np.ceil((side + gap) * GRAIN)) for side in size) for size in sizes]
        for number, box in enumerate(boxes):
            packer.add_rect(*box, number)
        packer.pack()
        found = [
            Placed(number, x / GRAIN, y / GRAIN, width != boxes[number][0])
            for _, x, y, width, _, number in packer.rect_list()
        ]
        best = max(best, found, key=len)
        if len(best) == len(sizes):
            return sorted(best, key=lambda each: each.number)
    raise BadValueError(
        f"{len(best)} of {len(sizes)} pieces fit on a bed of {wide:g} × {deep:g} mm with {gap:g} mm between; take "
        "fewer, or a smaller gap."
    )


def laid_out(meshes: Sequence[TriMesh], bed: tuple[float, float], gap: float) -> list[TriMesh]:
    """Meshes where they lie on the bed, its lower left corner the origin, each set down on it.

    Raises:
        BadValueError: they do not fit.
    """
    boxes = [_box(mesh) for mesh in meshes]
    places = packed([(float(high[0] - low[0]), float(high[1] - low[1])) for low, high in boxes], bed, gap)
    found = []
    for mesh, (low, high), place in zip(meshes, boxes, places, strict=True):
        vertices = mesh.vertices - low
        if place.turned:
            vertices = np.column_stack([high[1] - low[1] - vertices[:, 1], vertices[:, 0], vertices[:, 2]])
        found.append(
            TriMesh(vertices + np.array([place.x, place.y, 0.0]), mesh.faces, mesh.colours, mesh.corner_colours)
        )
    return found


def as_one(names: Sequence[str], meshes: Sequence[TriMesh]) -> tuple[TriMesh, list[tuple[str, np.ndarray]]]:
    """Meshes as one, and the faces of each by its name, as formats with objects take them."""
    ends = np.cumsum([0, *(len(mesh.faces) for mesh in meshes)])
    return together_coloured(list(meshes)), [(name, np.arange(ends[at], ends[at + 1])) for at, name in enumerate(names)]


def _box(mesh: TriMesh) -> tuple[np.ndarray, np.ndarray]:
    used = mesh.vertices[np.unique(mesh.faces)]
    return used.min(axis=0), used.max(axis=0)
