"""How pieces begin: what a file is, and the document that starts from it."""

from collections.abc import Mapping
from types import MappingProxyType

import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import UnitNeededError
from nebrel.core.height.calibrate import read_photograph
from nebrel.core.mesh.formats import MM_PER, mesh_unit, read_mesh
from nebrel.core.outline_files.read import drawing_format, read_drawing
from nebrel.core.outline_files.svg.write import svg_bytes
from nebrel.core.picture import ReadLimits, read_facts, read_picture
from nebrel.core.region.drawing import Drawing
from nebrel.piece.documents.document import Document
from nebrel.piece.kinds.model.document import ModelDocument, ModelSource
from nebrel.piece.kinds.model.evaluator import model_source
from nebrel.piece.kinds.outline.document import DrawingSource
from nebrel.piece.parts.pictured import PictureSource, picture_source
from nebrel.piece.registry import parse_document
from nebrel.store.blobs import blob_name

NARROWEST_MM, WIDEST_MM = 0.5, 3000.0
Source = PictureSource | ModelSource | DrawingSource


def picture_in(data: bytes, name: str, limits: ReadLimits, is_sheet: bool = False) -> PictureSource:
    """The picture in a file, as a document names it; see `read_picture`."""
    return picture_source(blob_name(data), name, read_facts(data, name, limits), is_sheet)


def model_in(data: bytes, name: str, unit: str | None) -> ModelSource:
    """The mesh in a file, as a document names it; see `read_mesh`.

    Raises:
        UnitNeededError: the file does not say its unit and its size is implausible in millimetres.
    """
    found = read_mesh(data, name, unit)
    if not found.plausible:
        raise UnitNeededError(name, tuple(float(side) for side in np.ptp(found.mesh.vertices, axis=0)))
    return model_source(blob_name(data), name, found)


def drawing_in(data: bytes, name: str, unit: str | None) -> DrawingSource:
    """The outlines in a file, as a document names them; see `read_drawing`.

    Raises:
        UnitNeededError: the file does not say how large it is.
    """
    found = _drawing(data, name, unit)
    if not found.size_given:
        raise UnitNeededError(name, (*_drawing(data, name, "mm").size, 0.0))
    return DrawingSource(
        blob=blob_name(data),
        name=name,
        format=drawing_format(name),
        size_mm=found.size,
        told=found.size_given,
        remarks=found.remarks,
    )


def outline_in(data: bytes, name: str) -> bytes:
    """The outlines in a file, written anew as plain curves of an SVG."""
    return svg_bytes(_drawing(data, name, "mm").figure)


def wedge_in(data: bytes, name: str, limits: ReadLimits, steps: int) -> NDArray[np.float64]:
    """Brightness of the steps of a wedge on a photograph; see `read_photograph`."""
    return read_photograph(read_picture(data, name, limits, colour=False).tones, steps)


def document_on(
    source: Source, title: str | None = None, parts: Mapping[str, object] = MappingProxyType({})
) -> Document:
    """The document that starts from a file.

    Args:
        source: the file.
        title: of the piece; the file's name without its ending by default.
        parts: other parts of the document, such as `body` and `height`, or `trace` and `solid`.
    """
    named = (title or source.name.rsplit(".", 1)[0]).strip()[:120] or "Untitled"
    if isinstance(source, ModelSource):
        return ModelDocument(title=named, model=source)
    if isinstance(source, PictureSource):
        return parse_document({"title": named, "picture": source.model_dump(), **parts})
    width = min(max(source.size_mm[0], NARROWEST_MM), WIDEST_MM)
    return parse_document({"title": named, "drawing": source.model_dump(), "width_mm": width, **parts})


def plain_name(file_name: str, otherwise: str) -> str:
    """What a person calls a file, without the path before its name."""
    return file_name.replace("\\", "/").rsplit("/", 1)[-1].strip()[-255:] or otherwise


def _drawing(data: bytes, name: str, unit: str | None) -> Drawing:
    return read_drawing(data, name, None if unit is None else MM_PER[mesh_unit(unit)])
