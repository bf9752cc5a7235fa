"""From the recipe of few colours to a figure that has them."""

from collections.abc import Callable

from nebrel.core.colour.few import FewColours, face_lab, in_few
from nebrel.core.colour.palette import chosen, gathered
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.measure import face_areas
from nebrel.piece.kinds.figure.document import FigureFewColours


def given_few(few: FigureFewColours, mesh: TriMesh, progress: Callable[[float], None] = lambda _: None) -> FewColours:
    """The mesh in few colours; those of the picture where no filaments are chosen."""
    lab, areas = face_lab(mesh), face_areas(mesh)
    own = tuple(filament.to_core() for filament in few.filaments) if few.of == "filaments" else ()
    tints = chosen(lab, areas, own, few.count) if own else gathered(lab, areas, few.count)
    return in_few(mesh, tints, few.smallest_mm2, progress)
