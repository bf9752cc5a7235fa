"""From the strokes of a document to those of the core, each with the faces that it keeps to."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from nebrel.core.mesh import TriMesh
from nebrel.core.surface.displace.fence import Fence
from nebrel.core.surface.displace.sculpt import BrushStroke, Sculpted, sculpt
from nebrel.core.surface.pick import Pick, picked_faces
from nebrel.core.surface.skin.skin import Skin, skin_of
from nebrel.piece.parts.decoration import BrushMark

_Flags = NDArray[np.bool_]


def brush_over(mesh: TriMesh, decorated: _Flags, marks: Sequence[BrushMark]) -> Sculpted:
    """A mesh after strokes, in their order; `left_out` tells numbers of marks.

    Args:
        mesh: after its decorations, where it has any.
        decorated: bool (M,), which of its faces belong to these.
        marks: strokes of its document.
    """
    middle = float(mesh.vertices[:, 0].min() + mesh.vertices[:, 0].max()) / 2
    skin = skin_of(mesh) if any(mark.within in ("face", "region") for mark in marks) else None
    strokes: list[BrushStroke] = []
    allowed: list[_Flags] = []
    owner: list[int] = []
    for number, mark in enumerate(marks):
        found = mark.to_core(middle)
        fences: Sequence[Fence | None] = [None] * len(found)
        if skin is not None and mark.within == "region":
            fences = mark.regions_to_core(skin, middle)
        for stroke, fence in zip(found, fences, strict=True):
            strokes.append(replace(stroke, fence=fence))
            allowed.append(_kept_to(mark, stroke, skin, decorated) if fence is None else fence.faces)
            owner.append(number)
    made = sculpt(mesh, np.stack(allowed), strokes)
    return replace(made, left_out=tuple(sorted({owner[number] for number in made.left_out})))


def _kept_to(mark: BrushMark, stroke: BrushStroke, skin: Skin | None, decorated: _Flags) -> _Flags:
    """The faces that a stroke may change."""
    if mark.within == "decorations":
        return decorated
    found = np.ones(len(decorated), dtype=np.bool_)
    if mark.within == "everywhere" or skin is None:
        return found
    picked = picked_faces(skin, Pick("faces", stroke.places[:1], mark.most_deg))
    if picked is not None:
        found[:] = False
        found[picked] = True
    return found
