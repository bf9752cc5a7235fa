"""All passes that sink an outline: holes drilled, floors cleared, walls carved."""

import math
from collections.abc import Callable
from dataclasses import dataclass

from shapely.geometry import MultiPolygon

from nebrel.core.carve.asked import Asked
from nebrel.core.carve.bits import Bit
from nebrel.core.carve.program import Pass
from nebrel.core.carve.standing import Standing
from nebrel.core.carve.sunk.drilled import drilled, holes_for, without
from nebrel.core.carve.sunk.outline import SunkOutline, Walls, reached
from nebrel.core.carve.sunk.pockets import pocket
from nebrel.core.carve.sunk.v_carving import v_carved
from nebrel.core.errors import BadValueError
from nebrel.core.region.grid import polygons_of
from nebrel.core.units import in_range

Progress = Callable[[str, float], None]


@dataclass(frozen=True)
class Sinking:
    """How outlines are sunk.

    Attributes:
        walls: leaning as a V bit's side, or straight.
        depth: mm below the face, at most.
        bits: flat ones from coarse to fine, drills, and one V bit for leaning walls.
        cusp: ridges that a V bit may leave on a floor, mm.
        tolerance: by how much ways may pass over the surface, mm.

    Raises:
        BadValueError: a bit that is needed is missing, or one that cannot do it is there.
    """

    walls: Walls
    depth: float
    bits: tuple[Bit, ...]
    cusp: float = 0.05
    tolerance: float = 0.005

    def __post_init__(self) -> None:
        in_range(self.depth, "The depth of sunk outlines", 0.05, 200)
        in_range(self.cusp, "The ridges on a floor", 0.001, 5)
        in_range(self.tolerance, "The tolerance of paths", 0.0005, 0.5)
        for bit in self.bits:
            if bit.kind in {"ball", "taper"} or (bit.kind == "v" and self.walls == "straight"):
                raise BadValueError(
                    f"The {bit.name} bit does not cut {'straight walls' if self.walls == 'straight' else 'V walls'}; "
                    f"{'flat bits and drills' if self.walls == 'straight' else 'a V bit, flat bits and drills'} do."
                )
        if self.walls == "v" and self.v_bit is None:
            raise BadValueError("V-carving needs a V bit, such as v:60deg:12; take one from the rack.")
        if self.walls == "straight" and not self.flats and not self.drills:
            raise BadValueError("Pockets need a flat bit or a drill; take one from the rack.")

    @property
    def v_bit(self) -> Bit | None:
        """The V bit, where there is one."""
        return next((bit for bit in self.bits if bit.kind == "v"), None)

    @property
    def flats(self) -> list[Bit]:
        """Flat bits, from coarse to fine."""
        return sorted((bit for bit in self.bits if bit.kind == "flat"), key=lambda bit: -bit.diameter)

    @property
    def drills(self) -> list[Bit]:
        """Drills."""
        return [bit for bit in self.bits if bit.kind == "drill"]

    @property
    def deepest(self) -> float:
        """How deep it goes: no deeper than the V bit is wide enough for."""
        bit = self.v_bit
        return self.depth if bit is None else min(self.depth, bit.radius * bit.profile.slope)

    @property
    def widest(self) -> float:
        """The largest radius of all bits, mm."""
        return max(bit.radius for bit in self.bits)

    def outline(self, region: MultiPolygon, size: tuple[float, float]) -> SunkOutline:
        """The outline with its heights."""
        bit = self.v_bit
        return SunkOutline(region, size, self.deepest, math.inf if bit is None else bit.profile.slope)


def sink(outline: SunkOutline, asked: Asked, how: Sinking, progress: Progress = lambda *_: None) -> tuple[Pass, ...]:
    """All passes in their order: drills, flat bits from coarse to fine, then the V bit.

    Args:
        outline: what is cut away.
        asked: its heights on a grid.
        how: with which bits.
        progress: told what is done and the share of it.

    Raises:
        BadValueError: no bit fits in.
    """
    standing = Standing(asked)
    passes: list[Pass | None] = []
    region = outline.region
    if not outline.flared:
        for drill in how.drills:
            holes = holes_for(region, drill)
            if holes:
                made = drilled(holes, outline.depth, drill)
                standing.take([way.path for way in made.ways], drill.profile)
                passes.append(made)
                region = without(region, holes)
    floor = outline.floor if outline.flared else region
    cleared = MultiPolygon()
    for number, bit in enumerate(how.flats):
        progress("Clearing the floor", number / len(how.flats))
        made_pocket = pocket(floor, outline.depth, bit, standing, cleared if number else None)
        if made_pocket is not None:
            passes.append(made_pocket)
            cleared = polygons_of(cleared.union(reached(floor, bit.radius)))
    if how.v_bit is not None:
        progress("Finding the middles", 0.0)
        passes.append(v_carved(outline, how.v_bit, cleared, how.cusp, how.tolerance, standing))
    found = tuple(one for one in passes if one is not None)
    if not found:
        finest = min(how.bits, key=lambda one: one.diameter)
        raise BadValueError(f"The outlines are narrower than the {finest.name} bit; a finer bit is needed.")
    progress("Planning", 1.0)
    return found
