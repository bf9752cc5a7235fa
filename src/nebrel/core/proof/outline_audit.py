"""What there is to know about outlines before they are printed, cut or pressed."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry import MultiPolygon

from nebrel.core.proof.finding import Finding, Fix
from nebrel.core.region.curves import Figure
from nebrel.core.region.flaws import Flaw, find_flaws, touching_places
from nebrel.core.region.grid import polygons_of
from nebrel.core.region.narrow import narrowest
from nebrel.core.region.rings import rings_of

TINY_LINES = 1.5
SHARP_DEG = 35.0
CORNER_REACH = 0.4
# More parts than so many, half of which are less than such a share of the largest, are crumbs; of these so many stay.
MANY_PARTS, CRUMB_SHARE, KEPT_PARTS = 300, 0.02, 50
FEW_PARTS, CONVEX = 200, 1 - 1e-6


@dataclass(frozen=True)
class Use:
    """What outlines are for.

    Attributes:
        kind: raised from a plate, a cutter's edge, or a stamp's face.
        line: width that the maker draws, mm.
        tears: width below which what is cut or pressed tears or breaks off, mm.
    """

    kind: str
    line: float
    tears: float


def edge_findings(figure: Figure, line: float) -> tuple[Finding, ...]:
    """Open ends, crossings, doubles and specks, each with its mending."""
    flaws = find_flaws(figure, (TINY_LINES * line) ** 2)
    found = []
    for kind, tell in _TELL.items():
        mine = [flaw for flaw in flaws if flaw.kind == kind]
        if mine:
            found.append(tell(mine, line))
    return tuple(found)


def crumbs(region: MultiPolygon) -> tuple[Finding, ...]:
    """What is to be told of outlines that come in very many small parts, as those of noise and of rough paper do."""
    sizes = np.sort([part.area for part in region.geoms])[::-1]
    if len(sizes) <= MANY_PARTS or sizes[KEPT_PARTS] <= 0:
        return ()
    middle = float(np.median(sizes))
    if middle > CRUMB_SHARE * float(sizes[0]):
        return ()
    smallest = float(np.ceil(sizes[KEPT_PARTS] * 1e4) / 1e4)
    return (
        Finding(
            "caution",
            f"The outlines come in {len(sizes):,} parts, half of them smaller than {middle:.2g} mm².",
            "That is how noise, grain and rough paper are traced; softening the picture or another level helps, too.",
            "crumbs",
            value=float(len(sizes)),
            fix=Fix("drop-tiny", {"smallest_mm2": smallest}, f"Keep the largest {KEPT_PARTS}"),
        ),
    )


def region_findings(region: MultiPolygon, use: Use) -> tuple[Finding, ...]:
    """Strokes too thin, gaps too narrow, corners too sharp and loose parts of what will be made."""
    findings = [*_touching(region, use), *_thin(region, use), *_gaps(region, use), *_corners(region, use)]
    parts = len(region.geoms)
    if use.kind == "raised" and parts > 1:
        findings.append(
            Finding(
                "caution",
                f"The outlines are {parts:,} parts that nothing joins.",
                "They will come as loose pieces; a base would hold them together.",
                "loose_parts",
                _at(region.geoms[1].representative_point()),
                float(parts),
            )
        )
    return tuple(findings)


def _touching(region: MultiPolygon, use: Use) -> list[Finding]:
    places = touching_places(region)
    if not len(places):
        return []
    many = "in a point" if len(places) == 1 else f"in {len(places):,} points"
    return [
        Finding(
            "caution",
            f"Parts of the outlines touch {many} and nowhere else.",
            "What only touches is no solid: a printer parts it or joins it as it happens to. A bridge as wide as a "
            "line joins it.",
            "touching",
            (float(places[0, 0]), float(places[0, 1]), 0.0),
            float(len(places)),
            fix=Fix("touching", {"how": "join", "width_mm": round(use.line, 3)}, "Join them by a bridge"),
        )
    ]


def _thin(region: MultiPolygon, use: Use) -> list[Finding]:
    limit = max(use.line, use.tears)
    places = narrowest(region, limit)
    findings = []
    for width, where in places[:1]:
        more = f" and {len(places) - 1} more" if len(places) > 1 else ""
        if use.kind == "cutter":
            what = f"What is cut is {width:.2f} mm wide at its narrowest place{more}; the dough will tear there."
            why = f"Clay and dough hold together from about {use.tears:g} mm; wider places last."
        elif width < use.line:
            what = f"The narrowest stroke is {width:.2f} mm wide{more}; your nozzle draws {use.line:g} mm."
            why = "What is narrower than a line is left out or comes out ragged."
        else:
            what = f"The narrowest stroke is {width:.2f} mm wide{more}."
            why = f"Below {use.tears:g} mm it breaks off easily."
        by = float(np.ceil((limit - width + 0.05) * 10) / 10)
        fix = Fix(
            "widen", {"narrower_than_mm": round(limit, 3), "by_mm": max(0.1, by)}, f"Widen by {max(0.1, by):g} mm"
        )
        findings.append(Finding("caution", what, why, "narrowest", (*where, 0.0), width, "mm", fix))
    return findings


def _gaps(region: MultiPolygon, use: Use) -> list[Finding]:
    region = _near_others(region, use.line)
    if region.is_empty:
        return []
    low_x, low_y, high_x, high_y = region.bounds
    beyond = 4 * use.line
    sheet = shapely.box(low_x - beyond, low_y - beyond, high_x + beyond, high_y + beyond)
    around = polygons_of(sheet.difference(region))
    places = narrowest(around, use.line)
    if not places:
        return []
    width, where = places[0]
    more = f", and {len(places) - 1} more are under {use.line:g} mm" if len(places) > 1 else ""
    return [
        Finding(
            "caution",
            f"The narrowest gap is {width:.2f} mm wide{more}.",
            f"Gaps below your line width of {use.line:g} mm fill up.",
            "narrowest_gap",
            (*where, 0.0),
            width,
            "mm",
        )
    ]


def _near_others(region: MultiPolygon, line: float) -> MultiPolygon:
    """Of many parts those alone that can have a gap narrower than a line beside them: near another, or not convex."""
    each = np.array(region.geoms, dtype=object)
    if len(each) <= FEW_PARTS:
        return region
    one, other = shapely.STRtree(each).query(each, predicate="dwithin", distance=line)
    near = np.zeros(len(each), dtype=bool)
    near[one[one != other]] = True
    near |= shapely.area(each) < CONVEX * shapely.area(shapely.convex_hull(each))
    return polygons_of(shapely.multipolygons(each[near].tolist()) if near.any() else shapely.MultiPolygon())


def _corners(region: MultiPolygon, use: Use) -> list[Finding]:
    if use.kind not in ("cutter", "stamp"):
        return []
    sharp = _sharp_corners(region)
    if not sharp:
        return []
    angle, where = min(sharp)
    material = "Dough does not fill" if use.kind == "cutter" else "Clay does not fill"
    count = "One corner is" if len(sharp) == 1 else f"{len(sharp)} corners are"
    return [
        Finding(
            "note",
            f"{count} sharper than {SHARP_DEG:g} degrees, the sharpest {angle:.0f}.",
            f"{material} such corners to the tip; a rounder corner comes off cleaner.",
            "sharp_corners",
            (*where, 0.0),
            float(len(sharp)),
        )
    ]


def _sharp_corners(region: MultiPolygon) -> list[tuple[float, tuple[float, float]]]:
    """Angle inside the material, and place, of corners; the sides are looked at a little away from the corner."""
    found = []
    for ring in rings_of(region):
        line = shapely.LinearRing(ring)
        length = line.length
        steps = np.linalg.norm(np.roll(ring, -1, axis=0) - ring, axis=1)
        along = np.concatenate([[0.0], np.cumsum(steps)[:-1]])
        way = np.roll(ring, -1, axis=0) - ring
        turn = np.arctan2(way[:, 1], way[:, 0])
        bend = np.angle(np.exp(1j * (turn - np.roll(turn, 1))))
        for at in np.flatnonzero(bend > np.radians(60)):
            before = shapely.get_coordinates(line.interpolate((along[at] - CORNER_REACH) % length))[0]
            after = shapely.get_coordinates(line.interpolate((along[at] + CORNER_REACH) % length))[0]
            one, other = before - ring[at], after - ring[at]
            cosine = float(one @ other / max(np.linalg.norm(one) * np.linalg.norm(other), 1e-12))
            angle = float(np.degrees(np.arccos(np.clip(cosine, -1, 1))))
            if angle < SHARP_DEG:
                found.append((angle, (float(ring[at, 0]), float(ring[at, 1]))))
    return found


def _at(place: shapely.Point) -> tuple[float, float, float]:
    return float(place.x), float(place.y), 0.0


def _find_open(flaws: list[Flaw], line: float) -> Finding:
    gap = min(flaw.size for flaw in flaws)
    reach = float(np.ceil(max(gap, 0.01) * 110) / 100)
    outlines = "One outline is" if len(flaws) == 1 else f"{len(flaws):,} outlines are"
    return Finding(
        "fault",
        f"{outlines} open; the smallest gap is {gap:.2f} mm.",
        "An open outline encloses nothing, so nothing is made of it.",
        "open_ends",
        (*flaws[0].where, 0.0),
        gap,
        "mm",
        Fix("close-gaps", {"reach_mm": min(100.0, max(reach, 0.01))}, "Join the ends"),
    )


def _crossing(flaws: list[Flaw], line: float) -> Finding:
    outlines = "One outline crosses" if len(flaws) == 1 else f"{len(flaws):,} outlines cross"
    return Finding(
        "caution",
        f"{outlines} itself." if len(flaws) == 1 else f"{outlines} themselves.",
        "What is inside is not clear there; it is made as the drawing's fill rule says.",
        "self_crossings",
        (*flaws[0].where, 0.0),
        float(len(flaws)),
        fix=Fix("uncross", {}, "Draw them anew"),
    )


def _double(flaws: list[Flaw], line: float) -> Finding:
    outlines = "One outline is" if len(flaws) == 1 else f"{len(flaws):,} outlines are"
    return Finding(
        "caution",
        f"{outlines} there twice.",
        "Two outlines at the same place cancel each other or are cut twice.",
        "doubles",
        (*flaws[0].where, 0.0),
        float(len(flaws)),
        fix=Fix("drop-doubles", {}, "Keep one of each"),
    )


def _tiny(flaws: list[Flaw], line: float) -> Finding:
    smallest = (TINY_LINES * line) ** 2
    outlines = "One outline is" if len(flaws) == 1 else f"{len(flaws):,} outlines are"
    return Finding(
        "caution",
        f"{outlines} smaller than {smallest:.2f} mm².",
        f"Specks of less than {TINY_LINES:g} line widths are lost when printed.",
        "specks",
        (*flaws[0].where, 0.0),
        float(len(flaws)),
        fix=Fix("drop-tiny", {"smallest_mm2": round(smallest, 4)}, "Take them away"),
    )


_TELL: dict[str, Callable[[list[Flaw], float], Finding]] = {
    "open": _find_open,
    "crossing": _crossing,
    "double": _double,
    "tiny": _tiny,
}
