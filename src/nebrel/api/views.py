"""Records and results as messages."""

import numpy as np

from nebrel.api.frame import pack_frame
from nebrel.api.messages import (
    BuildResult,
    JobView,
    PieceCard,
    PieceView,
    PlanHead,
    SectionView,
)
from nebrel.core.mesh.shading import ShadedMesh
from nebrel.jobs.workshop import Workshop
from nebrel.piece.document import PieceDocument
from nebrel.piece.evaluate import Evaluator, SectionCut
from nebrel.piece.frame import frame_of
from nebrel.store.jobs import JobRecord
from nebrel.store.pieces import PieceState

BODY_WORDS = {"panel": "Relief panel"}


def card_of(workshop: Workshop, state: PieceState) -> PieceCard:
    """A piece for the shelf."""
    document = workshop.document(state)
    return PieceCard(
        id=state.id,
        revision=state.revision,
        title=document.title,
        body=BODY_WORDS[document.body.kind],
        maker=document.maker.name,
        size_mm=document.size_mm,
        changed=state.changed,
    )


def piece_of(workshop: Workshop, state: PieceState) -> PieceView:
    """A piece for the bench."""
    return PieceView(
        id=state.id,
        revision=state.revision,
        document=workshop.document(state),
        changed=state.changed,
        undoes=state.undoes,
        redoes=state.redoes,
        removed=state.removed,
    )


def job_of(record: JobRecord) -> JobView:
    """A job."""
    return JobView(
        id=record.id,
        kind=record.kind,
        piece_id=record.piece_id,
        revision=record.revision,
        state=record.state,
        stage=record.stage,
        fraction=record.fraction,
        message=record.message,
        created=record.created,
        result=BuildResult.model_validate(record.result) if record.result else None,
    )


def plan_frame(evaluator: Evaluator, document: PieceDocument, longest_px: int) -> bytes:
    """Tones and heights of a draft, with the facts that the page shows beside them."""
    picture, field = evaluator.picture(document, longest_px), evaluator.field(document, longest_px)
    rows, columns = frame_of(document).shape
    head = PlanHead(
        size_mm=document.size_mm,
        pitch_mm=field.pitch,
        backing_mm=document.body.backing_mm,
        relief_mm=document.height.rule.relief_mm,
        full_px=(columns, rows),
    )
    arrays = {
        "tones": np.round(picture.tones * 65_535).astype(np.uint16),
        "heights": np.where(field.material, field.heights, np.float32(np.nan)),
    }
    return pack_frame(head.model_dump(mode="json"), arrays)


def model_frame(shaded: ShadedMesh) -> bytes:
    """A shaded solid."""
    normals = np.round(shaded.normals * 127).astype(np.int8)
    arrays: dict[str, np.ndarray] = {"positions": shaded.positions, "normals": normals, "faces": shaded.faces}
    return pack_frame({"triangles": len(shaded.faces)}, arrays)


def section_of(cut: SectionCut) -> SectionView:
    """A section for drawing."""
    asked = [
        (float(along), float(up) if np.isfinite(up) else None)
        for along, up in zip(cut.asked.along, cut.asked.up, strict=True)
    ]
    return SectionView(length_mm=float(cut.asked.along[-1]), asked=asked, made=cut.made)
