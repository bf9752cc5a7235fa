"""What is told of reliefs besides their surface: walls along curves, parts that hide each other; and of moulds."""

import numpy as np
from pydantic import BaseModel

from nebrel.core.bas_relief.nearness import Nearness
from nebrel.core.height import HeightField
from nebrel.core.heightfield.slab import Slab
from nebrel.core.proof import Finding
from nebrel.core.proof.edge_audit import EdgeMeasure, audit_edges
from nebrel.core.proof.order_audit import audit_order


class EdgesReport(BaseModel):
    """Measures of the walls that stand where heights jump, of the finished mesh.

    Attributes:
        walls_mm: how long they are, seen from above.
        rms_error_mm, max_error_mm: how far they are from where the picture shows the edges. A picture with hard edges
            shows them to half a pixel.
        crowded: share of the steep places that lie too close together to be edges.
    """

    walls_mm: float
    rms_error_mm: float
    max_error_mm: float
    crowded: float

    @classmethod
    def of(cls, found: EdgeMeasure, crowded: float) -> "EdgesReport":
        """The same as a report, with the share of steep places that are no edges."""
        return cls(
            walls_mm=round(found.walls, 3),
            rms_error_mm=round(found.rms, 5),
            max_error_mm=round(found.max, 5),
            crowded=round(crowded, 3),
        )


class FormReport(BaseModel):
    """Measures of a relief whose heights follow depth, of the finished mesh.

    Attributes:
        source: where its depth came from.
        overlaps_mm: how long the borders are, about, at which one part hides another.
        order_kept: share of them along which what is in front stands no lower; 1 where there are none.
    """

    source: str
    overlaps_mm: float
    order_kept: float


class MouldReport(BaseModel):
    """Measures of the finished parts of a mould, by places between those that it was made from.

    Attributes:
        parts: how many there are.
        plane_mm: of the parting, over the lowest place of the piece.
        holds_cm3: what it takes to fill it, its channel included.
        filled_cm3: of that, what the piece does not have: undercuts and hollows that are filled, draft, the channel.
        least_draft_deg: how far walls of the cavity lean at least, but for 0.5 % of its area.
        reaches_in_mm: how far the piece reaches into the mould at the most, to the nearest place of the cavity.
    """

    parts: int
    plane_mm: float
    holds_cm3: float
    filled_cm3: float
    least_draft_deg: float
    reaches_in_mm: float


UNLINED = Finding(
    "note",
    "The walls follow the pixels of the picture: with curves the solid would have been less true, or not sound.",
    "A smoother picture, another outline or a coarser tolerance lets walls follow curves.",
    "unlined_edges",
)


def edges_report(slab: Slab, field: HeightField) -> EdgesReport | None:
    """Measures of the walls of a finished mesh where a field's heights jump; None where it has none."""
    if field.lines is None or slab.unlined:
        return None
    column, row = field.lines.shown.T
    places = np.column_stack([column, len(field.heights) - 1 - row]) * field.pitch
    found = audit_edges(slab.mesh, places, field.pitch)
    return None if found is None else EdgesReport.of(found, field.crowded)


def form_report(slab: Slab, near: Nearness, field: HeightField, source: str) -> FormReport:
    """Measures of a finished mesh whose heights follow a depth."""
    found = audit_order(slab.mesh, near, field.pitch, len(field.heights))
    if found is None:
        return FormReport(source=source, overlaps_mm=0.0, order_kept=1.0)
    return FormReport(source=source, overlaps_mm=round(found.overlaps, 2), order_kept=round(found.kept, 5))
