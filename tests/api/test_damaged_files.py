"""Files of every kind that are cut short, changed by a few bytes, or lie about how large they are: each is read or
refused in a sentence, within the time and the memory that it has."""

import io
import json
import random
import struct
import zipfile
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import ezdxf
import imagecodecs
import numpy as np
import pytest
import tifffile
from PIL import Image

from nebrel.core.errors import NebrelError
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.formats import MESH_FORMATS, write_mesh
from nebrel.core.picture import ReadLimits
from nebrel.jobs.beginnings import drawing_in, model_in, picture_in
from nebrel.jobs.motif_pack import read_pack
from nebrel.jobs.reading import BYTES, Reading
from tests.api import hostile

MIB = 2**20
LIMITS = ReadLimits()
SVG = b"""<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="40mm" viewBox="0 0 60 40">
<defs><clipPath id="c"><circle cx="30" cy="20" r="18"/></clipPath><path id="p" d="M2 2 C 20 40 40 -20 58 38 Z"/></defs>
<g clip-path="url(#c)" transform="rotate(7)"><use href="#p" fill="#333"/><rect x="9" y="9" width="20" height="9"/></g>
<polygon points="1,1 9,2 5,9"/><text x="4" y="30">fern</text></svg>"""


def ball() -> TriMesh:
    angle, tilt = np.meshgrid(np.linspace(0, 2 * np.pi, 24, endpoint=False), np.linspace(0.1, np.pi - 0.1, 12))
    points = np.stack([np.cos(angle) * np.sin(tilt), np.sin(angle) * np.sin(tilt), np.cos(tilt)], axis=-1) * 20
    grid = np.arange(angle.size).reshape(angle.shape)
    a, b = grid[:-1], np.roll(grid, -1, axis=1)[:-1]
    c, d = np.roll(grid, -1, axis=1)[1:], grid[1:]
    faces = np.concatenate([np.stack([a, d, c], -1).reshape(-1, 3), np.stack([a, c, b], -1).reshape(-1, 3)])
    return TriMesh(points.reshape(-1, 3), faces.astype(np.uint32))


def pictures() -> dict[str, bytes]:
    chance = np.random.default_rng(5)
    gray, colour = chance.integers(0, 65535, (60, 80), np.uint16), chance.integers(0, 255, (60, 80, 4), np.uint8)
    found = {"gray.png": imagecodecs.png_encode(gray), "colour.png": imagecodecs.png_encode(colour)}
    for form in ("JPEG", "WEBP", "BMP", "GIF"):
        held = io.BytesIO()
        Image.fromarray(colour[..., :3]).save(held, form)
        found[f"colour.{form.lower()}"] = held.getvalue()
    for name, options in (("plain", {}), ("packed", {"compression": "zlib"}), ("tiled", {"tile": (16, 16)})):
        held = io.BytesIO()
        tifffile.imwrite(held, gray, photometric="minisblack", **options)
        found[f"{name}.tif"] = held.getvalue()
    found["colour.jxl"] = imagecodecs.jpegxl_encode(colour[..., :3])
    return found


def drawings() -> dict[str, bytes]:
    drawing = ezdxf.new()
    space = drawing.modelspace()
    space.add_circle((0, 0), 9)
    space.add_lwpolyline([(0, 0), (9, 0), (9, 9)], close=True)
    space.add_spline([(0, 0, 0), (4, 9, 0), (9, 0, 0)])
    held = io.StringIO()
    drawing.write(held)
    return {"leaf.svg": SVG, "leaf.dxf": held.getvalue().encode()}


def meshes() -> dict[str, bytes]:
    found = {}
    for form in MESH_FORMATS:
        held = io.BytesIO()
        write_mesh(ball(), held, form)
        found[f"ball.{form}"] = held.getvalue()
    corners = ball().vertices[ball().faces]
    facets = "".join(
        "facet normal 0 0 0\nouter loop\n" + "".join(f"vertex {x:.4f} {y:.4f} {z:.4f}\n" for x, y, z in corner)
        + "endloop\nendfacet\n" for corner in corners
    )  # fmt: skip
    found["text.stl"] = f"solid ball\n{facets}endsolid ball\n".encode()
    return found


