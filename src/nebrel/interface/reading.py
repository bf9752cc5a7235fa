"""Files as bytes, refused in one sentence. Light to load, for commands that may have to refuse."""

from pathlib import Path
from typing import Literal

from nebrel.core.errors import BadValueError, TooLargeError

Limit = Literal["picture_bytes", "mesh_bytes"]


def read_file(path: Path, most: Limit | int) -> bytes:
    """The whole file.

    Args:
        path: of the file.
        most: how many bytes it may have, or the setting that tells.

    Raises:
        BadValueError: it cannot be read.
        TooLargeError: it has more bytes.
    """
    try:
        if path.is_dir():
            raise BadValueError(f"{path} is a folder; a file is needed.")
        size = path.stat().st_size
        limit_bytes = _bytes_of(most)
        if size > limit_bytes:
            raise TooLargeError(
                f"{path.name} has {size / 2**20:,.0f} MiB; up to {limit_bytes / 2**20:,.0f} MiB are accepted."
            )
        return path.read_bytes()
    except FileNotFoundError as cause:
        raise BadValueError(f"There is no file {path}; please check the name.") from cause
    except OSError as cause:
        raise BadValueError(f"{path} cannot be read: {cause.strerror}.") from cause


def _bytes_of(most: Limit | int) -> int:
    if isinstance(most, int):
        return most
    from nebrel.settings import Settings

    return int(getattr(Settings(), most))
