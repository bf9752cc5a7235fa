"""Pictures that every kind of test needs."""

import io
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from numpy.typing import NDArray
from PIL import Image

TESTS = Path(__file__).parent
Encode = Callable[..., bytes]
# What takes longest begins first, so that all processes of a run end together.
LONGEST = ("wheel/test_wheel.py", "core/test_carving.py", "cli/test_figures.py", "cli/test_outlines.py")
LONGEST_SEEN = ("browser/test_decorations.py", "browser/test_picture.py", "browser/test_first_light.py")


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Files in the order of how long they take, as far as that is known."""
    first = [TESTS / name for name in (*LONGEST, *LONGEST_SEEN)]
    items.sort(key=lambda item: first.index(item.path) if item.path in first else len(first))


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