def packs() -> dict[str, bytes]:
    held = io.BytesIO()
    with zipfile.ZipFile(held, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("001.png", pictures()["gray.png"])
        archive.writestr("001.svg", SVG)
        leaf = {
            "name": "Leaf",
            "tags": ["a"],
            "width_mm": 9,
            "height_mm": 9,
            "picture": "001.png",
            "drawing": "001.svg",
        }
        archive.writestr("motifs.json", json.dumps({"version": 1, "motifs": [leaf]}))
    return {"pack.zip": held.getvalue()}


def damaged(data: bytes, chance: random.Random) -> bytes:
    """A file with something wrong with it."""
    how, size = chance.randrange(6), len(data)
    if how == 0:
        return data[: chance.randrange(size)]
    changed = bytearray(data)
    if how == 1:
        for _ in range(chance.randint(1, 12)):
            changed[chance.randrange(size)] ^= 1 << chance.randrange(8)
    elif how == 2:
        at = chance.randrange(size)
        changed[at : at + chance.randint(1, 64)] = chance.randbytes(chance.randint(0, 64))
    elif how == 3:
        # A number that says how much comes is very large, or none, or negative.
        at = chance.randrange(min(size, 400))
        changed[at : at + 4] = struct.pack(chance.choice("<>") + "I", chance.choice([0, 2**31 - 1, 2**32 - 1, 10**8]))
    elif how == 4:
        at, span = chance.randrange(size), chance.randint(1, max(1, size // 4))
        changed[at:at] = data[at : at + span] * chance.randint(1, 50)
    else:
        digits = [at for at, byte in enumerate(data[:4000]) if chr(byte).isdigit()]
        at = chance.choice(digits) if digits else 0
        changed[at : at + 1] = chance.choice([b"1e400", b"nan", b"-9", b"999999999", b"0"])
    return bytes(changed)


def peak_of(pid: int) -> int:
    """The most memory that a process ever had, bytes."""
    lines = Path(f"/proc/{pid}/status").read_text().splitlines()
    return next(int(line.split()[1]) * 1024 for line in lines if line.startswith("VmHWM"))


@pytest.mark.parametrize("count", [pytest.param(90, id="short"), pytest.param(2000, id="long", marks=pytest.mark.deep)])
def test_whatever_is_wrong_with_a_file_it_is_read_or_refused_within_its_bounds(count):
    reading = Reading(2)
    kinds = {
        **{name: (data, picture_in, (LIMITS,)) for name, data in pictures().items()},
        **{name: (data, model_in, ("mm",)) for name, data in meshes().items()},
        **{name: (data, drawing_in, ("mm",)) for name, data in drawings().items()},
        **{name: (data, read_pack, (LIMITS,)) for name, data in packs().items()},
    }
    bombs = (
        (drawing_in, hostile.nested_uses, "u.svg", None), (drawing_in, hostile.nested_blocks, "b.dxf", "mm"),
        (model_in, hostile.nested_components, "c.3mf", None), (model_in, hostile.sparse_glb, "s.glb", None),
        (model_in, hostile.deep_glb, "d.glb", None), (picture_in, hostile.wide_png, "w.png", LIMITS),
        (read_pack, hostile.lying_pack, "l.zip", LIMITS),
    )  # fmt: skip
    for name, (data, read, options) in kinds.items():
        reading.read(read, data, name, *options)
    quiet = max(peak_of(pid) for pid in reading.pids)

    def send(number: int) -> str | None:
        chance = random.Random(number)
        name = list(kinds)[number % len(kinds)]
        data, read, options = kinds[name]
        try:
            reading.read(read, damaged(data, chance), name, *options)
        except NebrelError as refusal:
            return str(refusal)
        return None

    try:
        with ThreadPoolExecutor(2) as pages:
            told = list(pages.map(send, range(count)))
        for read, make, name, option in bombs[: len(bombs) if count > 100 else 3]:
            with pytest.raises(NebrelError):
                reading.read(read, make(), name, option)
        assert all(sentence.endswith((".", ")")) for sentence in told if sentence)
        assert sum(sentence is not None for sentence in told) > count / 4
        assert max(peak_of(pid) for pid in reading.pids) - quiet < BYTES + 64 * MIB
    finally:
        reading.close()
