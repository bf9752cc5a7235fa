"""A folder of results that is lent to workers, and the token that opens it."""

import os
import secrets
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path

from nebrel.store.blobs import BlobFolder, KeptFolder
from nebrel.store.shared.objects import FolderStore

_TOKEN_FILE = "workers.token"
_TOKEN_BYTES = 32


@dataclass(frozen=True)
class Lent:
    """What workers may ask for."""

    store: FolderStore
    token: str = field(repr=False)


def lent_from(folder: Path, most_bytes: int) -> Lent:
    """The results of a data folder, of which those beyond `most_bytes` go. Its token stays the same over restarts, so
    that what workers do meanwhile is not lost."""
    return Lent(FolderStore(BlobFolder(folder / "blobs"), KeptFolder(folder / "kept", most_bytes)), _token_of(folder))


def _token_of(folder: Path) -> str:
    path = folder / _TOKEN_FILE
    with suppress(FileExistsError), os.fdopen(os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "w") as file:
        file.write(secrets.token_urlsafe(_TOKEN_BYTES))
    return path.read_text().strip()
