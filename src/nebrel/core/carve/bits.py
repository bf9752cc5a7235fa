"""Bits of a router: their shape as a height over the tip."""

import math
from dataclasses import dataclass
from typing import Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import BadValueError
from nebrel.core.jit import compiled

BitKind = Literal["flat", "ball", "v", "taper", "drill"]
SMALLEST, LARGEST = 0.01, 200.0


class Profile(NamedTuple):
    """A bit turned round its axis: a flat tip, then a part of a sphere, then a cone, up to its radius. All in mm.

    Attributes:
        radius: at its widest.
        flat_to: distance from the axis at which the flat tip ends.
        tip_radius: of the sphere; 0 where there is none.
        round_to: distance from the end of the flat at which the sphere goes over into the cone.
        round_top: height over the tip there.
        slope: of the cone, mm up for every mm outwards.
    """

    radius: float
    flat_to: float
    tip_radius: float
    round_to: float
    round_top: float
    slope: float


@compiled
def rise(profile, squared):
    """Height of a bit's surface over its tip at a squared distance from its axis, mm; infinite beside the bit."""
    if squared > profile.radius * profile.radius:
        return np.inf
    if profile.flat_to > 0:
        squared = max(0.0, np.sqrt(squared) - profile.flat_to) ** 2
    if squared <= profile.round_to * profile.round_to:
        return profile.tip_radius - np.sqrt(max(0.0, profile.tip_radius * profile.tip_radius - squared))
    return profile.round_top + profile.slope * (np.sqrt(squared) - profile.round_to)


@dataclass(frozen=True)
class Bit:
    """A bit with how it is run. Lengths in mm, speeds in mm a minute.

    Attributes:
        kind: its shape: flat end, ball, V with a point, a ball on a taper, or a drill, which goes only straight down.
        diameter: at its widest.
        tip_radius: of the ball of a taper.
        angle_deg: between both sides of a V or of the point of a drill; of a taper, between its side and its axis.
        flute: how far up it cuts.
        shank: diameter above its flutes.
        feed, plunge: along, and straight down.
        spindle: turns a minute.
        step_down: deepest layer that it takes at once.

    Raises:
        BadValueError: something of it cannot be.
    """

    kind: BitKind
    diameter: float
    tip_radius: float = 0.0
    angle_deg: float = 0.0
    flute: float = 22.0
    shank: float = 6.0
    feed: float = 1500.0
    plunge: float = 500.0
    spindle: float = 16_000.0
    step_down: float = 3.0

    def __post_init__(self) -> None:
        self._within("diameter", self.diameter, SMALLEST, LARGEST, "mm")
        self._within("flute length", self.flute, SMALLEST, LARGEST, "mm")
        self._within("shank", self.shank, SMALLEST, LARGEST, "mm")
        self._within("feed", self.feed, 1, 100_000, "mm/min")
        self._within("plunge feed", self.plunge, 1, 100_000, "mm/min")
        self._within("spindle", self.spindle, 1, 200_000, "turns/min")
        self._within("step down", self.step_down, SMALLEST, LARGEST, "mm")
        if self.kind == "v":
            self._within("angle", self.angle_deg, 5, 170, "degrees")
        if self.kind == "drill":
            self._within("angle of the point", self.angle_deg, 60, 179, "degrees")
        if self.kind == "taper":
            self._within("angle", self.angle_deg, 0.5, 60, "degrees")
            self._within("tip radius", self.tip_radius, SMALLEST / 2, self.diameter / 2, "mm")

    def _within(self, what: str, value: float, lowest: float, highest: float, unit: str) -> None:
        if not (math.isfinite(value) and lowest <= value <= highest):
            raise BadValueError(
                f"The {what} of the {self.kind} bit is {value:g} {unit}; {lowest:g} to {highest:g} {unit} would be "
                "accepted."
            )

    @property
    def radius(self) -> float:
        """Half of its diameter."""
        return self.diameter / 2

    @property
    def name(self) -> str:
        """What it is called, in plain words."""
        if self.kind == "taper":
            return f"tapered ball R{self.tip_radius:g} mm, {self.angle_deg:g} degrees"
        if self.kind == "v":
            return f"V {self.angle_deg:g} degrees, {self.diameter:g} mm"
        return f"{self.kind} {self.diameter:g} mm"

    @property
    def short_name(self) -> str:
        """The same for names of files."""
        if self.kind == "taper":
            return f"taper{self.tip_radius:g}"
        return f"v{self.angle_deg:g}" if self.kind == "v" else f"{self.kind}{self.diameter:g}"

    @property
    def tip(self) -> float:
        """The radius that leaves a scallop: of its ball, 0 where it has a point or an edge."""
        return {"ball": self.radius, "taper": self.tip_radius}.get(self.kind, 0.0)

    @property
    def profile(self) -> Profile:
        """Its shape."""
        if self.kind == "flat":
            return Profile(self.radius, self.radius, 0.0, 0.0, 0.0, 0.0)
        if self.kind == "ball":
            return Profile(self.radius, 0.0, self.radius, self.radius, self.radius, 0.0)
        if self.kind in {"v", "drill"}:
            return Profile(self.radius, 0.0, 0.0, 0.0, 0.0, 1.0 / math.tan(math.radians(self.angle_deg / 2)))
        side = math.radians(self.angle_deg)
        round_to = min(self.tip_radius * math.cos(side), self.radius)
        top = self.tip_radius - math.sqrt(self.tip_radius**2 - round_to**2)
        return Profile(self.radius, 0.0, self.tip_radius, round_to, top, 1.0 / math.tan(side))


def taper_diameter(tip_radius: float, angle_deg: float, flute: float, shank: float) -> float:
    """How wide a taper is where its flutes end, no wider than its shank, mm."""
    side = math.radians(angle_deg)
    wide = tip_radius * math.cos(side) + (flute - tip_radius * (1 - math.sin(side))) * math.tan(side)
    return max(2 * tip_radius, min(2 * wide, max(shank, 2 * tip_radius)))


def widened(profile: Profile, lateral: float) -> Profile:
    """A bit that is `lateral` mm wider all round at every height."""
    return profile._replace(radius=profile.radius + lateral, flat_to=profile.flat_to + lateral)


def profile_table(profile: Profile, pitch: float, pad: int) -> tuple[NDArray[np.float64], int]:
    """Heights over the tip on a grid, its middle the axis, and how many samples the bit reaches.

    Args:
        profile: the bit.
        pitch: mm between samples.
        pad: samples beyond the bit on every side, infinite.
    """
    reach = math.floor(profile.radius / pitch + 1e-9)
    steps = np.arange(-reach - pad, reach + pad + 1) * pitch
    return table_of(profile, steps), reach


@compiled
def table_of(profile, steps):
    table = np.empty((len(steps), len(steps)))
    for i in range(len(steps)):
        for j in range(len(steps)):
            table[i, j] = rise(profile, steps[i] * steps[i] + steps[j] * steps[j])
    return table
