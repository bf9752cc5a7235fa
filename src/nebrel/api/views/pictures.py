"""Pictures as messages: small ones of every op's result, and where they are too thin to be made."""

import numpy as np

from nebrel.api.messages.pictures import ContentBox, StripHead, ToneCount
from nebrel.api.messages.previews import StepRow, StepTables, ThinMapHead
from nebrel.api.serving.frames import pack_frame
from nebrel.api.views.look import Look
from nebrel.core.errors import NebrelError, NotFoundError
from nebrel.core.picture import shrink_to
from nebrel.core.picture.audit import StrokeWidths, measure_strokes, thin_map
from nebrel.core.picture.ops.purify import found_tones
from nebrel.core.picture.ops.reframe import content_box
from nebrel.core.picture.write import colour_png
from nebrel.piece.evaluation.abilities import HasHeights, HasPicture
from nebrel.piece.evaluation.evaluator import PREVIEW_PX
from nebrel.piece.evaluation.prepare import FULL

STRIP_PX = 96
SOURCE_PX = 512


def strip_frame(look: Look) -> bytes:
    """Gray and coverage, uint8, of the source and of every op's result, `STRIP_PX` on the longer side of the piece.

    They are shrunk from what the plan shows at rest, which is computed anyway.
    """
    pictured = look.piece.having(HasPicture)
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


def step_tables(look: Look) -> StepTables:
    """The table of steps with the shares of its rows, and one made from the tones present."""
    table = look.piece.having(HasHeights).step_table()
    given, found = (
        [StepRow(tone=tone, mm=mm, share=share) for tone, mm, share in rows] for rows in (table.given, table.found)
    )
    return StepTables(table=given, found=found)


def thin_map_frame(look: Look) -> bytes:
    """`strokes` and `gaps`, uint8, as `core.picture.audit.thin_map` gives them, measured at full resolution."""
    pictured = look.piece.having(HasPicture)
    picture, ground = pictured.picture(FULL), pictured.ground
    share = min(1.0, look.draft.longest_px / max(picture.shape))
    shape = (max(1, round(picture.shape[0] * share)), max(1, round(picture.shape[1] * share)))
    arrays: dict[str, np.ndarray] = {}
    for name, widths in zip(("strokes", "gaps"), measure_strokes(picture), strict=True):
        scaled = StrokeWidths((widths.places * share).astype(np.int32), widths.widths_px * np.float32(share))
        arrays[name] = thin_map(shape, scaled, ground.line / ground.mm_per_px * share)
    return pack_frame(ThinMapHead(), arrays)


def tones_into(look: Look, op_id: str, asked: ToneCount) -> list[float]:
    """The tones that a reduction to a few finds in what comes into the op `op_id`."""
    pictured = look.piece.having(HasPicture)
    ids = ["", *(op.id for op in pictured.picture_ops)]
    if op_id not in ids:
        raise NotFoundError("The piece has no such picture op any more.")
    before = pictured.view(PREVIEW_PX, ids[ids.index(op_id) - 1])
    return [float(tone) for tone in found_tones(before.picture, asked.count, asked.spread == "even")]


def source_png(look: Look) -> bytes:
    """The source picture in colour, `SOURCE_PX` on its longer side."""
    return colour_png(look.piece.having(HasPicture).source_picture(SOURCE_PX))


def content_of(look: Look) -> ContentBox:
    """The box around what the picture shows."""
    found = content_box(look.piece.having(HasPicture).view(look.draft.longest_px, look.draft.upto).picture)
    return ContentBox(left=found.left, bottom=found.bottom, right=found.right, top=found.top)
