"""Which layer of outlines every face of their solid belongs to, so that each can have its colour."""

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import MultiPolygon

from nebrel.core.mesh import TriMesh
from nebrel.core.outline_solid.raised import Base, base_region
from nebrel.core.region.grid import polygons_of

ALIKE_MM = 1e-3
BASE = -1


def layers_of_faces(mesh: TriMesh, standing: list[tuple[MultiPolygon, float]], base: Base) -> NDArray[np.int64]:
    """The number of the layer that every face stands for, int64 (M,); -1 for the base and what none reaches.

    A face belongs to the lowest layer that is as tall as it reaches; of layers that are equally tall, to the one whose
    region is nearest to its middle.

    Args:
        mesh: the solid, its lowest corner at the origin.
        standing: region and height of every layer, mm.
        base: the plate under them.
    """
    raised = [
        (at, region, height) for at, (region, height) in enumerate(standing) if height > 0 and not region.is_empty
    ]
    found = np.full(len(mesh.faces), BASE, dtype=np.int64)
    if not raised:
        return found
    whole = polygons_of(shapely.union_all([region for _, region, _ in raised]))
    foot = 0.0 if base.kind == "none" else base.thickness
    left, low, *_ = whole.bounds if base.kind == "none" else base_region(whole, base).bounds
    top, middles = mesh.corners[:, :, 2].max(axis=1), mesh.corners.mean(axis=1)[:, :2] + (left, low)
    below = foot - ALIKE_MM if base.kind == "none" else foot + ALIKE_MM
    for height in sorted({height for _, _, height in raised}):
        here = np.flatnonzero((top > below) & (top <= foot + height + ALIKE_MM))
        below = foot + height + ALIKE_MM
        alike = [(at, region) for at, region, other in raised if other == height]
        if len(alike) == 1 or not len(here):
            found[here] = alike[0][0]
            continue
        points = shapely.points(middles[here])
        away = np.array([shapely.distance(region, points) for _, region in alike])
        found[here] = np.array([at for at, _ in alike])[away.argmin(axis=0)]
    return found
