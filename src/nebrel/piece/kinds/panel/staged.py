"""The heights of a panel stage by stage: raised, with reliefs laid on, shaped by hand, with the surface it is to have.

What previews ask for again and again is kept on the way, so that only what follows an edit is new.
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import TypeVar

from nebrel.core.bas_relief.nearness import Nearness
from nebrel.core.figure.learned import network_hash
from nebrel.core.height import HeightField
from nebrel.core.height.modelling import worked
from nebrel.core.picture import Picture
from nebrel.piece.evaluation.cache import ResultCache, step_key
from nebrel.piece.evaluation.evaluator import Progress
from nebrel.piece.evaluation.prepare import FULL
from nebrel.piece.evaluation.sources import Sources
from nebrel.piece.kinds.panel.document import PanelDocument
from nebrel.piece.kinds.panel.laid import LaidRelief
from nebrel.piece.kinds.panel.laying import LaidOutcome, Opens, laid_field, laid_picture, lay_all, px_for
from nebrel.piece.kinds.panel.raising import raise_heights, shape_heights
from nebrel.piece.ops import PictureView

Kept = TypeVar("Kept")
_VERSION = 5
# What of a document comes after its heights are raised.
AFTER_RAISED = {"laid", "hand", "edges", "draft", "rounding"}


@dataclass(frozen=True)
class HeightStages:
    """The heights of a piece at one resolution.

    Attributes:
        document: of the piece.
        sources: of files.
        cache: where stages are kept.
        opens: gives the evaluator of another piece's document; None where there are none.
        prepared_key: of the prepared picture.
        longest_px: of the preview, or `FULL`.
        tolerance: mm, how true lines along which heights jump are to be.
    """

    document: PanelDocument
    sources: Sources
    cache: ResultCache
    opens: Opens | None
    prepared_key: str
    longest_px: int
    tolerance: float

    @property
    def key(self) -> str:
        """Of the heights after all stages."""
        height = self.document.height
        told, body = self.tolerance if height.edges.on else None, self.document.body
        floor = [body.backing_mm, body.back] if height.laid else None
        parameters = [height.model_dump(mode="json"), body.width_mm, floor, told, self._network]
        return step_key("heights", _VERSION, parameters, self.prepared_key)

    def field(self, view: Callable[[], PictureView], near: Callable[[], Nearness], progress: Progress) -> HeightField:
        """The heights after all stages.

        Args:
            view: gives the prepared picture.
            near: gives how near everything in it is.
            progress: told by stage and fraction.
        """

        def shape() -> HeightField:
            under = self.laid(view, near, progress)[0]
            return shape_heights(self._by_hand(under), self.document, self.tolerance, progress)

        return self.cache.get(self.key, shape)

    def laid(
        self, view: Callable[[], PictureView], near: Callable[[], Nearness], progress: Progress
    ) -> tuple[HeightField, tuple[LaidOutcome, ...]]:
        """The heights with all reliefs laid on, before the hand, and what came of each of these."""

        def lay() -> tuple[HeightField, tuple[LaidOutcome, ...]]:
            ground = self._raised(view, near, progress)
            return lay_all(ground, self.document, lambda part: self._own_field(part, ground.pitch))

        return self._kept(self._laid_key, lay)

    def _raised(self, view: Callable[[], PictureView], near: Callable[[], Nearness], progress: Progress) -> HeightField:
        def read_mask(blob: str, name: str) -> Picture:
            mask_key = step_key("picture", _VERSION, [blob, "mask"])
            return self.cache.get(mask_key, lambda: self.sources.picture(blob, name))

        def raised() -> HeightField:
            return raise_heights(view().picture, self.document, near, read_mask, progress)

        return self._kept(self._raised_key, raised) if self._has_more else raised()

    def _own_field(self, part: LaidRelief, pitch: float) -> HeightField:
        """Heights of a relief that is laid, over its own zero; the same wherever it lies."""
        px = FULL if self.longest_px == FULL else px_for(part, pitch)
        own = part.model_dump(mode="json", include={"source", "rule", "left_out", "left_out_tone", "width_mm"})

        def picture() -> Picture:
            told = [own["source"], px, part.width_mm if px == FULL else None]
            key = step_key("laid picture", _VERSION, told)
            return self.cache.get(key, lambda: laid_picture(part.source, self.sources, self.opens, px, part.width_mm))

        return self.cache.get(step_key("laid heights", _VERSION, [own, px]), lambda: laid_field(part, picture()))

    def _by_hand(self, under: HeightField) -> HeightField:
        """Heights after strokes. Of a preview they are kept before the last of them, so that only that one is new."""
        strokes = [each for each in self.document.height.hand.strokes if each.on]

        def after(count: int) -> HeightField:
            return worked(
                under, [each for stroke in strokes[:count] for each in stroke.to_core(under.width, under.depth)]
            )

        if not strokes or self.longest_px == FULL:
            return after(len(strokes)) if strokes else under
        earlier = [each.model_dump(mode="json", exclude={"id"}) for each in strokes[:-1]]
        before = self.cache.get(step_key("by hand", _VERSION, earlier, self._laid_key), lambda: after(len(strokes) - 1))
        return worked(before, strokes[-1].to_core(before.width, before.depth))

    @property
    def _network(self) -> str | None:
        return network_hash() if self.document.height.form.on else None

    @property
    def _has_more(self) -> bool:
        height = self.document.height
        return any(each.on for each in height.laid) or any(each.on for each in height.hand.strokes)

    @property
    def _raised_key(self) -> str:
        height = self.document.height
        told = height.model_dump(mode="json", exclude=AFTER_RAISED)
        return step_key(
            "raised", _VERSION, [told, self.document.body.width_mm, bool(height.laid), self._network], self.prepared_key
        )

    @property
    def _laid_key(self) -> str:
        parts = [
            each.model_dump(mode="json", exclude={"id", "on", "name"}) for each in self.document.height.laid if each.on
        ]
        body = self.document.body
        return step_key("laid", _VERSION, [parts, body.backing_mm, body.back], self._raised_key)

    def _kept(self, key: str, make: Callable[[], Kept]) -> Kept:
        return make() if self.longest_px == FULL else self.cache.get(key, make)
