"""What a mould is to be like. Lengths in mm."""

from dataclasses import dataclass
from typing import Literal

Kind = Literal["open", "halves", "die"]
Side = Literal["none", "below", "above", "left", "right"]


@dataclass(frozen=True)
class MouldWish:
    """A mould around a cavity.

    Attributes:
        kind: `open`, poured from the back; `halves`, two that close on each other; `die`, a relief sunk in a face.
        draft_deg: every wall of the cavity leans at least so much, 0 for walls as they are.
        rim: least width of the level face around the cavity.
        floor: least thickness behind the deepest place.
        keys: diameter of the cones that hold halves in place, 0 for none.
        gap: room around the cones.
        spout: the side from which halves are poured.
        spout_width: of the channel where it enters the cavity.
        apart: between halves that lie side by side.
    """

    kind: Kind
    draft_deg: float = 3.0
    rim: float = 8.0
    floor: float = 3.0
    keys: float = 5.0
    gap: float = 0.15
    spout: Side = "below"
    spout_width: float = 8.0
    apart: float = 6.0

    @property
    def sides(self) -> int:
        """How many halves it has."""
        return 2 if self.kind == "halves" else 1
