"""Pictures one after another as a file."""

import io
import zipfile

import numpy as np
import pytest
from PIL import Image

from nebrel.core.proof.film import write_film


def frames(count: int = 5):
    """Pictures that grow brighter."""
    return (np.full((48, 64, 3), 20 * at, dtype=np.uint8) for at in range(count))


@pytest.mark.parametrize("form", ["webp", "gif"])
def test_moving_pictures_last_as_long_as_asked(form):
    held = io.BytesIO()
    write_film(frames(), 5, 1.0, form, held)
    moving = Image.open(held)
    lengths = []
    for at in range(moving.n_frames):
        moving.seek(at)
        moving.load()
        lengths.append(moving.info["duration"])
    assert moving.n_frames == 5
    assert sum(lengths) == 1000


def test_pictures_come_in_a_zip_by_their_numbers():
    held = io.BytesIO()
    write_film(frames(12), 12, 1.0, "png", held)
    names = zipfile.ZipFile(held).namelist()
    assert names == [f"{at:02}.png" for at in range(1, 13)]
    assert np.asarray(Image.open(io.BytesIO(zipfile.ZipFile(held).read("03.png")))).mean() == 40


def test_a_film_is_one_that_browsers_play():
    held = io.BytesIO()
    write_film(frames(), 5, 1.0, "mp4", held)
    assert held.getvalue()[4:8] == b"ftyp"
    assert b"avc1" in held.getvalue()
