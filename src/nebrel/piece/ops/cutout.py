"""Cut out: what matters stays, the background becomes blank."""

from typing import ClassVar, Literal

from pydantic import Field

from nebrel.core.picture.ops import cutout
from nebrel.core.picture.ops.retouch import stroke_mask
from nebrel.core.picture.picture import Tones
from nebrel.piece.ops.base import Group, Op, PictureView, Stroke, Supplies, Tool
from nebrel.piece.ops.reframe import CropBox
from nebrel.piece.ops.tone import channels_of
from nebrel.piece.parts.fields import choice, length, made_by_hand, measure, share, switch
from nebrel.piece.parts.part import Part


class MaskFile(Part):
    """A second picture, kept as a blob; `motif` names the one that is followed, None for a file or a copy."""

    blob: str = Field(pattern="^[0-9a-f]{64}$")
    motif: str | None = Field(None, max_length=32)
    name: str = Field(max_length=255)


class CutOut(Op):
    """Part what matters from its background."""

    group: ClassVar[Group] = "cut out"
    title: ClassVar[str] = "Cut out"
    hint: ClassVar[str] = "Everything but what matters becomes blank. Mark it with a box and strokes, or by colour."
    tool: ClassVar[Tool | None] = "marks"
    needs_colour: ClassVar[bool] = True
    kind: Literal["cut-out"] = "cut-out"
    by: Literal["auto", "alpha", "colour", "marks", "mask"] = choice(
        "What is cut away",
        "auto",
        {
            "auto": "The plain background",
            "alpha": "What is see-through",
            "colour": "One colour",
            "marks": "All but what I mark",
            "mask": "Black in another file",
        },
    )
    colour: str = Field(
        "#ffffff",
        pattern="^#[0-9a-fA-F]{6}$",
        title="Colour",
        json_schema_extra={"colour": True, "shown": {"by": ["colour"]}},
    )
    tolerance: float = share("Alike within", 0.15, 0.0, 1.0, shown={"by": ["colour"]})
    box: CropBox | None = made_by_hand("Box", None)
    strokes: tuple[Stroke, ...] = made_by_hand("Marks", (), max_length=500)
    mask: MaskFile | None = made_by_hand("Mask", None)
    feather_mm: float = length("Soft edge", 0.0, 0.0, 50, slider=(0, 3))
    fill_holes: bool = switch("Fill holes", False)
    largest: int = measure("Keep the largest parts (0: all)", 0, 0, 1000, slider=(0, 10), step=1)

    @property
    def is_general(self) -> bool:
        """All but marks and masks of this picture."""
        return self.by not in ("marks", "mask")

    def apply(self, view: PictureView, supplies: Supplies) -> PictureView:
        """Coverage goes down, tones stay."""
        if self.by == "mask" and self.mask is None:
            return view
        if self.by == "marks" and self.box is None and not any(stroke.inside for stroke in self.strokes):
            return view
        kept = cutout.tidy(self._kept(view, supplies), view.px(self.feather_mm), self.fill_holes, self.largest)
        return view.with_picture(cutout.keep_where(view.picture, kept))

    def _kept(self, view: PictureView, supplies: Supplies) -> Tones:
        picture = view.picture
        if self.by == "alpha":
            return picture.coverage
        if self.by == "colour":
            return cutout.away_from_colour(picture, channels_of(self.colour), self.tolerance)
        if self.by == "mask" and self.mask is not None:
            return cutout.fitted_mask(supplies.read_picture(self.mask.blob, self.mask.name), picture.shape)
        if self.by == "marks":
            return self._mark(view, supplies)
        return picture.coverage if picture.coverage.min() < 0.5 else cutout.away_from_background(picture)

    def _mark(self, view: PictureView, supplies: Supplies) -> Tones:
        inside = [stroke.on_view(view) for stroke in self.strokes if stroke.inside]
        outside = [stroke.on_view(view) for stroke in self.strokes if not stroke.inside]
        shape = view.picture.shape
        box = None
        if self.box is not None:
            left, bottom = view.place((self.box.left, self.box.bottom))
            right, top = view.place((self.box.right, self.box.top))
            box = (min(left, right), min(top, bottom), max(left, right), max(top, bottom))
        return cutout.mark_out(
            view.picture, box, stroke_mask(shape, inside), stroke_mask(shape, outside), supplies.progress
        )
