"""From the recipe of laid reliefs to heights with them on."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from nebrel.core.errors import BadPictureError
from nebrel.core.height import HeightField, cut_below, level_heights, one_tone
from nebrel.core.height import laid as core
from nebrel.core.picture import Picture
from nebrel.core.picture.ops.cutout import away_from_background, keep_where
from nebrel.core.picture.picture import SourceFacts
from nebrel.piece.evaluation.evaluator import PieceEvaluator
from nebrel.piece.evaluation.prepare import FULL
from nebrel.piece.evaluation.sources import Sources
from nebrel.piece.kinds.panel.document import PanelDocument
from nebrel.piece.kinds.panel.laid import LaidRelief, PictureOf
from nebrel.piece.kinds.panel.raising import by_rule

Opens = Callable[[dict[str, Any], Sources], PieceEvaluator[Any]]
LEAST_PX = 32
# Of a background: what is left must be something, and the rim must be mostly of its colour.
LEAST_SHARE, MOST_SHARE, LEAST_RIM = 1e-3, 0.98, 0.8
# So much of a backing stays where something is cut into it.
LEAST_BACKING_MM, LEAST_BACKING_SHARE = 0.4, 0.5


@dataclass(frozen=True)
class LaidOutcome:
    """What came of one laid relief.

    Attributes:
        part: of the document.
        pitch: mm between its own samples.
        outside: share of it that lies beside the piece.
        held_mm: by how much it would have cut deeper than the backing allows.
    """

    part: LaidRelief
    pitch: float
    outside: float
    held_mm: float


def laid_picture(source: Any, sources: Sources, opens: Opens | None, longest_px: int, width_mm: float) -> Picture:
    """What a laid relief shows as tones: its picture, or the heights of a piece from its lowest to its highest.

    Args:
        source: of the part.
        sources: of files.
        opens: gives the evaluator of a piece's document; None where none can be opened.
        longest_px: samples on the longer side that will do, or `FULL`.
        width_mm: how wide it is laid.

    Raises:
        BadPictureError: it cannot be opened here, or has no heights.
    """
    if isinstance(source, PictureOf):
        return sources.picture(source.blob, source.name, longest_px=longest_px or None, colour=False)
    if opens is None or not source.document:
        raise BadPictureError("A relief follows a piece that is not here; lay a picture, or the piece itself, instead.")
    piece = opens(source.document, sources)
    seen = piece.heights_to_carve(width_mm / 1000) if longest_px == FULL else piece.heights_seen(longest_px)
    there = seen.material
    if not there.any():
        raise BadPictureError("The piece that is to be laid here has no heights; choose another one.")
    low = seen.heights.min(where=there, initial=np.inf)
    span = max(float(seen.heights.max(where=there, initial=-np.inf) - low), 1e-9)
    tones = np.where(there, (seen.heights - low) / np.float32(span), np.float32(0)).astype(np.float32)
    rows, columns = tones.shape
    return Picture(tones, there.astype(np.float32), SourceFacts("heights", columns, rows, 32, "gray"))


def without_left_out(picture: Picture, part: LaidRelief) -> Picture:
    """The picture with what is left out blank; a background that is no plain one stays."""
    if part.left_out == "nothing" or not part.of_picture:
        return picture
    if part.left_out == "background":
        return picture if picture.coverage.min() < 0.5 else _off_background(picture)
    if part.left_out == "dark":
        return cut_below(picture, part.left_out_tone)
    return keep_where(picture, (picture.tones <= part.left_out_tone).astype(np.float32))


def laid_field(part: LaidRelief, picture: Picture) -> HeightField:
    """Heights of a relief over its own zero.

    Raises:
        BadPictureError: nothing of it is left.
    """
    kept = without_left_out(picture, part)
    if not (kept.coverage >= 0.5).any():
        raise BadPictureError(
            f"Nothing of “{part.name}” is left to lay on; leave out less of its picture, or another tone."
        )
    if one_tone(kept) is not None and part.rule.kind != "edge":
        return level_heights(kept, part.rule.tallest_mm, part.width_mm)
    return by_rule(kept, part.rule, part.width_mm)


def lay_all(
    ground: HeightField,
    document: PanelDocument,
    field_of: Callable[[LaidRelief], HeightField],
) -> tuple[HeightField, tuple[LaidOutcome, ...]]:
    """All reliefs of a document that are switched on, one after the other, and what came of each.

    Args:
        ground: heights that they are laid on.
        document: of the piece.
        field_of: heights of one of them over its own zero.
    """
    field, outcomes = ground, []
    for part in document.height.laid:
        if not part.on:
            continue
        own = field_of(part)
        relief = core.LaidRelief(
            heights=own.heights,
            coverage=own.coverage,
            pitch=own.pitch,
            centre=(part.x_share * ground.width, part.y_share * ground.depth),
            turn_deg=part.turn_deg,
            mirrored=part.mirror,
            blend=part.blend,
            lift=part.lift_mm,
            width=part.blend_mm,
        )
        laid = core.lay_on(field, relief, _floor(document))
        field = laid.field
        outcomes.append(LaidOutcome(part, own.pitch, laid.outside, laid.held_mm))
    return field, tuple(outcomes)


def px_for(part: LaidRelief, pitch: float) -> int:
    """Samples on the longer side of a relief that are as fine as those of a preview."""
    return max(LEAST_PX, round(1.5 * part.width_mm / pitch))


def _floor(document: PanelDocument) -> float:
    backing = document.body.backing_mm
    if document.body.back == "follow":
        return -np.inf
    return min(LEAST_BACKING_MM, LEAST_BACKING_SHARE * backing) - backing


def _off_background(picture: Picture) -> Picture:
    kept = away_from_background(picture)
    rim = np.concatenate([kept[0], kept[-1], kept[:, 0], kept[:, -1]])
    left = float((kept >= 0.5).mean())
    if (rim < 0.5).mean() < LEAST_RIM or not LEAST_SHARE <= left <= MOST_SHARE:
        return picture
    return replace(keep_where(picture, kept))
