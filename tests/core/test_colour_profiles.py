"""Colours of a file that has a profile of its own come in as sRGB, in all their depth."""

import io
import itertools
import struct
import zlib

import imagecodecs
import numpy as np
import pytest
import tifffile
from PIL import Image, ImageCms

from nebrel.core.picture import read_picture


def test_a_colour_profile_is_turned_to_srgb():
    colours = np.random.default_rng(2).integers(0, 256, (6, 8, 3)).astype(np.uint8)
    plain, swapped = io.BytesIO(), io.BytesIO()
    Image.fromarray(colours).save(plain, "PNG", icc_profile=srgb_profile())
    assert not read_picture(plain.getvalue()).facts.remarks
    Image.fromarray(colours).save(swapped, "PNG", icc_profile=wide_profile())
    read = read_picture(swapped.getvalue())
    assert "turned from “Swap" in read.facts.remarks[0]
    assert read.rgb is not None
    assert np.abs(read.rgb - colours[..., [1, 0, 2]] / 255).max() < 0.03


@pytest.mark.parametrize("form", ["PNG", "TIFF"])
@pytest.mark.parametrize("profile", ["swapped", "sRGB", "broken"])
def test_a_colour_profile_turns_sixteen_bits(form, profile):
    deep = np.random.default_rng(3).integers(0, 2**16, (6, 8, 4)).astype(np.uint16)
    own = {"swapped": wide_profile(), "sRGB": srgb_profile(), "broken": b"no profile"}[profile]
    read = read_picture(deep_file(deep, form, own))
    assert read.rgb is not None
    expected = deep[..., [1, 0, 2]] if profile == "swapped" else deep[..., :3]
    # Finer than 8 bits tell; where two profiles of one space meet, the last few of 65,535 are rounded.
    assert np.abs(read.rgb - expected / 65_535).max() < 3e-4
    told = {"swapped": "turned from “Swap", "sRGB": "", "broken": "cannot be used"}[profile]
    assert told in " ".join(read.facts.remarks)


def deep_file(samples, form, profile) -> bytes:
    file = io.BytesIO()
    if form == "TIFF":
        tifffile.imwrite(file, samples, photometric="rgb", extrasamples=["unassalpha"], iccprofile=profile)
        return file.getvalue()
    plain = imagecodecs.png_encode(samples)
    packed = b"own\0\0" + zlib.compress(profile)
    head = 8 + 25
    chunk = len(packed).to_bytes(4, "big") + b"iCCP" + packed + zlib.crc32(b"iCCP" + packed).to_bytes(4, "big")
    return plain[:head] + chunk + plain[head:]


@pytest.mark.parametrize("dtype", [np.uint8, np.uint16])
def test_a_profile_of_inks_is_used(dtype):
    full = np.iinfo(dtype).max
    inks = np.array([[[0, 0, 0, 0], [1, 0, 0, 0], [0, 1, 0, 0], [0, 0, 0, 1], [0.5, 0, 0.25, 0]]] * 3) * full
    file = io.BytesIO()
    tifffile.imwrite(file, inks.astype(dtype), photometric="separated", iccprofile=inks_that_are_red())
    read = read_picture(file.getvalue())
    assert read.rgb is not None and "turned from “Inks" in " ".join(read.facts.remarks)
    assert np.abs(read.rgb[0, :4] - [[1, 1, 1], [1, 0, 0], [1, 0, 0], [0, 0, 0]]).max() < 0.02
    assert read.rgb[0, 4, 0] > read.rgb[0, 4, 1] + 0.2


def inks_that_are_red() -> bytes:
    """A profile of four inks, of which three are red and the last is black, by the table of its corners (`mft1`)."""
    corners = np.array(list(itertools.product((0, 1), repeat=4)))
    light = 255 * (1 - corners[:, 3:])
    colours = np.hstack([light, light * (1 - corners[:, :3].max(axis=1, keepdims=True)).repeat(2, axis=1)])
    lab = ImageCms.buildTransform(ImageCms.createProfile("sRGB"), ImageCms.createProfile("LAB"), "RGB", "LAB")
    turned = ImageCms.applyTransform(Image.fromarray(colours[np.newaxis].astype(np.uint8)), lab)
    assert turned is not None
    table = np.stack([np.asarray(each) for each in turned.split()], axis=-1).astype(np.uint8)
    curve = bytes(range(256))
    one = (1 << 16).to_bytes(4, "big")
    unit = (one + bytes(12)) * 2 + one
    white = struct.pack(">3i", 0xF6D6, 0x10000, 0xD32D)
    body = {
        b"desc": b"desc" + bytes(4) + struct.pack(">I", 5) + b"Inks\0" + bytes(78),
        b"cprt": b"text" + bytes(4) + b"none\0",
        b"wtpt": b"XYZ " + bytes(4) + white,
        b"A2B0": b"mft1" + bytes(4) + bytes([4, 3, 2, 0]) + unit + curve * 4 + table.tobytes() + curve * 3,
    }
    heads, tags, at = b"", b"", 132 + 12 * len(body)
    for name, data in body.items():
        heads += name + struct.pack(">2I", at + len(tags), len(data))
        tags += data + bytes(-len(data) % 4)
    kinds = bytes(4) + b"\x02\x40\0\0prtrCMYKLab " + bytes(12) + b"acsp" + bytes(28) + white
    head = (struct.pack(">I", at + len(tags)) + kinds).ljust(128, b"\0")
    return head + struct.pack(">I", len(body)) + heads + tags


def srgb_profile() -> bytes:
    return ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()


def wide_profile() -> bytes:
    """The sRGB profile with red and green in each other's places, under a name of its own."""
    data = bytearray(srgb_profile())
    tags = {bytes(data[at : at + 4]): at for at in range(132, 132 + 12 * int.from_bytes(data[128:132], "big"), 12)}
    red, green = (data[tags[name] + 4 : tags[name] + 8] for name in (b"rXYZ", b"gXYZ"))
    data[tags[b"rXYZ"] + 4 : tags[b"rXYZ"] + 8], data[tags[b"gXYZ"] + 4 : tags[b"gXYZ"] + 8] = green, red
    name = data.find("sRGB".encode("utf-16-be"))
    data[name : name + 8] = "Swap".encode("utf-16-be")
    return bytes(data)
