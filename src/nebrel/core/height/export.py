"""Heights as a 16-bit picture, with the facts that turn its levels into millimetres again."""

from dataclasses import dataclass

import numpy as np

from nebrel.core.height.field import HeightField
from nebrel.core.picture import Picture, SourceFacts

LEVELS = 65_535


@dataclass(frozen=True)
class HeightMap:
    """A picture of heights.

    Attributes:
        picture: tone 0 at z = 0, tone 1 at the highest point.
        facts: what its levels mean, in mm, for the file beside it.
    """

    picture: Picture
    facts: dict[str, float | int | str]


def height_map(field: HeightField, backing: float) -> HeightMap:
    """The upper side over z = 0 of a piece with these heights above its backing, mm."""
    up = np.where(field.material, field.heights + np.float32(backing), np.float32(0))
    highest = float(up.max())
    rows, columns = up.shape
    source = SourceFacts("PNG", columns, rows, 16, "gray")
    picture = Picture((up / np.float32(max(highest, 1e-9))).astype(np.float32), field.coverage, source)
    lowest = float(up.min(where=field.material, initial=np.inf))
    return HeightMap(
        picture,
        {
            "width_mm": round(field.width, 6),
            "depth_mm": round(field.depth, 6),
            "width_px": columns,
            "depth_px": rows,
            "mm_per_px": round(field.pitch, 9),
            "lowest_mm": round(lowest, 6),
            "highest_mm": round(highest, 6),
            "mm_per_level": highest / LEVELS,
            "black": "z = 0, the back of the piece",
        },
    )
