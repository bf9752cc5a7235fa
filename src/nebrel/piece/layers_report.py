"""What `nebrel layers --json` prints, and pages are told; keys and units are a promise to people's scripts."""

from pydantic import BaseModel

from nebrel.core.layers.study import LayerSetup, LayerStudy
from nebrel.core.layers.walls import WallSpot
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
    """All that was found. Minutes come in parts besides; `grams` are of the piece and its support."""

    layers: int
    height_mm: float
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
                FindingReport.of(finding) for finding in layer_findings(study, setup.way.line, setup.longest_bridge)
            ],
        )


def _wall(study: LayerStudy, spot: WallSpot) -> WallReport:
    x, y, layer = spot.at
    return WallReport(
        layers=(spot.first + 1, spot.last + 1),
        wide_mm=round(spot.wide, 4),
        lines=round(spot.lines, 3),
        length_mm=round(spot.length, 2),
        at_mm=_rounded(study.slices.place_of(x, y, layer)),
    )


def _rounded(place: Place) -> Place:
    x, y, z = (round(value, 3) for value in place)
    return x, y, z
