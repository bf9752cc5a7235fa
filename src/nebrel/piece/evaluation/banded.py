"""A solid in the colours of its layers, as pictures show it."""

import numpy as np

from nebrel.core.errors import NebrelError
from nebrel.core.layers.bands import cut_at
from nebrel.core.layers.turns import turn_to
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.shells import together_coloured
from nebrel.piece.parts.paint import rgba_of
from nebrel.piece.parts.printing import PrintingPart


def in_bands(mesh: TriMesh, printing: PrintingPart) -> TriMesh:
    """A mesh cut where colours change, each part in its colour; as it is where it cannot be cut.

    Args:
        mesh: as it lies.
        printing: which side lies below, and where colours change over the plate.
    """
    bands = printing.bands
    turn = turn_to(np.array(printing.down))
    upright = TriMesh(mesh.vertices @ turn.T, mesh.faces)
    tall = float(np.ptp(upright.vertices[np.unique(mesh.faces), 2])) if len(mesh.faces) else 0.0
    changes = [change for change in bands.changes if change.from_mm < tall]
    if not bands.on or not changes:
        return mesh
    try:
        parts = cut_at(upright, [change.from_mm for change in changes])
    except NebrelError:
        return mesh
    tints = [bands.colour, *(change.colour for change in changes)]
    whole = together_coloured(
        [
            TriMesh(
                part.vertices,
                part.faces,
                corner_colours=np.tile(np.array(rgba_of(tint), np.uint8), (len(part.faces), 3, 1)),
            )
            for part, tint in zip(parts, tints, strict=True)
        ]
    )
    return TriMesh(whole.vertices @ turn, whole.faces, whole.colours, whole.corner_colours)
