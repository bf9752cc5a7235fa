"""The picture through its ops: which pixels, how large they are on the piece, and every step kept by key."""

from collections.abc import Callable
from functools import partial

import numpy as np

from nebrel.core.errors import BadPictureError, BadValueError, NebrelError
from nebrel.core.picture import Picture, shrink_to
from nebrel.core.picture.read import LARGE_PIXELS
from nebrel.core.picture.srgb import by_luminance
from nebrel.piece.documents.document import PicturedDocument
from nebrel.piece.documents.extent import extent_of
from nebrel.piece.evaluation.cache import ResultCache, step_key
from nebrel.piece.ops import Op, PictureView, Supplies, source_view

Progress = Callable[[str, float], None]
# Blob, name, progress, the longest side that will do, whether colours are wanted.
Read = Callable[[str, str, Callable[[float], None], int | None, bool], Picture]
FULL = 0
MOST_PREVIEW_PIXELS = 6_000_000
OVERVIEW_PX = 2048
STAGE = "Preparing the picture"
_RECIPE_VERSION = 3


class Preparation:
    """Runs picture ops. Every op's result is kept by its parameters and what came before it."""

    def __init__(self, cache: ResultCache, read: Read) -> None:
        self._cache = cache
        self._read = read

    def view(
        self,
        document: PicturedDocument,
        longest_px: int,
        upto: str | None = None,
        progress: Progress = lambda _stage, _fraction: None,
    ) -> PictureView:
        """The picture after its ops, or after the op whose id is `upto` ("" for the source itself).

        Args:
            document: the piece.
            longest_px: about how many pixels the longer side of the finished picture gets, or `FULL`.
            upto: where to stop; ops after it are left out.
            progress: called with stage and fraction.
        """
        ops = _ops_upto(document, upto)
        source_px = _source_px(document, longest_px)
        source_mm = extent_of(document).source_mm
        native = max((at + 1 for at, op in enumerate(ops) if op.on_source_pixels), default=0) if source_px else 0
        view = self._source(document, FULL if native else source_px, _wants_colour(document, ops), progress)
        key = self.key(document, longest_px, "") + ("" if not native else "/native")
        for at, op in enumerate(ops):
            if at == native and native:
                key = step_key("shrunk", _RECIPE_VERSION, source_px, key)
                view = self._cache.get(key, partial(_shrunk, view, source_px))
            progress(STAGE, at / len(ops))
            key = _key_after(op, source_mm, key)
            view = self._cache.get(key, partial(self._apply, op, view, progress))
        if native == len(ops) and native:
            view = self._cache.get(
                step_key("shrunk", _RECIPE_VERSION, source_px, key), partial(_shrunk, view, source_px)
            )
        return view

    def key(self, document: PicturedDocument, longest_px: int, upto: str | None = None) -> str:
        """The key of what `view` gives."""
        ops = _ops_upto(document, upto)
        extent = extent_of(document)
        inputs = [
            document.picture.blob,
            _source_px(document, longest_px),
            _wants_colour(document, _ops_upto(document, None)),
            *(["by luminance"] if document.by_luminance else []),
        ]
        key = step_key("source", _RECIPE_VERSION, inputs)
        for op in ops:
            key = _key_after(op, extent.source_mm, key)
        return key

    def _source(self, document: PicturedDocument, source_px: int, colour: bool, progress: Progress) -> PictureView:
        name, blob, light = document.picture.name, document.picture.blob, document.by_luminance

        lit = ["by luminance"] if light else []

        def read(longest_px: int | None = None) -> Picture:
            picture = self._read(
                blob, name, lambda part: progress("Reading the picture", part), longest_px, colour or light
            )
            picture = by_luminance(picture) if light else picture
            return picture if colour else Picture(picture.tones, picture.coverage, picture.facts)

        def full() -> Picture:
            return self._cache.get(step_key("picture", _RECIPE_VERSION, [blob, colour, *lit]), read)

        def overview() -> Picture:
            """What previews are made of: of a large picture a smaller one, since it would not stay in memory."""
            large = document.picture.width_px * document.picture.height_px > LARGE_PIXELS
            if not large or source_px > OVERVIEW_PX or light:
                return full()
            key = step_key("overview", _RECIPE_VERSION, [blob, colour, OVERVIEW_PX])
            return self._cache.get(key, lambda: read(OVERVIEW_PX))

        if source_px == FULL:
            picture = full()
        else:
            key = step_key("picture", _RECIPE_VERSION, [blob, colour, source_px, *lit])
            picture = self._cache.get(key, lambda: shrink_to(overview(), source_px))
        return source_view(picture, extent_of(document).source_mm / (picture.shape[1] - 1))

    def _apply(self, op: Op, before: PictureView, progress: Progress) -> PictureView:
        supplies = Supplies(
            read_picture=lambda blob, name: self._cache.get(
                step_key("picture", _RECIPE_VERSION, [blob, False]),
                lambda: self._read(blob, name, lambda _: None, None, False),
            ),
            progress=lambda part: progress(f"{STAGE}: {op.title.lower()}", part),
        )
        try:
            after = op.apply(before, supplies)
        except NebrelError as refusal:
            raise type(refusal)(f"{op.title}: {refusal}") from refusal
        if not (after.picture.coverage >= 0.5).any():
            raise BadPictureError(f"{op.title} leaves nothing of the picture; make it milder, or switch it off.")
        return after


def _ops_upto(document: PicturedDocument, upto: str | None) -> list[Op]:
    if upto == "":
        return []
    ops = list(document.ops)
    if upto is not None:
        at = next((at for at, op in enumerate(ops) if op.id == upto), None)
        if at is None:
            raise BadValueError("The piece has no such picture op any more.")
        ops = ops[: at + 1]
    return [op for op in ops if op.on]


def _wants_colour(document: PicturedDocument, ops: list[Op]) -> bool:
    return document.in_colour or any(op.needs_colour for op in ops)


def _key_after(op: Op, source_mm: float, key: str) -> str:
    size = round(source_mm, 9) if op.measured_in_mm() else None
    return step_key(op.kind, _RECIPE_VERSION, [op.model_dump(mode="json", exclude={"id", "on"}), size], key)


def _source_px(document: PicturedDocument, longest_px: int) -> int:
    """How many pixels the longer side of the source gets, so that the finished picture gets `longest_px`."""
    width, height = document.picture.width_px, document.picture.height_px
    if longest_px == FULL or width * height < 4:
        return FULL
    finished = max(extent_of(document).shape)
    most = (MOST_PREVIEW_PIXELS * max(width, height) / min(width, height)) ** 0.5
    wanted = max(16, int(min(most, longest_px * max(width, height) / finished)))
    return FULL if wanted >= max(width, height) else wanted


def _shrunk(view: PictureView, source_px: int) -> PictureView:
    facts = view.picture.facts
    share = source_px / max(facts.width_px, facts.height_px)
    small = shrink_to(view.picture, max(2, round(share * max(view.picture.shape))))
    (rows, columns), (old_rows, old_columns) = small.shape, view.picture.shape
    across, down = (columns - 1) / (old_columns - 1), (rows - 1) / (old_rows - 1)
    return PictureView(
        small, view.mm_per_px / across, np.diag([across, down, 1.0]) @ view.from_source, view.density * across
    )
