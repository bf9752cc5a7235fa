"""How large a piece and its pixels are, from its ops alone, without computing a picture."""

from dataclasses import dataclass

from nebrel.core.errors import BadValueError
from nebrel.piece.documents.document import PicturedDocument
from nebrel.piece.ops import Op

MOST_STEPS = 12
SMALLEST_SHARE = 1e-3


@dataclass(frozen=True)
class PieceExtent:
    """The finished picture at full resolution.

    Attributes:
        shape: rows and columns.
        mm_per_px: distance between its samples.
        source_mm: width that the whole source picture would have on the piece.
    """

    shape: tuple[int, int]
    mm_per_px: float
    source_mm: float


def extent_of(piece: PicturedDocument) -> PieceExtent:
    """The extent for which the finished picture is as wide as the piece.

    Borders in mm make its width an affine function of the source's, up to whole pixels; the secant method finds it.

    Raises:
        BadValueError: borders take up the whole width.
    """
    ops = [op for op in piece.ops if op.on]
    asked = piece.picture_width_mm
    extent, width = _end_extent(piece, ops, asked)
    if not ops or abs(width - asked) <= extent.mm_per_px / 2:
        return extent
    before, width_before = asked, width
    now = asked * asked / width
    for _ in range(MOST_STEPS):
        extent, width = _end_extent(piece, ops, now)
        if abs(width - asked) <= extent.mm_per_px / 2 or width == width_before:
            break
        following = now + (asked - width) * (now - before) / (width - width_before)
        before, width_before, now = now, width, following
        if now < SMALLEST_SHARE * asked:
            raise BadValueError(
                f"The borders take up all of the {asked:g} mm width; a wider piece or narrower borders are needed."
            )
    return extent


def _end_extent(piece: PicturedDocument, ops: list[Op], source_mm: float) -> tuple[PieceExtent, float]:
    columns, rows = piece.source_px
    shape, mm_per_px = (rows, columns), source_mm / (columns - 1)
    for op in ops:
        after = op.shape_after(shape, mm_per_px)
        mm_per_px = op.mm_per_px_after(shape, mm_per_px)
        shape = after
    return PieceExtent(shape, mm_per_px, source_mm), mm_per_px * (shape[1] - 1)
