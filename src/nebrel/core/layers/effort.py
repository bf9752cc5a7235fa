"""How long a printer works on a solid, and what of its material it takes: lines laid, turned, moved between.

A line of a straight length l takes l / v + v / a: it is begun and ended at rest, as a corner is. Where it is too
short to reach its speed, it takes 2 √(l / a).
"""

from dataclasses import dataclass

import manifold3d
import numpy as np
from numpy.typing import NDArray

from nebrel.core.layers.slices import Slices
from nebrel.core.layers.support import Hanging

# Turns up to this are gone through without slowing down: cosine.
GENTLE = float(np.cos(np.radians(25)))


@dataclass(frozen=True)
class PrintWay:
    """How a printer lays lines.

    Attributes:
        line: mm wide.
        walls: how many lines go round.
        solid_layers: how many layers below and above are filled wholly.
        infill, support: share of the inside, and of the support, that is filled.
        wall_speed, infill_speed, travel_speed: mm/s.
        acceleration: mm/s².
        layer_change: seconds.
        density: g/cm³ of the material.
    """

    line: float
    walls: int = 3
    solid_layers: int = 4
    infill: float = 0.15
    support: float = 0.15
    wall_speed: float = 60.0
    infill_speed: float = 90.0
    travel_speed: float = 150.0
    acceleration: float = 1500.0
    layer_change: float = 1.5
    density: float = 1.24


@dataclass(frozen=True)
class Effort:
    """What a print takes.

    Attributes:
        walls, infill, support, travel, changes: minutes.
        metres: of line that are laid, without support.
        plastic_mm3, support_mm3: of material in the piece, and in its support.
        grams: of both.
        minutes_of_layers: float64 (N,), what each layer takes of all but changes of colour.
        grams_of_layers: float64 (N,) of the piece and its support in each layer.
    """

    walls: float
    infill: float
    support: float
    travel: float
    changes: float
    metres: float
    plastic_mm3: float
    support_mm3: float
    grams: float
    minutes_of_layers: NDArray[np.float64]
    grams_of_layers: NDArray[np.float64]

    @property
    def minutes(self) -> float:
        """All together."""
        return self.walls + self.infill + self.support + self.travel + self.changes


def effort(slices: Slices, hanging: Hanging, volume: float, way: PrintWay) -> Effort:
    """How long a print takes, and how much material.

    Args:
        slices: its layers.
        hanging: what needs support.
        volume: of the solid, mm³, as its mesh has it; slices are cut half way up and would miss some.
        way: how lines are laid.
    """
    sections = slices.plain
    solid = _closed(sections, way.solid_layers)
    # Of every layer: walls, infill, support, travel, changes.
    seconds = np.zeros((len(sections), 5))
    seconds[:, 4] = way.layer_change
    laid, covered = np.zeros(len(sections)), 0.0
    for layer, (section, skin, height) in enumerate(zip(sections, solid, slices.heights.tolist(), strict=True)):
        area = section.area()
        covered += area * height
        if area <= 0:
            continue
        rings = [np.asarray(ring, dtype=np.float64) for ring in section.to_polygons()]
        around, corners = _round(rings)
        loops = min(float(way.walls), area / max(around * way.line, 1e-9))
        wall = loops * around
        inside = max(0.0, area - wall * way.line)
        share = way.infill + (1 - way.infill) * min(1.0, skin / area)
        fill = inside * share / way.line
        # Across an outline, lines are as long as its chords on average.
        pieces = fill / max(np.pi * inside / max(around, 1e-9), way.line) if fill else 0.0
        laid[layer] = (wall + fill) * height
        seconds[layer, 0] = _straight(wall, max(1.0, loops * corners), way.wall_speed, way.acceleration)
        seconds[layer, 1] = _straight(fill, pieces, way.infill_speed, way.acceleration)
        parts = len(rings)
        hop = float(np.sqrt(area)) / 2
        seconds[layer, 3] = _straight(parts * hop, parts, way.travel_speed, way.acceleration)
    beside = hanging.support
    for layer, area in enumerate(beside.tolist()):
        line = area * way.support / way.line
        if line > 0:
            pieces = line / max(np.sqrt(area), way.line)
            seconds[layer, 2] = _straight(line, pieces, way.infill_speed, way.acceleration)
    all_laid = float(laid.sum())
    plastic = volume * min(1.0, all_laid * way.line / covered) if covered else 0.0
    support = beside * slices.heights * way.support
    walls, infill, supported, travel, changes = (seconds.sum(axis=0) / 60).tolist()
    grams = (plastic * laid / max(all_laid, 1e-12) + support) / 1000 * way.density
    return Effort(
        walls,
        infill,
        supported,
        travel,
        changes,
        metres=plastic / (way.line * float(np.median(slices.heights))) / 1000,
        plastic_mm3=plastic,
        support_mm3=float(support.sum()),
        grams=float(grams.sum()),
        minutes_of_layers=seconds.sum(axis=1) / 60,
        grams_of_layers=grams,
    )


def _closed(sections: list[manifold3d.CrossSection], layers: int) -> list[float]:
    """How much of each layer is a skin: what is not inside of all of so many layers below and above, mm²."""
    if layers <= 0:
        return [0.0] * len(sections)
    areas = []
    for at, section in enumerate(sections):
        inner = section
        for near in (*range(at - layers, at), *range(at + 1, at + layers + 1)):
            if not 0 <= near < len(sections):
                inner = manifold3d.CrossSection()
                break
        else:
            for near in (at - layers, at - 1, at + 1, at + layers):
                inner = inner ^ sections[near]
        areas.append(section.area() - inner.area())
    return areas


def _round(rings: list[NDArray[np.float64]]) -> tuple[float, int]:
    """How long outlines are, mm, and at how many corners they turn."""
    length, corners = 0.0, 0
    for ring in rings:
        sides = np.roll(ring, -1, axis=0) - ring
        long = np.linalg.norm(sides, axis=1)
        length += float(long.sum())
        along = sides / np.maximum(long, 1e-12)[:, np.newaxis]
        corners += max(1, int((np.einsum("ij,ij->i", along, np.roll(along, -1, axis=0)) < GENTLE).sum()))
    return length, corners


def _straight(length: float, pieces: float, speed: float, acceleration: float) -> float:
    """Seconds for a length in so many straight pieces."""
    if length <= 0 or pieces <= 0:
        return 0.0
    each = length / pieces
    if each >= speed * speed / acceleration:
        return pieces * (each / speed + speed / acceleration)
    return float(pieces * 2 * np.sqrt(each / acceleration))
