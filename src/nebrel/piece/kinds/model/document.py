"""The recipe of a piece that starts from a mesh of elsewhere."""

from pydantic import Field

from nebrel.core.mesh.formats import MeshFormat, MeshUnit
from nebrel.piece.documents.worked import WorkedDocument
from nebrel.piece.parts.part import Part


class ModelSource(Part):
    """The mesh that a piece starts from: a blob, and what it was taken for."""

    blob: str = Field(pattern="^[0-9a-f]{64}$", title="Mesh blob")
    name: str = Field(max_length=255, title="Mesh name")
    format: MeshFormat
    unit: MeshUnit = Field("mm", title="Unit")
    told: bool = Field(True, title="Whether the file says its unit")
    size_mm: tuple[float, float, float]
    triangles: int


class ModelDocument(WorkedDocument):
    """One immutable state of a piece that starts from a model."""

    model: ModelSource
