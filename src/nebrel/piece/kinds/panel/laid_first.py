"""How a relief lies at first: what is guessed of its picture or taken over from its piece; all of it can be changed."""

import uuid
from typing import Any

import numpy as np

from nebrel.core.picture import Picture
from nebrel.piece.evaluation.evaluator import PREVIEW_PX
from nebrel.piece.evaluation.sources import Sources
from nebrel.piece.kinds.panel.document import PanelDocument
from nebrel.piece.kinds.panel.laid import LaidRelief, PictureOf
from nebrel.piece.kinds.panel.laying import Opens, laid_picture, without_left_out
from nebrel.piece.kinds.panel.rule import HeightRule
from nebrel.piece.parts.piece_of import PieceOf

LOOKED_PX = 512
# So much of the piece a picture takes, and a piece at the most; and so tall a picture is, of the piece's own relief.
PICTURE_SHARE, PIECE_SHARE, TALL_SHARE = 0.4, 0.8, 0.6
LEAST_TALL_MM = 0.2


def with_laid(document: PanelDocument, part: LaidRelief) -> dict[str, object]:
    """The edit that lays one more relief on a panel."""
    return {"height": {"laid": [each.model_dump(mode="json") for each in (*document.height.laid, part)]}}


def picture_laid(source: PictureOf, sources: Sources, document: PanelDocument) -> LaidRelief:
    """A picture in the middle of a panel. A plain background is left out; of what stands on white, the dark is tall.

    Args:
        source: the picture.
        sources: of files.
        document: of the panel.
    """
    width, depth, _ = document.size_mm
    picture = laid_picture(source, sources, None, LOOKED_PX, width)
    rows, columns = picture.shape
    part = LaidRelief(
        id=_new_id(),
        name=_name_of(source.name),
        source=source,
        width_mm=_rounded(PICTURE_SHARE * min(width, depth * columns / rows)),
    )
    plain = without_left_out(picture, part) is not picture
    tall = "dark" if plain and _rim_tone(picture) > 0.5 else "bright"
    relief = max(LEAST_TALL_MM, round(TALL_SHARE * document.height.tallest_mm, 1))
    blank = picture.coverage.min() < 0.5
    return part.model_copy(
        update={
            "left_out": "background" if plain or blank else "nothing",
            "rule": HeightRule(tall=tall, relief_mm=min(200.0, relief)),
        }
    )


def piece_laid(
    piece_id: str, document: dict[str, Any], opens: Opens | None, sources: Sources, on: tuple[float, float]
) -> LaidRelief:
    """A piece in the middle of a panel, as wide and as tall as it is, or in proportion smaller where it would not fit.

    Args:
        piece_id: of the piece.
        document: of it, as plain data.
        opens: gives its evaluator.
        sources: of files.
        on: width and depth of the panel, mm.
    """
    source = PieceOf(piece_id=piece_id, document=document)
    width, tall = 1.0, LEAST_TALL_MM
    if opens is not None:
        piece = opens(document, sources)
        seen = piece.heights_seen(PREVIEW_PX)
        there = seen.material
        width, depth = seen.width, max(seen.depth, 1e-6)
        span = float(np.ptp(seen.heights[there])) if there.any() else 0.0
        scale = min(1.0, PIECE_SHARE * on[0] / width, PIECE_SHARE * on[1] / depth)
        width, tall = width * scale, max(span * scale, LEAST_TALL_MM)
    return LaidRelief(
        id=_new_id(),
        name=str(document.get("title", ""))[:80] or "Piece",
        source=source,
        rule=HeightRule(relief_mm=min(200.0, max(0.05, round(tall, 3)))),
        width_mm=_rounded(width),
    )


def _rim_tone(picture: Picture) -> float:
    tones = picture.tones
    return float(np.median(np.concatenate([tones[0], tones[-1], tones[:, 0], tones[:, -1]])))


def _name_of(file: str) -> str:
    stem = file.rsplit("/", 1)[-1].rsplit(".", 1)[0].strip()
    return stem[:80] or "Relief"


def _new_id() -> str:
    return f"laid-{uuid.uuid4().hex[:8]}"


def _rounded(mm: float) -> float:
    return float(np.clip(float(f"{mm:.3g}"), 0.2, 3000))
