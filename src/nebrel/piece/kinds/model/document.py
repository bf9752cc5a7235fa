"""The recipe of a piece that starts from a mesh of elsewhere."""

from collections.abc import Callable
from typing import Annotated, Literal

from pydantic import Field

from nebrel.core.csg.halve import halved
from nebrel.core.csg.merge import without_crossings
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.colouring import coloured_like
from nebrel.core.mesh.formats import MeshFormat, MeshUnit
from nebrel.core.mesh.remesh import remeshed
from nebrel.core.mesh.repair import repair
from nebrel.core.mesh.shells import only_shells, shells_of
from nebrel.piece.evaluation.abilities import Worked
from nebrel.piece.parts.decoration import BrushMark, DecorationPart
from nebrel.piece.parts.document import Document
from nebrel.piece.parts.part import Part

Progress = Callable[[float], None]


class ModelSource(Part):
    """The mesh that a piece starts from: a blob, and what it was taken for."""

    blob: str = Field(pattern="^[0-9a-f]{64}$", title="Mesh blob")
    name: str = Field(max_length=255, title="Mesh name")
    format: MeshFormat
    unit: MeshUnit = Field("mm", title="Unit")
    told: bool = Field(True, title="Whether the file says its unit")
    size_mm: tuple[float, float, float]
    triangles: int


class _Step(Part):
    id: str = Field("", max_length=40)
    on: bool = Field(True, title="Step switched on")


class RepairStep(_Step):
    """Mend what can be mended without making the surface anew."""

    kind: Literal["repair"] = "repair"

    def worked(self, mesh: TriMesh, progress: Progress) -> Worked:
        """The mended mesh."""
        mended = repair(mesh, lambda part: progress(part / 2))
        merged = without_crossings(mended.mesh, lambda part: progress(0.5 + part / 2))
        counts = [
            (mended.degenerate + mended.duplicate, "face dropped", "faces dropped"),
            (mended.turned, "face turned", "faces turned"),
            (mended.filled, "hole filled", "holes filled"),
            (merged.joined, "part joined", "parts joined"),
            (merged.inner, "inner part dropped", "inner parts dropped"),
            (merged.recut, "crossing face cut out", "crossing faces cut out"),
            (mended.left_open, "hole left open", "holes left open"),
            (merged.left, "crossing left", "crossings left"),
        ]
        done = [f"{count:,} {one if count == 1 else many}" for count, one, many in counts if count]
        return Worked(merged.mesh, ", ".join(done) or "Nothing had to be mended")


class KeepPartsStep(_Step):
    """Keep the largest parts, or those that were chosen, and drop the others.

    `chosen` numbers parts by size, 1 the largest; when it is empty, `largest` of them are kept.
    """

    kind: Literal["keep-parts"] = "keep-parts"
    largest: int = Field(1, ge=1, le=10_000, title="Parts kept")
    chosen: tuple[Annotated[int, Field(ge=1, le=100_000)], ...] = Field((), max_length=10_000, title="Chosen parts")

    def worked(self, mesh: TriMesh, progress: Progress) -> Worked:
        """The mesh of the largest parts."""
        shells = shells_of(mesh)
        progress(1.0)
        kept = (
            [shells[part - 1] for part in self.chosen if part <= len(shells)] if self.chosen else shells[: self.largest]
        )
        return Worked(only_shells(mesh, kept), f"{len(kept):,} of {len(shells):,} parts kept")


class RemeshStep(_Step):
    """Make the surface anew with even triangles."""

    kind: Literal["remesh"] = "remesh"
    voxel_mm: float = Field(0.5, ge=0.001, le=1000, title="Voxel")
    keep_edges: bool = Field(True, title="Sharp edges kept")

    def worked(self, mesh: TriMesh, progress: Progress) -> Worked:
        """The new surface."""
        anew = coloured_like(remeshed(mesh, self.voxel_mm, self.keep_edges, progress), mesh)
        return Worked(anew, f"{len(mesh.faces):,} → {len(anew.faces):,} triangles")


class CutStep(_Step):
    """Cut by a plane and keep one side, the cut closed."""

    kind: Literal["cut"] = "cut"
    axis: Literal["x", "y", "z"] = Field("z", title="Axis")
    at_mm: float = Field(0.0, ge=-1e6, le=1e6, title="Place of the plane")
    keep: Literal["above", "below"] = Field("above", title="Side kept")

    def worked(self, mesh: TriMesh, progress: Progress) -> Worked:
        """The part on that side."""
        normal = (float(self.axis == "x"), float(self.axis == "y"), float(self.axis == "z"))
        axis = "xyz".index(self.axis)
        low = float(mesh.vertices[:, axis].min())
        part = halved(mesh, normal, low + self.at_mm, self.keep)
        progress(1.0)
        return Worked(part, f"{len(part.faces):,} triangles on that side")


ModelStep = Annotated[RepairStep | KeepPartsStep | RemeshStep | CutStep, Field(discriminator="kind")]


class ModelDocument(Document):
    """One immutable state of a piece that starts from a model."""

    model: ModelSource
    steps: tuple[ModelStep, ...] = Field((), max_length=50, title="Steps")
    decorations: tuple[DecorationPart, ...] = Field((), max_length=40, title="Decorations")
    thinnest_wall_mm: float = Field(0.8, ge=0, le=100, title="Thinnest wall")
    detail_mm: float = Field(0.01, ge=0.001, le=1, title="Detail of decorations")
    strokes: tuple[BrushMark, ...] = Field((), max_length=200, title="Brush strokes")
