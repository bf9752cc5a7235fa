"""The recipe of a piece that is put together: which parts, where each stands, and how it meets the others."""

from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from nebrel.piece.documents.worked import WorkedDocument
from nebrel.piece.parts.fields import angle, choice, colour, length, measure, switch, whole
from nebrel.piece.parts.paint import Colour
from nebrel.piece.parts.part import Part
from nebrel.piece.parts.piece_of import PieceOf

FLAT_READY = ["plate", "disc", "plinth"]


class ReadyPart(Part):
    """A part to set things on."""

    kind: Literal["ready"] = "ready"
    shape: Literal["plate", "disc", "plinth", "peg", "easel"] = choice(
        "Ready part",
        "disc",
        {"plate": "Plate", "disc": "Disc", "plinth": "Plinth", "peg": "Peg", "easel": "Easel foot"},
    )
    width_mm: float = length("Width", 60.0, 0.2, 3000, slider=(5, 200), step=1)
    depth_mm: float = length("Depth", 60.0, 0.2, 3000, slider=(5, 200), step=1)
    height_mm: float = length("Height", 6.0, 0.2, 1000, slider=(1, 60), step=0.5)
    text: str = Field(
        "", max_length=200, title="Raised letters", json_schema_extra={"shown": {"shape": ["plate", "disc", "plinth"]}}
    )
    font: Literal["bold", "round", "black", "plain"] = choice(
        "Letters",
        "bold",
        {"bold": "Bold", "round": "Round", "black": "Heavy", "plain": "Plain"},
        shown={"shape": FLAT_READY},
    )
    letter_mm: float = length("Letter height", 5.0, 0.5, 500, slider=(1, 40), step=0.5, shown={"shape": FLAT_READY})
    letter_up_mm: float = length(
        "Letters towards the back", 0.0, -1000, 1000, slider=(-60, 60), step=0.5, shown={"shape": ["plate", "disc"]}
    )
    raised_mm: float = length(
        "Letters raised by", 1.0, 0.05, 50, slider=(0.2, 5), step=0.1, shown={"shape": FLAT_READY}
    )


class PlacedPart(Part):
    """One part of the whole.

    Attributes:
        source: what it is.
        x_mm, y_mm, z_mm: where the middle of its foot stands; z only where it stands free.
        stands: free; let down onto what is below until it touches, sunk by `sink_mm`; or until all of its foot is in.
    """

    id: str = Field("", max_length=40)
    on: bool = Field(True, title="Part switched on")
    name: str = Field("Part", min_length=1, max_length=80, title="Name of the part")
    source: Annotated[PieceOf | ReadyPart, Field(discriminator="kind")] = ReadyPart()
    how: Literal["join", "cut", "apart"] = choice(
        "How it is put", "join", {"join": "joined", "cut": "cut away", "apart": "apart"}, label="It is"
    )
    stands: Literal["free", "on", "into"] = choice(
        "How it stands",
        "free",
        {"free": "free", "on": "on top", "into": "sunk in"},
        label="It stands",
        hints={
            "free": "At the height that is typed.",
            "on": "Let down onto what is under it until it touches.",
            "into": "Let down until every place of its foot is inside what is under it.",
        },
    )
    x_mm: float = length("To the right", 0.0, -5000, 5000, step=1, label="Right")
    y_mm: float = length("To the back", 0.0, -5000, 5000, step=1, label="Back")
    z_mm: float = length("Up", 0.0, -5000, 5000, step=1, shown={"stands": ["free"]})
    sink_mm: float = length(
        "Sunk by", 0.05, -100, 100, slider=(0, 2), step=0.05, label="Sunk by", shown={"stands": ["on", "into"]}
    )
    turn_x_deg: float = angle("Turned about the width", 0.0, -360, 360, slider=(-180, 180), label="Leant back")
    turn_y_deg: float = angle("Turned about the depth", 0.0, -360, 360, slider=(-180, 180), label="Leant aside")
    turn_z_deg: float = angle("Turned upright", 0.0, -360, 360, slider=(-180, 180), label="Turned")
    scale: float = measure("Sized by", 1.0, 0.001, 1000, unit="×", slider=(0.1, 4), step=0.05)
    copies: int = whole("Copies", 1, 1, 100, slider=(1, 24))
    spread: Literal["row", "ring"] = choice("Copies in", "row", {"row": "a row", "ring": "a ring"})
    step_x_mm: float = length("Next one to the right", 10.0, -3000, 3000, step=1, shown={"spread": ["row"]})
    step_y_mm: float = length("Next one to the back", 0.0, -3000, 3000, step=1, shown={"spread": ["row"]})
    colour_on: bool = switch("Painted", False, label="In a colour of its own")
    colour: Colour = colour("Colour of the part", "#c9b79c", label="Colour", shown={"colour_on": ["true"]})


def part_of_piece(
    number: int, title: str, piece_id: str, document: dict[str, Any], at: tuple[float, float]
) -> PlacedPart:
    """A part that follows a piece, standing at a place, mm."""
    source = PieceOf(piece_id=piece_id, document=document)
    return PlacedPart(id=f"part-{number}", name=title[:80] or "Part", source=source, x_mm=at[0], y_mm=at[1])


class AssemblyDocument(WorkedDocument):
    """One immutable state of a piece that is put together."""

    heading: ClassVar[str] = "Put together"
    assembly: tuple[PlacedPart, ...] = Field(max_length=60, title="Parts put together")
    objects: Literal["one", "each"] = choice(
        "Delivered as",
        "one",
        {"one": "one solid", "each": "one object for each part"},
        hints={
            "one": "What is joined is one closed solid; what stands apart lies beside it in the same file.",
            "each": "Every part is an object with its name, where the format knows objects: 3MF, GLB and OBJ.",
        },
    )
