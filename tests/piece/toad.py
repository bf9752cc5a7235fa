"""A toad to make figures of: cut out, as a photograph, and with a picture of depths."""

import io

import numpy as np
from PIL import Image

from nebrel.core.picture import read_picture
from nebrel.piece.kinds.figure.document import FigureDocument
from nebrel.piece.parts.pictured import picture_source
from nebrel.piece.parts.refusals import parse_part

PX = 360
TOAD, DEPTHS, PHOTO = "0" * 64, "1" * 64, "2" * 64
STROKE = {"id": "s1", "kind": "nearer", "amount_mm": 6, "size_mm": 5, "places": [[0.5, 0.5, 1], [0.6, 0.5, 1]]}


def png(samples: np.ndarray) -> bytes:
    held = io.BytesIO()
    Image.fromarray(samples).save(held, "PNG")
    return held.getvalue()


def toad() -> np.ndarray:
    """A blob of 200 by 160 pixels with two eyes over it, and nothing round it."""
    x, y = np.meshgrid(np.arange(200), np.arange(160))
    body = ((x - 100) / 80) ** 2 + ((y - 95) / 55) ** 2 < 1
    eyes = np.minimum(np.hypot(x - 65, y - 40), np.hypot(x - 135, y - 40)) < 20
    tones = np.where(eyes, 230, 120).astype(np.uint8)
    return np.dstack([tones, tones, tones, np.where(body | eyes, 255, 0).astype(np.uint8)])


FILES = {
    TOAD: png(toad()),
    DEPTHS: png(np.tile(np.linspace(0, 255, 200).astype(np.uint8), (160, 1))),
    PHOTO: png(np.dstack([np.where(toad()[..., 3] > 0, 90, 250).astype(np.uint8)] * 3)),
}


def document(blob: str = TOAD, **figure: object) -> FigureDocument:
    source = picture_source(blob, "toad.png", read_picture(FILES[blob], "toad.png").facts)
    return parse_part(
        FigureDocument, {"title": "Toad", "picture": source.model_dump(), "figure": {"cells": 64, **figure}}
    )
