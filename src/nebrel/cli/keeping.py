"""`nebrel backup`, `nebrel restore`, `nebrel data`: keeping a copy of one's work, and room for more of it."""

import json as jsons
from pathlib import Path
from typing import Annotated

import typer

from nebrel.core.errors import BadValueError

Data = Annotated[Path | None, typer.Option(help="Folder that keeps pieces and results.")]


def backup(
    output: Annotated[Path, typer.Argument(help="The file to write, ending in .nebrel.")],
    data: Data = None,
    json: Annotated[bool, typer.Option("--json", help="Print what it holds as JSON.")] = False,
) -> int:
    """Write all pieces with their sources, versions and past to one file, also while a server works, and read it again.

    Results that can be made again are left out.
    """
    from nebrel.store.backup import ENDING, back_up

    if output.suffix != ENDING:
        raise BadValueError(f"{output.name} should end in {ENDING}.")
    made = back_up(_folder(data), output)
    if json:
        print(jsons.dumps(vars(made), indent=2))
    else:
        print(f"{output}: {made.pieces:,} pieces and {made.sources:,} sources, {_megabytes(made.bytes)}, read again.")
    return 0


def restore(
    backup: Annotated[Path, typer.Argument(help="A file of nebrel backup, or a copy of the database.")],
    data: Data = None,
    replace: Annotated[bool, typer.Option("--replace", help="Put what is in the folder aside.")] = False,
) -> int:
    """Make a data folder of a backup, or put a copy of its database back; what was there stays beside it."""
    from nebrel.store.backup import put_back
    from nebrel.store.folder import held_by_server, make_folder

    folder = _folder(data)
    make_folder(folder)
    with held_by_server(folder, "nebrel restore"):
        found = put_back(backup, folder, replace)
    print(f"{folder}: {found.pieces:,} pieces are on the shelf.")
    return 0


def save_piece(
    piece: Annotated[str, typer.Argument(help="A piece of the shelf, by its title or id.")],
    output: Annotated[Path, typer.Option("-o", "--output", help="The file to write, ending in .piece.zip.")],
    data: Data = None,
) -> int:
    """Write a piece with its named versions and the files that it starts from to one open file."""
    from nebrel.cli.shelf import piece_named
    from nebrel.jobs.piece_file import ENDING, write_piece_file
    from nebrel.jobs.workshop import open_workshop
    from nebrel.settings import Settings
    from nebrel.store.blobs import write_atomically

    if not output.name.endswith(ENDING):
        raise BadValueError(f"{output.name} should end in {ENDING}.")
    workshop = open_workshop(Settings(data_dir=_folder(data)))
    try:
        state = piece_named(workshop.pieces.all(), piece)
        write_atomically(output, lambda file: write_piece_file(workshop, state, file))
    finally:
        workshop.close()
    print(f"{output}: {state.document.get('title')}, {_megabytes(output.stat().st_size)}.")
    return 0


def open_piece(
    file: Annotated[Path, typer.Argument(help="A file of nebrel save-piece, or of the shelf.")],
    data: Data = None,
) -> int:
    """Put a piece from such a file on the shelf, with its versions."""
    from nebrel.interface.reading import read_file
    from nebrel.jobs.piece_file import put_piece, read_piece_file, take_sources
    from nebrel.jobs.workshop import open_workshop
    from nebrel.piece.registry import parse_document
    from nebrel.settings import Settings

    workshop = open_workshop(Settings(data_dir=_folder(data)))
    try:
        settings = workshop.settings
        packed = read_piece_file(
            read_file(file, settings.piece_bytes), file.name, settings.read_limits, settings.piece_bytes
        )
        take_sources(workshop, packed)
        workshop.opened(parse_document(packed.document)).evaluator.check()
        state = put_piece(workshop, packed)
    finally:
        workshop.close()
    count = len(packed.versions)
    print(f"{state.document.get('title')} is on the shelf, with {count:,} version{'' if count == 1 else 's'}.")
    return 0


def data(
    data: Data = None,
    empty_removed: Annotated[bool, typer.Option("--empty-removed", help="Delete pieces that were removed.")] = False,
    thin_history: Annotated[bool, typer.Option("--thin-history", help="Let most of the older states go.")] = False,
    forget_results: Annotated[bool, typer.Option("--forget-results", help="Delete what can be made again.")] = False,
    json: Annotated[bool, typer.Option("--json", help="Print the sizes as JSON.")] = False,
) -> int:
    """Tell how much the data folder holds, by kind, and let go of what is not needed.

    The last 50 states of a piece stay, those with a name, and one an hour of those before.
    """
    from nebrel.jobs.workshop import open_workshop
    from nebrel.settings import Settings
    from nebrel.store.housekeeping import Housekeeping, free_bytes, sizes_in

    folder = _folder(data)
    if not folder.is_dir():
        raise BadValueError(f"There is no data folder {folder}; --data names one.")
    workshop = open_workshop(Settings(data_dir=folder))
    try:
        keeping = Housekeeping(workshop.database, folder)
        done = [
            f"{keeping.empty_removed():,} removed pieces are deleted." if empty_removed else "",
            f"{keeping.thin_history():,} older states are let go." if thin_history else "",
            f"{_megabytes(keeping.forget_results())} of results are deleted." if forget_results else "",
        ]
        removed = keeping.removed()
    finally:
        workshop.close()
    sizes = sizes_in(folder)
    if json:
        told = {name: vars(size) for name, size in sizes.items()}
        print(jsons.dumps({**told, "removed_pieces": removed, "free_bytes": free_bytes(folder)}, indent=2))
        return 0
    for line in filter(None, done):
        print(line)
    for name, size in sizes.items():
        print(f"{name:9} {_megabytes(size.bytes):>12}  {size.files:,} files")
    print(f"{removed:,} pieces are removed and can be put back; {_megabytes(free_bytes(folder))} are free on the disk.")
    return 0


def _folder(data: Path | None) -> Path:
    from nebrel.settings import Settings

    return Settings().data_dir if data is None else data


def _megabytes(count: int) -> str:
    return f"{count / 2**20:,.1f} MiB"
