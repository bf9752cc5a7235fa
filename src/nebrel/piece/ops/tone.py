"""Tone: what is dark, what is bright, and what lies between."""

from typing import ClassVar, Literal

from pydantic import Field

from nebrel.core.picture.ops import tone as tones
from nebrel.piece.ops.base import Group, Op, PictureView, Supplies
from nebrel.piece.parts.fields import choice, length, made_by_hand, measure, share, tone


class ToneOp(Op):
    """An op on tones."""

    group: ClassVar[Group] = "tone"


class AutoLevels(ToneOp):
    """Stretch to a real black and white."""

    title: ClassVar[str] = "Automatic levels"
    hint: ClassVar[str] = "Stretch the tones so that the darkest are black and the brightest white."
    kind: Literal["auto-levels"] = "auto-levels"
    clip: float = share("Left out at each end", 0.005, 0.0, 0.2, slider=(0, 0.05), step=0.001)

    def apply(self, view: PictureView, supplies: Supplies) -> PictureView:
        """By the histogram of the material."""
        black, white = tones.automatic_levels(view.picture, self.clip)
        return view.with_picture(tones.levels(view.picture, black, white))


class Levels(ToneOp):
    """Stretch by hand."""

    title: ClassVar[str] = "Levels"
    hint: ClassVar[str] = "Say which tone becomes black and which white; the middle follows gamma."
    kind: Literal["levels"] = "levels"
    black: float = tone("Becomes black", 0.0)
    white: float = tone("Becomes white", 1.0)
    gamma: float = measure("Gamma", 1.0, 0.1, 10, slider=(0.3, 3), step=0.01)

    def apply(self, view: PictureView, supplies: Supplies) -> PictureView:
        """A straight stretch and a power."""
        return view.with_picture(tones.levels(view.picture, self.black, self.white, self.gamma))


class CurveOp(ToneOp):
    """A free curve."""

    title: ClassVar[str] = "Curve"
    hint: ClassVar[str] = "Bend the tones by a curve. Click to add a point, drag it out to remove it."
    kind: Literal["curve"] = "curve"
    points: tuple[tuple[float, float], ...] = made_by_hand(
        "Curve", ((0.0, 0.0), (1.0, 1.0)), min_length=2, max_length=64
    )

    def apply(self, view: PictureView, supplies: Supplies) -> PictureView:
        """Without overshoot."""
        return view.with_picture(tones.curve(view.picture, self.points))


class Invert(ToneOp):
    """White for black."""

    title: ClassVar[str] = "Invert"
    hint: ClassVar[str] = "Bright becomes dark and dark becomes bright."
    kind: Literal["invert"] = "invert"

    def apply(self, view: PictureView, supplies: Supplies) -> PictureView:
        """One minus the tone."""
        return view.with_picture(tones.invert(view.picture))


class Mix(ToneOp):
    """Tones from colour."""

    title: ClassVar[str] = "Tones from colour"
    hint: ClassVar[str] = "Say what of the colour becomes tone: the channels, the saturation, or one colour."
    needs_colour: ClassVar[bool] = True
    kind: Literal["mix"] = "mix"
    source: Literal["luma", "channels", "saturation", "colour"] = choice(
        "Tones come from",
        "channels",
        {"luma": "Brightness", "channels": "Red, green, blue", "saturation": "Saturation", "colour": "One colour"},
    )
    red: float = share("Red", 0.33, -2, 2, slider=(-1, 2), shown={"source": ["channels"]})
    green: float = share("Green", 0.34, -2, 2, slider=(-1, 2), shown={"source": ["channels"]})
    blue: float = share("Blue", 0.33, -2, 2, slider=(-1, 2), shown={"source": ["channels"]})
    colour: str = Field(
        "#2c6f62",
        pattern="^#[0-9a-fA-F]{6}$",
        title="Colour",
        json_schema_extra={"colour": True, "shown": {"source": ["colour"]}},
    )
    tolerance: float = share("How near", 0.35, 0.01, 1.0, shown={"source": ["colour"]})

    def apply(self, view: PictureView, supplies: Supplies) -> PictureView:
        """From the picture's own colours, before any tone op."""
        picture = view.picture
        if self.source == "luma":
            return view.with_picture(tones.mix_channels(picture, 0.2126, 0.7152, 0.0722))
        if self.source == "channels":
            return view.with_picture(tones.mix_channels(picture, self.red, self.green, self.blue))
        if self.source == "saturation":
            return view.with_picture(tones.saturation(picture))
        return view.with_picture(tones.likeness(picture, channels_of(self.colour), self.tolerance))


def channels_of(colour: str) -> tuple[float, float, float]:
    """`#rrggbb` as three shares."""
    red, green, blue = (int(colour[at : at + 2], 16) / 255 for at in (1, 3, 5))
    return red, green, blue


class LocalContrast(ToneOp):
    """More relief in flat parts."""

    title: ClassVar[str] = "Local contrast"
    hint: ClassVar[str] = "Bring out detail in flat parts without touching strong edges."
    kind: Literal["local-contrast"] = "local-contrast"
    radius_mm: float = length("Reach", 3.0, 0.05, 200, slider=(0.2, 15))
    amount: float = share("Amount", 0.5, -1, 4, slider=(0, 2))

    def apply(self, view: PictureView, supplies: Supplies) -> PictureView:
        """Against the mean nearby."""
        return view.with_picture(tones.local_contrast(view.picture, view.px(self.radius_mm), self.amount))


class Sharpen(ToneOp):
    """Crisper edges."""

    title: ClassVar[str] = "Sharpen"
    hint: ClassVar[str] = "Make edges steeper."
    kind: Literal["sharpen"] = "sharpen"
    radius_mm: float = length("Radius", 0.3, 0.01, 50, slider=(0.05, 3))
    amount: float = share("Amount", 0.8, 0, 5, slider=(0, 3))

    def apply(self, view: PictureView, supplies: Supplies) -> PictureView:
        """By an unsharp mask."""
        return view.with_picture(tones.sharpen(view.picture, view.px(self.radius_mm), self.amount))


class FlattenLight(ToneOp):
    """Even lighting."""

    title: ClassVar[str] = "Even out the light"
    hint: ClassVar[str] = "Take shadow and uneven lamp light off a photographed sheet."
    kind: Literal["flatten-light"] = "flatten-light"
    radius_mm: float = length("Wider than any line", 4.0, 0.2, 500, slider=(0.5, 20), step=0.1)
    sheet: Literal["bright", "dark"] = choice("The sheet is", "bright", {"bright": "Bright", "dark": "Dark"})

    def apply(self, view: PictureView, supplies: Supplies) -> PictureView:
        """Divide by the estimated light."""
        return view.with_picture(tones.flatten_light(view.picture, view.px(self.radius_mm), self.sheet == "bright"))
