"""Faces under a chart cut into subtriangles that follow outlines and fields of depths."""
