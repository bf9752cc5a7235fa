"""JPEG XL and OpenEXR, made here with other code than reads them where there is any."""

from pathlib import Path

import imagecodecs
import numpy as np
import OpenEXR
import pytest

from nebrel.core.errors import BadPictureError, TooLargeError
from nebrel.core.picture import read_picture
from nebrel.core.picture.decode import ReadLimits
from nebrel.core.picture.jpeg_xl import declared_size

RAMP = np.tile(np.linspace(0, 65535, 40).astype(np.uint16), (24, 1))


def exr(folder: Path, channels: dict[str, np.ndarray], parts: int = 1) -> bytes:
    header = {"compression": OpenEXR.ZIP_COMPRESSION, "type": OpenEXR.scanlineimage}
    path = folder / "made.exr"
    made = [OpenEXR.Part({**header, "name": f"part {k}"}, dict(channels)) for k in range(parts)]
    with OpenEXR.File(made) as file:
        file.write(str(path))
    return path.read_bytes()


@pytest.mark.parametrize("size", [(24, 40), (8, 8), (256, 512), (37, 1), (300, 200), (1, 700), (90, 160)])
def test_the_size_of_a_jpeg_xl_is_read_before_it_is_decoded(size):
    data = imagecodecs.jpegxl_encode(np.zeros(size, np.uint8), lossless=True)
    assert declared_size(data) == (size[1], size[0])
    bare = data[data.index(b"\xff\x0a") :]
    assert declared_size(bare) == (size[1], size[0])


@pytest.mark.parametrize("kind", ["gray", "wide gray", "colour", "with opacity"])
def test_a_jpeg_xl_keeps_its_tones(kind):
    narrow = (RAMP >> 8).astype(np.uint8)
    samples = {
        "gray": narrow,
        "wide gray": RAMP,
        "colour": np.stack([narrow] * 3, axis=-1),
        "with opacity": np.stack([narrow] * 3 + [np.full_like(narrow, 200)], axis=-1),
    }[kind]
    picture = read_picture(imagecodecs.jpegxl_encode(samples, lossless=True), "made.jxl")
    assert picture.facts.format == "JPEG XL"
    assert picture.facts.bit_depth == (16 if kind == "wide gray" else 8)
    asked = RAMP / 65535 if kind == "wide gray" else narrow / 255
    assert np.abs(picture.tones - asked).max() < 1e-4
    assert picture.coverage == pytest.approx(200 / 255 if kind == "with opacity" else 1.0)


def test_a_broken_or_too_large_jpeg_xl_is_refused():
    data = imagecodecs.jpegxl_encode(RAMP, lossless=True)
    for end in (3, 20, len(data) // 2):
        with pytest.raises(BadPictureError):
            read_picture(data[:end], "cut.jxl")
    with pytest.raises(TooLargeError):
        read_picture(data, "made.jxl", ReadLimits(pixels=500))


def test_heights_of_an_exr_are_stretched_and_said(tmp_path):
    heights = np.linspace(-3, 5, 24 * 40, dtype=np.float32).reshape(24, 40)
    picture = read_picture(exr(tmp_path, {"Z": heights}), "made.exr")
    assert (picture.facts.format, picture.facts.bit_depth) == ("EXR", 32)
    assert np.abs(picture.tones - (heights + 3) / 8).max() < 1e-6
    assert any("-3..5" in remark for remark in picture.facts.remarks)


def test_an_exr_of_halves_with_holes_and_several_channels(tmp_path):
    heights = np.linspace(0, 1, 24 * 40).reshape(24, 40).astype(np.float16)
    heights[3, 5] = np.nan
    picture = read_picture(exr(tmp_path, {"Y": heights, "other": heights * 0}, parts=2), "made.exr")
    assert picture.facts.bit_depth == 16
    assert picture.coverage[3, 5] == 0
    assert picture.coverage.sum() == heights.size - 1
    assert np.nanmax(np.abs(picture.tones - heights.astype(np.float32))) < 1e-6
    told = " ".join(picture.facts.remarks)
    assert "first of 2 parts" in told
    assert "Channel Y" in told


def test_light_of_an_exr_becomes_srgb(tmp_path):
    light = np.zeros((6, 6, 4), np.float32)
    light[..., :3], light[..., 3] = 0.5 * 0.2140411, 0.5
    names = dict(zip("RGBA", np.moveaxis(light, -1, 0).copy(), strict=True))
    picture = read_picture(exr(tmp_path, names), "made.exr")
    assert picture.tones == pytest.approx(0.5, abs=1e-4)
    assert picture.coverage == pytest.approx(0.5)


def test_a_broken_or_too_large_exr_is_refused(tmp_path):
    data = exr(tmp_path, {"Z": np.zeros((24, 40), np.float32)})
    for end in (4, 60, len(data) - 40):
        with pytest.raises(BadPictureError):
            read_picture(data[:end], "cut.exr")
    with pytest.raises(TooLargeError):
        read_picture(data, "made.exr", ReadLimits(side_px=30))
