"""File endings and options that many commands share, without loading what reads those files."""

from pathlib import Path
from typing import Annotated

import typer

MESHES = (".stl", ".obj", ".ply", ".off", ".3mf", ".glb")
DRAWINGS = (".svg", ".dxf")
HEIGHT_MAPS = (".png", ".tif", ".tiff")
# What a piece is called that is on no shelf: its only source.
NO_BLOB = "0" * 64

Unit = Annotated[str | None, typer.Option(help="Unit of a file that does not say: mm, cm, m, in or ft.")]
AsJson = Annotated[bool, typer.Option("--json", help="Print the report as JSON.")]
MeshArgument = Annotated[Path, typer.Argument(help="STL, OBJ, PLY, OFF, 3MF or GLB.")]
