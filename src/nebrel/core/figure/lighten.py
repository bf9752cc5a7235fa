"""The even surface of a grid as few triangles, within a tolerance that is measured."""

from collections.abc import Callable

import numpy as np

from nebrel.core.figure.colour import colour_edges
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.collapse import collapse
from nebrel.core.mesh.distance import distances_to, furthest_at, measure_between
from nebrel.core.mesh.simplify import FEWEST, Simplified, to_tolerance, unchanged
from nebrel.core.mesh.trouble import troubled_vertices, with_neighbours

# What the collapse itself takes for its error is below the measured one.
FIRST_ERROR, ERROR_STEP, NEARLY = 0.3, 0.97, 0.8
MOST_ROUNDS = 16
# Up to so many faces there is time to look for the fewest that hold the tolerance, which is well if so few are left.
SOON_SEARCHED, WELL_SEARCHED = 150_000, 0.4

Progress = Callable[[float], None]


def lighten(mesh: TriMesh, tolerance: float, progress: Progress = lambda _: None) -> Simplified:
    """Few triangles within `tolerance` mm of `mesh`, both ways, and how far they are.

    Few are tried, and places that come out too far off, or not sound, are left as they were: a sharp place somewhere
    does not keep all the rest from getting light. Vertices where colours end are left too, so that those borders stay
    as fine as the grid. Where a tolerance cannot be held so, fewer triangles go, or none.

    Raises:
        BadValueError: the tolerance is not above 0.
    """
    if not tolerance > 0:
        return to_tolerance(mesh, tolerance, progress)
    searched = None
    if mesh.colours is None and len(mesh.faces) <= SOON_SEARCHED:
        searched = to_tolerance(mesh, tolerance, progress)
        if len(searched.mesh.faces) <= WELL_SEARCHED * len(mesh.faces):
            return searched
    found = _place_by_place(mesh, tolerance, progress)
    if found is not None and (searched is None or len(found.mesh.faces) < len(searched.mesh.faces)):
        return found
    return searched or unchanged(mesh)


def _place_by_place(mesh: TriMesh, tolerance: float, progress: Progress) -> Simplified | None:
    locked = np.zeros(len(mesh.vertices), dtype=np.bool_) if mesh.colours is None else colour_edges(mesh)
    error = FIRST_ERROR * tolerance
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
            off = furthest_at(mesh, deviation.back)
            np.maximum.at(off, used, furthest_at(lighter, deviation.there))
        # What is further off than the collapse took it for stays; little else has to.
        locked |= with_neighbours(mesh, off > NEARLY * tolerance, 1)
        error *= ERROR_STEP
    return None
