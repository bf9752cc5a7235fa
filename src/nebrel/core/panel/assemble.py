"""Relief, margin, frame, edges and openings of a panel as one solid."""

from collections.abc import Callable

import manifold3d
from shapely.geometry import MultiPolygon

from nebrel.core.csg.boolean import solid_of, upright
from nebrel.core.csg.cut import part_over
from nebrel.core.errors import BadValueError
from nebrel.core.mesh import TriMesh
from nebrel.core.outline_solid.offset_extrusion import inset, loft
from nebrel.core.panel.body import PanelBody
from nebrel.core.panel.drafted_plate import drafted_plate
from nebrel.core.panel.layout import PanelLayout
from nebrel.core.panel.openings import cutters
from nebrel.core.panel.rim import frame_profile
from nebrel.core.panel.step_plate import step_plate
from nebrel.core.region.grid import polygons_of
from nebrel.core.region.terraces import terrace_cells

# How far parts that are joined reach into each other, so that no two of their faces coincide.
OVERLAP_MM = 0.01


def assemble(
    layout: PanelLayout,
    slab: Callable[[], TriMesh],
    slack: float = 0.0,
    progress: Callable[[float], None] = lambda _: None,
) -> manifold3d.Manifold:
    """The whole panel as a closed solid, before it is mended for a file.

    Args:
        layout: of the panel.
        slab: gives the slab over the whole grid; called only when the heights are not terraces.
        slack: mm by which outlines of terraces may be off.
        progress: called with the fraction done.
    """
    body, whole = layout.body, layout.whole
    solid = _relief(layout, slab, slack)
    progress(0.3)
    if not layout.margin.is_empty:
        solid += upright(polygons_of(layout.margin.buffer(OVERLAP_MM).intersection(whole)), 0, body.backing)
    if body.frame is not None:
        filled = polygons_of(layout.frame.union(layout.relief).union(layout.margin).buffer(0))
        solid += _frame(filled, body)
    progress(0.5)
    top = solid.bounding_box()[5]
    edge = layout.edge(top + 1)
    if edge is not None:
        solid ^= solid_of(loft(whole, edge))
    for cutter in cutters(body.openings, whole, body.backing, top):
        solid -= solid_of(cutter)
    progress(0.8)
    return solid


def refuse_unfit(layout: PanelLayout) -> None:
    """Refuse a panel that cannot be made, without making it.

    Raises:
        BadValueError: edges or openings do not fit.
    """
    backing = layout.body.backing
    top = backing + float(layout.field.heights.max())
    edge = layout.edge(top + 1)
    if edge is not None and inset(layout.whole, edge[-1][0]).is_empty:
        raise BadValueError(
            f"Bevel and leaning walls take {edge[-1][0]:.1f} mm from every side and leave nothing; take less."
        )
    cutters(layout.body.openings, layout.whole, backing, top)


def _relief(layout: PanelLayout, slab: Callable[[], TriMesh], slack: float) -> manifold3d.Manifold:
    field, region = layout.field, layout.relief
    if layout.body.frame is not None or not layout.margin.is_empty:
        region = polygons_of(region.buffer(OVERLAP_MM).intersection(layout.whole))
    if field.terraces is None:
        return part_over(solid_of(slab()), region)
    levels = field.terraces.levels + layout.body.backing
    if field.steepest_deg < 90:
        return part_over(drafted_plate(field.terraces, levels, field.pitch, field.steepest_deg, region), region)
    cells = terrace_cells(field.terraces.coverage, len(levels), field.pitch, region, slack)
    return solid_of(step_plate(cells, levels))


def _frame(filled: MultiPolygon, body: PanelBody) -> manifold3d.Manifold:
    assert body.frame is not None
    return solid_of(loft(filled, frame_profile(body.frame, body.backing), hollow=True))
