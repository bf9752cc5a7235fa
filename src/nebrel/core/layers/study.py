"""All that is known of a solid's layers before it is printed, in one go."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from nebrel.core.errors import BadValueError
from nebrel.core.layers.effort import Effort, PrintWay, effort
from nebrel.core.layers.slices import Slices, even_bounds, largest_cusp, slice_mesh, varied_bounds
from nebrel.core.layers.support import LONGEST_BRIDGE_MM, STEEPEST_DEG, Hanging, hanging
from nebrel.core.layers.walls import WallPlaces, WallSpot, wall_places, wall_spots
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.measure import volume

Progress = Callable[[str, float], None]
# Of layers that vary, the lowest is this share of the highest.
LOWEST = 1 / 3


@dataclass(frozen=True)
class LayerSetup:
    """How a solid is to be printed.

    Attributes:
        layer, first: mm that layers, and the first, are high.
        cusp: mm that steps on slopes may stand out; layers are as low as a third where that wants it. None for even
            ones.
        way: how lines are laid.
        steepest_deg, longest_bridge: what needs no support.
    """

    layer: float
    way: PrintWay
    first: float | None = None
    steepest_deg: float = STEEPEST_DEG
    longest_bridge: float = LONGEST_BRIDGE_MM
    cusp: float | None = None

    def refuse_odd(self) -> None:
        """Refuse what no printer does.

        Raises:
            BadValueError: layers are higher than lines are wide, or a number is out of its bounds.
        """
        for what, high in (("A layer", self.layer), ("The first layer", self.first or self.layer)):
            if high > self.way.line:
                raise BadValueError(
                    f"{what} of {high:g} mm is higher than a line of {self.way.line:g} mm is wide, so lines would not "
                    f"hold together; up to {self.way.line:g} mm would be accepted."
                )
        if not 0 < self.steepest_deg < 90:
            raise BadValueError(f"A slope of {self.steepest_deg:g}° is none; more than 0 and less than 90 is needed.")
        if not (0 <= self.way.infill <= 1 and 0 <= self.way.support <= 1):
            raise BadValueError("Infill is a share between 0 and 1.")


@dataclass(frozen=True)
class LayerStudy:
    """What came of it.

    Attributes:
        slices: the layers.
        places: how wide walls are, for each layer.
        spots: walls that are too thin, or fit an awkward number of lines.
        hanging: what hangs.
        effort: what the print takes.
        cusp: mm that steps stand out where they do most.
    """

    slices: Slices
    places: list[WallPlaces]
    spots: list[WallSpot]
    hanging: Hanging
    effort: Effort
    cusp: float


def study_layers(
    mesh: TriMesh, setup: LayerSetup, progress: Progress = lambda _stage, _part: None, proved: bool = False
) -> LayerStudy:
    """Look at the layers of a closed mesh that stands as it is to be printed.

    Args:
        mesh: in mm.
        setup: how it is to be printed.
        progress: hears how far it is.
        proved: whether it is known that no faces cross, so that they are not looked for.

    Raises:
        BadMeshError: it is open, or its faces cross.
        BadValueError: it cannot be printed so.
    """
    setup.refuse_odd()
    line = setup.way.line
    up = mesh.vertices[np.unique(mesh.faces), 2] if len(mesh.faces) else np.array([0.0, setup.layer])
    if setup.cusp is None or not len(mesh.faces):
        bounds = even_bounds(float(np.ptp(up)), setup.layer, setup.first)
    else:
        bounds = varied_bounds(mesh, setup.layer * LOWEST, setup.layer, setup.cusp, setup.first)
    slices = slice_mesh(mesh, bounds, lambda part: progress("Cutting into layers", part), proved)
    places = []
    for number, section in enumerate(slices.plain):
        places.append(wall_places(section, line))
        progress("Measuring walls", number / len(slices.sections))
    spots = wall_spots(slices, places, line)
    progress("Looking for what hangs", 0.0)
    hung = hanging(slices, line, setup.steepest_deg, setup.longest_bridge)
    progress("Counting lines", 0.0)
    spent = effort(slices, hung, volume(mesh), setup.way)
    return LayerStudy(slices, places, spots, hung, spent, largest_cusp(mesh, bounds))
