"""The relief panel: a slab over what the picture shows."""

from nebrel.core.height import HeightField
from nebrel.core.mesh import TriMesh
from nebrel.core.region import region_of_coverage
from nebrel.core.solid.cut import cut_roughly, cut_to_region
from nebrel.core.solid.slab import Progress, Slab, build_slab, measure, sketch_slab

SLAB_SHARE = 0.8
MERGE_SHARE = 0.05
MOST_ATTEMPTS = 4
MOST_SKETCHED = 70_000


def sketch_panel(field: HeightField, backing: float, tolerance: float) -> TriMesh:
    """The panel for looking at: quick, never heavier than a page draws smoothly, and not proved sound."""
    mesh = sketch_slab(field, backing, tolerance, MOST_SKETCHED)
    if field.material.all():
        return mesh
    return cut_roughly(mesh, region_of_coverage(field.coverage, field.pitch))


def build_panel(
    field: HeightField, backing: float, tolerance: float, progress: Progress = lambda _stage, _fraction: None
) -> Slab:
    """The slab over `field`, cut to the outline of its material where some of it is blank.

    Cutting merges nearly equal points, which moves the surface a little; a share of the tolerance is kept free for
    that. The deviation is measured on the finished mesh, and should it exceed the tolerance all the same, the panel is
    built again with half as much to spend.
    """
    if field.material.all():
        return build_slab(field, backing, tolerance, progress)
    region = region_of_coverage(field.coverage, field.pitch)
    for attempt in range(MOST_ATTEMPTS):
        spent = tolerance / 2**attempt
        whole = build_slab(field, backing, SLAB_SHARE * spent, progress)
        progress("Cutting the outline", 0.0)
        mesh = cut_to_region(whole.mesh, region, MERGE_SHARE * spent)
        progress("Cutting the outline", 1.0)
        deviation = measure(mesh, field, backing)
        if deviation.max <= tolerance:
            break
    return Slab(mesh=mesh, deviation=deviation, tolerance=tolerance)
