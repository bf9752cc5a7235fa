"""The library of motifs."""

from typing import Annotated

from fastapi import File, UploadFile
from starlette.concurrency import run_in_threadpool
from starlette.responses import Response

from nebrel.api.asking.asking import InAsking
from nebrel.api.messages.motifs import MotifChange, MotifOrder, MotifPlace, MotifView
from nebrel.api.messages.pieces import PieceView
from nebrel.api.serving.context import InContext
from nebrel.api.serving.routes import group
from nebrel.api.serving.uploads import received
from nebrel.api.views.motifs import motif_png
from nebrel.jobs import edits
from nebrel.jobs.library import Library, MotifPlacement
from nebrel.jobs.motif_pack import read_pack
from nebrel.store.motifs import Motif

router = group("motifs")
PACK_NAME = "nebrel-motifs.zip"


@router.get("/motifs")
def list_motifs(context: InContext, words: str = "") -> list[MotifView]:
    """Motifs whose name or tags hold every word, the last changed first."""
    return [_view(motif) for motif in context.workshop.motifs.found(words)]


@router.post("/motifs", status_code=201)
async def keep_motif(asking: InAsking, order: MotifOrder) -> MotifView:
    """Keep what a piece shows as a motif."""
    content = await asking.decided(edits.take_motif, order.piece_id, order.piece_id, tuple(order.chosen))
    motifs = asking.context.workshop.motifs
    return _view(await run_in_threadpool(motifs.add, order.name.strip(), _tags(order.tags), content))


@router.put("/motifs/{motif_id}")
def rename_motif(context: InContext, motif_id: str, change: MotifChange) -> MotifView:
    """Another name and other tags."""
    return _view(context.workshop.motifs.rename(motif_id, change.name.strip(), _tags(change.tags)))


@router.delete("/motifs/{motif_id}", status_code=204)
def drop_motif(context: InContext, motif_id: str) -> None:
    """Remove a motif; pieces that used it keep what they have."""
    context.workshop.motifs.drop(motif_id)


@router.post("/motifs/{motif_id}/from/{piece_id}")
async def change_motif(asking: InAsking, motif_id: str, piece_id: str) -> MotifView:
    """Let a motif show what a piece shows; pieces that follow it get a new revision."""
    content = await asking.decided(edits.take_motif, piece_id, piece_id, ())

    def follow() -> Motif:
        motif, changed = Library(asking.context.workshop).change(motif_id, content)
        for state in changed:
            asking.context.tell_changed(state.id, state.revision)
        return motif

    return _view(await run_in_threadpool(follow))


@router.get("/motifs/{motif_id}/thumbnail.png", response_class=Response)
async def show_motif(asking: InAsking, motif_id: str) -> Response:
    """A small picture on paper."""
    picture = await asking.shown(motif_png, motif_id, motif_id)
    return Response(picture, media_type="image/png", headers={"Cache-Control": "no-cache"})


@router.post("/pieces/{piece_id}/motifs", status_code=201)
async def lay_motif(asking: InAsking, piece_id: str, place: MotifPlace) -> PieceView:
    """Lay a motif on a piece, as a step that can be undone."""
    workshop = asking.context.workshop
    state = await run_in_threadpool(workshop.pieces.get, piece_id)
    motif = await run_in_threadpool(workshop.motifs.get, place.motif_id)
    placed = MotifPlacement(place.x, place.y, place.width_mm or motif.content.width_mm, place.follow)
    made = await asking.decided(edits.lay_motif, piece_id, piece_id, state.revision, motif, placed)
    return await asking.revised(piece_id, state.revision, made, f"Laid on: {motif.name}"[:200])


@router.get("/motif-pack.zip", response_class=Response)
def save_pack(context: InContext, words: str = "") -> Response:
    """Motifs as one open file."""
    data = Library(context.workshop).pack(context.workshop.motifs.found(words))
    headers = {"Content-Disposition": f'attachment; filename="{PACK_NAME}"'}
    return Response(data, media_type="application/zip", headers=headers)


@router.post("/motif-pack", status_code=201)
async def open_pack(asking: InAsking, pack: Annotated[UploadFile, File()]) -> list[MotifView]:
    """Take the motifs of a pack into the library."""
    workshop = asking.context.workshop
    name, data = await run_in_threadpool(received, pack, workshop.settings.pack_bytes, "pack")
    packed = await asking.read(read_pack, data, name, workshop.settings.read_limits)
    return [_view(motif) for motif in await run_in_threadpool(Library(workshop).take, packed)]


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
