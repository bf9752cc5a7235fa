"""Solids: slabs over a region and what they are bent over."""

from nebrel.core.solid.asked import asked_field
from nebrel.core.solid.assemble import refuse_unfit
from nebrel.core.solid.deviation import Deviation
from nebrel.core.solid.panel import build_panel, measure_panel, panel_deviation, sketch_panel
from nebrel.core.solid.panel_body import PanelBody
from nebrel.core.solid.slab import Slab, build_slab

__all__ = [
    "Deviation",
    "PanelBody",
    "Slab",
    "asked_field",
    "build_panel",
    "build_slab",
    "measure_panel",
    "panel_deviation",
    "refuse_unfit",
    "sketch_panel",
]
