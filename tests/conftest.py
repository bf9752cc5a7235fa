"""Pictures that every kind of test needs."""

import io
from collections.abc import Callable

import numpy as np
import pytest
from numpy.typing import NDArray
from PIL import Image

Encode = Callable[..., bytes]


@pytest.fixture(scope="session")
def encode() -> Encode:
    """Samples as the bytes of a picture file."""

    def as_file(samples: NDArray[np.generic], form: str = "PNG", **options: object) -> bytes:
        file = io.BytesIO()
        Image.fromarray(samples).save(file, form, **options)
        return file.getvalue()

    return as_file


@pytest.fixture(scope="session")
def hill(encode: Encode) -> bytes:
    """A 16-bit PNG, 120 × 90, of a round hill from black to white."""
    rows, columns = np.mgrid[0:90, 0:120]
    tones = np.clip(1 - np.hypot((columns - 59.5) / 59.5, (rows - 44.5) / 44.5), 0, 1)
    return encode(np.round(tones / tones.max() * 65535).astype(np.uint16))
