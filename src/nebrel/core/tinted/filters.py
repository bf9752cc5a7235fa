"""Tinted materials as filters: what of red, green and blue light passes layers of them, as it was measured."""

import csv
import io
import math
from dataclasses import dataclass
from itertools import groupby, pairwise

import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import BadValueError
from nebrel.core.picture.srgb import encode_srgb

MOST_FILTERS, MOST_ROWS, MOST_TABLE = 4, 40, 4000
LEAST_PASSED = 1e-4
THICKEST_MM = 10.0
_WANTED = "lines like cyan,0.2,0.25,0.78,0.86 are needed: name, mm, and the share of red, green and blue that passes."


@dataclass(frozen=True)
class ColourFilter:
    """A tinted material, as it was measured.

    Attributes:
        name: what it is called.
        thickness: mm of the layers that were measured, rising, above 0.
        passed: of each the shares of red, green and blue light (linear sRGB) that come through, above 0 to 1.
    """

    name: str
    thickness: tuple[float, ...]
    passed: tuple[tuple[float, float, float], ...]

    def __post_init__(self) -> None:
        if not self.thickness or len(self.thickness) != len(self.passed):
            raise BadValueError(f"{self.name} has no measured layer; at least one thickness with its light is needed.")
        steps = (0.0, *self.thickness)
        if not all(0 <= low < high <= THICKEST_MM for low, high in pairwise(steps)):
            raise BadValueError(
                f"The layers of {self.name} are {', '.join(f'{step:g}' for step in self.thickness)} mm thick; rising "
                f"thicknesses above 0 up to {THICKEST_MM:g} mm are accepted."
            )
        shares = [share for row in self.passed for share in row]
        if not all(math.isfinite(share) and 0 < share <= 1 for share in shares):
            raise BadValueError(f"What passes {self.name} must be shares of the light, above 0 and up to 1.")

    def density(self, thickness: NDArray[np.floating]) -> NDArray[np.float64]:
        """Natural logarithm of what layers of that thickness, mm, keep back, float64 (…, 3).

        Between measured layers it follows a straight line, from none at no thickness on; beyond the last one it goes on
        as steep as there (Bouguer, Lambert and Beer's law between them).
        """
        at = np.array([0.0, *self.thickness])
        known = np.vstack([np.zeros(3), -np.log(np.maximum(np.array(self.passed), LEAST_PASSED))])
        asked = np.asarray(thickness, dtype=np.float64)
        beyond = np.maximum(asked - at[-1], 0.0)
        last = (known[-1] - known[-2]) / (at[-1] - at[-2])
        return np.stack([np.interp(asked, at, known[:, part]) + last[part] * beyond for part in range(3)], axis=-1)

    @property
    def shown(self) -> str:
        """Its colour as `#rrggbb`, as the thickest measured layer looks with its brightest part as bright as can be."""
        row = np.array(self.passed[-1], dtype=np.float32)
        red, green, blue = np.round(encode_srgb(row / row.max()) * 255).astype(int).tolist()
        return f"#{red:02x}{green:02x}{blue:02x}"


def read_filters(text: str) -> tuple[ColourFilter, ...]:
    """Filters from a table, a line for each measured layer: name, mm, shares of red, green and blue that pass.

    A head line is left out, and so are empty ones and what follows a `#`. Shares may be told in percent, as `25%`.

    Raises:
        BadValueError: a line is not like that, or there are none or too many.
    """
    rows: list[tuple[str, float, float, float, float]] = []
    lines = (line.split("#")[0] for line in text.splitlines())
    for number, row in enumerate(csv.reader(io.StringIO("\n".join(lines))), start=1):
        words = [word.strip() for word in row]
        if not any(words) or (not rows and len(words) == 5 and not any(_is_number(word) for word in words[1:])):
            continue
        if len(words) != 5 or not words[0] or not all(_is_number(word) for word in words[1:]):
            raise BadValueError(f"Line {number} of the table of colours is not one of a layer; {_WANTED}")
        thick, red, green, blue = (_number(word) for word in words[1:])
        rows.append((words[0][:40], thick, red, green, blue))
    if not rows or len(rows) > MOST_ROWS:
        raise BadValueError(f"The table of colours has {len(rows)} layers; 1 to {MOST_ROWS} are taken, and {_WANTED}")
    rows.sort(key=lambda row: row[:2])
    found = []
    for name, each in groupby(rows, lambda row: row[0]):
        layers = list(each)
        passed = tuple((red, green, blue) for _, _, red, green, blue in layers)
        found.append(ColourFilter(name, tuple(layer[1] for layer in layers), passed))
    if len(found) > MOST_FILTERS:
        raise BadValueError(f"The table tells {len(found)} colours; up to {MOST_FILTERS} can be laid over each other.")
    order = list(dict.fromkeys(row[0] for row in rows))
    return tuple(sorted(found, key=lambda each: order.index(each.name)))


def _number(word: str) -> float:
    return float(word[:-1]) / 100 if word.endswith("%") else float(word)


def _is_number(word: str) -> bool:
    try:
        return math.isfinite(_number(word))
    except ValueError:
        return False
