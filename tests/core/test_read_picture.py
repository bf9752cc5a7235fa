"""Pictures come in with all their depth, the right way up, or not at all."""

import io
import struct
import zlib

import imagecodecs
import numpy as np
import pillow_heif
import pytest
import tifffile
from PIL import Image, ImageCms

from nebrel.core.errors import BadPictureError, TooLargeError
from nebrel.core.picture import ReadLimits, read_picture, shrink_to

RAMP16 = np.arange(65536, dtype=np.uint16).reshape(256, 256)


def tiff(samples, **options) -> bytes:
    file = io.BytesIO()
    tifffile.imwrite(file, samples, **options)
    return file.getvalue()


def test_a_16_bit_png_keeps_65536_levels(encode):
    picture = read_picture(encode(RAMP16))
    assert len(np.unique(picture.tones)) == 65536
    assert picture.tones.dtype == np.float32
    assert (picture.tones.min(), picture.tones.max()) == (0, 1)
    assert picture.facts.bit_depth == 16


@pytest.mark.parametrize("compression", [None, "zlib", "lzw"])
@pytest.mark.parametrize("byteorder", ["<", ">"])
def test_a_16_bit_tiff_keeps_65536_levels(compression, byteorder):
    picture = read_picture(tiff(RAMP16, compression=compression, byteorder=byteorder, photometric="minisblack"))
    assert len(np.unique(picture.tones)) == 65536
    assert np.allclose(picture.tones, RAMP16 / 65535, atol=1e-7)


@pytest.mark.parametrize("channels", [2, 3, 4])
def test_16_bit_png_with_colour_or_alpha_keeps_its_depth(channels):
    samples = np.repeat(RAMP16[..., np.newaxis], channels, axis=2)
    picture = read_picture(imagecodecs.png_encode(samples))
    assert len(np.unique(picture.tones)) == 65536
    if channels != 3:
        assert len(np.unique(picture.coverage)) == 65536
    assert (picture.rgb is None) == (channels == 2)


def test_float_tiff_keeps_values_inside_0_to_1_and_stretches_wider_ones():
    values = np.linspace(0, 1, 1200, dtype=np.float32).reshape(30, 40)
    assert np.array_equal(read_picture(tiff(values)).tones, values)
    wide = read_picture(tiff((values * 12 - 4).astype(np.float32)))
    assert np.allclose(wide.tones, values, atol=1e-6)
    assert "-4" in wide.facts.remarks[0]
    assert "8" in wide.facts.remarks[0]


def test_signed_tiff_is_stretched():
    picture = read_picture(tiff(np.array([[-100, 0], [50, 100]], dtype=np.int16)))
    assert np.allclose(picture.tones, [[0, 0.5], [0.75, 1]])


def test_white_is_zero_tiff_is_turned_over():
    picture = read_picture(tiff(np.array([[0, 255], [51, 0]], dtype=np.uint8), photometric="miniswhite"))
    assert np.allclose(picture.tones, [[1, 0], [0.8, 1]])


def test_planar_rgb_tiff_reads_like_chunky():
    rng = np.random.default_rng(1)
    samples = rng.integers(0, 65535, (20, 30, 3), dtype=np.uint16)
    chunky = read_picture(tiff(samples, photometric="rgb"))
    planar = read_picture(tiff(np.moveaxis(samples, -1, 0), photometric="rgb", planarconfig="separate"))
    assert np.allclose(chunky.tones, planar.tones, atol=1e-6)


@pytest.mark.parametrize("form", ["PNG", "BMP", "WEBP", "TIFF"])
def test_8_bit_gray_survives_every_lossless_format(encode, form):
    samples = np.arange(256, dtype=np.uint8).reshape(16, 16)
    options = {"lossless": True} if form == "WEBP" else {}
    picture = read_picture(encode(samples, form, **options))
    assert np.allclose(picture.tones, samples / 255, atol=1e-6)
    assert picture.facts.format == form


def test_colour_becomes_tone_by_luma_of_the_encoded_values(encode):
    samples = np.array([[[255, 0, 0], [0, 255, 0]], [[0, 0, 255], [100, 100, 100]]], dtype=np.uint8)
    assert np.allclose(read_picture(encode(samples)).tones, [[0.2126, 0.7152], [0.0722, 100 / 255]], atol=1e-6)


