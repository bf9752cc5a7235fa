"""Reading what the person names, and refusing it in one sentence."""

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


def refuse_missing(*paths: Path) -> None:
    """Refuse files that are not there, before anything is loaded that would read them.

    Raises:
        BadValueError: one of them is missing, or a folder.
    """
    for path in paths:
        if path.is_dir():
            raise BadValueError(f"{path} is a folder; a file is needed.")
        if not path.exists():
            raise BadValueError(f"There is no file {path}; please check the name.")


def refuse_same(source: Path, output: Path) -> None:
    """Refuse to write over what is read.

    Raises:
        BadValueError: both are one file.
    """
    if output.exists() and output.samefile(source):
        raise BadValueError(f"{output} is the file that is read, and would be overwritten; another name is needed.")


def check_target(path: Path, endings: tuple[str, ...]) -> None:
    """Refuse a place that could not be written, before any work is done.

    Raises:
        BadValueError: wrong ending, no such folder, or a folder of this name.
    """
    if path.suffix.lower() not in endings:
        raise BadValueError(f"{path.name} does not end in {' or '.join(endings)}; that is the format written.")
    if path.is_dir():
        raise BadValueError(f"{path} is a folder; the name of a file is needed.")
    if not path.parent.is_dir():
        raise BadValueError(f"There is no folder {path.parent} to write {path.name} into.")
