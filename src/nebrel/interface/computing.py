"""What is computed without a shelf: files in memory, and results that are held as long as a program runs."""

from collections.abc import Mapping

from nebrel.piece.evaluation.cache import ResultCache
from nebrel.piece.evaluation.sources import Sources
from nebrel.settings import Settings

MEMORY_BYTES = 256 * 2**20


def sources_of(files: Mapping[str, bytes], memory_bytes: int = MEMORY_BYTES) -> Sources:
    """Files by the blobs that documents name them by, with what is computed from them held in memory."""
    return Sources(files.__getitem__, ResultCache(memory_bytes), Settings().read_limits)
