"""Whether traced outlines are what their picture shows: another program draws them as large, and both are compared."""

import io
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image

from nebrel.core.outline_files.svg.write import svg_bytes
from nebrel.core.proof.finding import Finding, Fix
from nebrel.core.region.curves import Figure, map_figure

# How much of a pixel may differ in all within a square around each, before the place is told.
SQUARE_PX, TELLING_PX, TELLING_SHARE = 3, 0.75, 0.003
# From and to which share of ink a place is neither ink nor paper where not both are seen beside it.
BETWEEN_LOW, BETWEEN_HIGH, BESIDE_PX = 0.12, 0.88, 5
BETWEEN_PX = 12
LEAST_OFF = 0.16
MOST_PX = 16_000_000


@dataclass(frozen=True)
class PictureDifference:
    """How traced outlines differ from what a picture shows.

    Attributes:
        share: of what is inked in the picture or by the outlines, from 0.
        places: how many there are.
        where: the middle of the largest, mm; None where there is none.
        between: the share of it that is of tones between ink and paper.
    """

    share: float
    places: int
    where: tuple[float, float] | None
    between: float


def compare_with_picture(inked: NDArray[np.float32], figure: Figure, width_mm: float) -> PictureDifference | None:
    """How far outlines are from the picture that they were traced from; None where it is too large to be drawn again.

    Args:
        inked: the share of every pixel that is inked, float32 (H, W), top row first.
        figure: mm, over whole pixels.
        width_mm: of the picture.
    """
    import resvg_py

    rows, columns = inked.shape
    if inked.size > MOST_PX:
        return None
    pitch = width_mm / columns
    in_pixels = map_figure(figure, np.array([[1 / pitch, 0.0, 0.0], [0.0, 1 / pitch, 0.0]]))
    drawing = svg_bytes(in_pixels, (columns, rows), unit="").decode()
    drawn = resvg_py.svg_to_bytes(svg_string=drawing, background="#ffffff")
    made = 1 - np.asarray(Image.open(io.BytesIO(bytes(drawn))).convert("L"), dtype=np.float32) / 255
    off = inked - made
    # Ink that is a little paler in one place than in another is no edge.
    off[np.abs(off) < LEAST_OFF] = 0.0
    square = (SQUARE_PX, SQUARE_PX)
    telling = np.abs(cv2.boxFilter(off, -1, square, normalize=False)) > TELLING_PX
    count, labels, _, middles = cv2.connectedComponentsWithStats(telling.astype(np.uint8))
    missed = np.bincount(labels.ravel(), np.abs(off).ravel(), count)
    missed[0] = 0.0
    if count == 1:
        return PictureDifference(0.0, 0, None, 0.0)
    between = telling & _between(inked)
    largest = int(np.argmax(missed))
    column, row = middles[largest]
    whole = float(np.maximum(inked, made).sum())
    return PictureDifference(
        float(missed.sum()) / whole,
        count - 1,
        (float(column + 0.5) * pitch, float(rows - row - 0.5) * pitch),
        float(np.abs(off[between]).sum() / missed.sum()) if np.count_nonzero(between) >= BETWEEN_PX else 0.0,
    )


def _between(inked: NDArray[np.float32]) -> NDArray[np.bool_]:
    """Where a picture shows a tone between ink and paper that is neither their edge nor a line below a pixel."""
    around, square = np.ones((BESIDE_PX, BESIDE_PX), np.uint8), np.ones((SQUARE_PX, SQUARE_PX), np.uint8)
    edge = (cv2.dilate(inked, around) >= BETWEEN_HIGH) & (cv2.erode(inked, around) <= BETWEEN_LOW)
    pale = (inked > BETWEEN_LOW) & (inked < BETWEEN_HIGH) & ~edge
    return cv2.morphologyEx(pale.astype(np.uint8), cv2.MORPH_OPEN, square) > 0


def picture_difference_finding(found: PictureDifference | None) -> tuple[Finding, ...]:
    """What is to be told of places where outlines are not what the picture shows."""
    if found is None or found.where is None or found.share < TELLING_SHARE:
        return ()
    places = "one place" if found.places == 1 else f"{found.places:,} places"
    by_tones = found.between > 0.5
    if by_tones:
        title = f"Tones between ink and paper, {found.share:.1%} of what the picture shows, are not followed."
        detail = "What is nearer to the paper was left out and what is nearer to the ink was taken whole."
    else:
        title = f"At {places} the outlines are not what the picture shows, by {found.share:.2%} of it."
        detail = (
            "What is narrower than a pixel closes or vanishes there, and so do parts and holes below the smallest ones "
            "kept; a larger picture, or keeping smaller ones, would show them."
        )
    return (
        Finding(
            "caution",
            title,
            detail,
            "differs-from-picture",
            (*found.where, 0.0),
            round(found.share, 4),
            fix=Fix("trace", {"by": "tones", "tones": 3}, "Follow three tones") if by_tones else None,
        ),
    )
