"""The relief panel: a slab over what the picture shows."""

from dataclasses import replace

from nebrel.core.height import HeightField
from nebrel.core.region import region_of_coverage
from nebrel.core.solid.cut import MERGE_MM, cut_to_region
from nebrel.core.solid.deviation import Deviation
from nebrel.core.solid.slab import Progress, Slab, build_slab


def build_panel(
    field: HeightField, backing: float, tolerance: float, progress: Progress = lambda _stage, _fraction: None
) -> Slab:
    """The slab over `field`, cut to the outline of its material where some of it is blank.

    Cutting splits faces without moving them, but for the merging of nearly equal points; that distance is kept free
    within the tolerance and counted in the reported deviation.
    """
    if field.material.all():
        return build_slab(field, backing, tolerance, progress)
    slab = build_slab(field, backing, tolerance - MERGE_MM, progress)
    progress("Cutting the outline", 0.0)
    mesh = cut_to_region(slab.mesh, region_of_coverage(field.coverage, field.pitch))
    progress("Cutting the outline", 1.0)
    deviation = Deviation(max=slab.deviation.max + MERGE_MM, rms=slab.deviation.rms)
    return replace(slab, mesh=mesh, deviation=deviation, tolerance=tolerance)
