"""Step wedges to measure a material with, and what is read behind them."""

import csv
import io

import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import BadValueError
from nebrel.core.height.transmission import TranslucentMaterial
from nebrel.core.height.wedge_fit import COVERED, FEWEST_STEPS
from nebrel.core.picture.srgb import decode_srgb

Floats = NDArray[np.float64]
DARK, EDGE = "dark", "edge"
WEDGE_THINNEST, WEDGE_THICKEST = 0.4, 6.4


def wedge_steps(steps: int, thinnest: float = WEDGE_THINNEST, thickest: float = WEDGE_THICKEST) -> Floats:
    """Thicknesses of a wedge's steps, mm, evenly rising.

    Raises:
        BadValueError: fewer than three steps, or thicknesses that do not rise.
    """
    if not FEWEST_STEPS <= steps <= 40:
        raise BadValueError(f"A wedge of {steps} steps is asked for; 3 to 40 would be accepted.")
    if not 0.1 <= thinnest < thickest <= 30:
        raise BadValueError(
            f"The wedge is to go from {thinnest:g} to {thickest:g} mm; rising thicknesses of 0.1 to 30 mm are accepted."
        )
    return np.linspace(thinnest, thickest, steps)


def light_box(material: TranslucentMaterial, thickness: Floats, noise: float, seed: int) -> Floats:
    """What a simulated light box reads behind each step: brightness (N,), the bare light being 1.

    Args:
        material: that the wedge is printed of.
        thickness: (N,) mm; 0 reads the bare light.
        noise: standard deviation as a share of each reading.
        seed: of the noise.
    """
    shaken = 1 + noise * np.random.default_rng(seed).standard_normal(len(thickness))
    bare = thickness <= 0
    passed = np.where(bare, 1.0, material.passed(thickness))
    return np.asarray(passed * np.maximum(shaken, 0.05))


def read_readings(text: str) -> tuple[Floats, Floats]:
    """Thicknesses and brightnesses from lines of `mm,brightness`; a first line of names is passed over.

    A line of `dark,brightness` is what was read with the light covered, at an infinite thickness. Semicolons or tabs
    may stand between them instead, and commas for decimal points then.

    Raises:
        BadValueError: a line that is not two numbers.
    """
    rows: list[tuple[float, float]] = []
    dialect = next((mark for mark in (";", "\t") if mark in text), ",")
    for number, row in enumerate(csv.reader(io.StringIO(text), delimiter=dialect), start=1):
        cells = [cell.strip().replace(",", ".") for cell in row]
        if not any(cells) or cells[0].startswith("#"):
            continue
        try:
            thick, bright = (COVERED if cell.lower() == DARK else float(cell) for cell in cells[:2])
        except ValueError as cause:
            if number == 1:
                continue
            raise BadValueError(
                f"Line {number} of the readings is “{dialect.join(row)}”; a thickness in mm and a brightness, "
                "like 0.8,0.42, are needed."
            ) from cause
        rows.append((thick, bright))
    if not rows:
        raise BadValueError("There are no readings; lines of a thickness in mm and a brightness are needed.")
    both = np.array(rows)
    return both[:, 0], both[:, 1]


def read_edge(text: str) -> tuple[str, tuple[Floats, Floats] | None]:
    """What was read across the edge of a step: lines of `edge,mm,brightness`; and the text without them.

    Raises:
        BadValueError: such a line without two numbers.
    """
    rest, rows = [], []
    for number, line in enumerate(text.splitlines(), start=1):
        mark = next((mark for mark in (";", "\t") if mark in line), ",")
        cells = [cell.strip().replace(",", ".") for cell in line.split(mark)]
        if cells[0].lower() != EDGE:
            rest.append(line)
            continue
        try:
            rows.append((float(cells[1]), float(cells[2])))
        except (ValueError, IndexError) as cause:
            raise BadValueError(
                f"Line {number} of the readings is “{line.strip()}”; a place in mm across the edge and a brightness, "
                "like edge,0.4,0.31, are needed."
            ) from cause
    both = np.array(rows).reshape(-1, 2)
    return "\n".join(rest), (both[:, 0], both[:, 1]) if rows else None


def read_photograph(tones: NDArray[np.float32], steps: int) -> Floats:
    """Brightness of every step in a photograph cropped to the wedge, thinnest left: (steps,), relative.

    The middle half of every step counts, so that its edges and its number do not.

    Args:
        tones: float32 (H, W), sRGB, 0 to 1.
        steps: how many there are.
    """
    rows, columns = tones.shape
    if columns < 8 * steps:
        raise BadValueError(f"The photograph is {columns} pixels wide; {steps} steps need at least {8 * steps}.")
    light = decode_srgb(tones)
    edges = np.linspace(0, columns, steps + 1)
    width = columns / steps
    found = []
    for left in edges[:-1]:
        part = light[rows // 4 : rows - rows // 4, round(left + width / 4) : round(left + 3 * width / 4)]
        found.append(float(np.median(part)))
    return np.array(found)
