"""Large pictures are gone through in strips, and made smaller while they are read: the same as all at once."""

import struct
import zlib

import imagecodecs
import numpy as np
import pytest
from PIL import Image

from nebrel.core.errors import BadPictureError
from nebrel.core.picture import read, read_facts, read_picture, shrink_to, strips

RANDOM = np.random.default_rng(3)
KINDS = {
    "gray": RANDOM.integers(0, 65535, (301, 203), dtype=np.uint16),
    "gray-alpha": RANDOM.integers(0, 65535, (150, 260, 2), dtype=np.uint16),
    "colour": RANDOM.integers(0, 255, (233, 120, 3), dtype=np.uint8),
    "colour-alpha": RANDOM.integers(0, 65535, (97, 211, 4), dtype=np.uint16),
}


@pytest.fixture(params=KINDS)
def file(request) -> bytes:
    return imagecodecs.png_encode(KINDS[request.param])


@pytest.fixture
def narrow(monkeypatch):
    """Strips of a few rows."""
    monkeypatch.setattr(strips, "AT_ONCE", 3000)


def alike(one, other) -> bool:
    arrays = zip((one.tones, one.coverage, one.rgb), (other.tones, other.coverage, other.rgb), strict=True)
    return all((a is None and b is None) or np.array_equal(a, b) for a, b in arrays)


def test_strips_change_nothing(file, monkeypatch):
    whole = read_picture(file)
    monkeypatch.setattr(strips, "AT_ONCE", 3000)
    found = read_picture(file)
    assert alike(found, whole) and found.facts == whole.facts == read_facts(file)


def test_colours_are_left_out_where_they_are_not_wanted(file):
    plain = read_picture(file, colour=False)
    assert plain.rgb is None
    assert np.array_equal(plain.tones, read_picture(file).tones)


@pytest.mark.parametrize("longest", [7, 64, 149, 200])
def test_made_smaller_while_read_is_as_made_smaller_afterwards(file, narrow, monkeypatch, longest):
    afterwards = read_picture(file, longest_px=longest)
    assert alike(afterwards, shrink_to(read_picture(file), longest))
    monkeypatch.setattr(read, "LARGE_PIXELS", 0)
    meanwhile = read_picture(file, longest_px=longest)
    assert meanwhile.shape == afterwards.shape and meanwhile.facts == afterwards.facts
    assert np.allclose(meanwhile.tones, afterwards.tones, atol=2e-3)
    assert np.allclose(meanwhile.coverage, afterwards.coverage, atol=2e-3)
    assert (meanwhile.rgb is None) == (afterwards.rgb is None)
    if meanwhile.rgb is not None:
        assert np.allclose(meanwhile.rgb, afterwards.rgb, atol=2e-3)


def test_what_is_covered_only_below_keeps_its_tones(narrow, monkeypatch):
    samples = np.full((400, 100, 2), 65535, dtype=np.uint16)
    samples[150:, :50, 1] = 0
    samples[150:, :50, 0] = 0
    monkeypatch.setattr(read, "LARGE_PIXELS", 0)
    small = read_picture(imagecodecs.png_encode(samples), longest_px=33)
    expected = shrink_to(read_picture(imagecodecs.png_encode(samples)), 33)
    assert np.allclose(small.coverage, expected.coverage, atol=1e-3)
    assert np.allclose(small.tones, expected.tones, atol=1e-3)


def test_transparent_everywhere_is_told_however_it_is_read(monkeypatch, narrow):
    file = imagecodecs.png_encode(np.zeros((90, 90, 4), dtype=np.uint16))
    monkeypatch.setattr(read, "LARGE_PIXELS", 0)
    for way in (read_picture, read_facts, lambda data: read_picture(data, longest_px=20)):
        with pytest.raises(BadPictureError, match="transparent everywhere"):
            way(file)


@pytest.mark.parametrize("before", [b"IDAT", b"IEND"])
def test_a_deep_png_lies_as_it_says_wherever_it_says_so(before):
    samples = np.arange(12, dtype=np.uint16).reshape(3, 4) * 5000
    file, exif = imagecodecs.png_encode(samples), Image.Exif()
    exif[274] = 6
    body = exif.tobytes().removeprefix(b"Exif\0\0")
    told = struct.pack(">I", len(body)) + b"eXIf" + body + struct.pack(">I", zlib.crc32(b"eXIf" + body))
    at = file.index(before) - 4
    found = read_picture(file[:at] + told + file[at:])
    assert np.array_equal((found.tones * 65535).round(), np.rot90(samples, -1))
