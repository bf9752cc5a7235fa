"""Retouch: brush, fill, clone and heal. Strokes are vectors in the source's coordinates."""

import math
from typing import ClassVar, Literal

from nebrel.core.picture.ops import retouch
from nebrel.core.picture.picture import Tones
from nebrel.piece.ops.base import Group, Op, PictureView, Spot, Stroke, Supplies, Tool
from nebrel.piece.parts.fields import angle, made_by_hand, share, switch, tone, whole

MOST_STROKES = 2000


class RetouchOp(Op):
    """An op made by hand."""

    group: ClassVar[Group] = "retouch"


class BrushOp(RetouchOp):
    """An op made of brush strokes."""

    tool: ClassVar[Tool | None] = "brush"
    strokes: tuple[Stroke, ...] = made_by_hand("Strokes", (), max_length=MOST_STROKES)
    axes: int = whole("Mirror axes", 0, 0, 8, slider=(0, 8))
    axis_deg: float = angle("First axis leans by", 0.0, -90, 90, slider=(-90, 90))

    def mask(self, view: PictureView) -> Tones:
        """Where the strokes lie, with their images about axes through the middle of the source."""
        middle, lean = view.place((0.5, 0.5)), math.radians(self.axis_deg)
        drawn = [stroke.on_view(view) for stroke in self.strokes]
        images = [image for stroke in drawn for image in retouch.mirrored(stroke, middle, self.axes, lean)]
        return retouch.stroke_mask(view.picture.shape, images)

    @classmethod
    def measured_in_mm(cls) -> bool:
        """Brushes are as wide as they are on the piece."""
        return True


class Paint(BrushOp):
    """Paint a tone."""

    title: ClassVar[str] = "Paint"
    hint: ClassVar[str] = "Brush one tone onto the picture."
    kind: Literal["paint"] = "paint"
    tone: float = tone("Tone", 0.0)

    def apply(self, view: PictureView, supplies: Supplies) -> PictureView:
        """Also on blanks."""
        return view.with_picture(retouch.paint(view.picture, self.mask(view), self.tone)) if self.strokes else view


class Erase(BrushOp):
    """Erase to blank."""

    title: ClassVar[str] = "Erase to blank"
    hint: ClassVar[str] = "Brush material away; nothing is made there."
    kind: Literal["erase"] = "erase"

    def apply(self, view: PictureView, supplies: Supplies) -> PictureView:
        """Coverage goes."""
        return view.with_picture(retouch.erase(view.picture, self.mask(view))) if self.strokes else view


class Heal(BrushOp):
    """Heal from the surroundings."""

    title: ClassVar[str] = "Heal"
    hint: ClassVar[str] = "Brush over what should not be there; it is made anew from what lies around."
    kind: Literal["heal"] = "heal"

    def apply(self, view: PictureView, supplies: Supplies) -> PictureView:
        """By fast marching."""
        return view.with_picture(retouch.heal(view.picture, self.mask(view))) if self.strokes else view


class Clone(BrushOp):
    """Clone from a spot."""

    title: ClassVar[str] = "Clone"
    hint: ClassVar[str] = "Brush what lies elsewhere; the distance to it stays the same for all strokes."
    kind: Literal["clone"] = "clone"
    across: float = share("From the right by", 0.1, -1, 1, slider=(-0.5, 0.5))
    up: float = share("From above by", 0.0, -1, 1, slider=(-0.5, 0.5))

    def apply(self, view: PictureView, supplies: Supplies) -> PictureView:
        """Both shares of the source's size."""
        if not self.strokes:
            return view
        here, there = view.place((0.0, 0.0)), view.place((self.across, self.up))
        mask = self.mask(view)
        return view.with_picture(retouch.clone(view.picture, mask, there[0] - here[0], there[1] - here[1]))


class Fill(RetouchOp):
    """Fill an area."""

    title: ClassVar[str] = "Fill"
    hint: ClassVar[str] = "Click on the Plan to fill all that hangs together there."
    tool: ClassVar[Tool | None] = "spot"
    kind: Literal["fill"] = "fill"
    spots: tuple[Spot, ...] = made_by_hand("Spots", (), max_length=200)
    tolerance: float = share("Alike within", 0.08, 0.0, 1.0, slider=(0, 0.5))
    blank: bool = switch("To blank", False)
    tone: float = tone("Tone", 1.0)

    def apply(self, view: PictureView, supplies: Supplies) -> PictureView:
        """One spot after the other."""
        picture = view.picture
        for spot in self.spots:
            column, row = view.place(spot)
            if 0 <= column <= picture.shape[1] - 1 and 0 <= row <= picture.shape[0] - 1:
                picture = retouch.fill_from(picture, column, row, self.tolerance, None if self.blank else self.tone)
        return view.with_picture(picture)
