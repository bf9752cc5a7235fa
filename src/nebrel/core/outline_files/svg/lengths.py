"""Lengths, numbers and transforms of SVG."""

import math
import re
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import svgelements
from numpy.typing import NDArray

PX_PER_IN = 96.0
MM_PER_PX = 25.4 / PX_PER_IN
_PX = {
    "": 1.0, "px": 1.0, "in": PX_PER_IN, "cm": PX_PER_IN / 2.54, "mm": PX_PER_IN / 25.4, "q": PX_PER_IN / 101.6,
    "pt": PX_PER_IN / 72, "pc": PX_PER_IN / 6,
}  # fmt: skip
_PHYSICAL = ("in", "cm", "mm", "q", "pt", "pc")
_NUMBER = r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?"
_LENGTH = re.compile(rf"^\s*({_NUMBER})\s*(px|in|cm|mm|q|pt|pc|em|rem|ex|ch|%)?\s*$", re.IGNORECASE)
_NUMBERS = re.compile(_NUMBER)
Matrix = NDArray[np.float64]
IDENTITY: Matrix = np.eye(3)
ALIGN = re.compile(r"x(Min|Mid|Max)Y(Min|Mid|Max)")
SHARES = {"Min": 0.0, "Mid": 0.5, "Max": 1.0}


@dataclass(frozen=True)
class Measures:
    """What lengths may refer to, all in px of the user's space.

    Attributes:
        width, height: of the nearest viewport.
        em, rem: size of the font here, and of the whole file.
    """

    width: float
    height: float
    em: float = 16.0
    rem: float = 16.0

    @property
    def diagonal(self) -> float:
        """What percentages refer to that are neither across nor down."""
        return math.hypot(self.width, self.height) / math.sqrt(2)


def length(text: str | None, of: float, measures: Measures, otherwise: float = 0.0) -> float:
    """A length in px; `of` is what 100 % is. `otherwise` stands for what is missing or is none."""
    if text is None or (found := _parsed(text)) is None:
        return otherwise
    value, unit = found
    if not unit:
        return value
    if unit == "%":
        return value / 100 * of
    if unit in ("em", "rem"):
        return value * (measures.em if unit == "em" else measures.rem)
    if unit in ("ex", "ch"):
        return value * measures.em / 2
    return value * _PX[unit]


@lru_cache(maxsize=4096)
def _parsed(text: str) -> tuple[float, str] | None:
    """A number and its unit in small letters."""
    found = _LENGTH.match(text)
    return None if found is None else (float(found.group(1)), (found.group(2) or "").lower())


def is_physical(text: str | None) -> bool:
    """Whether a length says how large it is on paper."""
    value, unit = _parsed(text or "") or (0.0, "")
    return unit in _PHYSICAL and value > 0


def numbers(text: str | None) -> list[float]:
    """All numbers of a list."""
    return [float(each) for each in _NUMBERS.findall(text or "")]


def lengths(text: str | None, of: float, measures: Measures) -> list[float]:
    """All lengths of a list that are parted by blanks or commas."""
    return [length(each, of, measures) for each in re.split(r"[\s,]+", (text or "").strip()) if each]


def transform(text: str | None) -> Matrix:
    """A list of transforms as one affine map, float64 (3, 3)."""
    if not text or not text.strip():
        return IDENTITY
    found = svgelements.Matrix(text)
    return np.array([[found.a, found.c, found.e], [found.b, found.d, found.f], [0.0, 0.0, 1.0]], dtype=np.float64)


def moved(x: float, y: float) -> Matrix:
    """The map that moves."""
    return np.array([[1.0, 0.0, x], [0.0, 1.0, y], [0.0, 0.0, 1.0]])


def view_box_map(view_box: list[float], width: float, height: float, aspect: str | None) -> Matrix:
    """The map from a view box to a viewport of `width` by `height` px at the origin."""
    x, y, wide, high = view_box
    across, down = width / wide, height / high
    if "none" in (aspect or ""):
        return np.diag([across, down, 1.0]) @ moved(-x, -y)
    scale = max(across, down) if "slice" in (aspect or "") else min(across, down)
    found = ALIGN.search(aspect or "")
    left, top = (SHARES[found.group(1)], SHARES[found.group(2)]) if found else (0.5, 0.5)
    shift = moved(left * (width - scale * wide), top * (height - scale * high))
    return shift @ np.diag([scale, scale, 1.0]) @ moved(-x, -y)


def scale_of(matrix: Matrix) -> float:
    """By how much a map makes things larger, on the mean."""
    (a, c, _), (b, d, _) = matrix[:2].tolist()
    return abs(float(a * d - b * c)) ** 0.5


def is_even(matrix: Matrix) -> bool:
    """Whether a map keeps circles circles."""
    a, b = matrix[:2, 0], matrix[:2, 1]
    size = float(np.dot(a, a) + np.dot(b, b))
    return abs(float(np.dot(a, b))) <= 1e-6 * size and abs(float(np.dot(a, a) - np.dot(b, b))) <= 1e-6 * size
