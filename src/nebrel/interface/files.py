"""Files to begin with: pictures, drawings, meshes."""

from __future__ import annotations

import io
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import BadValueError, UnitNeededError
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.formats import MeshFile
from nebrel.core.mesh.formats import read_mesh as mesh_of_file
from nebrel.core.picture import Picture, SourceFacts
from nebrel.core.picture.write import write_picture
from nebrel.interface.reading import read_file
from nebrel.jobs.beginnings import Source, drawing_in, picture_in
from nebrel.settings import Settings

DRAWINGS = (".svg", ".dxf")
# Pixels of an array have no size; a piece says how wide it is.
MM_PER_PX = 0.1


@dataclass(frozen=True)
class StartingFile:
    """A file that a piece starts from, looked into and found good.

    Attributes:
        data: the file.
        source: what it says about itself; documents name it so.
    """

    data: bytes
    source: Source

    @property
    def name(self) -> str:
        """What it is called."""
        return self.source.name


PictureLike = str | Path | bytes | NDArray[np.floating[Any]] | StartingFile


def read_picture(source: str | Path | bytes | NDArray[np.floating[Any]], name: str = "picture.png") -> StartingFile:
    """A picture to make something of.

    >>> import numpy as np, nebrel
    >>> ramp = nebrel.read_picture(np.tile(np.linspace(0, 1, 64), (48, 1)), "ramp.png")
    >>> ramp.source.width_px, ramp.source.height_px, ramp.source.bit_depth
    (64, 48, 16)

    Args:
        source: a path to PNG, JPEG, TIFF, WebP, BMP, GIF, AVIF, HEIC, JPEG XL or EXR; the bytes of such a file; or
            tones (H, W), 0 black to 1 white, the top row first.
        name: what to call bytes or tones; a path has a name.

    Raises:
        NebrelError: it cannot be read, or is larger than the settings accept.
    """
    if isinstance(source, np.ndarray):
        data = _as_png(source)
    elif isinstance(source, bytes):
        data = source
    else:
        name, data = Path(source).name, read_file(Path(source), "picture_bytes")
    return StartingFile(data, picture_in(data, name, Settings().read_limits))


def read_drawing(source: str | Path, unit: str | None = None) -> StartingFile:
    """Outlines from an SVG or DXF file.

    Args:
        source: its path.
        unit: mm, cm, m, in or ft, of a file that does not say.

    Raises:
        UnitNeededError: it does not say how large it is, and no unit is given.
        NebrelError: it cannot be read.
    """
    path = Path(source)
    data = read_file(path, "mesh_bytes")
    return StartingFile(data, drawing_in(data, path.name, unit))


def read_any(source: str | Path | StartingFile) -> StartingFile:
    """A picture or a drawing, by its ending."""
    if isinstance(source, StartingFile):
        return source
    return read_drawing(source) if Path(source).suffix.lower() in DRAWINGS else read_picture(source)


def read_mesh(source: str | Path, unit: str | None = None) -> TriMesh:
    """A mesh, in millimetres, from STL, OBJ, PLY, OFF, 3MF or GLB.

    Args:
        source: its path; what an OBJ names is looked for beside it.
        unit: mm, cm, m, in or ft, of a file that does not say.

    Raises:
        UnitNeededError: it does not say its unit, and would be implausibly large or small in millimetres.
        NebrelError: it cannot be read.
    """
    path = Path(source)
    found = mesh_file(path, unit)
    if not found.plausible:
        raise UnitNeededError(path.name, tuple(float(side) for side in np.ptp(found.mesh.vertices, axis=0)))
    return found.mesh


def mesh_file(path: Path, unit: str | None = None, sharp: bool = False) -> MeshFile:
    """The mesh in a file with what the file says of itself; see `nebrel.core.mesh.formats.read_mesh`."""

    def beside(name: str) -> bytes | None:
        other = path.parent / name
        return read_file(other, "mesh_bytes") if other.is_file() else None

    return mesh_of_file(read_file(path, "mesh_bytes"), path.name, unit, beside, sharp)


def _as_png(tones: NDArray[np.floating[Any]]) -> bytes:
    if tones.ndim != 2 or not min(tones.shape):
        raise BadValueError(
            f"Tones have the shape {tones.shape}; rows by columns, such as (48, 64), would be accepted."
        )
    if not np.isfinite(tones).all():
        raise BadValueError("Some tones are no numbers; from 0 for black to 1 for white would be accepted.")
    whole = np.ascontiguousarray(np.clip(tones, 0, 1), dtype=np.float32)
    rows, columns = whole.shape
    facts = SourceFacts("png", columns, rows, 16, "gray")
    file = io.BytesIO()
    write_picture(Picture(whole, np.ones_like(whole), facts), file, "png", MM_PER_PX)
    return file.getvalue()
