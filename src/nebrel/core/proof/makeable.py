"""Whether a machine can make what the relief asks for."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nebrel.core.height import HeightField
from nebrel.core.mesh import TriMesh
from nebrel.core.picture import Picture
from nebrel.core.proof.finding import Finding, Fix

LITTLE_USED = 0.75
CROWDED = 0.6
SMALLER = "It does not fit in one go; make it smaller, or choose another maker."
NARROWER = "It does not fit in one go; make it narrower, or choose another maker."


@dataclass(frozen=True)
class Printer:
    """A printer that draws lines of melted filament. All lengths in mm.

    Attributes:
        line_width: width of one drawn line.
        layer: height of one layer.
        bed: largest piece, X, Y and Z.
    """

    line_width: float
    layer: float
    bed: tuple[float, float, float]


def bed_findings(mesh: TriMesh, printer: Printer, what: str = "piece", remedy: str = SMALLER) -> tuple[Finding, ...]:
    """Whether a mesh, as it lies, is larger than the printer's bed; see `bed_finding`."""
    wide, deep, tall = np.ptp(mesh.vertices, axis=0).tolist()
    found = bed_finding((wide, deep, tall), printer, what, remedy)
    return () if found is None else (found,)


def bed_finding(
    size: tuple[float, float, float], printer: Printer, what: str = "piece", remedy: str = SMALLER
) -> Finding | None:
    """Whether something of that size, as it lies, is larger than the printer's bed.

    Args:
        size: X, Y and Z, mm.
        printer: what it is for.
        what: what it is called.
        remedy: what would help.
    """
    if fits_bed(size, printer.bed):
        return None
    given = " × ".join(f"{side:.1f}" for side in size)
    takes = " × ".join(f"{side:g}" for side in printer.bed)
    return Finding("caution", f"The {what} is {given} mm; your printer takes {takes} mm.", remedy, "bed")


def fits_bed(size: tuple[float, float, float], bed: tuple[float, float, float]) -> bool:
    """Whether something of that size fits a bed as it lies, turned by a quarter where that helps."""
    wide, deep, tall = size
    return min(wide, deep) <= min(bed[:2]) and max(wide, deep) <= max(bed[:2]) and tall <= bed[2]


def relief_findings(
    picture: Picture,
    field: HeightField,
    relief: float,
    backing: float,
    printer: Printer,
    margin: float = 0.0,
    progress: Callable[[float], None] = lambda _: None,
) -> tuple[Finding, ...]:
    """What the sculptor should know before printing a relief panel, from the heights that were asked for.

    `margin` is how far a base is to reach beyond what the picture shows.
    """
    low, high = _range(field.heights, field.material)
    progress(0.2)
    looks: list[Callable[[], Finding | None]] = [
        lambda: bed_finding((field.width, field.depth, high + backing), printer, "piece", NARROWER),
        lambda: _blank_margins(field) if margin <= 0 else _cut_margin(field, margin),
        lambda: _backing_layers(backing, printer),
        lambda: _tone_range(*_range(picture.tones, picture.coverage >= 0.5), relief),
        lambda: _layers(high - low, printer),
        lambda: crowded_edges(field.crowded),
    ]
    findings = []
    for done, look in enumerate(looks, start=1):
        findings.append(look())
        progress(0.2 + 0.8 * done / len(looks))
    return tuple(finding for finding in findings if finding is not None)


def crowded_edges(crowded: float) -> Finding | None:
    """Steep places that are no edges, since they lie everywhere: `crowded` is the share of them."""
    if crowded < CROWDED:
        return None
    return Finding(
        "note",
        f"Steep places lie everywhere: {crowded:.0%} of them are so close together that no curve is drawn there.",
        "Walls follow curves where edges stand by themselves; in noise, dithering and grain they stay as the pixels "
        "are. A picture that is softened, or freed of its dots, shows its edges.",
        "crowded_edges",
        value=round(crowded, 3),
    )


def _range(values: NDArray[np.float32], counted: NDArray[np.bool_]) -> tuple[float, float]:
    return float(values.min(where=counted, initial=np.inf)), float(values.max(where=counted, initial=-np.inf))


def _blank_margins(field: HeightField) -> Finding | None:
    rows, columns = np.flatnonzero(field.material.any(axis=1)), np.flatnonzero(field.material.any(axis=0))
    width, depth = float(np.ptp(columns)) * field.pitch, float(np.ptp(rows)) * field.pitch
    if width > field.width - field.pitch and depth > field.depth - field.pitch:
        return None
    return Finding(
        "note",
        f"What the picture shows is {width:.1f} × {depth:.1f} mm; "
        f"the rest of {field.width:.1f} × {field.depth:.1f} mm is blank.",
        "The width is that of the whole picture; a picture cropped to what it shows is exactly as wide as you ask.",
        "blank_margins",
        fix=Fix("crop", {"box": _box(rows, columns, field.material.shape)}, "Crop to what it shows"),
    )


def _cut_margin(field: HeightField, margin: float) -> Finding | None:
    rows, columns = np.flatnonzero(field.material.any(axis=1)), np.flatnonzero(field.material.any(axis=0))
    last_row, last_column = field.material.shape[0] - 1, field.material.shape[1] - 1
    free = {"left": columns[0], "right": last_column - columns[-1], "top": rows[0], "bottom": last_row - rows[-1]}
    lacking = {side: round(max(0.0, margin - float(px) * field.pitch), 1) for side, px in free.items()}
    if max(lacking.values()) < 2 * field.pitch:
        return None
    return Finding(
        "caution",
        f"The base of {margin:g} mm is cut off at the edge of the picture, by up to {max(lacking.values()):.1f} mm.",
        "A base stays inside the picture; a blank border there gives it room.",
        "margin",
        fix=Fix("border", {"unit": "mm", "blank": True, **lacking}, "Add a blank border"),
    )


def _box(rows: NDArray[np.intp], columns: NDArray[np.intp], shape: tuple[int, ...]) -> dict[str, float]:
    down, across = shape[0] - 1, shape[1] - 1
    return {
        "left": float(columns[0] / across),
        "bottom": float(1 - rows[-1] / down),
        "right": float(columns[-1] / across),
        "top": float(1 - rows[0] / down),
    }


def _backing_layers(backing: float, printer: Printer) -> Finding | None:
    layers = backing / printer.layer
    if layers >= 3:
        return None
    return Finding(
        "caution",
        f"The backing of {backing:g} mm is {layers:.1f} layers of {printer.layer:g} mm.",
        "Fewer than three layers warp and let light through; a thicker backing holds the piece flat.",
        "backing",
    )


def _tone_range(darkest: float, brightest: float, relief: float) -> Finding | None:
    used = brightest - darkest
    if used >= LITTLE_USED:
        return None
    return Finding(
        "caution",
        f"The picture uses {used:.0%} of the tones between black and white, so {used * relief:.2f} of the "
        f"{relief:g} mm relief height is used.",
        "A picture with a real black and a real white stands out more; or ask for a taller relief.",
        "tone_range",
        value=round(used * 100, 1),
        unit="%",
        fix=Fix("auto-levels", {}, "Stretch the tones"),
    )


def _layers(used: float, printer: Printer) -> Finding | None:
    layers = used / printer.layer
    if layers >= 5:
        return None
    return Finding(
        "caution",
        f"The relief spans {layers:.1f} layers of {printer.layer:g} mm.",
        "With fewer than five layers slopes turn into stairs; a taller relief or thinner layers show more.",
        "layers",
    )
