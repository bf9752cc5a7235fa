"""Files that a page sends, and how much of them is taken."""

import re
from typing import Literal

from fastapi import UploadFile

from nebrel.core.errors import TooLargeError
from nebrel.settings import Settings

Limit = Literal["body_bytes", "picture_bytes", "mesh_bytes", "drawing_bytes", "pack_bytes", "piece_bytes"]
# Which setting bounds the body of a request, by its path; all others are edits and questions in JSON.
LIMITS: tuple[tuple[str, Limit], ...] = (
    (r"/api/pieces", "picture_bytes"),
    (r"/api/pictures", "picture_bytes"),
    (r"/api/decoration-files", "picture_bytes"),
    (r"/api/wedge-photograph", "picture_bytes"),
    (r"/api/models", "mesh_bytes"),
    (r"/api/drawings", "drawing_bytes"),
    (r"/api/motif-pack", "pack_bytes"),
    (r"/api/piece-files", "piece_bytes"),
    (r"/api/shared/.*", "piece_bytes"),
)
# What a form puts round its file.
FORM_BYTES = 2**20


def most_bytes(settings: Settings, path: str) -> int:
    """How many bytes the body of a request to `path` may have."""
    for pattern, limit in LIMITS:
        if re.fullmatch(pattern, path):
            return int(getattr(settings, limit)) + FORM_BYTES
    return settings.body_bytes


def too_much(limit: int) -> str:
    """Why a body beyond `limit` bytes is refused."""
    return f"This is too much at once; up to {limit / 2**20:,.0f} MiB are accepted."


def received(file: UploadFile, limit: int, otherwise: str) -> tuple[str, bytes]:
    """Name and bytes of a file; `otherwise` is what one without a name is called.

    Raises:
        TooLargeError: it has more bytes than are accepted; no more than those are read.
    """
    name = (file.filename or otherwise).replace("\\", "/").rsplit("/", 1)[-1][-255:] or otherwise
    data = file.file.read(limit + 1)
    if len(data) > limit:
        raise TooLargeError(f"{name} has more than {limit / 2**20:,.0f} MiB, which is the most accepted.")
    return name, data
