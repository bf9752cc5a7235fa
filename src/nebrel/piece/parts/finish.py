"""How true surfaces have to be."""

from pydantic import Field

from nebrel.piece.parts.part import Part


class Finish(Part):
    """How true the surface has to be."""

    tolerance_mm: float = Field(0.02, ge=0.001, le=1, title="Tolerance")
