"""What layers tell, in sentences; small islands first, since nobody sees them coming."""

import math
from dataclasses import dataclass
from typing import Any

from nebrel.core.layers.study import LayerStudy
from nebrel.core.layers.walls import WallSpot
from nebrel.core.proof.finding import Finding


@dataclass(frozen=True)
class LayerFinding:
    """A finding, and the layer that it is seen in, 0 the first; None where it is no one's."""

    finding: Finding
    layer: int | None = None


# So much is told one by one; the rest is counted.
MOST_TOLD = 5
# Scars smaller than this are cut off with a knife.
LEAST_SCAR_MM2 = 2.0


def layer_findings(study: LayerStudy, line: float, longest_bridge: float) -> list[LayerFinding]:
    """What to know about a solid's layers.

    Args:
        study: of the layers.
        line: mm that a printed line is wide.
        longest_bridge: mm that need no support.
    """
    return [
        *_islands(study),
        *_walls(study, [spot for spot in study.spots if spot.thin], line),
        *_walls(study, [spot for spot in study.spots if not spot.thin], line),
        *_bridges(study, longest_bridge),
        *_overhang(study),
    ]


def _islands(study: LayerStudy) -> list[LayerFinding]:
    found = []
    for island in study.hanging.islands[:MOST_TOLD]:
        found.append(
            _seen(
                island.layer,
                "fault",
                f"In layer {island.layer + 1} a part of {island.area:.2f} mm² begins in mid-air.",
                "Its first lines would fall; support below it, another side down, or something that leads up to it "
                "would hold them.",
                "island",
                where=study.slices.place_of(*island.at, island.layer),
                value=round(island.area, 3),
                unit="mm²",
            )
        )
    return [*found, *_more(len(study.hanging.islands), "parts begin in mid-air", "islands")]


def _walls(study: LayerStudy, spots: list[WallSpot], line: float) -> list[LayerFinding]:
    found = []
    for spot in spots[:MOST_TOLD]:
        layers = f"layers {spot.first + 1}–{spot.last + 1}" if spot.last > spot.first else f"layer {spot.first + 1}"
        x, y, layer = spot.at
        if spot.thin:
            what = f"In {layers} a wall is {spot.wide:.2f} mm thin, less than the one line of {line:g} mm."
            why = f"It is left out or torn; ask for {line:.2f} mm, or draw a finer line."
        else:
            below, above = math.floor(spot.lines) * line, math.ceil(spot.lines) * line
            what = f"In {layers} a wall of {spot.wide:.2f} mm fits {spot.lines:.1f} lines."
            why = f"The rest between them stays hollow; ask for {above:.2f} mm" + (
                f", or {below:.2f} mm." if below > 0 else "."
            )
        found.append(
            _seen(
                layer,
                "caution",
                what,
                why,
                "thin-wall" if spot.thin else "awkward-wall",
                where=study.slices.place_of(x, y, layer),
                value=round(spot.lines, 2),
                unit="lines",
            )
        )
    words = "walls are thinner than a line" if spots and spots[0].thin else "walls leave a rest hollow"
    return [*found, *_more(len(spots), words, "thin-walls" if spots and spots[0].thin else "awkward-walls")]


def _bridges(study: LayerStudy, longest: float) -> list[LayerFinding]:
    long = [bridge for bridge in study.hanging.bridges if bridge.span > longest]
    found = [
        _seen(
            bridge.layer,
            "caution",
            f"In layer {bridge.layer + 1} lines hang over {bridge.span:.1f} mm.",
            f"Up to {longest:g} mm hold by themselves; support, or something below that comes nearer, is needed.",
            "bridge",
            where=study.slices.place_of(*bridge.at, bridge.layer),
            value=round(bridge.span, 2),
            unit="mm",
        )
        for bridge in long[:MOST_TOLD]
    ]
    return [*found, *_more(len(long), "bridges are longer than that", "bridges")]


def _overhang(study: LayerStudy) -> list[LayerFinding]:
    area = float(study.hanging.overhang.sum())
    if area <= 0:
        return []
    support = study.hanging.support_mm3(study.slices.heights)
    return [
        _seen(
            int(study.hanging.overhang.argmax()),
            "note",
            f"{area:,.0f} mm² of its undersides are steeper than layers hold.",
            f"{support / 1000:,.1f} cm³ of support would stand below them; another side down may need less.",
            "overhang",
            value=round(area, 2),
            unit="mm²",
        )
    ]


def scars_finding(shown_mm2: float) -> LayerFinding | None:
    """That support touches what shows, if it touches more than a trace of it."""
    if shown_mm2 < LEAST_SCAR_MM2:
        return None
    return _seen(
        None,
        "note",
        f"Support touches {shown_mm2:,.0f} mm² of the side that shows.",
        "It leaves scars there; another side down, or a slope in place of the support, keeps it clean.",
        "scars",
        value=round(shown_mm2, 2),
        unit="mm²",
    )


def _more(count: int, words: str, measure: str) -> list[LayerFinding]:
    if count <= MOST_TOLD:
        return []
    return [_seen(None, "note", f"{count:,} {words} in all.", "Those above matter most.", measure, value=count)]


def _seen(layer: int | None, *told: Any, **more: Any) -> LayerFinding:
    return LayerFinding(Finding(*told, **more), layer)
