"""What work on a document needs, wherever it is done: source files, kept results, and what is computed from them."""

from dataclasses import dataclass
from pathlib import Path

from nebrel.piece.documents.document import Document
from nebrel.piece.evaluation.cache import ResultCache
from nebrel.piece.evaluation.sources import Sources
from nebrel.piece.registry import Piece, open_piece
from nebrel.settings import Settings
from nebrel.store.blobs import BlobFolder, Blobs, Kept, KeptFolder
from nebrel.store.shared.bucket_store import BucketStore
from nebrel.store.shared.fetched import FetchedBlobs, FetchedKept
from nebrel.store.shared.objects import FolderStore, ObjectStore
from nebrel.store.shared.server_store import ServerStore

# What a worker has at hand of source files, and of results.
NEAR_BYTES = 2**30


@dataclass(frozen=True)
class Workplace:
    """Source files and kept results, without the database."""

    settings: Settings
    blobs: Blobs
    kept: Kept
    sources: Sources

    def opened(self, document: Document) -> Piece:
        """A document with its kind and its evaluator."""
        return open_piece(document, self.sources)


@dataclass(frozen=True)
class Whereabouts:
    """Where workers find source files and results.

    Attributes:
        address: a folder, `http://` of a server, or a place that fsspec reaches.
        token: that opens the server to workers.
    """

    address: str
    token: str = ""

    @property
    def is_folder(self) -> bool:
        """Whether it is a folder of a file system."""
        return "://" not in self.address

    @property
    def is_server(self) -> bool:
        """Whether a server answers there."""
        return self.address.startswith(("http://", "https://"))

    def store(self) -> ObjectStore:
        """The store there."""
        if self.is_folder:
            folder = Path(self.address)
            return FolderStore(BlobFolder(folder / "blobs"), KeptFolder(folder / "kept", None))
        return ServerStore(self.address, self.token) if self.is_server else BucketStore(self.address)


def workplace_in(settings: Settings, computes: bool = True) -> Workplace:
    """The workplace in the data folder of `settings`; one that never `computes` has what is kept, no more."""
    folder = settings.data_dir
    return _over(
        settings, BlobFolder(folder / "blobs"), KeptFolder(folder / "kept", settings.folder_cache_bytes), computes
    )


def workplace_at(where: Whereabouts, settings: Settings, near: Path) -> Workplace:
    """A workplace over a store elsewhere, whose results only its server deletes.

    Args:
        where: the store.
        settings: of who asks.
        near: a folder of this worker's own, for what it has at hand.
    """
    if where.is_folder:
        folder = Path(where.address)
        return _over(settings, BlobFolder(folder / "blobs"), KeptFolder(folder / "kept", None))
    store = where.store()
    return _over(
        settings,
        FetchedBlobs(KeptFolder(near / "blobs", NEAR_BYTES), store),
        FetchedKept(KeptFolder(near / "kept", NEAR_BYTES), store),
    )


def _over(settings: Settings, blobs: Blobs, kept: Kept, computes: bool = True) -> Workplace:
    cache = ResultCache(settings.memory_cache_bytes, kept, computes)
    return Workplace(settings, blobs, kept, Sources(blobs.read, cache, settings.read_limits))
