"""Outlines as files, whatever their format."""

from nebrel.core.region.curves import Figure
from nebrel.core.region.read import DrawingFormat
from nebrel.core.region.svg import svg_bytes


def drawing_bytes(figure: Figure, form: DrawingFormat, splines: bool = False) -> bytes:
    """A figure as a file in mm at true size; `splines` writes SPLINEs to DXF in place of polylines."""
    if form == "svg":
        return svg_bytes(figure)
    # Loaded only here, as for reading.
    from nebrel.core.region.dxf import dxf_bytes

    return dxf_bytes(figure, splines)