def test_palette_and_alpha():
    image = Image.new("P", (2, 2))
    image.putpalette([0, 0, 0, 255, 255, 255])
    image.putdata([0, 1, 1, 0])
    file = io.BytesIO()
    image.save(file, "PNG", transparency=0)
    picture = read_picture(file.getvalue())
    assert np.array_equal(picture.tones, [[0, 1], [1, 0]])
    assert np.array_equal(picture.coverage, [[0, 1], [1, 0]])


def test_pixels_without_data_are_blank_and_told():
    values = np.linspace(0, 1, 24, dtype=np.float32).reshape(4, 6)
    values[1, 2] = np.nan
    picture = read_picture(tiff(values))
    assert picture.coverage[1, 2] == 0 and picture.coverage.sum() == 23
    assert "1 pixels without data are blank." in picture.facts.remarks
    heights = np.arange(24, dtype=np.int16).reshape(4, 6)
    heights[0, 0] = heights[3, 5] = -9999
    named = read_picture(tiff(heights, extratags=[(42113, "s", 0, "-9999", True)]))
    assert named.coverage[0, 0] == named.coverage[3, 5] == 0 and named.coverage.sum() == 22
    assert (named.tones[0, 1], named.tones[3, 4]) == (0, 1)


def test_colours_that_were_multiplied_with_their_opacity_come_back():
    straight = np.zeros((4, 4, 4), dtype=np.uint8)
    straight[..., 0], straight[..., 3] = 200, np.array([255, 128, 64, 0])
    multiplied = straight.copy()
    multiplied[..., 0] = np.round(200 * (straight[..., 3] / 255))
    read = read_picture(tiff(multiplied, photometric="rgb", extrasamples=["assocalpha"]))
    assert read.rgb is not None and np.allclose(read.rgb[:, :3, 0], 200 / 255, atol=0.01)
    plain = read_picture(tiff(straight, photometric="rgb", extrasamples=["unassalpha"]))
    assert plain.rgb is not None and np.allclose(plain.rgb[..., 0], 200 / 255)
    assert any("multiplied" in each for each in read.facts.remarks) and not plain.facts.remarks


def test_frames_and_pages_after_the_first_are_told(encode):
    pages = io.BytesIO()
    with tifffile.TiffWriter(pages) as writer:
        for tone in (10, 200):
            writer.write(np.full((4, 4), tone, dtype=np.uint8), photometric="minisblack")
    read = read_picture(pages.getvalue())
    assert np.allclose(read.tones, 10 / 255) and "The first of 2 pages is read." in read.facts.remarks
    frames = io.BytesIO()
    images = [Image.fromarray(np.full((8, 8), tone, dtype=np.uint8)) for tone in (30, 90, 180)]
    images[0].save(frames, "PNG", save_all=True, append_images=images[1:])
    moving = read_picture(frames.getvalue())
    assert np.allclose(moving.tones, 30 / 255) and "The first of 3 frames is read." in moving.facts.remarks


def test_wide_numbers_that_use_little_of_their_range_are_stretched_and_told():
    values = np.arange(16, dtype=np.uint32).reshape(4, 4) * 100
    read = read_picture(tiff(values, photometric="minisblack"))
    assert read.tones[3, 3] == 1 and read.tones[0, 1] == pytest.approx(1 / 15)
    assert "stretched" in read.facts.remarks[0]
    full = read_picture(tiff(values * np.uint32(2_000_000), photometric="minisblack"))
    assert full.tones[3, 3] == pytest.approx(1500 * 2e6 / (2**32 - 1)) and not full.facts.remarks


def colours_of(data: bytes, name: str = "it") -> np.ndarray:
    picture = read_picture(data, name)
    return np.repeat(picture.tones[..., np.newaxis], 3, axis=-1) if picture.rgb is None else picture.rgb


def ramp(mode: str) -> Image.Image:
    rows, columns = np.mgrid[:24, :32]
    rgb = np.stack([columns * 8, rows * 10, 255 - columns * 4 - rows * 2], axis=-1).astype(np.uint8)
    return Image.fromarray(rgb).convert(mode)


