"""Reliefs laid on the heights of a panel."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from nebrel.core.height.laid import Blend
from nebrel.piece.kinds.panel.rule import HeightRule
from nebrel.piece.parts.fields import angle, choice, length, share, switch, tone_between
from nebrel.piece.parts.part import Part
from nebrel.piece.parts.piece_of import PieceOf

LeftOut = Literal["nothing", "background", "dark", "bright"]


class PictureOf(Part):
    """A picture file; with `motif` it follows the library."""

    kind: Literal["picture"] = "picture"
    blob: str = Field(pattern="^[0-9a-f]{64}$", title="Picture file")
    name: str = Field("picture", max_length=255, title="Name of the picture")
    motif: str | None = Field(None, max_length=64, title="Motif that it follows")


class LaidRelief(Part):
    """One relief on another."""

    heading: ClassVar[str] = "Reliefs laid on it"
    hint: ClassVar[str] = (
        "Each has its own picture or piece, height, place and size; a later one lies on those before it."
    )
    id: str = Field("", max_length=40)
    on: bool = switch("Relief switched on", True)
    name: str = Field("Relief", min_length=1, max_length=80, title="Name of the relief")
    source: Annotated[PictureOf | PieceOf, Field(discriminator="kind")]
    rule: HeightRule = HeightRule(relief_mm=1.5)
    left_out: LeftOut = choice(
        "What of the picture is left out",
        "background",
        {"nothing": "Nothing", "background": "Background", "dark": "Dark", "bright": "Bright"},
        label="Of its picture is left out",
        hints={
            "nothing": "All of the picture, up to its frame; what is see-through never counts.",
            "background": "What has the colour of the picture's rim, where it is plain; what is see-through never "
            "counts.",
            "dark": "Everything darker than a tone.",
            "bright": "Everything brighter than a tone.",
        },
    )
    left_out_tone: float = tone_between(
        "Tone that is left out", 0.5, slider=[0.001, 0.999], step=0.005, label="From tone",
        shown={"left_out": ["dark", "bright"]},
    )  # fmt: skip
    x_share: float = share("Place from the left", 0.5, -1.0, 2.0, label="From the left")
    y_share: float = share("Place from below", 0.5, -1.0, 2.0, label="From below")
    width_mm: float = length("Width", 30.0, 0.2, 3000, slider=(2, 200), step=0.5)
    turn_deg: float = angle("Turn", 0.0, -360, 360, slider=(-180, 180), label="Turned by")
    mirror: bool = switch("Mirrored", False)
    blend: Blend = choice(
        "How it meets what is below",
        "highest",
        {"highest": "Highest", "lowest": "Lowest", "add": "Added", "cut": "Cut out", "merge": "Merged"},
        label="Where it lies counts",
        hints={
            "highest": "What is higher, it or what is below.",
            "lowest": "What is lower, it or what is below.",
            "add": "Both together: it follows what is below.",
            "cut": "It is cut out of what is below, into the backing where it goes deeper.",
            "merge": "It goes over into what is below along its edge, without a step.",
        },
    )
    blend_mm: float = length(
        "Width over which it merges", 3.0, 0.05, 500, slider=(0.2, 20), step=0.1, label="It merges over",
        shown={"blend": ["merge"]},
    )  # fmt: skip
    lift_mm: float = length(
        "Lifted by", 0.0, -200, 200, slider=(-5, 5), step=0.05, label="Its lowest place lies at",
        hint="Over the lowest that the piece's own heights can be; over what is below, where it is added or cut.",
    )  # fmt: skip

    @property
    def of_picture(self) -> bool:
        """Whether its heights come from a picture and not from another piece."""
        return self.source.kind == "picture"

    def tallest_over(self, below: float) -> float:
        """The greatest height over the backing, mm, on heights that reach up to `below`."""
        own = self.lift_mm + self.rule.tallest_mm
        if not self.on or self.blend in ("cut", "lowest"):
            return below
        return below + max(0.0, own) if self.blend == "add" else max(below, own)
