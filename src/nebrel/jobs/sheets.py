"""Pieces that begin with a sheet of their own instead of a file."""

import io
import math
from dataclasses import dataclass

from nebrel.core.errors import BadValueError
from nebrel.core.picture.ops import compose
from nebrel.core.picture.ops.new_sheet import MORE_PIXELS, PX_A_LINE, lettering_mm, new_sheet
from nebrel.core.picture.write import write_picture
from nebrel.jobs.beginnings import document_on, picture_in
from nebrel.jobs.workshop import Begun, Workshop
from nebrel.piece.ops.compose import font_file
from nebrel.piece.parts.maker import PrinterMaker
from nebrel.store.pieces import PieceState

LEAST_MM = 0.5
BLANK_BELOW = 0.02
RELIEF_MM = 3.0


@dataclass(frozen=True)
class LineOfText:
    """Lettering: its text, a face, its tone, and its height in mm; as large as fits when that is None."""

    text: str
    font: str
    tone: float
    height: float | None


def start_on_sheet(
    workshop: Workshop, size: tuple[float, float], ground: float | None, title: str, lettering: LineOfText | None
) -> PieceState:
    """A new piece from a sheet; see `begin_on_sheet`."""
    return workshop.pieces.create(*begin_on_sheet(workshop, size, ground, title, lettering))


def begin_on_sheet(
    workshop: Workshop, size: tuple[float, float], ground: float | None, title: str, lettering: LineOfText | None
) -> Begun:
    """The document of a sheet of that size in mm, its lettering a step of its own that can be moved and changed.

    Raises:
        BadValueError: it has too many pixels, or is blank without anything on it.
    """
    wide, tall = size
    if min(size) < LEAST_MM:
        raise BadValueError(f"The sheet is {wide:g} × {tall:g} mm; at least {LEAST_MM:g} mm a side would be accepted.")
    pitch = PrinterMaker().line_width_mm / PX_A_LINE
    limits = workshop.settings.read_limits
    # A sheet larger than the reader takes at that resolution gets coarser pixels.
    pitch = max(pitch, MORE_PIXELS * max(size) / limits.side_px, MORE_PIXELS * math.sqrt(wide * tall / limits.pixels))
    if ground is None and lettering is None:
        raise BadValueError("A blank sheet has nothing to be made of; type some lettering, or give it a ground.")
    file = io.BytesIO()
    sheet = new_sheet(wide, tall, pitch, ground or 0.0)
    write_picture(sheet, file, "png", wide / (sheet.shape[1] - 1))
    ops: list[dict[str, object]] = []
    if lettering is not None:
        layer = compose.lettering_layer(lettering.text, font_file(lettering.font), lettering.tone)
        text_wide, _ = lettering_mm(layer, size, lettering.height)
        ops.append(
            {
                "kind": "lettering",
                "id": "lettering-1",
                "text": lettering.text,
                "font": lettering.font,
                "tone": lettering.tone,
                "width_mm": round(text_wide, 2),
            }
        )
    tones = sorted({0.0, 1.0, *([] if ground is None else [ground])})
    steps = [{"tone": tone, "mm": tone * RELIEF_MM} for tone in tones]
    # No file is blank everywhere; black is cut through instead, whatever is laid on later.
    cut = {"on": ground is None, "tone": BLANK_BELOW}
    parts: dict[str, object] = {
        "ops": ops,
        "body": {"width_mm": wide},
        "height": {"rule": {"kind": "steps", "steps": steps}, "cut": cut},
    }
    data = file.getvalue()
    source = picture_in(data, f"sheet {wide:g} × {tall:g} mm.png", limits, is_sheet=True)
    return workshop.begun(document_on(source, title, parts), source, data)
