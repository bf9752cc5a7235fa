"""Colours by layers: where they begin, what each takes, bodies of one colour, heights that suggest themselves."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from skimage.filters import threshold_multiotsu

from nebrel.core.csg.boolean import cleanup, solid_of
from nebrel.core.errors import BadMeshError, BadValueError
from nebrel.core.layers.effort import Effort
from nebrel.core.mesh import TriMesh

MOST_SUGGESTED = 5
# Of a level, this share of its places may lie above where the next colour begins.
STRAY = 0.01
# What is lower is a ground where so much of it lies at one height.
GROUND = 0.6
BINS = 256
MERGE_SHARE = 1e-6


@dataclass(frozen=True)
class Band:
    """Layers of one colour.

    Attributes:
        first, last: of the layers, 0 the lowest of all.
        begins: mm over the plate.
        minutes, grams: of the piece and its support in these layers.
    """

    first: int
    last: int
    begins: float
    minutes: float
    grams: float


def first_layers(bounds: NDArray[np.float64], changes: Sequence[float]) -> list[int | None]:
    """The layer that each change of colour is made before; None for those above all layers, or with another's.

    Args:
        bounds: float64 (N + 1,) mm where layers begin.
        changes: mm over the plate, rising.
    """
    found: list[int | None] = []
    for height in changes:
        layer = int(np.argmin(np.abs(bounds - height)))
        taken = 0 < layer < len(bounds) - 1 and layer not in found
        found.append(layer if taken else None)
    return found


def bands_of(bounds: NDArray[np.float64], changes: Sequence[float], effort: Effort) -> list[Band]:
    """The layers of every colour from below, those left out that none has; see `first_layers`."""
    firsts = [0, *(layer for layer in first_layers(bounds, changes) if layer is not None)]
    ends = [*firsts[1:], len(bounds) - 1]
    return [
        Band(
            first,
            end - 1,
            float(bounds[first]),
            float(effort.minutes_of_layers[first:end].sum()),
            float(effort.grams_of_layers[first:end].sum()),
        )
        for first, end in zip(firsts, ends, strict=True)
    ]


def cut_at(mesh: TriMesh, heights: Sequence[float]) -> list[TriMesh]:
    """A closed mesh cut level at heights over its lowest point, from below, each part closed.

    Raises:
        BadMeshError: it is open.
        BadValueError: nothing lies below or above a height.
    """
    solid = solid_of(mesh)
    if not len(mesh.faces) or solid.is_empty():
        raise BadMeshError("The mesh is not closed, so it cannot be cut into colours; repair it first.")
    used = mesh.vertices[np.unique(mesh.faces)]
    low, slack = float(used[:, 2].min()), MERGE_SHARE * float(np.ptp(used, axis=0).max())
    parts = []
    for height in heights:
        above, below = solid.split_by_plane((0.0, 0.0, 1.0), low + height)
        if above.is_empty() or below.is_empty():
            raise BadValueError(f"Nothing of the piece lies below or above {height:g} mm; choose a height within it.")
        parts.append(cleanup(below, slack, [mesh]))
        solid = above
    return [*parts, cleanup(solid, slack, [mesh])]


def suggested_changes(heights: NDArray[np.float64], colours: int, bounds: NDArray[np.float64]) -> list[float]:
    """Heights where another colour sets apart what lies lower and what lies higher, on borders of layers, mm.

    Classes of heights are those of Otsu (1979), for several after Liao et al. (2001). Where a class is a level, the
    next colour begins right above it, so that walls between levels have the colour of the upper one.

    Args:
        heights: float64 (N,) mm over the plate, of places all over what is seen from above.
        colours: how many, from 2 on.
        bounds: float64 mm where layers begin.

    Raises:
        BadValueError: so many colours are not told apart, or none.
    """
    if not 2 <= colours <= MOST_SUGGESTED:
        raise BadValueError(f"{colours} colours are asked for; 2 to {MOST_SUGGESTED} would be accepted.")
    seen = heights[np.isfinite(heights)]
    levels = np.unique(np.round(seen, 3))
    if len(levels) < colours:
        raise BadValueError(f"What is seen from above lies at {len(levels)} heights, too few for {colours} colours.")
    try:
        told = (levels[:-1] + levels[1:]) / 2 if len(levels) == colours else None
        borders = threshold_multiotsu(seen, colours, nbins=BINS) if told is None else told
    except ValueError as cause:
        raise BadValueError(f"Heights fall into fewer than {colours} groups; ask for fewer colours.") from cause
    found = []
    edges = [-np.inf, *np.asarray(borders, dtype=np.float64).tolist(), np.inf]
    for lower, border, upper in zip(edges, edges[1:], edges[2:], strict=False):
        below, above = seen[(seen >= lower) & (seen < border)], seen[(seen >= border) & (seen < upper)]
        if not (len(below) and len(above)):
            continue
        top = float(np.quantile(below, 1 - STRAY))
        bottom = float(np.quantile(above, STRAY))
        levels, counts = np.unique(np.round(below, 2), return_counts=True)
        flat = float(levels[int(np.argmax(counts))])
        # The next colour begins as soon as a ground, or a level, is done.
        if counts.max() >= GROUND * len(below):
            at = flat
        else:
            at = top if bottom - top > float(np.diff(bounds).max()) else border
        layer = int(np.searchsorted(bounds, at - 1e-6))
        found.append(float(bounds[min(max(layer, 1), len(bounds) - 2)]))
    return sorted(set(found))
