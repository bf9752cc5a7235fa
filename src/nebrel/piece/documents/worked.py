"""What the documents of all kinds have in common whose mesh is worked on: steps, decorations, strokes of the brush."""

from pydantic import Field

from nebrel.piece.documents.document import Document
from nebrel.piece.parts.decoration import BrushMark, DecorationPart
from nebrel.piece.parts.fields import length
from nebrel.piece.parts.model_steps import ModelStep


class WorkedDocument(Document):
    """One immutable state of a piece whose mesh is worked on."""

    steps: tuple[ModelStep, ...] = Field((), max_length=50, title="Steps")
    decorations: tuple[DecorationPart, ...] = Field((), max_length=40, title="Decorations")
    thinnest_wall_mm: float = length("Thinnest wall", 0.8, 0, 100, step=0.1, label="Wall that is kept")
    detail_mm: float = length("Detail of decorations", 0.01, 0.001, 1, step=0.001)
    strokes: tuple[BrushMark, ...] = Field((), max_length=200, title="Brush strokes")

    @property
    def is_worked(self) -> bool:
        """Whether any step or decoration is switched on, or any stroke works by itself."""
        return any(each.on for each in (*self.steps, *self.decorations)) or self.brushed_by_itself

    @property
    def brushed_by_itself(self) -> bool:
        """Whether any stroke works where no decoration is."""
        return any(each.within != "decorations" for each in self.strokes)
