"""Pictures as messages: small ones of every op's result, and where they are too thin to be made."""

import numpy as np

from nebrel.api.messages.pictures import StripHead
from nebrel.api.messages.previews import StepRow, StepTables, ThinMapHead
from nebrel.api.serving.frames import pack_frame
from nebrel.core.errors import NebrelError
from nebrel.core.picture import shrink_to
from nebrel.core.picture.audit import StrokeWidths, measure_strokes, thin_map
from nebrel.piece.evaluation.abilities import HasPicture, StepTable
from nebrel.piece.evaluation.evaluator import PREVIEW_PX
from nebrel.piece.evaluation.prepare import FULL

STRIP_PX = 96


def strip_frame(pictured: HasPicture) -> bytes:
    """Gray and coverage, uint8, of the source and of every op's result, `STRIP_PX` on the longer side of the piece.

    They are shrunk from what the plan shows at rest, which is computed anyway.
    """
    arrays: dict[str, np.ndarray] = {}
    failed: dict[str, str] = {}
    ids = ["", *(op.id for op in pictured.picture_ops)]
    for at, op_id in enumerate(ids):
        try:
            picture = shrink_to(pictured.view(PREVIEW_PX, op_id).picture, STRIP_PX)
        except NebrelError as refusal:
            failed[op_id] = str(refusal)
            continue
        arrays[f"gray{at}"] = np.round(picture.tones * 255).astype(np.uint8)
        arrays[f"cover{at}"] = np.round(picture.coverage * 255).astype(np.uint8)
    return pack_frame(StripHead(ids=ids, failed=failed), arrays)


def step_tables(table: StepTable) -> StepTables:
    """The table of steps with the shares of its rows, and one made from the tones present."""
    given, found = (
        [StepRow(tone=tone, mm=mm, share=share) for tone, mm, share in rows] for rows in (table.given, table.found)
    )
    return StepTables(table=given, found=found)


def thin_map_frame(pictured: HasPicture, longest_px: int) -> bytes:
    """`strokes` and `gaps`, uint8, as `core.picture.audit.thin_map` gives them, measured at full resolution."""
    picture, ground = pictured.picture(FULL), pictured.ground
    share = min(1.0, longest_px / max(picture.shape))
    shape = (max(1, round(picture.shape[0] * share)), max(1, round(picture.shape[1] * share)))
    arrays: dict[str, np.ndarray] = {}
    for name, widths in zip(("strokes", "gaps"), measure_strokes(picture), strict=True):
        scaled = StrokeWidths((widths.places * share).astype(np.int32), widths.widths_px * np.float32(share))
        arrays[name] = thin_map(shape, scaled, ground.line / ground.mm_per_px * share)
    return pack_frame(ThinMapHead(), arrays)
