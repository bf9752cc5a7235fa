"""The even surface of a grid as few triangles, within a tolerance that is measured."""

from collections.abc import Callable

import numpy as np

from nebrel.core.figure.colour import colour_edges
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.collapse import collapse
from nebrel.core.mesh.distance import distances_to, measure_between
from nebrel.core.mesh.simplify import FEWEST, Simplified, reduce_faces, to_tolerance, unchanged
from nebrel.core.mesh.trouble import troubled_vertices, with_neighbours

# The first collapse takes this share of the tolerance, the search among counts all but a little more.
FIRST_SHARE, SEARCH_SHARE = 0.1, 0.85
WORTH_TWO_STEPS = 400_000
# What the collapse itself takes for its error is below the measured one.
FIRST_ERROR, ERROR_STEP, NEARLY = 0.3, 0.97, 0.5

MOST_ROUNDS = 16

Progress = Callable[[float], None]


def lighten_coloured(mesh: TriMesh, tolerance: float, progress: Progress = lambda _: None) -> Simplified:
    """Like `lighten`, with vertices left where colours end, so that those borders stay as fine as the grid.

    What would not stay sound is left as it was. Where a tolerance cannot be held so, fewer triangles go.
    """
    assert mesh.colours is not None
    locked, error = colour_edges(mesh), FIRST_ERROR * tolerance
    for turn in range(MOST_ROUNDS):
        progress(turn / MOST_ROUNDS)
        lighter, used = collapse(mesh, FEWEST, error, locked)
        troubled = troubled_vertices(lighter)
        if troubled.any():
            beside = np.zeros(len(mesh.vertices), dtype=np.bool_)
            beside[used[troubled]] = True
            locked |= with_neighbours(mesh, beside, 1 + turn)
            continue
        # Most that are too far off show at the vertices alone, which is quick to see.
        off = distances_to(lighter, mesh.vertices)
        if off.max() <= tolerance:
            deviation = measure_between(mesh, lighter)
            if deviation.max <= tolerance:
                return Simplified(lighter, deviation)
            wide = lighter.faces[deviation.there[-len(lighter.faces) :] > NEARLY * tolerance]
            off[used[wide.ravel()]] = tolerance
        # What is further off than the collapse took it for stays; little else has to.
        locked |= with_neighbours(mesh, off > NEARLY * tolerance, 1)
        error *= ERROR_STEP
    return unchanged(mesh)


def lighten(mesh: TriMesh, tolerance: float, progress: Progress = lambda _: None) -> Simplified:
    """Few triangles within `tolerance` mm of `mesh`, both ways, and how far they are.

    The search for a count measures every try, which is slow on a fine grid; there most of the triangles, which say
    nothing, go first. What comes out is measured against the grid's own surface.

    Raises:
        BadValueError: the tolerance is not above 0.
    """
    if len(mesh.faces) < WORTH_TWO_STEPS or not tolerance > 0:
        return to_tolerance(mesh, tolerance, progress)
    needless = len(collapse(mesh, FEWEST, FIRST_SHARE * tolerance)[0].faces)
    first = reduce_faces(mesh, needless)
    found = to_tolerance(first, SEARCH_SHARE * tolerance, lambda part: progress(part / 2))
    deviation = measure_between(mesh, found.mesh, lambda part: progress(0.5 + part / 2))
    if deviation.max <= tolerance:
        return Simplified(found.mesh, deviation)
    return to_tolerance(mesh, tolerance, progress)
