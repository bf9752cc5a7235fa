"""Files that a page sends."""

from fastapi import UploadFile

from nebrel.core.errors import TooLargeError


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
