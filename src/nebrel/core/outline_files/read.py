"""Files of outlines, whatever their format."""

from pathlib import PurePath
from typing import Literal

from nebrel.core.errors import BadDrawingError
from nebrel.core.outline_files.svg.read import read_svg
from nebrel.core.region.drawing import Drawing

DrawingFormat = Literal["svg", "dxf"]
ENDINGS = (".svg", ".dxf")


def drawing_format(name: str) -> DrawingFormat:
    """The format that a file name ends in.

    Raises:
        BadDrawingError: none of those that are read.
    """
    ending = PurePath(name).suffix.lower()
    if ending == ".svg":
        return "svg"
    if ending == ".dxf":
        return "dxf"
    raise BadDrawingError(f"{name} does not end in .svg or .dxf; these drawings are accepted.")


def read_drawing(data: bytes, name: str, mm_per_unit: float | None = None, join: float = 0.0) -> Drawing:
    """The outlines in a file.

    Args:
        data: the file.
        name: what it is called; its ending tells the format.
        mm_per_unit: for files that do not say how large they are.
        join: mm between ends of lines in a DXF file that are to be joined.

    Raises:
        BadDrawingError: not such a file, broken, or without outlines.
        TooLargeError: more than is accepted.
    """
    if not data:
        raise BadDrawingError(f"{name} is an empty file; a drawing is needed.")
    if drawing_format(name) == "svg":
        return read_svg(data, name, mm_per_unit)
    # Loaded only here: its library takes half a second, and most pieces never see a DXF file.
    from nebrel.core.outline_files.dxf import read_dxf

    return read_dxf(data, name, mm_per_unit, join)
