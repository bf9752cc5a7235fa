"""How true surfaces have to be."""

from nebrel.piece.parts.fields import length
from nebrel.piece.parts.part import Part


class Finish(Part):
    """How true the surface has to be."""

    tolerance_mm: float = length("Tolerance", 0.02, 0.001, 1, slider=(0.005, 0.2), step=0.005)
