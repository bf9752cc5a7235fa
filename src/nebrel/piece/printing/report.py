"""What `nebrel layers --json` prints, and pages are told; keys and units are a promise to people's scripts."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel

from nebrel.core.layers.study import LayerSetup, LayerStudy
from nebrel.core.layers.turns import Turn
from nebrel.core.layers.walls import WallSpot
from nebrel.core.mesh import TriMesh
from nebrel.core.proof.layer_audit import layer_findings
from nebrel.piece.report import FindingReport

Place = tuple[float, float, float]


class WallReport(BaseModel):
    """A wall through neighbouring layers; the first layer of all is 1. `length_mm` is that of the longest layer."""

    layers: tuple[int, int]
    wide_mm: float
    lines: float
    length_mm: float
    at_mm: Place


class IslandReport(BaseModel):
    """A part that begins in mid-air."""

    layer: int
    area_mm2: float
    at_mm: Place


class BridgeReport(BaseModel):
    """Lines that hang between places that hold them."""

    layer: int
    span_mm: float
    area_mm2: float
    at_mm: Place


class LayersReport(BaseModel):
    """All that was found.

    `layer_mm` are the lowest and the highest layer, `cusp_mm` how far steps on slopes stand out where they do most.
    Minutes and grams are estimates, by the rates of a common printer; `grams` are of the piece and its support.
    """

    layers: int
    height_mm: float
    layer_mm: tuple[float, float]
    cusp_mm: float
    thin_spots: list[WallReport]
    awkward_walls: list[WallReport]
    islands: list[IslandReport]
    overhang_mm2: float
    support_mm3: float
    bridges: list[BridgeReport]
    minutes: float
    minutes_of: dict[str, float]
    grams: float
    support_grams: float
    findings: list[FindingReport]

    @classmethod
    def of(cls, study: LayerStudy, setup: LayerSetup) -> "LayersReport":
        """The report of what was found."""
        slices, hung, spent = study.slices, study.hanging, study.effort
        return cls(
            layers=len(slices.sections),
            height_mm=round(slices.size[2], 6),
            layer_mm=(round(float(slices.heights.min()), 6), round(float(slices.heights.max()), 6)),
            cusp_mm=round(study.cusp, 5),
            thin_spots=[_wall(study, spot) for spot in study.spots if spot.thin],
            awkward_walls=[_wall(study, spot) for spot in study.spots if not spot.thin],
            islands=[
                IslandReport(
                    layer=each.layer + 1,
                    area_mm2=round(each.area, 4),
                    at_mm=_rounded(slices.place_of(*each.at, each.layer)),
                )
                for each in hung.islands
            ],
            overhang_mm2=round(float(hung.overhang.sum()), 4),
            support_mm3=round(hung.support_mm3(slices.heights), 3),
            bridges=[
                BridgeReport(
                    layer=each.layer + 1,
                    span_mm=round(each.span, 3),
                    area_mm2=round(each.area, 4),
                    at_mm=_rounded(slices.place_of(*each.at, each.layer)),
                )
                for each in hung.bridges
            ],
            minutes=round(spent.minutes, 1),
            minutes_of={
                name: round(getattr(spent, name), 2) for name in ("walls", "infill", "support", "travel", "changes")
            },
            grams=round(spent.grams, 2),
            support_grams=round(spent.support_mm3 / 1000 * setup.way.density, 2),
            findings=[
                FindingReport.of(each.finding) for each in layer_findings(study, setup.way.line, setup.longest_bridge)
            ],
        )


class TurnReport(BaseModel):
    """A side that could lie on the plate, as estimated from faces; `score` 0 would be the best in all."""

    down: Place
    support_mm3: float
    height_mm: float
    footprint_mm2: float
    tips_deg: float
    steps_mm: float
    scars_mm2: float
    score: float
    own: bool

    @classmethod
    def of(cls, turn: Turn) -> "TurnReport":
        """The report of a turn."""
        x, y, z = turn.down
        return cls(
            down=(round(x, 9), round(y, 9), round(z, 9)),
            support_mm3=round(turn.support_mm3, 2),
            height_mm=round(turn.height_mm, 4),
            footprint_mm2=round(turn.footprint_mm2, 3),
            tips_deg=round(turn.tips_deg, 2),
            steps_mm=round(turn.steps_mm, 5),
            scars_mm2=round(turn.scars_mm2, 2),
            score=round(turn.score, 4),
            own=turn.own,
        )


class TurnedReport(BaseModel):
    """What a mesh takes as it stands, measured in its layers."""

    height_mm: float
    overhang_mm2: float
    support_mm3: float
    islands: int
    minutes: float
    grams: float

    @classmethod
    def of(cls, study: LayerStudy) -> "TurnedReport":
        """The report of a solid that was looked at."""
        return cls(
            height_mm=round(study.slices.size[2], 6),
            overhang_mm2=round(float(study.hanging.overhang.sum()), 4),
            support_mm3=round(study.hanging.support_mm3(study.slices.heights), 3),
            islands=len(study.hanging.islands),
            minutes=round(study.effort.minutes, 1),
            grams=round(study.effort.grams, 2),
        )


class TurnsReport(BaseModel):
    """The best turns, which of them was written, and what the mesh took before and takes now."""

    written: int
    turns: list[TurnReport]
    before: TurnedReport
    after: TurnedReport

    @classmethod
    def of(cls, turns: list[Turn], written: int, before: LayerStudy, after: LayerStudy) -> "TurnsReport":
        """The report of what was found."""
        return cls(
            written=written,
            turns=[TurnReport.of(turn) for turn in turns],
            before=TurnedReport.of(before),
            after=TurnedReport.of(after),
        )


class PlacedReport(BaseModel):
    """A piece on the plate, by its box."""

    name: str
    at_mm: tuple[float, float]
    size_mm: Place


class PlateReport(BaseModel):
    """Pieces on one bed; `used_mm` is the box about all."""

    bed_mm: tuple[float, float]
    gap_mm: float
    used_mm: tuple[float, float]
    pieces: list[PlacedReport]

    @classmethod
    def of(cls, names: list[str], laid: list[TriMesh], bed: tuple[float, float], gap: float) -> "PlateReport":
        """The report of meshes where they lie."""
        boxes = [(mesh.vertices.min(axis=0), mesh.vertices.max(axis=0)) for mesh in laid]
        low = np.min([low for low, _ in boxes], axis=0)
        high = np.max([high for _, high in boxes], axis=0)
        wide, deep, _ = (high - low).tolist()
        return cls(
            bed_mm=bed,
            gap_mm=gap,
            used_mm=(round(wide, 3), round(deep, 3)),
            pieces=[_placed(name, low, high) for name, (low, high) in zip(names, boxes, strict=True)],
        )


def _placed(name: str, low: NDArray[np.float64], high: NDArray[np.float64]) -> PlacedReport:
    x, y, _ = _rounded(low.tolist())
    return PlacedReport(name=name, at_mm=(x, y), size_mm=_rounded((high - low).tolist()))


def _wall(study: LayerStudy, spot: WallSpot) -> WallReport:
    x, y, layer = spot.at
    return WallReport(
        layers=(spot.first + 1, spot.last + 1),
        wide_mm=round(spot.wide, 4),
        lines=round(spot.lines, 3),
        length_mm=round(spot.length, 2),
        at_mm=_rounded(study.slices.place_of(x, y, layer)),
    )


def _rounded(place: Sequence[float]) -> Place:
    x, y, z = (round(float(value), 3) for value in place)
    return x, y, z