@pytest.mark.parametrize(
    ("mode", "form"),
    [
        *((mode, "PNG") for mode in ("1", "L", "LA", "P", "RGB", "RGBA")),
        *((mode, "TIFF") for mode in ("1", "L", "LA", "P", "RGB", "RGBA", "CMYK", "YCbCr")),
        *((mode, "BMP") for mode in ("1", "L", "P", "RGB")),
        *((mode, "GIF") for mode in ("1", "L", "P", "RGB")),
        *((mode, "WEBP") for mode in ("RGB", "RGBA")),
        ("CMYK", "JPEG"),
    ],
)
def test_every_mode_reads_as_pillow_reads_it(mode, form):
    file = io.BytesIO()
    ramp(mode).save(file, form, **({"lossless": True} if form == "WEBP" else {}))
    expected = np.asarray(Image.open(io.BytesIO(file.getvalue())).convert("RGB")) / 255
    assert np.abs(colours_of(file.getvalue()) - expected).max() < (0.02 if mode == "YCbCr" else 1e-3)


@pytest.mark.parametrize("form", ["AVIF", "HEIC"])
def test_pictures_of_phones_are_read(form):
    file, image = io.BytesIO(), ramp("RGB")
    if form == "AVIF":
        image.save(file, form, quality=95)
    else:
        pillow_heif.from_pillow(image).save(file, quality=95)
    read = read_picture(file.getvalue(), "photo")
    assert read.facts.format == form and read.shape == (24, 32)
    assert np.abs(colours_of(file.getvalue()) - np.asarray(image) / 255).mean() < 0.02
    with pytest.raises(BadPictureError, match="damaged or ends too early"):
        read_picture(file.getvalue()[:-40], "photo")


def test_lab_tiffs_are_their_colours():
    file, lab = io.BytesIO(), ImageCms.createProfile("LAB")
    turned = ImageCms.profileToProfile(ramp("RGB"), ImageCms.createProfile("sRGB"), lab, outputMode="LAB")
    turned.save(file, "TIFF")
    read = read_picture(file.getvalue())
    assert read.rgb is not None and "Lab" in read.facts.remarks[0]
    # Whole numbers of a* and b* are as fine as that.
    assert np.abs(read.rgb - np.asarray(ramp("RGB")) / 255).mean() < 0.01


def as_palette(samples, colours, **options) -> bytes:
    """A gray TIFF whose numbers are made those of a palette; no writer makes such files of one bit or with opacity."""
    file = io.BytesIO()
    table = [(320, "H", colours.size, colours.ravel().tolist(), True)]
    tifffile.imwrite(file, samples, photometric="minisblack", extratags=table, **options)
    file.seek(0)
    with tifffile.TiffFile(file, mode="r+b") as opened:
        opened.pages[0].tags[262].overwrite(3)
        return file.getvalue()


def test_palettes_of_one_bit_and_with_opacity():
    colours = np.zeros((3, 2), dtype=np.uint16)
    colours[:, 1] = 65_535
    bits = (np.indices((8, 8)).sum(axis=0) % 2).astype(bool)
    assert np.array_equal(read_picture(as_palette(bits, colours)).tones, bits.astype(np.float32))
    table = np.zeros((3, 256), dtype=np.uint16)
    table[:, 1] = 65_535
    samples = np.stack([np.eye(4), np.full((4, 4), 255)], axis=-1).astype(np.uint8)
    samples[0, 1, 1] = 0
    read = read_picture(as_palette(samples, table, planarconfig="contig", extrasamples=["unassalpha"]))
    assert np.array_equal(read.tones, np.eye(4)) and read.coverage[0, 1] == 0 and read.coverage.sum() == 15


def test_a_palette_tiff_has_colours_of_16_bits():
    """Its indices have 8 bits, its colours 16: tones are shares of 65,535, with steps finer than 8 bits have."""
    colours = np.zeros((3, 256), dtype=np.uint16)
    colours[:, 1], colours[:, 2], colours[0, 3] = 65_535, 32_900, 65_535
    file = io.BytesIO()
    tifffile.imwrite(file, np.array([[0, 1], [2, 3]], dtype=np.uint8), photometric="palette", colormap=colours)
    picture = read_picture(file.getvalue(), "palette.tif")
    assert np.allclose(picture.tones, [[0, 1], [32_900 / 65_535, 0.2126]], atol=1e-6)


def test_jpeg_is_read_and_told_from_its_name(encode):
    picture = read_picture(encode(np.full((8, 8), 128, dtype=np.uint8), "JPEG"), "really-a-jpeg.png")
    assert picture.facts.format == "JPEG"
    assert np.allclose(picture.tones, 128 / 255, atol=0.01)


