"""Files that a page sends."""

from fastapi import UploadFile

from nebrel.core.errors import TooLargeError
from nebrel.settings import Settings


def received(picture: UploadFile, settings: Settings) -> tuple[str, bytes]:
    """Name and bytes of a picture file.

    Raises:
        TooLargeError: it has more bytes than are accepted; no more than those are read.
    """
    limit = settings.picture_bytes
    name = (picture.filename or "picture").replace("\\", "/").rsplit("/", 1)[-1][-255:] or "picture"
    data = picture.file.read(limit + 1)
    if len(data) > limit:
        raise TooLargeError(f"{name} has more than {limit / 2**20:,.0f} MiB, which is the most accepted.")
    return name, data
