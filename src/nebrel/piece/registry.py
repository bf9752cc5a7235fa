"""A document together with the evaluator that knows its kind."""

from dataclasses import dataclass
from typing import Any

from nebrel.core.heightfield.slab import Slab
from nebrel.core.mesh.shading import ShadedMesh
from nebrel.core.proof import Finding
from nebrel.core.proof.maps import MapKind, SurfaceMap
from nebrel.piece.document import AnyDocument, TracedDocument
from nebrel.piece.evaluation.evaluator import Looks, Progress, SectionCut, quiet
from nebrel.piece.evaluation.prepare import FULL
from nebrel.piece.kinds.lithophane.document import LithophaneDocument
from nebrel.piece.kinds.model.document import ModelDocument
from nebrel.piece.kinds.model.evaluator import ModelEvaluator, stands
from nebrel.piece.kinds.outline.document import DrawnDocument
from nebrel.piece.kinds.panel.evaluator import Evaluator
from nebrel.piece.report import BuildReport


@dataclass(frozen=True)
class Looking:
    """What `Looks` tells of one document."""

    looks: Looks[Any]
    document: AnyDocument

    @property
    def size_mm(self) -> tuple[float, float, float]:
        """Width, depth and thickness."""
        return self.looks.size(self.document)

    @property
    def plan_mm(self) -> tuple[float, float, float]:
        """The size of what the plan shows: of a lithophane its unrolled sheet, with how thick it may be."""
        if isinstance(self.document, LithophaneDocument):
            width, height = self.looks.sheet_size(self.document)  # type: ignore[attr-defined]
            return width, height, self.document.glow.thickest_mm
        return self.size_mm

    @property
    def standing(self) -> bool:
        """Whether it stands, and is looked at from in front and not from above."""
        if isinstance(self.document, ModelDocument):
            return stands(self.document)
        return isinstance(self.document, LithophaneDocument) and self.document.form.standing

    def low_mm(self, longest_px: int) -> tuple[float, float, float]:
        """What a shown model was moved by from its own coordinates."""
        if not (isinstance(self.looks, ModelEvaluator) and isinstance(self.document, ModelDocument)):
            return 0.0, 0.0, 0.0
        x, y, z = self.looks.low_corner(self.document, longest_px)
        return float(x), float(y), float(z)

    def check(self, progress: Progress = quiet) -> None:
        """Refuse what cannot be made."""
        self.looks.check(self.document, progress)

    def shaded(self, longest_px: int = FULL) -> ShadedMesh:
        """The solid prepared for looking at."""
        return self.looks.shaded(self.document, longest_px)

    def surface_map(self, kind: MapKind, longest_px: int = FULL) -> SurfaceMap:
        """A measure over the shaded solid."""
        return self.looks.surface_map(self.document, kind, longest_px)

    def section(
        self,
        start: tuple[float, float],
        end: tuple[float, float],
        longest_px: int,
        tilt_deg: float = 0.0,
        lift_mm: float = 0.0,
    ) -> SectionCut:
        """The piece along a line."""
        return self.looks.section(self.document, start, end, longest_px, tilt_deg, lift_mm)

    def findings(self, longest_px: int, progress: Progress = quiet) -> tuple[Finding, ...]:
        """What is known before the build."""
        return self.looks.findings(self.document, longest_px, progress)

    def build(self, progress: Progress = quiet) -> tuple[Slab, BuildReport]:
        """The solid that is delivered, with its report."""
        return self.looks.build(self.document, progress)

    def solid_key(self, longest_px: int) -> str:
        """The key of the solid at a resolution."""
        return self.looks.solid_key(self.document, longest_px)

    def thumbnail(self) -> bytes:
        """A rendered PNG."""
        return self.looks.thumbnail(self.document)


def looking_at(evaluator: Evaluator, document: AnyDocument) -> Looking:
    """The document with the evaluator for its kind."""
    looks: Looks[Any] = evaluator
    if isinstance(document, ModelDocument):
        looks = evaluator.models
    elif isinstance(document, LithophaneDocument):
        looks = evaluator.lithophanes
    elif isinstance(document, TracedDocument | DrawnDocument):
        looks = evaluator.outlines
    return Looking(looks, document)