@pytest.mark.parametrize("orientation", range(1, 9))
def test_exif_orientation_is_undone(orientation):
    upright = np.arange(12, dtype=np.uint8).reshape(3, 4) * 20
    stored = {
        1: upright,
        2: upright[:, ::-1],
        3: upright[::-1, ::-1],
        4: upright[::-1],
        5: upright.T,
        6: np.rot90(upright, 1),
        7: upright[::-1, ::-1].T,
        8: np.rot90(upright, -1),
    }[orientation]
    exif = Image.Exif()
    exif[274] = orientation
    file = io.BytesIO()
    Image.fromarray(np.ascontiguousarray(stored)).save(file, "PNG", exif=exif)
    assert np.allclose(read_picture(file.getvalue()).tones, upright / 255, atol=1e-6)


def test_dpi_is_kept(encode):
    gray = np.zeros((4, 4), dtype=np.uint8)
    assert read_picture(encode(gray, dpi=(300, 300))).facts.dpi == pytest.approx(300, abs=0.1)
    assert read_picture(tiff(gray, resolution=(100, 100), resolutionunit="CENTIMETER")).facts.dpi == 254
    assert read_picture(encode(gray)).facts.dpi is None


def test_shrinking_keeps_blanks_out_of_their_neighbours(encode):
    samples = np.zeros((64, 64, 2), dtype=np.uint8)
    samples[:, 32:] = 200, 255
    small = shrink_to(read_picture(encode(samples)), 16)
    assert small.shape == (16, 16)
    assert np.allclose(small.tones[small.coverage > 0.1], 200 / 255, atol=1e-3)
    assert shrink_to(small, 64) is small


def bomb() -> bytes:
    """A valid PNG head that declares 60,000 × 60,000 pixels, in under a hundred bytes."""

    def chunk(kind: bytes, body: bytes) -> bytes:
        return struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))

    head = struct.pack(">IIBBBBB", 60000, 60000, 8, 0, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(b"\0" * 9)) + chunk(b"IEND", b"")


class TestRefusals:
    def refused(self, data: bytes, limits: ReadLimits | None = None) -> str:
        with pytest.raises((BadPictureError, TooLargeError)) as refusal:
            read_picture(data, "mine.png", limits)
        sentence = str(refusal.value)
        assert "mine.png" in sentence
        assert sentence.endswith(".")
        assert "\n" not in sentence
        return sentence

    def test_empty_and_other_files(self):
        assert "empty" in self.refused(b"")
        assert "EXR are accepted" in self.refused(b"solid nothing\nendsolid")
        assert "accepted" in self.refused(b"\x89PNG\r\n\x1a\n")
        assert "accepted" in self.refused(b"II*\0")

    @pytest.mark.parametrize("form", ["PNG", "JPEG", "BMP", "WEBP", "TIFF"])
    @pytest.mark.parametrize("share", [0.2, 0.6, 0.97])
    def test_truncated_files(self, encode, form, share):
        rng = np.random.default_rng(1)
        data = encode(rng.integers(0, 255, (200, 200), dtype=np.uint8), form)
        self.refused(data[: int(len(data) * share)])

    def test_truncated_16_bit_png(self, encode):
        data = encode(np.random.default_rng(1).integers(0, 65535, (200, 200)).astype(np.uint16))
        self.refused(data[: len(data) // 2])

    def test_a_tiny_file_that_declares_a_huge_size(self):
        assert "megapixels" in self.refused(bomb())

    def test_limits_are_settings(self, encode):
        data = encode(np.zeros((50, 50), dtype=np.uint8))
        assert "megapixels" in self.refused(data, ReadLimits(pixels=2000))
        assert "MiB" in self.refused(data, ReadLimits(bytes=10))

    def test_one_pixel_and_all_blank(self, encode):
        assert "2 × 2" in self.refused(encode(np.zeros((1, 1), dtype=np.uint8)))
        assert "transparent everywhere" in self.refused(encode(np.zeros((4, 4, 4), dtype=np.uint8)))

    def test_samples_that_are_not_numbers(self):
        values = np.ones((4, 4), dtype=np.float32)
        values[1, 2], values[0, 0] = np.inf, -np.inf
        assert "2 samples that are not numbers" in self.refused(tiff(values))
        assert "not numbers" in self.refused(tiff(np.full((4, 4), np.nan, dtype=np.float32)))

    def test_many_channels_and_masks_in_tiff(self):
        assert "RGB" in self.refused(tiff(np.zeros((4, 4), dtype=np.uint8), photometric="mask"))
        assert "channels" in self.refused(
            tiff(np.zeros((4, 4, 12), dtype=np.uint8), photometric="minisblack", planarconfig="contig")
        )
