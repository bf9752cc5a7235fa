"""Bits as the simulated machine holds them."""

import math
from dataclasses import dataclass
from typing import Literal, NamedTuple

HAIR = 1e-7


class Shape(NamedTuple):
    """A bit as loops read it, mm.

    Attributes:
        radius: at its widest.
        flat: whether its end is flat.
        ball: radius of its round end, 0 where it has none.
        ball_until: distance from its axis where the round end stops.
        side_from: height over the tip where the side begins.
        side: mm up for every mm outwards.
    """

    radius: float
    flat: bool
    ball: float
    ball_until: float
    side_from: float
    side: float


@dataclass(frozen=True)
class Cutter:
    """A bit in the spindle; lengths in mm. Angles as they are stamped on bits: of a V and of
    the point of a drill between its sides, of a taper from its axis to its side."""

    kind: Literal["flat", "ball", "v", "taper", "drill"]
    diameter: float
    tip_radius: float = 0.0
    angle_deg: float = 0.0
    flute: float = 1000.0
    shank: float = 0.0

    @property
    def shape(self) -> Shape:
        """Its shape for the loops."""
        # A hair less than the whole: what lies exactly at the rim is cut by no move, and not by every second one.
        half = self.diameter / 2 - HAIR
        if self.kind == "flat":
            return Shape(half, True, 0.0, 0.0, 0.0, 0.0)
        if self.kind == "ball":
            return Shape(half, False, self.diameter / 2, self.diameter / 2, self.diameter / 2, 0.0)
        if self.kind in {"v", "drill"}:
            opening = math.radians(self.angle_deg) / 2
            return Shape(half, False, 0.0, 0.0, 0.0, math.cos(opening) / math.sin(opening))
        lean = math.radians(self.angle_deg)
        touches = self.tip_radius * math.cos(lean)
        return Shape(half, False, self.tip_radius, touches, self.tip_radius * (1 - math.sin(lean)), 1 / math.tan(lean))
