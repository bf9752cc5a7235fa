"""Purify: a few clean tones, in strokes that can be made."""

from typing import ClassVar, Literal

import numpy as np

from nebrel.core.picture.ink import automatic_threshold
from nebrel.core.picture.ops import purify
from nebrel.piece.ops.base import Group, Op, PictureView, Supplies
from nebrel.piece.parts.fields import choice, length, made_by_hand, measure, share, switch, tone

INKS = {"dark": "Dark", "bright": "Bright"}


class PurifyOp(Op):
    """An op that forces tones to mean something."""

    group: ClassVar[Group] = "purify"


class Snap(PurifyOp):
    """Real black and white."""

    title: ClassVar[str] = "Snap black and white"
    hint: ClassVar[str] = "Nearly black becomes black, nearly white becomes white; what lies between stays."
    kind: Literal["snap"] = "snap"
    black: float = share("Black from", 0.03, 0.0, 0.5, slider=(0, 0.3))
    white: float = share("White from", 0.03, 0.0, 0.5, slider=(0, 0.3))

    def apply(self, view: PictureView, supplies: Supplies) -> PictureView:
        """At both ends."""
        return view.with_picture(purify.snap(view.picture, self.black, self.white))


class Threshold(PurifyOp):
    """Two tones."""

    title: ClassVar[str] = "Black or white"
    hint: ClassVar[str] = "Part all tones into black and white at one level, or against what lies around."
    kind: Literal["threshold"] = "threshold"
    by: Literal["auto", "local", "hand"] = choice(
        "Level", "auto", {"auto": "Found", "local": "By place", "hand": "By hand"}
    )
    level: float = tone("From this tone white", 0.5, shown={"by": ["hand"]})
    radius_mm: float = length("Compared within", 4.0, 0.1, 200, slider=(0.5, 20), shown={"by": ["local"]})
    offset: float = share("Darker by", 0.03, -0.5, 0.5, slider=(-0.2, 0.2), shown={"by": ["local"]})
    softness: float = share("Soft edge", 0.05, 0.0, 0.5, slider=(0, 0.3))

    def apply(self, view: PictureView, supplies: Supplies) -> PictureView:
        """Crisp or soft."""
        picture = view.picture
        if self.by == "local":
            radius = view.px(self.radius_mm)
            return view.with_picture(purify.threshold_locally(picture, radius, self.offset, self.softness))
        level = automatic_threshold(picture) if self.by == "auto" else self.level
        return view.with_picture(purify.threshold(picture, level, self.softness))


class Reduce(PurifyOp):
    """A few tones."""

    title: ClassVar[str] = "Few tones"
    hint: ClassVar[str] = "Only so many tones remain. Give two of them the same new tone to merge them."
    kind: Literal["reduce"] = "reduce"
    count: int = measure("Tones", 3, 2, 32, slider=(2, 12), step=1)
    spread: Literal["found", "even"] = choice(
        "Tones are", "found", {"found": "Found in the picture", "even": "Evenly spread"}
    )
    becomes: tuple[float | None, ...] = made_by_hand("New tones", (), max_length=32)

    def apply(self, view: PictureView, supplies: Supplies) -> PictureView:
        """The nearest tone, then the table."""
        found = purify.found_tones(view.picture, self.count, self.spread == "even")
        table = found.copy()
        for at, new in enumerate(self.becomes[: len(table)]):
            if new is not None:
                table[at] = new
        return view.with_picture(purify.reduce_tones(view.picture, found, np.clip(table, 0, 1)))


class Specks(PurifyOp):
    """No specks, no pinholes."""

    title: ClassVar[str] = "Specks and pinholes"
    hint: ClassVar[str] = "Fill islands that are smaller than an area with what lies around them."
    kind: Literal["specks"] = "specks"
    area_mm2: float = measure("Smaller than", 0.3, 0.0, 1000, unit="mm²", slider=(0, 4), step=0.02)
    specks: bool = switch("Specks", True)
    pinholes: bool = switch("Pinholes", True)

    def apply(self, view: PictureView, supplies: Supplies) -> PictureView:
        """By area on the finished piece."""
        area = self.area_mm2 / view.mm_per_px**2
        return view.with_picture(purify.remove_specks(view.picture, area, self.specks, self.pinholes))


class Strokes(PurifyOp):
    """Thicker or thinner strokes."""

    title: ClassVar[str] = "Thicken strokes"
    hint: ClassVar[str] = "Make strokes wider so that the maker can draw them, or narrower with a negative number."
    kind: Literal["strokes"] = "strokes"
    by_mm: float = length("Wider by", 0.2, -10, 10, slider=(-1, 1), step=0.02)
    ink: Literal["dark", "bright"] = choice("Strokes are", "dark", INKS)

    def apply(self, view: PictureView, supplies: Supplies) -> PictureView:
        """Half on each side."""
        return view.with_picture(purify.change_strokes(view.picture, view.px(self.by_mm) / 2, self.ink))
