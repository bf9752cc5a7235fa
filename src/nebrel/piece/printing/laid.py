"""A piece as it stands on the plate."""

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import BadMeshError
from nebrel.core.layers.effort import PrintWay
from nebrel.core.layers.study import LayerSetup, LayerStudy, study_layers
from nebrel.core.layers.turns import turn_to
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.crossings import crossing_pairs
from nebrel.core.mesh.place import at_origin
from nebrel.piece.documents.document import Document
from nebrel.piece.evaluation.evaluator import PieceEvaluator, Progress, quiet
from nebrel.piece.evaluation.prepare import FULL
from nebrel.piece.parts.maker import PrinterMaker
from nebrel.piece.parts.printing import DOWN, Direction, PrintingPart

Place = tuple[float, float, float]
LAYERS_VERSION = 1


@dataclass(frozen=True)
class Printed:
    """A piece in layers.

    Attributes:
        study: of its layers.
        setup: how they were asked for.
        matrix: float64 (3, 3), turns the piece as it is printed.
        low: float64 (3,), the lowest corner of the turned piece before it was set on the plate, mm.
    """

    study: LayerStudy
    setup: LayerSetup
    matrix: NDArray[np.float64]
    low: NDArray[np.float64]

    def in_piece(self, place: Place) -> Place:
        """A place over the plate as one of the piece, mm."""
        x, y, z = ((np.array(place) + self.low) @ self.matrix).tolist()
        return x, y, z

    def over_plate(self, places: NDArray[np.float64]) -> NDArray[np.float64]:
        """Places of the piece, float64 (N, 3), as they lie over the plate."""
        return np.asarray(places @ self.matrix.T - self.low)


def setup_of(printing: PrintingPart, maker: PrinterMaker) -> LayerSetup:
    """How a printer lays lines and layers, for the core."""
    return LayerSetup(
        layer=maker.layer_mm,
        first=printing.first_mm or None,
        cusp=printing.cusp_mm if printing.varied else None,
        way=PrintWay(
            line=maker.line_width_mm,
            walls=printing.walls,
            solid_layers=printing.solid_layers,
            infill=printing.infill,
            support=printing.support,
            wall_speed=printing.wall_speed,
            infill_speed=printing.infill_speed,
            travel_speed=printing.travel_speed,
            acceleration=printing.acceleration,
            layer_change=printing.layer_change_s,
            density=maker.material.density_g_cm3,
        ),
        steepest_deg=printing.steepest_deg,
        longest_bridge=printing.bridge_mm,
    )


def set_on_plate(mesh: TriMesh, down: Direction) -> TriMesh:
    """A mesh with a side below, its lowest corner at the origin."""
    if down == DOWN:
        return at_origin(mesh)
    matrix = turn_to(np.array(down))
    return at_origin(TriMesh(mesh.vertices @ matrix.T, mesh.faces, mesh.colours, mesh.corner_colours))


def in_layers(
    evaluator: PieceEvaluator[Any], longest_px: int, progress: Progress = quiet, down: Direction | None = None
) -> Printed:
    """A piece in the layers that it is printed in.

    Args:
        evaluator: of the piece.
        longest_px: of the preview that is looked at; `FULL` for the finished solid.
        progress: hears how far it is.
        down: the side that lies below, where it is another than the document tells.

    Raises:
        BadMeshError: the solid is open, or crosses itself.
        BadValueError: it cannot be printed so.
    """
    document: Document = evaluator.document
    printing, maker = document.printing, document.maker
    below = printing.down if down is None else down
    setup = setup_of(printing, maker)
    told = [below, printing.model_dump(exclude={"down", "bands", "colour_change_s"}), maker.model_dump(mode="json")]

    def look() -> Printed:
        mesh = evaluator.mesh(longest_px)
        if crosses(evaluator, longest_px):
            raise BadMeshError(
                "Faces of the solid cross, so its layers are not what they seem; repair it, or make its surface anew."
            )
        matrix = np.eye(3) if below == DOWN else turn_to(np.array(below))
        turned = mesh.vertices @ matrix.T
        low = turned[np.unique(mesh.faces)].min(axis=0) if len(mesh.faces) else np.zeros(3)
        return Printed(
            study_layers(TriMesh(turned - low, mesh.faces), setup, progress, proved=True), setup, matrix, low
        )

    return evaluator.derived("layers", LAYERS_VERSION, told, longest_px, look)


def crosses(evaluator: PieceEvaluator[Any], longest_px: int) -> bool:
    """Whether faces of a piece cross; looked for as it lies, since turning it rounds what only touches."""

    def look() -> bool:
        return len(crossing_pairs(evaluator.mesh(longest_px), 1)) > 0

    return evaluator.derived("crosses", LAYERS_VERSION, None, longest_px, look)


def in_layers_as_seen(
    evaluator: PieceEvaluator[Any], longest_px: int, progress: Progress = quiet
) -> tuple[int, Printed]:
    """The layers of a preview, or of the finished solid where faces of the sketch cross; and which of them that is."""
    seen = FULL if longest_px != FULL and crosses(evaluator, longest_px) else longest_px
    return seen, in_layers(evaluator, seen, progress)
