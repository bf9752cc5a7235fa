"""What the documents of all kinds of piece have in common."""

from abc import abstractmethod
from typing import Annotated, Literal

from pydantic import Field

from nebrel.piece.ops import PictureOp
from nebrel.piece.parts.carving import CarvingPart
from nebrel.piece.parts.maker import Delivery, PrinterMaker
from nebrel.piece.parts.paint import PaintPart
from nebrel.piece.parts.part import Part
from nebrel.piece.parts.pictured import PictureSource
from nebrel.piece.parts.printing import PrintingPart
from nebrel.piece.parts.simplification import Lightness


class Document(Part):
    """One immutable state of a piece: everything needed to make it again, beside its source files."""

    version: Literal[1] = 1
    title: Annotated[str, Field(min_length=1, max_length=120, title="Title")]
    light: Lightness = Lightness()
    maker: PrinterMaker = PrinterMaker()
    printing: PrintingPart = PrintingPart()
    carving: CarvingPart = CarvingPart()
    delivery: Delivery = Delivery()
    paint: PaintPart = PaintPart()

    @property
    def width_at(self) -> tuple[str, ...] | None:
        """Where its width stands in it; None where it has none of its own."""
        return None

    def wall_changes(self, line: float) -> tuple[tuple[str, dict[str, object]], ...]:
        """What may give its walls whole lines besides their widths: words, and a change of the document each.

        Args:
            line: mm that a printed line is wide.
        """
        return ()

    @property
    def machine_name(self) -> str:
        """What the machine is called that the piece is for."""
        return self.carving.router.name if self.carving.on else self.maker.name

    @property
    def finest_line_mm(self) -> float:
        """The thinnest line that the machine draws or cuts."""
        return self.carving.finest_mm or self.maker.line_width_mm


class PicturedDocument(Document):
    """One that starts from a picture; picture and ops stay when the piece becomes another kind."""

    picture: PictureSource
    ops: tuple[PictureOp, ...] = Field((), max_length=100, title="Picture ops")

    @property
    def source_px(self) -> tuple[int, int]:
        """Columns and rows of the source picture."""
        return self.picture.width_px, self.picture.height_px

    @property
    def by_luminance(self) -> bool:
        """Whether tones of colours are those of the light that they send out, not weighted means as they are coded."""
        return False

    @property
    def in_colour(self) -> bool:
        """Whether colours of the picture count, and not only its tones."""
        return False

    @property
    @abstractmethod
    def picture_width_mm(self) -> float:
        """Asked width of the prepared picture."""
