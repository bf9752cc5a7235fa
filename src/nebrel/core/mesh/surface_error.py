"""How far a finished surface is from what was asked: what every measure of it gives."""

from dataclasses import dataclass
from typing import Literal

Where = Literal["at samples", "on the mesh, both ways", "nowhere"]
BOTH_WAYS: Where = "on the mesh, both ways"


@dataclass(frozen=True)
class Deviation:
    """How far a made surface is from what was asked, mm.

    Attributes:
        max, rms: as it was measured.
        how: the measure, in a few words.
        where: at the samples of the picture; at samples of both meshes, each from the other; or not at all.
        max_between: the largest distance between samples too, where heights are bilinear; None where they are not, or
            it was not measured.
    """

    max: float
    rms: float
    how: str = "vertically"
    where: Where = "at samples"
    max_between: float | None = None
