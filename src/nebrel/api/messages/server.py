"""How the server is, what its data folder holds, and what went wrong."""

from datetime import datetime

from pydantic import BaseModel


class HealthView(BaseModel):
    """How the server is: `ok` when its queue is served and its database answers."""

    ok: bool
    version: str
    queue: bool
    database: bool
    waiting: int
    running: int
    pages: int
    free_bytes: int


class StoragePart(BaseModel):
    """How much a part of the data folder holds."""

    name: str
    files: int
    bytes: int


class StorageView(BaseModel):
    """What the data folder holds: its parts, pieces that were removed, states of all, and when it was last copied."""

    folder: str
    parts: list[StoragePart]
    removed: int
    states: int
    free_bytes: int
    copied: datetime | None


class ProblemView(BaseModel):
    """Something that went wrong, and with what."""

    when: datetime
    what: str
    about: str
