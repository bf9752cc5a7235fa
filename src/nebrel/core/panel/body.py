"""What a panel is, besides its relief: outline, back, frame, edges and openings. Lengths in mm."""

from dataclasses import dataclass, field
from typing import Literal

from nebrel.core.region.shapes import Shape

Back = Literal["flat", "none", "follow"]
BaseShape = Shape | Literal["outline"]
FrameProfile = Literal["flat", "bevel", "round", "cove"]


@dataclass(frozen=True)
class Frame:
    """A raised rim on the outermost part of the panel.

    Attributes:
        width: how far it reaches inwards.
        height: of its highest part over the backing.
        profile: its cross-section: `flat`; `bevel`, sloping inwards from its middle; `round`, a half-round bead;
            `cove`, hollowed towards the picture.
    """

    width: float
    height: float
    profile: FrameProfile = "flat"


@dataclass(frozen=True)
class HangingHole:
    """A round hole right through, in the middle below the top edge; `from_edge` to its centre."""

    diameter: float
    from_edge: float


@dataclass(frozen=True)
class CornerHoles:
    """Four round holes right through, their centres `inset` from both edges of the corners."""

    diameter: float
    inset: float


@dataclass(frozen=True)
class Keyhole:
    """A pocket in the back that slips over a screw head: a round mouth, and above it a slot with a hollow behind.

    Attributes:
        head: diameter of the mouth and of the hollow.
        neck: width of the slot.
        rise: length of the slot, upwards from the mouth.
        lip: thickness of the back that the screw head catches.
        depth: of the whole pocket, from the back.
        from_edge: centre of the mouth below the top edge.
    """

    head: float
    neck: float
    rise: float
    lip: float
    depth: float
    from_edge: float


@dataclass(frozen=True)
class StandSlot:
    """A groove across the back that takes a strip for a prop.

    Attributes:
        length: along X, in the middle.
        thickness: of the strip.
        depth: into the back, along the strip.
        lean_deg: between the strip and the straight-back direction; the strip's far end points downwards.
        from_edge: above the bottom edge.
    """

    length: float
    thickness: float
    depth: float
    lean_deg: float
    from_edge: float


Opening = HangingHole | CornerHoles | Keyhole | StandSlot


@dataclass(frozen=True)
class PanelBody:
    """Everything about a panel but its heights.

    Attributes:
        backing: thickness under the lowest point; with a following back, everywhere along the surface's normal.
        back: `flat`; `none` for the surface alone; `follow` for a back that runs along the relief.
        shape: of the outline; `outline` is that of what the picture shows.
        corner: radius, for `rounded`.
        sides: for `polygon`.
        margin: how far a base of the backing's thickness reaches beyond what the picture shows, for `outline`.
        frame: or None.
        bevel: width of the 45 degree cut along the upper edge of the outline.
        wall_draft_deg: how far outer walls lean inwards.
        openings: cut out of the finished body.
    """

    backing: float
    back: Back = "flat"
    shape: BaseShape = "rectangle"
    corner: float = 5.0
    sides: int = 6
    margin: float = 0.0
    frame: Frame | None = None
    bevel: float = 0.0
    wall_draft_deg: float = 0.0
    openings: tuple[Opening, ...] = field(default=())

    @property
    def plain(self) -> bool:
        """Whether it is the full rectangle with a flat back and nothing else."""
        return (
            self.back == "flat"
            and self.shape in ("rectangle", "outline")
            and self.margin == 0
            and self.frame is None
            and self.bevel == 0
            and self.wall_draft_deg == 0
            and not self.openings
        )
