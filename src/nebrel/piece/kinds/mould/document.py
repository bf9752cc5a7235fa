"""The recipe of a mould: the piece that is cast in it, and how it is parted, leant, keyed and poured."""

from typing import ClassVar, Literal

from pydantic import Field

from nebrel.core.mould.wish import Kind, MouldWish, Side
from nebrel.piece.documents.worked import WorkedDocument
from nebrel.piece.parts.fields import angle, choice, length, share, switch
from nebrel.piece.parts.part import Part
from nebrel.piece.parts.piece_of import PieceOf

HALVES = {"kind": ["halves"]}


class MouldPart(Part):
    """A mould or a die of a piece."""

    heading: ClassVar[str] = "Mould"
    source: PieceOf = Field(PieceOf(), title="Piece that is cast", json_schema_extra={"by_hand": True})
    kind: Kind = choice(
        "Kind of mould",
        "open",
        {"open": "Open mould", "halves": "Two halves", "die": "Die"},
        label="It is",
        hints={
            "open": "One block, poured from what is the back of the piece.",
            "halves": "Two blocks that close on each other, held by keys and poured through a channel.",
            "die": "A level face with the relief sunk in it and turned left for right, to press or to roll with.",
        },
    )
    pull: Literal["up", "front", "side"] = choice(
        "Which way casts are pulled off",
        "up",
        {"up": "Upwards", "front": "To the front", "side": "To the right"},
        label="Casts are pulled off",
    )
    shrink: float = share(
        "Shrinkage", 0.0, 0.0, 0.3, slider=(0, 0.15), step=0.001, label="What is cast shrinks by",
        hint="The mould is made larger by so much that the piece comes out in its own size.",
    )  # fmt: skip
    draft_deg: float = angle(
        "Draft", 3.0, 0, 45, slider=(0, 15), step=0.5, label="Every wall leans at least",
        hint="So that casts come out. The cavity gets wider towards the parting.",
    )  # fmt: skip
    rim_mm: float = length("Parting rim", 8.0, 1, 200, slider=(2, 30), step=0.5, label="Rim around the cavity")
    floor_mm: float = length(
        "Thickness behind the cavity", 3.0, 0.4, 200, slider=(1, 20), step=0.5, label="Behind the deepest place"
    )
    plane: Literal["found", "typed"] = choice(
        "Where it is parted", "found", {"found": "Found", "typed": "Typed"}, label="The parting is",
        hints={
            "found": "Halves meet where least of the piece is undercut; a die touches its lowest place.",
            "typed": "At a height over the lowest place of the piece.",
        },
    )  # fmt: skip
    plane_mm: float = length(
        "Height of the parting", 5.0, 0, 3000, slider=(0, 100), step=0.1, label="At", shown={"plane": ["typed"]}
    )
    keys: bool = switch("Keys", True, label="Keys hold the halves in place", shown=HALVES)
    key_mm: float = length(
        "Width of the keys", 5.0, 1, 50, slider=(2, 15), step=0.5, label="Keys are wide",
        shown={"kind": ["halves"], "keys": ["true"]},
    )  # fmt: skip
    gap_mm: float = length(
        "Room around the keys", 0.15, 0, 5, slider=(0, 0.6), step=0.01, shown={"kind": ["halves"], "keys": ["true"]}
    )
    spout: Side = choice(
        "Channel to pour through",
        "below",
        {"none": "None", "below": "Below", "above": "Above", "left": "Left", "right": "Right"},
        label="It is poured from",
        shown=HALVES,
    )
    spout_mm: float = length(
        "Width of the channel", 8.0, 0.5, 100, slider=(2, 30), step=0.5, label="The channel is wide",
        shown={"kind": ["halves"], "spout": ["below", "above", "left", "right"]},
    )  # fmt: skip
    sample_mm: float = length(
        "Finest detail", 0.15, 0.02, 5, slider=(0.05, 1), step=0.01, label="Detail down to",
        hint="How far apart the piece is looked at; finer ones take longer.",
    )  # fmt: skip
    tolerance_mm: float = length("Tolerance", 0.02, 0.001, 1, slider=(0.005, 0.2), step=0.005)

    def to_core(self) -> MouldWish:
        """The same for the core."""
        return MouldWish(
            kind=self.kind,
            draft_deg=self.draft_deg,
            rim=self.rim_mm,
            floor=self.floor_mm,
            keys=self.key_mm if self.keys else 0.0,
            gap=self.gap_mm,
            spout=self.spout,
            spout_width=self.spout_mm,
        )


class MouldDocument(WorkedDocument):
    """One immutable state of a mould."""

    heading: ClassVar[str] = "Mould"
    mould: MouldPart
