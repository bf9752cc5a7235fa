"""Making a picture seamless and repeating it."""

from dataclasses import replace

import numpy as np

from nebrel.core.errors import BadValueError
from nebrel.core.picture.picture import Picture, Tones

LARGEST_SIDE_PX = 16_384
LARGEST_PIXELS = 100_000_000


def seamless(picture: Picture, share: float) -> Picture:
    """The picture with its right and upper strip faded into the opposite ones, so that repeats have no seam.

    Args:
        picture: loses the faded strips.
        share: width of the strips against each side, 0 to 0.5.
    """
    rows, columns = (round(side * share) for side in picture.shape)

    def joined(samples: Tones) -> Tones:
        return _fade(_fade(samples, columns, 1), rows, 0)

    return replace(
        picture,
        tones=joined(picture.tones),
        coverage=joined(picture.coverage),
        rgb=None if picture.rgb is None else joined(picture.rgb),
    )


def _fade(samples: Tones, strip: int, axis: int) -> Tones:
    if strip < 1:
        return samples
    moved = np.moveaxis(samples, axis, 0)
    share = ((np.arange(strip, dtype=np.float32) + 0.5) / strip).reshape(-1, *[1] * (moved.ndim - 1))
    start = moved[-strip:] * (1 - share) + moved[:strip] * share
    whole = np.concatenate([start, moved[strip:-strip]]).astype(np.float32)
    return np.ascontiguousarray(np.moveaxis(whole, 0, axis))


def repeat(picture: Picture, across: float, up: float) -> Picture:
    """The picture beside itself `across` times and on top of itself `up` times, from the lower left corner on.

    Raises:
        BadValueError: the result would be too large.
    """
    height, width = picture.shape
    columns, rows = max(2, round(width * across)), max(2, round(height * up))
    if max(columns, rows) > LARGEST_SIDE_PX or columns * rows > LARGEST_PIXELS:
        raise BadValueError(
            f"Repeated like this the picture would be {columns:,} × {rows:,} pixels; up to {LARGEST_SIDE_PX:,} a side "
            f"and {LARGEST_PIXELS / 1e6:,.0f} megapixels are accepted."
        )
    at_columns = np.arange(columns) % width
    at_rows = height - 1 - np.arange(rows)[::-1] % height

    def repeated(samples: Tones) -> Tones:
        return np.ascontiguousarray(samples[at_rows][:, at_columns])

    return replace(
        picture,
        tones=repeated(picture.tones),
        coverage=repeated(picture.coverage),
        rgb=None if picture.rgb is None else repeated(picture.rgb),
    )
