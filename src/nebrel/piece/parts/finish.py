"""How true surfaces have to be."""

from nebrel.piece.parts.fields import length, switch
from nebrel.piece.parts.part import Part


class Finish(Part):
    """How true the surface has to be."""

    tolerance_mm: float = length("Tolerance", 0.02, 0.001, 1, slider=(0.005, 0.2), step=0.005)


class ReliefFinish(Finish):
    """How true a relief has to be."""

    between: bool = switch(
        "Held between samples",
        False,
        label="Between samples too",
        hint="Otherwise steep edges may be further off between two samples of the picture; it takes more triangles.",
    )
