"""Walls of a lithophane where its thickness jumps, measured on the unrolled solid."""

import numpy as np
from numpy.typing import NDArray

from nebrel.core.bent.bend import is_out_of_place
from nebrel.core.mesh import TriMesh
from nebrel.core.proof.edge_audit import audit_edges
from nebrel.piece.kinds.lithophane.sheet import Wanted
from nebrel.piece.relief_reports import EdgesReport

# Places of a solid are float32, so walls that stand along the normals lean by a trace once they are unrolled.
UPRIGHT_WITHIN = 1e-3


def unrolled_edges(wanted: Wanted, shift: NDArray[np.float64], mesh: TriMesh) -> EdgesReport | None:
    """Measures of the walls, mm on the unrolled sheet; None where its sheet has no lines.

    Args:
        wanted: the sheet and its form.
        shift: float64 (3,) mm, what takes the form to where the solid is.
        mesh: the finished solid.
    """
    sheet, form = wanted.sheet, wanted.form
    if sheet.lines is None:
        return None
    places = form.unrolled(is_out_of_place(form, mesh.vertices - shift))
    faces = mesh.faces
    if form.around:
        # What goes over the seam would lie across the whole sheet.
        faces = faces[np.ptp(places[:, 0][faces], axis=1) < form.width / 2]
    column, row = sheet.lines.shown.T
    u = np.interp(column, np.arange(len(sheet.u)), sheet.u)
    v = np.interp(row, np.arange(len(sheet.v)), sheet.v)
    found = audit_edges(TriMesh(places, faces), np.column_stack([u, v]), sheet.pitch, UPRIGHT_WITHIN)
    return None if found is None else EdgesReport.of(found, wanted.crowded)
