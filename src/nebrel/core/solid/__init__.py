"""Solids: slabs over a region and what they are bent over."""

from nebrel.core.solid.deviation import Deviation
from nebrel.core.solid.panel import build_panel, sketch_panel
from nebrel.core.solid.slab import Slab, build_slab

__all__ = ["Deviation", "Slab", "build_panel", "build_slab", "sketch_panel"]
