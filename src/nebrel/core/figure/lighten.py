"""The even surface of a grid as few triangles, within a tolerance that is measured."""

from collections.abc import Callable

from nebrel.core.figure.colour import colour_edges
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.fewer.simplify import Simplified, to_tolerance


def lighten(mesh: TriMesh, tolerance: float, progress: Callable[[float], None] = lambda _: None) -> Simplified:
    """Few triangles within `tolerance` mm of `mesh`, both ways, and how far they are.

    Vertices where colours end are left, so that those borders stay as fine as the grid.

    Raises:
        BadValueError: the tolerance is not above 0.
    """
    return to_tolerance(mesh, tolerance, progress, None if mesh.colours is None else colour_edges(mesh))
