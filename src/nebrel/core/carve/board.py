"""The stock, where the piece lies in it, and what a machine and its bits can do with it."""

import math
from dataclasses import dataclass
from typing import Literal

import cv2
import numpy as np

from nebrel.core.carve.asked import Asked
from nebrel.core.carve.bits import Bit
from nebrel.core.carve.offset import lowest_tips
from nebrel.core.errors import BadValueError

ZeroPlace = Literal["corner", "centre"]
ZeroHeight = Literal["top", "bed"]
FIT = 1e-6
SMALLEST, LARGEST = 0.5, 5000.0


@dataclass(frozen=True)
class Board:
    """A stock of material, and the zero point of its programs. All in mm.

    Attributes:
        size: X, Y and Z.
        at: where the lower left corner of the piece lies, from that of the stock; None for the middle.
        zero: over its lower left corner, or over its middle.
        zero_height: on its face, or on the bed under it.

    Raises:
        BadValueError: a size that no stock has.
    """

    size: tuple[float, float, float]
    at: tuple[float, float] | None = None
    zero: ZeroPlace = "corner"
    zero_height: ZeroHeight = "top"

    def __post_init__(self) -> None:
        for value in self.size:
            if not (math.isfinite(value) and SMALLEST <= value <= LARGEST):
                raise BadValueError(
                    f"A side of the stock is {value:g} mm; {SMALLEST:g} to {LARGEST:g} mm would be accepted."
                )

    def corner(self, piece: tuple[float, float]) -> tuple[float, float]:
        """The stock's lower left corner, from that of a piece of that width and depth."""
        if self.at is not None:
            return -self.at[0], -self.at[1]
        return (piece[0] - self.size[0]) / 2, (piece[1] - self.size[1]) / 2

    def as_large_as(self, piece: tuple[float, float]) -> bool:
        """Whether nothing of the stock lies beside a piece of that width and depth."""
        return self.size[0] - piece[0] < FIT and self.size[1] - piece[1] < FIT

    def zero_point(self, piece: tuple[float, float]) -> tuple[float, float, float]:
        """The zero point, from the piece's lower left corner and the height of its highest place."""
        left, low = self.corner(piece)
        z = 0.0 if self.zero_height == "top" else -self.size[2]
        if self.zero == "corner":
            return left, low, z
        return left + self.size[0] / 2, low + self.size[1] / 2, z


@dataclass(frozen=True)
class Machine:
    """A router.

    Attributes:
        name: of it.
        travel: how far it can go in X, Y and Z, mm.
        safe: height of rapids over the stock, mm.
        acceleration: mm/s².
        corner_deviation: mm by which it may leave a corner.
        rapid: mm a minute.
        unit: of its programs.
    """

    name: str = "Yard router"
    travel: tuple[float, float, float] = (600.0, 400.0, 90.0)
    safe: float = 5.0
    acceleration: float = 400.0
    corner_deviation: float = 0.02
    rapid: float = 3000.0
    unit: Literal["mm", "in"] = "mm"


def refuse_unfit(
    thickness: float, asked: Asked, board: Board, machine: Machine, bits: tuple[Bit, ...], runs_out: float
) -> None:
    """Refuse what the stock, the machine or a bit cannot do, before anything is planned.

    Args:
        thickness: of the whole piece, mm.
        asked: its heights.
        board: the stock.
        machine: the router.
        bits: all of them.
        runs_out: how far bits go beyond the piece, mm.

    Raises:
        BadValueError: the piece is larger than the stock; the machine cannot reach; a bit is too short, or its shank
            would touch.
    """
    _refuse_outside(thickness, asked.size, board)
    reaches = [asked.size[0] + 2 * runs_out, asked.size[1] + 2 * runs_out, asked.deepest + machine.safe]
    for axis, needed, has in zip("XYZ", reaches, machine.travel, strict=True):
        if needed > has + FIT:
            raise BadValueError(
                f"The work needs {needed:.1f} mm in {axis}; {machine.name} goes {has:g} mm. "
                "A smaller piece, or a larger machine, would be accepted."
            )
    for bit in bits:
        touches = shank_touches(asked, bit)
        if touches > FIT:
            raise BadValueError(
                f"The shank of the {bit.name} bit, {bit.shank:g} mm thick, would touch the wall; flutes of at least "
                f"{bit.flute + touches:.1f} mm, or a thinner shank, would be accepted."
            )
        if asked.deepest > bit.flute + FIT:
            raise BadValueError(
                f"The relief is {asked.deepest:.1f} mm deep, and the flutes of the {bit.name} bit are {bit.flute:g} mm "
                "long; a longer bit or a shallower relief would be accepted."
            )


def _refuse_outside(thickness: float, piece: tuple[float, float], board: Board) -> None:
    given = f"{piece[0]:.1f} × {piece[1]:.1f} × {thickness:.1f}"
    has = " × ".join(f"{side:g}" for side in board.size)
    if thickness > board.size[2] + FIT:
        raise BadValueError(f"The piece is {given} mm and the stock {has} mm: too thin; {thickness:.1f} mm are needed.")
    if piece[0] > board.size[0] + FIT or piece[1] > board.size[1] + FIT:
        raise BadValueError(f"The piece is {given} mm and the stock {has} mm; a stock as large as the piece is needed.")
    left, low = board.corner(piece)
    outside = left > FIT or low > FIT
    outside |= left + board.size[0] < piece[0] - FIT or low + board.size[1] < piece[1] - FIT
    if outside:
        raise BadValueError(
            f"The piece would lie beside the stock; its lower left corner may be up to "
            f"{board.size[0] - piece[0]:.1f} × {board.size[1] - piece[1]:.1f} mm into it."
        )


def shank_touches(asked: Asked, bit: Bit) -> float:
    """How much longer the flutes of a bit would have to be for its shank to pass every wall, mm; 0 where it passes.

    Looked at on samples 0.2 mm apart, each as high as its neighbours, so rather too early than too late.
    """
    if bit.flute >= asked.deepest or bit.shank <= bit.diameter:
        return 0.0
    step = max(1, round(0.2 / asked.pitch))
    high = np.asarray(cv2.dilate(asked.heights, np.ones((step, step), np.uint8)), dtype=np.float64)[::step, ::step]
    wide = bit.profile._replace(radius=bit.shank / 2, flat_to=bit.shank / 2)
    walls = lowest_tips(high, asked.pitch * step, wide)
    rows = np.arange(0, len(asked.heights), step, dtype=np.int64)
    tips = lowest_tips(asked.heights, asked.pitch, bit.profile, rows)[:, ::step]
    return max(0.0, float((walls - tips - bit.flute).max(where=asked.there[::step, ::step], initial=0.0)))
