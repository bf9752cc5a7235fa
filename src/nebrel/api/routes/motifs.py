"""The library of motifs."""

import io
from typing import Annotated

from fastapi import File, UploadFile
from PIL import Image
from starlette.responses import Response

from nebrel.api.messages.motifs import MotifChange, MotifOrder, MotifPlace, MotifView
from nebrel.api.messages.pieces import PieceView
from nebrel.api.serving.context import Context, InContext
from nebrel.api.serving.routes import group
from nebrel.api.serving.uploads import received
from nebrel.api.views.pieces import piece_of
from nebrel.core.picture import read_picture
from nebrel.core.picture.resample import shrink_to
from nebrel.jobs.library import Library, MotifPlacement
from nebrel.piece.registry import merge
from nebrel.store.motifs import Motif

router = group("motifs")
THUMB_PX = 220
PACK_NAME = "nebrel-motifs.zip"
PAPER, INK = 0.93, 0.25


@router.get("/motifs")
def list_motifs(context: InContext, words: str = "") -> list[MotifView]:
    """Motifs whose name or tags hold every word, the last changed first."""
    return [_view(motif) for motif in context.workshop.motifs.found(words)]


@router.post("/motifs", status_code=201)
def keep_motif(context: InContext, order: MotifOrder) -> MotifView:
    """Keep what a piece shows as a motif."""
    workshop = context.workshop
    piece = workshop.piece(order.piece_id)
    return _view(Library(workshop).keep(piece, order.name.strip(), _tags(order.tags), tuple(order.chosen)))


@router.put("/motifs/{motif_id}")
def rename_motif(context: InContext, motif_id: str, change: MotifChange) -> MotifView:
    """Another name and other tags."""
    return _view(context.workshop.motifs.rename(motif_id, change.name.strip(), _tags(change.tags)))


@router.delete("/motifs/{motif_id}", status_code=204)
def drop_motif(context: InContext, motif_id: str) -> None:
    """Remove a motif; pieces that used it keep what they have."""
    context.workshop.motifs.drop(motif_id)


@router.post("/motifs/{motif_id}/from/{piece_id}")
def change_motif(context: InContext, motif_id: str, piece_id: str) -> MotifView:
    """Let a motif show what a piece shows; pieces that follow it get a new revision."""
    workshop = context.workshop
    motif, changed = Library(workshop).change(motif_id, workshop.piece(piece_id))
    for state in changed:
        context.tell_changed(state.id, state.revision)
    return _view(motif)


@router.get("/motifs/{motif_id}/thumbnail.png", response_class=Response)
def show_motif(context: InContext, motif_id: str) -> Response:
    """A small picture on paper."""
    motif = context.workshop.motifs.get(motif_id)
    data = context.workshop.blobs.read(motif.content.picture_blob)
    small = shrink_to(read_picture(data, "motif.png", context.workshop.settings.read_limits), THUMB_PX)
    shade = INK + (1 - INK) * (1 - small.tones) * 0.6
    gray = small.coverage * shade + (1 - small.coverage) * PAPER
    held = io.BytesIO()
    Image.fromarray((gray.clip(0, 1) * 255).round().astype("uint8")).save(held, "PNG")
    return Response(held.getvalue(), media_type="image/png", headers={"Cache-Control": "no-cache"})


@router.post("/pieces/{piece_id}/motifs", status_code=201)
def lay_motif(context: InContext, piece_id: str, place: MotifPlace) -> PieceView:
    """Lay a motif on a piece, as a step that can be undone."""
    workshop = context.workshop
    state, motif = workshop.pieces.get(piece_id), workshop.motifs.get(place.motif_id)
    document = workshop.document(state)
    laid = MotifPlacement(place.x, place.y, place.width_mm or motif.content.width_mm, place.follow)
    document = merge(document, Library(workshop).lay(workshop.opened(document), motif, laid))
    workshop.opened(document).evaluator.check(context.following(piece_id))
    label = f"Laid on: {motif.name}"[:200]
    state = workshop.pieces.revise(piece_id, state.revision, document.model_dump(mode="json"), label)
    return _told(context, state.id)


@router.get("/motif-pack.zip", response_class=Response)
def save_pack(context: InContext, words: str = "") -> Response:
    """Motifs as one open file."""
    data = Library(context.workshop).pack(context.workshop.motifs.found(words))
    headers = {"Content-Disposition": f'attachment; filename="{PACK_NAME}"'}
    return Response(data, media_type="application/zip", headers=headers)


@router.post("/motif-pack", status_code=201)
def open_pack(context: InContext, pack: Annotated[UploadFile, File()]) -> list[MotifView]:
    """Take the motifs of a pack into the library."""
    name, data = received(pack, context.workshop.settings.pack_bytes, "pack")
    packed = context.reading.pack(data, name, context.workshop.settings.read_limits)
    return [_view(motif) for motif in Library(context.workshop).take(packed)]


def _told(context: Context, piece_id: str) -> PieceView:
    state = context.workshop.pieces.get(piece_id)
    context.tell_changed(state.id, state.revision)
    return piece_of(context.workshop, state)


def _tags(tags: list[str]) -> tuple[str, ...]:
    return tuple(dict.fromkeys(tag.strip() for tag in tags if tag.strip()))


def _view(motif: Motif) -> MotifView:
    return MotifView(
        id=motif.id,
        name=motif.name,
        tags=list(motif.tags),
        width_mm=motif.content.width_mm,
        height_mm=motif.content.height_mm,
        outlines=motif.content.drawing_blob is not None,
        picture_blob=motif.content.picture_blob,
        drawing_blob=motif.content.drawing_blob,
        changed=motif.changed,
    )
