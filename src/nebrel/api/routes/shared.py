"""Source files and kept results for workers that share no folder with the server."""

import hashlib
import secrets
import tempfile
from collections.abc import Iterator
from typing import Annotated, BinaryIO, cast

from fastapi import APIRouter, Depends, Request
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import JSONResponse, Response, StreamingResponse

from nebrel.core.errors import BadValueError, NebrelError, NotFoundError
from nebrel.store.means import refusal_for
from nebrel.store.shared.lent import Lent
from nebrel.store.shared.objects import StoreError, split

router = APIRouter(prefix="/shared", include_in_schema=False)
CHUNK_BYTES = 2**20
HELD_BYTES = 16 * 2**20
SHUT = "Only workers of this server may ask for its results; the token that they were given opens them."


async def _lent(request: Request) -> Lent:
    """The store that is lent.

    Raises:
        NotFoundError: none is.
        StoreError: the token is another.
    """
    lent: Lent | None = getattr(request.app.state, "lent", None)
    given = request.headers.get("authorization", "").removeprefix("Bearer ")
    if lent is None:
        raise NotFoundError("This server lends no results; it has no cluster elsewhere.")
    if not secrets.compare_digest(given.encode(), lent.token.encode()):
        raise StoreError(SHUT)
    return lent


OfLent = Annotated[Lent, Depends(_lent)]


@router.get("/{key:path}")
@router.head("/{key:path}")
def shared_object(lent: OfLent, key: str, request: Request) -> Response:
    """The bytes under a key."""
    try:
        path = lent.store.path(_known(key))
        if path is None:
            return Response(status_code=404)
        file = path.open("rb")
    except FileNotFoundError:
        return Response(status_code=404)
    size = {"Content-Length": str(path.stat().st_size)}
    if request.method == "HEAD":
        file.close()
        return Response(headers=size)
    return StreamingResponse(_chunks(file), headers=size, media_type="application/octet-stream")


@router.put("/{key:path}")
async def keep_shared_object(lent: OfLent, key: str, request: Request) -> Response:
    """Keep bytes under a key; a source file is kept under no other name than its SHA-256."""
    shelf, name = split(_known(key))
    digest = hashlib.sha256()
    with tempfile.SpooledTemporaryFile(HELD_BYTES) as file:
        try:
            async for chunk in request.stream():
                digest.update(chunk)
                await run_in_threadpool(file.write, chunk)
            if shelf == "blobs" and digest.hexdigest() != name:
                raise BadValueError("These bytes are not those that the key names; they may have been cut off.")
            file.seek(0)
            await run_in_threadpool(lent.store.put, key, cast(BinaryIO, file))
        except OSError as cause:
            refusal: NebrelError | None = refusal_for(cause)
            if refusal is None:
                raise
            return JSONResponse({"message": str(refusal)}, 507)
    return Response(status_code=204)


def _known(key: str) -> str:
    try:
        split(key)
    except ValueError as cause:
        raise NotFoundError(str(cause)) from cause
    return key


def _chunks(file: BinaryIO) -> Iterator[bytes]:
    with file:
        while chunk := file.read(CHUNK_BYTES):
            yield chunk
