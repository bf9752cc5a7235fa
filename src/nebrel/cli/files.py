"""Refusing what the person names in one sentence."""

from pathlib import Path

from nebrel.core.errors import BadValueError


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
