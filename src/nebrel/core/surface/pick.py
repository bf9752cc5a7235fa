"""Which part of a skin a person means."""

from dataclasses import dataclass, field
from typing import Literal

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import MultiPolygon

from nebrel.core.region.grid import polygons_of
from nebrel.core.surface.parameterize.chart import Chart
from nebrel.core.surface.skin.patch import smooth_round
from nebrel.core.surface.skin.skin import Skin, over_faces, place_on

PickKind = Literal["free", "everything", "faces", "brush", "lasso"]
SAME_MM = 1e-3
_Reals = NDArray[np.float64]
_Ints = NDArray[np.int64]


@dataclass(frozen=True)
class Pick:
    """A part of a skin.

    Attributes:
        kind: `free` for wherever the decoration lies, `everything`, `faces` for those that are reached from places
            without passing a sharper edge, `brush` for what is near a line of places, `lasso` for what places encircle.
        places: float64 (K, 3) mm on the skin.
        most_deg: for `faces`, the sharpest edge that is passed.
        radius: for `brush`, mm.
    """

    kind: PickKind = "free"
    places: _Reals = field(default_factory=lambda: np.empty((0, 3)))
    most_deg: float = 30.0
    radius: float = 3.0


def picked_faces(skin: Skin, pick: Pick) -> _Ints | None:
    """Numbers of the faces that are meant, int64 (K,), or None where faces do not matter."""
    if pick.kind != "faces":
        return None
    seeds = [place_on(skin, place).face for place in pick.places]
    found = [smooth_round(skin, seed, pick.most_deg) for seed in dict.fromkeys(seeds)]
    return np.unique(np.concatenate(found)) if found else np.empty(0, dtype=np.int64)


def picked_region(skin: Skin, pick: Pick, chart: Chart) -> MultiPolygon | None:
    """What is painted or encircled, mm in a chart; places beyond it are left out. None where nothing is."""
    if pick.kind not in ("brush", "lasso"):
        return None
    number = np.full(len(skin.faces), -1, dtype=np.int64)
    number[chart.faces] = np.arange(len(chart.faces))
    found = []
    # An edge of the chart belongs to it, whichever face beside it is nearer.
    charted = over_faces(skin, chart.faces)
    for place in pick.places:
        there = place_on(charted, place)
        if np.linalg.norm(there.point - place_on(skin, place).point) <= SAME_MM:
            found.append(there.shares @ chart.plane[number[there.face]])
    if pick.kind == "lasso":
        return polygons_of(shapely.make_valid(shapely.Polygon(found)) if len(found) > 2 else shapely.MultiPolygon())
    return polygons_of(shapely.union_all([shapely.Point(place).buffer(pick.radius, quad_segs=24) for place in found]))
