"""The recipe of a relief panel."""

from typing import Literal

from nebrel.piece.documents.document import PicturedDocument
from nebrel.piece.documents.extent import extent_of
from nebrel.piece.kinds.panel.body import PanelBodyPart
from nebrel.piece.kinds.panel.height import Height
from nebrel.piece.parts.finish import ReliefFinish


class PanelDocument(PicturedDocument):
    """One immutable state of a relief panel."""

    height: Height = Height()
    body: PanelBodyPart = PanelBodyPart()
    finish: ReliefFinish = ReliefFinish()

    @property
    def size_mm(self) -> tuple[float, float, float]:
        """Width, height and greatest possible thickness; a picture that does not use all tones stays below that."""
        rows, columns = extent_of(self).shape
        depth = self.width_mm * (rows - 1) / max(columns - 1, 1)
        return self.width_mm, depth, self.body.backing_mm + max(self.height.tallest_mm, self.body.frame.tallest_mm)

    @property
    def in_colour(self) -> bool:
        """Where heights follow depth, for colours tell what is nearer."""
        return self.height.form.on

    @property
    def width_at(self) -> tuple[str, ...]:
        return "body", "width_mm"

    @property
    def width_mm(self) -> float:
        """Asked width."""
        return self.body.width_mm

    @property
    def picture_width_mm(self) -> float:
        """That of the panel."""
        return self.body.width_mm

    @property
    def tall_tones(self) -> Literal["bright", "dark"]:
        """Which tones stand tall."""
        return self.height.rule.tall
