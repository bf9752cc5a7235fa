"""What evaluators of all kinds stand on: source files, kept results, prepared pictures."""

from collections.abc import Callable, Mapping

from nebrel.core.picture import Picture, ReadLimits, read_picture, shrink_to
from nebrel.piece.evaluation.cache import ResultCache
from nebrel.piece.evaluation.prepare import Preparation

SourceReader = Callable[[str], bytes]


class Sources:
    """Source files by their blob, with the results that were computed from them."""

    def __init__(
        self,
        read: SourceReader,
        cache: ResultCache,
        limits: ReadLimits | None = None,
        pictures: Mapping[str, Picture] | None = None,
    ) -> None:
        self.read = read
        self._pictures = pictures or {}
        self.cache = cache
        self._limits = limits or ReadLimits()
        self.preparation = Preparation(cache, self.picture)

    def picture(
        self,
        blob: str,
        name: str,
        progress: Callable[[float], None] = lambda _: None,
        longest_px: int | None = None,
        colour: bool = True,
    ) -> Picture:
        """A picture file as it is, without any op; made smaller, and without its colours, where that will do."""
        if blob in self._pictures:
            held = self._pictures[blob]
            return held if longest_px is None else shrink_to(held, longest_px)
        return read_picture(self.read(blob), name, self._limits, progress, longest_px, colour)

    def reading(self, read: SourceReader) -> "Sources":
        """The same results over other source files."""
        return Sources(read, self.cache, self._limits)

    def with_pictures(self, pictures: Mapping[str, Picture]) -> "Sources":
        """The same with pictures that are no files, by what documents name them as blobs."""
        return Sources(self.read, self.cache, self._limits, pictures)
