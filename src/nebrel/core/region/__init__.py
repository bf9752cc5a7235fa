"""Outlines: sets of closed curves with holes, in millimetres."""

from nebrel.core.region.coverage import region_of_coverage

__all__ = ["region_of_coverage"]
