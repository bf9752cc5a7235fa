"""What evaluators of all kinds stand on: source files, kept results, prepared pictures."""

from collections.abc import Callable

from nebrel.core.picture import Picture, ReadLimits, read_picture
from nebrel.piece.evaluation.cache import ResultCache
from nebrel.piece.evaluation.prepare import Preparation

SourceReader = Callable[[str], bytes]


class Sources:
    """Source files by their blob, with the results that were computed from them."""

    def __init__(self, read: SourceReader, cache: ResultCache, limits: ReadLimits | None = None) -> None:
        self.read = read
        self.cache = cache
        self._limits = limits or ReadLimits()
        self.preparation = Preparation(cache, self.picture)

    def picture(self, blob: str, name: str, progress: Callable[[float], None] = lambda _: None) -> Picture:
        """A picture file as it is, without any op."""
        return read_picture(self.read(blob), name, self._limits, progress)

    def reading(self, read: SourceReader) -> "Sources":
        """The same results over other source files."""
        return Sources(read, self.cache, self._limits)
