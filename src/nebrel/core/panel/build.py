"""The relief panel: heights over an outline, with its back, frame, edges and openings."""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from nebrel.core.csg.boolean import cleanup, mesh_of
from nebrel.core.heightfield.slab import Progress, Slab, build_slab, measure, measure_faces, sketch_slab
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.crossings import crossing_pairs
from nebrel.core.mesh.surface_error import Deviation
from nebrel.core.panel.assemble import assemble
from nebrel.core.panel.backless import without_back
from nebrel.core.panel.layout import PanelLayout, layout_of
from nebrel.core.panel.target import counted_samples

SLAB_SHARE = 0.8
MERGE_SHARE = 0.05
OUTLINE_SHARE = 0.25
MOST_ATTEMPTS = 4
MOST_SKETCHED = 70_000


def sketch_panel(layout: PanelLayout, tolerance: float) -> TriMesh:
    """The panel for looking at: quick, never heavier than a page draws smoothly, and not proved sound."""
    field, body = layout.field, layout.body
    if field.terraces is None and layout.plain:
        return sketch_slab(field, body.backing, tolerance, MOST_SKETCHED)

    def slab() -> TriMesh:
        return sketch_slab(field, body.backing, tolerance, MOST_SKETCHED, body.back == "follow")

    mesh = mesh_of(assemble(layout, slab, OUTLINE_SHARE * tolerance).as_original())
    return without_back(mesh, layout.whole) if body.back == "none" else mesh


def measure_panel(mesh: TriMesh, layout: PanelLayout) -> Deviation:
    """How far the upper side of a made panel is from its heights."""
    body = layout.body
    return measure(mesh, layout.field, body.backing, counted_samples(layout), body.back == "follow")


def panel_deviation(mesh: TriMesh, layout: PanelLayout) -> NDArray[np.float64]:
    """How far every face of a made panel is from its heights at the most, float64 (M,) mm; NaN where none count."""
    body = layout.body
    return measure_faces(mesh, layout.field, body.backing, counted_samples(layout), body.back == "follow")


def build_panel(
    layout: PanelLayout,
    tolerance: float,
    progress: Progress = lambda _stage, _fraction: None,
    between: bool = False,
) -> Slab:
    """The panel within `tolerance` mm of its heights, closed unless it is to be a surface only.

    Where lines of its heights keep it from being that, and it is better without them, it is built without.

    Args:
        layout: of the panel.
        tolerance: largest vertical distance from the asked heights, mm.
        progress: called with stage name and fraction.
        between: whether the tolerance holds between samples, too.

    Raises:
        BadValueError: edges or openings do not fit the piece.
    """
    made = _build(layout, tolerance, progress, between)
    if layout.field.lines is None:
        return made
    crosses = not layout.plain and len(crossing_pairs(made.mesh, 1)) > 0
    if not crosses and _reached(made.deviation, between) <= tolerance:
        return made
    plain = _build(layout_of(replace(layout.field, lines=None), layout.body), tolerance, progress, between)
    if crosses or _reached(plain.deviation, between) < _reached(made.deviation, between):
        return replace(plain, unlined=True)
    return made


def _reached(deviation: Deviation, between: bool) -> float:
    return deviation.max if not between or deviation.max_between is None else deviation.max_between


def _build(layout: PanelLayout, tolerance: float, progress: Progress, between: bool) -> Slab:
    """A panel put together of its parts.

    Parts are joined and cut by exact booleans; parts that are joined reach into each other by 10 µm. Mending the
    result merges nearly equal points, which moves the surface a little; a share of the tolerance is kept free for
    that. The deviation is measured on the finished mesh, and should it exceed the tolerance all the same, the panel is
    built again with half as much to spend.
    """
    field, body = layout.field, layout.body
    if field.terraces is None and layout.plain:
        return build_slab(field, body.backing, tolerance, progress, between=between)
    follow = body.back == "follow"
    counted = counted_samples(layout)
    for attempt in range(MOST_ATTEMPTS):
        spent = tolerance / 2**attempt

        def slab(spent: float = spent) -> TriMesh:
            return build_slab(field, body.backing, SLAB_SHARE * spent, progress, follow, between).mesh

        solid = assemble(layout, slab, OUTLINE_SHARE * spent, lambda part: progress("Joining the parts", part))
        mesh = cleanup(solid, MERGE_SHARE * spent)
        progress("Joining the parts", 1.0)
        deviation = measure(mesh, field, body.backing, counted, follow)
        if _reached(deviation, between) <= tolerance:
            break
    if body.back == "none":
        mesh = without_back(mesh, layout.whole)
    return Slab(mesh=mesh, deviation=deviation, tolerance=tolerance)
