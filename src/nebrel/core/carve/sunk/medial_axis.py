"""The medial axis of outlines: the middles of all discs that touch their edge in two places."""

import numpy as np
import pyvoronoi
import shapely
from numpy.typing import NDArray
from shapely.geometry import MultiLineString, MultiPolygon

from nebrel.core.carve.sunk.outline import rings_of

# The library takes whole numbers of 32 bits.
FINEST, LARGEST = 1e-5, 2.0e9
BEND = 0.05
HAIR = 1e-9
PEAK, NEAR = 1e-4, 0.02
END_OF_SEGMENT = 2


def medial_axis(region: MultiPolygon, tolerance: float) -> MultiLineString:
    """The lines along which a region is equally far from two parts of its edge.

    Branches into corners so blunt that leaving them out changes the discs' union by less than `tolerance` are left
    out: else every corner of a curve that is made of straight pieces would have one.

    Args:
        region: mm.
        tolerance: mm.

    Source: the Voronoi diagram of segments, by the sweep of Fortune (1987) as Boost does it.
    """
    rings = rings_of(region)
    begin = np.concatenate([ring[:-1] for ring in rings])
    end = np.concatenate([ring[1:] for ring in rings])
    longer = np.hypot(*(end - begin).T) > 2 * FINEST
    begin, end = begin[longer], end[longer]
    if not len(begin):
        return MultiLineString()
    low = begin.min(axis=0)
    scale = 1.0 / max(FINEST, float(np.ptp(begin, axis=0).max()) / LARGEST)
    diagram = pyvoronoi.Pyvoronoi(1)
    whole = np.rint((np.stack([begin, end], axis=1) - low) * scale).astype(np.int64)
    for segment in whole.tolist():
        diagram.AddSegment(segment)
    diagram.Construct()
    vertices = np.array([(vertex.X, vertex.Y) for vertex in diagram.GetVertices()]) / scale + low
    sites = _sites(diagram, begin, end)
    edges = [
        (number, edge.start, edge.end, edge.cell, edge.twin, edge.is_linear)
        for number, edge in enumerate(diagram.GetEdges())
        if edge.is_primary and number < edge.twin and edge.start >= 0 and edge.end >= 0
    ]
    if not edges:
        return MultiLineString()
    table = np.array([edge[:5] for edge in edges], dtype=np.int64)
    cell_of = np.array([edge.cell for edge in diagram.GetEdges()], dtype=np.int64)
    one, other = sites[table[:, 3]], sites[cell_of[table[:, 4]]]
    start, stop = vertices[table[:, 1]], vertices[table[:, 2]]
    inside = _inside(region, start, stop)
    kept = inside & (_cost_of_dropping(one, other, start, stop) >= tolerance)
    kept &= ~_specks(table[:, 1:3], start, stop, kept)
    lines = _lone_middles(table[:, 1:3], vertices, one, inside, kept)
    for at in np.flatnonzero(kept):
        *_, straight = edges[at]
        path = np.array([start[at], stop[at]])
        if not straight:
            path = _parabola(one[at], other[at], path)
        if np.hypot(*np.diff(path, axis=0).T).sum() > HAIR:
            lines.append(path)
    merged = shapely.line_merge(shapely.MultiLineString(lines))
    return shapely.MultiLineString([part for part in shapely.get_parts(merged) if part.length > HAIR])


def _parabola(one: NDArray[np.float64], other: NDArray[np.float64], ends: NDArray[np.float64]) -> NDArray[np.float64]:
    """The way between two places that are equally far from a point and a straight line, float64 (N, 2).

    Args:
        one, other: float64 (2, 2), both sites; of the point both places are the same.
        ends: float64 (2, 2), where it begins and ends.
    """
    point, line = (one[0], other) if (one[0] == one[1]).all() else (other[0], one)
    along = (line[1] - line[0]) / np.hypot(*(line[1] - line[0]))
    up = np.array([-along[1], along[0]])
    tall = float((point - line[0]) @ up)
    if abs(tall) < HAIR:
        return ends
    begin, end = (ends - line[0]) @ along
    count = max(2, int(np.ceil(abs(end - begin) / BEND)) + 1)
    reach = np.linspace(begin, end, count)[1:-1]
    high = ((reach - (point - line[0]) @ along) ** 2 + tall**2) / (2 * tall)
    between = line[0] + reach[:, np.newaxis] * along + high[:, np.newaxis] * up
    return np.concatenate([ends[:1], between, ends[1:]])


