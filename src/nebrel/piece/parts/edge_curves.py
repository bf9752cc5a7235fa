"""Walls along curves where a surface jumps."""

from typing import ClassVar

from nebrel.piece.parts.fields import switch
from nebrel.piece.parts.part import Part


class EdgeCurves(Part):
    """Walls along curves where heights or thicknesses jump."""

    heading: ClassVar[str] = "Edges as curves"
    hint: ClassVar[str] = (
        "Where the surface jumps, its wall follows a curve and not the pixels. Soft slopes stay as they are."
    )
    on: bool = switch("Edges as curves switched on", True)
