"""What outlines become: a raised shape, a cutter or a stamp, as the recipe of its solid says."""

from dataclasses import dataclass, replace

import shapely
from shapely.geometry import MultiPolygon

from nebrel.core.mesh import TriMesh
from nebrel.core.outline_solid.cutter import Imprint, MadeCutter, make_cutter
from nebrel.core.outline_solid.raised import raised_outline
from nebrel.core.outline_solid.stamp import make_stamp
from nebrel.core.proof import Finding
from nebrel.core.region.curves import Figure, figure_region, layer_region
from nebrel.core.region.grid import polygons_of
from nebrel.piece.kinds.outline.document import CutterPart, RaisedPart, StampPart

SKETCH_CHORD = 0.03


@dataclass(frozen=True)
class MadeOfOutlines:
    """A solid of outlines.

    Attributes:
        mesh: its lowest corner at the origin.
        findings: what the making itself noticed.
    """

    mesh: TriMesh
    findings: tuple[Finding, ...] = ()


def solid_of_outlines(figure: Figure, solid: RaisedPart | CutterPart | StampPart, chord: float) -> MadeOfOutlines:
    """The solid of a figure, curves flattened to within `chord` mm.

    Raises:
        BadValueError: it cannot be made.
    """
    if isinstance(solid, CutterPart):
        made = make_cutter(cut_region(figure, solid, chord), imprints_of(figure, solid, chord), solid.to_core())
        return MadeOfOutlines(made.mesh, _cutter_findings(made))
    if isinstance(solid, StampPart):
        return MadeOfOutlines(make_stamp(drawn_region(figure, chord), solid.to_core()))
    return MadeOfOutlines(raised_outline(standing_of(figure, solid, chord), replace(solid.to_core(), chord=chord)))


def drawn_region(figure: Figure, chord: float = SKETCH_CHORD) -> MultiPolygon:
    """The area of all layers but the ground."""
    return figure_region(figure.drawn, chord)


def cut_region(figure: Figure, solid: CutterPart, chord: float = SKETCH_CHORD) -> MultiPolygon:
    """What a cutter cuts out: everything drawn, its holes filled unless they are cut too."""
    drawn = drawn_region(figure, chord)
    if solid.holes:
        return drawn
    return polygons_of(shapely.union_all([shapely.Polygon(part.exterior) for part in drawn.geoms]))


def imprints_of(figure: Figure, solid: CutterPart, chord: float) -> list[Imprint]:
    """Every drawn layer but the largest, each pressed in by its own measure."""
    if not solid.imprint:
        return []
    layers = [(at, layer_region(layer, chord)) for at, layer in enumerate(figure.layers) if not layer.ground]
    if len(layers) < 2:
        return []
    largest = max(layers, key=lambda layer: layer[1].area)[0]
    return [
        Imprint(region, solid.setbacks_mm[at] if at < len(solid.setbacks_mm) else solid.setback_mm)
        for at, region in layers
        if at != largest
    ]


def standing_of(figure: Figure, solid: RaisedPart, chord: float) -> list[tuple[MultiPolygon, float]]:
    """Every layer with its height; the ground stands at 0 unless it is given one."""
    standing = []
    for at, layer in enumerate(figure.layers):
        usual = 0.0 if layer.ground else solid.thickness_mm
        height = solid.heights_mm[at] if at < len(solid.heights_mm) else usual
        standing.append((layer_region(layer, chord), height))
    return standing


def is_straight_figure(figure: Figure) -> bool:
    """Whether all its outlines are straight, and none is a stroke."""
    return all(layer.is_straight for layer in figure.layers)


def straight_prism(figure: Figure, solid: RaisedPart | CutterPart | StampPart) -> tuple[MultiPolygon, float] | None:
    """The region and the height of what is asked, where that is nothing but upright walls over straight edges."""
    if not isinstance(solid, RaisedPart) or solid.edge != "square" or solid.cut or solid.inlay:
        return None
    if solid.base.kind != "none" or solid.shell != "none" or not is_straight_figure(figure):
        return None
    standing = [each for each in standing_of(figure, solid, SKETCH_CHORD) if each[1] > 0 and not each[0].is_empty]
    return standing[0] if len(standing) == 1 else None


def _cutter_findings(made: MadeCutter) -> tuple[Finding, ...]:
    if made.joined:
        return ()
    return (
        Finding(
            "caution",
            f"The cutter is {made.parts} parts that nothing joins.",
            "They cannot be pressed as one; let bars, a handle or an imprint plate hold them together.",
            "loose_parts",
            None,
            float(made.parts),
        ),
    )
