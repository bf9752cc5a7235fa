"""From the recipe of a model to its mesh: a chain of steps, each kept by the hash of what it depends on."""

import numpy as np

from nebrel.core.mesh.formats import MeshFile, format_of, read_mesh
from nebrel.core.proof import Finding
from nebrel.piece.evaluation.cache import step_key
from nebrel.piece.evaluation.evaluator import Progress, quiet
from nebrel.piece.evaluation.shown import Size
from nebrel.piece.evaluation.solid import SolidEvaluator
from nebrel.piece.kinds.model.document import ModelDocument, ModelSource
from nebrel.piece.kinds.model.findings import with_fix
from nebrel.piece.parts.model_steps import Worked

_VERSION = 2


def model_source(blob: str, name: str, found: MeshFile) -> ModelSource:
    """The part of the document that names a mesh file."""
    sides = np.ptp(found.mesh.vertices, axis=0)
    return ModelSource(
        blob=blob,
        name=name,
        format=format_of(name),
        unit=found.unit,
        told=found.unit_given,
        size_mm=(float(sides[0]), float(sides[1]), float(sides[2])),
        triangles=len(found.mesh.faces),
    )


class ModelEvaluator(SolidEvaluator[ModelDocument]):
    """Runs the steps of models."""

    @property
    def unworked_size(self) -> Size:
        return self.document.model.size_mm

    def with_fixes(self, findings: tuple[Finding, ...]) -> tuple[Finding, ...]:
        return tuple(with_fix(finding, self.document) for finding in findings)

    def unworked(self, longest_px: int, progress: Progress = quiet) -> Worked:
        def read() -> Worked:
            model = self.document.model
            return _as_it_came(read_mesh(self._sources.read(model.blob), model.name, model.unit))

        progress("Reading the model", 0.0)
        return self._cache.get(self.unworked_key(longest_px), read)

    def unworked_key(self, longest_px: int) -> str:
        model = self.document.model
        return step_key("model source", _VERSION, [model.blob, model.format, model.unit])


def _as_it_came(found: MeshFile) -> Worked:
    read = f"{len(found.mesh.faces):,} triangles read"
    return Worked(found.mesh, read if found.remark is None else f"{read}. {found.remark}")
