"""From brightness read behind a step wedge to a material: what it keeps back per mm, and at its surfaces."""

import csv
import io
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import BadValueError
from nebrel.core.height.transmission import TranslucentMaterial, decode_srgb

Floats = NDArray[np.float64]
FEWEST_STEPS = 3
WEDGE_THINNEST, WEDGE_THICKEST = 0.4, 6.4


@dataclass(frozen=True)
class Fit:
    """A fitted material.

    Attributes:
        material: attenuation and surface loss; the loss is 0 when no bare light was read.
        bare: whether the bare light was read, so that the surface loss is known.
        residuals: float64 (N,) share by which every reading is brighter than the fit.
        rms: of the residuals.
        attenuation_error: standard error of the attenuation, per mm.
    """

    material: TranslucentMaterial
    bare: bool
    residuals: Floats
    rms: float
    attenuation_error: float


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


def fit_material(thickness: Floats, brightness: Floats) -> Fit:
    """Attenuation and surface loss from brightness read at known thicknesses.

    The logarithm of the brightness falls evenly with the thickness; a straight line is fitted to it by least squares.
    A reading at thickness 0 is the bare light: what the line, carried on to 0, lacks of it is lost at the surfaces.

    Args:
        thickness: (N,) mm.
        brightness: (N,) in any unit that is proportional to luminance.

    Raises:
        BadValueError: too few readings, readings of nothing, or readings that do not fall as thickness grows.
    """
    if len(thickness) != len(brightness):
        raise BadValueError("Every step needs one thickness and one reading.")
    if not (np.isfinite(thickness).all() and np.isfinite(brightness).all()):
        raise BadValueError("A reading is not a number; numbers for thickness in mm and brightness are needed.")
    order = np.argsort(thickness, kind="stable")
    thick, bright = thickness[order], brightness[order]
    if (thick < 0).any():
        raise BadValueError(f"A step is {thick.min():g} mm thick; 0 for the bare light, or more, would be accepted.")
    if (bright <= 0).any():
        raise BadValueError(f"A reading is {bright.min():g}; brightness above 0 is needed.")
    steps = thick > 0
    if len(np.unique(thick[steps])) < FEWEST_STEPS:
        raise BadValueError(f"There are readings of {len(np.unique(thick[steps]))} steps; at least 3 are needed.")
    levels = np.unique(thick)
    means = np.array([np.log(bright[thick == level]).mean() for level in levels])
    rising = np.flatnonzero(np.diff(means) >= 0)
    if len(rising):
        one, other = levels[rising[0]], levels[rising[0] + 1]
        raise BadValueError(
            f"The step of {other:.4g} mm reads as bright as or brighter than that of {one:.4g} mm; readings that "
            "fall as the steps get thicker are needed."
        )
    mean = thick[steps].mean()
    spread = thick[steps] - mean
    logs = np.log(bright[steps])
    slope = float((spread * logs).sum() / (spread**2).sum())
    level = float(logs.mean() - slope * mean)
    bare = bool((~steps).any())
    lost = 1 - float(np.exp(level - np.log(bright[~steps]).mean())) if bare else 0.0
    residuals = np.full(len(thick), 0.0)
    residuals[steps] = np.exp(logs - (level + slope * thick[steps])) - 1
    freedom = max(int(steps.sum()) - 2, 1)
    error = float(np.sqrt((residuals[steps] ** 2).sum() / freedom / (spread**2).sum()))
    unsorted = np.empty_like(residuals)
    unsorted[order] = residuals
    return Fit(
        TranslucentMaterial(-slope, min(max(lost, 0.0), 0.95)), bare, unsorted,
        float(np.sqrt(np.mean(residuals[steps] ** 2))), error,
    )  # fmt: skip


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

    Semicolons or tabs may stand between them instead, and commas for decimal points then.

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
            thick, bright = (float(cell) for cell in cells[:2])
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
