"""Where the depth of a picture comes from: what all kinds that have one share."""

from typing import ClassVar, Literal

from pydantic import Field

from nebrel.core.figure.own_network import LEAST_SIDE, MOST_SIDE, Gives, NetworkCard, Scale
from nebrel.core.figure.swell import Profile
from nebrel.piece.parts.fields import choice, length, made_by_hand, measure, share
from nebrel.piece.parts.part import Part

DepthKind = Literal["swell", "learned", "light", "picture", "own", "service"]


class NetworkCardPart(Part):
    """What a network of one's own takes and gives."""

    heading: ClassVar[str] = "Card of the network"
    side: int = measure("Side of its picture", 256, LEAST_SIDE, MOST_SIDE, unit="px", step=1)
    gives: Gives = choice(
        "What it gives", "nearer", {"nearer": "Nearness", "farther": "Distance", "normals": "Normals"}, label="It gives"
    )
    scale: Scale = choice(
        "Scale of its colours", "one", {"one": "0 to 1", "both": "-1 to 1", "photo": "Less the mean of photographs"}
    )

    def to_core(self) -> NetworkCard:
        """The same for the core."""
        return NetworkCard(self.side, self.gives, self.scale)


class DepthPart(Part):
    """How far every place stands towards the viewer, and how thick the figure is there."""

    heading: ClassVar[str] = "Depth"
    kind: DepthKind = choice(
        "Where depth comes from",
        "learned",
        {
            "swell": "Its outline",
            "learned": "What it looks like",
            "light": "Light and shade",
            "picture": "A depth picture",
            "own": "A network of your own",
            "service": "A service",
        },
        hints={
            "swell": "The outline swells like a cushion: thickest where it is widest.",
            "learned": "A small network says what stands nearer; where it is unsure, the outline decides.",
            "light": "Tones turn the swollen front towards the lamp or away; paint and ink mislead it.",
            "own": "A network that you put into the folder of models says how near everything is.",
            "service": "A service elsewhere makes depths of the picture; that takes a while, and may cost something.",
            "picture": "The front follows a second picture of depths; the outline swells behind it.",
        },
    )
    profile: Profile = choice(
        "Profile",
        "round",
        {"round": "Round", "soft": "Soft", "flat": "Flat with a rounded rim"},
        hints={
            "round": "It meets its outline upright, as a ball does.",
            "soft": "It rises slowly from its outline, as a pillow does.",
            "flat": "Level but for its rim, as a biscuit is.",
        },
    )
    rim_mm: float = length("Rounded rim", 3.0, 0.1, 200, slider=(0.5, 20), shown={"profile": ["flat"]})
    blob: str | None = made_by_hand("Depth picture", None, pattern="^[0-9a-f]{64}$")
    name: str = Field("", max_length=255, title="Name of the depth picture")
    shading: float = share(
        "Strength of light and shade", 0.5, label="Tones turn the front by", shown={"kind": ["light"]}
    )
    card: NetworkCardPart = NetworkCardPart()
    near: Literal["bright", "dark"] = choice(
        "Near tones", "bright", {"bright": "Bright", "dark": "Dark"}, label="Nearer is", shown={"kind": ["picture"]}
    )
    span_mm: float = length(
        "Span of depths",
        15.0,
        0,
        1000,
        slider=(1, 100),
        step=0.5,
        label="From furthest to nearest",
        shown={"kind": ["picture", "own", "service"]},
    )
