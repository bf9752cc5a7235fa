"""Outlines as files, whatever their format."""

from nebrel.core.outline_files.read import DrawingFormat
from nebrel.core.outline_files.svg.write import svg_bytes
from nebrel.core.region.curves import Figure


def drawing_bytes(
    figure: Figure, form: DrawingFormat, splines: bool = False, frame: tuple[float, float] | None = None
) -> bytes:
    """A figure as a file in mm at true size; `splines` writes SPLINEs to DXF in place of polylines.

    `frame` is the size of the page of an SVG file, mm, its lower left corner at the origin; None draws it round the
    figure.
    """
    if form == "svg":
        return svg_bytes(figure, frame)
    # Loaded only here, as for reading.
    from nebrel.core.outline_files.dxf import dxf_bytes

    return dxf_bytes(figure, splines)