def _sites(diagram: pyvoronoi.Pyvoronoi, begin: NDArray[np.float64], end: NDArray[np.float64]) -> NDArray[np.float64]:
    """Of every cell the segment that it is nearest to, float64 (N, 2, 2); of a place both ends are the same."""
    cells = diagram.GetCells()
    site = np.array([cell.site for cell in cells], dtype=np.int64)
    point = np.array([cell.contains_point for cell in cells], dtype=np.bool_)
    category = np.array([cell.source_category for cell in cells], dtype=np.int64)
    first, last = begin[site], end[site]
    at_end = point & (category == END_OF_SEGMENT)
    first = np.where(at_end[:, np.newaxis], last, first)
    last = np.where(point[:, np.newaxis], first, last)
    return np.stack([first, last], axis=1)


def _inside(region: MultiPolygon, start: NDArray[np.float64], stop: NDArray[np.float64]) -> NDArray[np.bool_]:
    """Edges of the diagram lie on one side of the outline: their middles tell which."""
    shapely.prepare(region)
    middle = (start + stop) / 2
    return np.asarray(shapely.contains_xy(region, middle[:, 0], middle[:, 1]))


def _cost_of_dropping(
    one: NDArray[np.float64], other: NDArray[np.float64], start: NDArray[np.float64], stop: NDArray[np.float64]
) -> NDArray[np.float64]:
    """How far discs along the rest would miss the outline if an edge were left out, mm: by the angle between the two
    places that its discs touch."""
    middle = (start + stop) / 2
    to_one, to_other = _nearest(one, middle) - middle, _nearest(other, middle) - middle
    away = np.hypot(*to_one.T)
    cosine = (to_one * to_other).sum(axis=1) / np.maximum(away * np.hypot(*to_other.T), 1e-300)
    half = np.sqrt(np.clip((1 + cosine) / 2, 1e-12, 1.0))
    widest = np.maximum(*(np.hypot(*(_nearest(one, ends) - ends).T) for ends in (start, stop)))
    return widest * (1 / half - 1)


def _specks(
    ends: NDArray[np.int64], start: NDArray[np.float64], stop: NDArray[np.float64], kept: NDArray[np.bool_]
) -> NDArray[np.bool_]:
    """Edges that hang together only with others no farther than `NEAR` apart: the middle of a circle."""
    from scipy.sparse import coo_array
    from scipy.sparse.csgraph import connected_components

    names, at = np.unique(ends, return_inverse=True)
    at = at.reshape(ends.shape)
    linked = coo_array((np.ones(int(kept.sum())), (at[kept, 0], at[kept, 1])), shape=(len(names), len(names)))
    _, part = connected_components(linked, directed=False)
    low = np.full((part.max(initial=0) + 1, 2), np.inf)
    high = -low
    for places in (start, stop):
        np.minimum.at(low, part[at[kept, 0]], places[kept])
        np.maximum.at(high, part[at[kept, 0]], places[kept])
    small: NDArray[np.bool_] = np.all(high - low < NEAR, axis=1)
    return small[part[at[:, 0]]]


def _lone_middles(
    ends: NDArray[np.int64],
    vertices: NDArray[np.float64],
    one: NDArray[np.float64],
    inside: NDArray[np.bool_],
    kept: NDArray[np.bool_],
) -> list[NDArray[np.float64]]:
    """Lines from the edge to middles of discs that nothing else leads to: a round part has no other axis."""
    where = np.flatnonzero(inside)
    at = ends[where].T.ravel()
    foot = np.concatenate([_nearest(one[where], vertices[ends[where, side]]) for side in (0, 1)])
    away = np.hypot(*(foot - vertices[at]).T)
    far = np.zeros(len(vertices))
    np.maximum.at(far, at, away)
    other = ends[where][:, ::-1].T.ravel()
    is_peak = np.ones(len(vertices), dtype=np.bool_)
    np.logical_and.at(is_peak, at, far[at] >= far[other] - PEAK)
    is_peak[ends[kept].ravel()] = False
    lines: dict[tuple[int, int], NDArray[np.float64]] = {}
    for i in np.flatnonzero(is_peak[at]):
        place = vertices[at[i]]
        lines.setdefault((round(place[0] / NEAR), round(place[1] / NEAR)), np.array([foot[i], place]))
    return list(lines.values())


def _nearest(site: NDArray[np.float64], place: NDArray[np.float64]) -> NDArray[np.float64]:
    along = site[:, 1] - site[:, 0]
    length = np.maximum((along**2).sum(axis=1), 1e-300)
    part = np.clip(((place - site[:, 0]) * along).sum(axis=1) / length, 0.0, 1.0)
    return site[:, 0] + along * part[:, np.newaxis]
