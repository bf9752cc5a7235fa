"""A photograph of Fernhollow, and what its relief is to be."""

import io

import numpy as np
from PIL import Image

from nebrel.demo.pictures.badger import draw_badger

DPI = 300


def badger_photograph() -> bytes:
    """A JPEG file."""
    file, colours = io.BytesIO(), np.round(draw_badger().colours * 255).astype(np.uint8)
    Image.fromarray(colours).save(file, "JPEG", quality=94, subsampling=0, dpi=(DPI, DPI))
    return file.getvalue()


def by_hand(name: str, kind: str, amount: float, size: float, *places: tuple[float, float]) -> dict[str, object]:
    """A stroke through places in shares of a picture."""
    pressed = [(x, y, 1.0) for x, y in places]
    return {"id": name, "kind": kind, "amount_mm": amount, "size_mm": size, "places": pressed}


# What a photograph does not tell: the head is before the chest, the nose before the head, the ears behind it.
BADGER_STROKES = [
    by_hand(
        "head", "nearer", 10, 6,
        (0.3, 0.55), (0.36, 0.47), (0.42, 0.6), (0.5, 0.75), (0.58, 0.6), (0.64, 0.47), (0.7, 0.55),
    ),
    by_hand("nose", "nearer", 14, 5, (0.44, 0.52), (0.5, 0.36), (0.56, 0.52)),
    by_hand(
        "chest", "farther", 6, 6,
        (0.2, 0.2), (0.35, 0.32), (0.42, 0.25), (0.5, 0.2), (0.58, 0.25), (0.65, 0.32), (0.8, 0.2),
    ),
    by_hand("ear-left", "farther", 4, 4, (0.31, 0.8), (0.28, 0.76)),
    by_hand("ear-right", "farther", 4, 4, (0.69, 0.8), (0.72, 0.76)),
]  # fmt: skip
BADGER: dict[str, object] = {
    "ops": [
        {
            "kind": "cut-out",
            "id": "hedge",
            "by": "marks",
            "box": {"left": 0.08, "bottom": 0, "right": 0.92, "top": 0.86},
        }
    ],
    "height": {
        "form": {
            "of": "both",
            "relief_mm": 5.0,
            "strength": 0.3,
            "fine": {"strength_mm": 0.7, "radius_mm": 1.5},
            "strokes": BADGER_STROKES,
        }
    },
    "body": {"width_mm": 90, "backing_mm": 1.6},
}
