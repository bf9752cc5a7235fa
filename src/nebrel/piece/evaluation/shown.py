"""What is looked at of a piece: its plan, its solid, a section, whatever kind it is."""

import io
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from nebrel.core.height import HeightField
from nebrel.core.mesh.shading import ShadedMesh
from nebrel.core.picture.srgb import encode_srgb
from nebrel.core.proof.section import Profile

TONES = 65_535
Size = tuple[float, float, float]


@dataclass(frozen=True)
class SeenThrough:
    """What a plan of walls that let light through tells besides.

    Attributes:
        walls: float32 (H, W) mm of material that is there; the plan's heights are those of a wall of its own material
            in which light does not spread, and that looks the same.
        colour: uint8 (H, W, 3) sRGB that filters give to white light, or None.
        wanted: uint8 (H, W, 3) sRGB, the colours that are wanted, or None.
    """

    walls: NDArray[np.float32]
    colour: NDArray[np.uint8] | None = None
    wanted: NDArray[np.uint8] | None = None


@dataclass(frozen=True)
class Plan:
    """A piece from above, or what it comes from.

    Attributes:
        tones: uint16 (H, W), 0 black to 65,535 white.
        heights: float32 (H, W) mm over the backing; NaN where there is no material.
        size: width, depth and thickness of what is shown, mm.
        pitch: mm between samples.
        backing: mm under the heights.
        relief: mm from the lowest to the highest that tones can give.
        full_px: columns and rows of the same at full resolution.
        from_source: 3 × 3, takes places in shares of the source to shares of the plan, both from the lower left corner.
        window: uint8 (H, W), 1 where the picture is and 0 on a border, or None where all is picture.
        light: of walls that let light through, or None.
    """

    tones: NDArray[np.uint16]
    heights: NDArray[np.float32]
    size: Size
    pitch: float
    backing: float
    relief: float
    full_px: tuple[int, int]
    from_source: NDArray[np.float64]
    window: NDArray[np.uint8] | None = None
    light: SeenThrough | None = None


@dataclass(frozen=True)
class SheetOnSolid:
    """How the unrolled sheet lies on a bent solid.

    Attributes:
        places: float32 (N, 3), for every vertex shares of the sheet's width and height from its lower left corner, and
            1 where it belongs to the sheet and faces the viewer, -1 where it faces the lamp, 0 elsewhere.
        through: float32 (h, w) mm of material that light passes, row 0 on top.
        size: of the sheet, mm.
        around: whether it runs round; then shares run on past 1 across the seam.
        colour: uint8 (h, w, 3) sRGB that filters give to white light, or None.
    """

    places: NDArray[np.float32]
    through: NDArray[np.float32]
    size: tuple[float, float]
    around: bool
    colour: NDArray[np.uint8] | None = None


@dataclass(frozen=True)
class ShownSolid:
    """A solid prepared for looking at.

    Attributes:
        shaded: its lowest corner at the origin.
        standing: whether it is looked at from in front and not from above.
        low: what was taken off from the solid's own coordinates, mm.
        sheet: of what is bent and lets light through, or None.
    """

    shaded: ShadedMesh
    standing: bool = False
    low: Size = (0.0, 0.0, 0.0)
    sheet: SheetOnSolid | None = None


@dataclass(frozen=True)
class SectionCut:
    """A piece along a line: its target surface, where that is known, and what was made."""

    length: float
    target: Profile | None
    made: list[list[tuple[float, float]]]


def plan_from_above(field: HeightField, width: float, depth: float) -> Plan:
    """A solid from above as a plan: heights over its lowest point, and tones in proportion to them."""
    tallest = max(float(field.heights.max()), 1e-6)
    rows, columns = field.heights.shape
    return Plan(
        tones=np.round(field.heights / tallest * TONES).astype(np.uint16),
        heights=np.where(field.material, field.heights, np.float32(np.nan)),
        size=(width, depth, tallest),
        pitch=field.pitch,
        backing=0.0,
        relief=tallest,
        full_px=(columns, rows),
        from_source=np.eye(3),
    )


def shown_colours(light: NDArray[np.float32] | None) -> NDArray[np.uint8] | None:
    """Linear colours, white 1, as sRGB, uint8 of the same shape; None of None."""
    return None if light is None else np.round(encode_srgb(np.clip(light, 0, 1)) * 255).astype(np.uint8)


def png_of(picture: NDArray[np.uint8]) -> bytes:
    """A picture as a PNG file."""
    file = io.BytesIO()
    Image.fromarray(picture).save(file, "PNG")
    return file.getvalue()


def three(values: NDArray[Any]) -> Size:
    """A place or size as plain numbers."""
    x, y, z = (float(value) for value in values)
    return x, y, z
