"""Small files that would take all memory or time, were they read without bounds."""

import io
import json
import struct
import zipfile
import zlib


def nested_uses(deep: int = 24) -> bytes:
    """An SVG in which every group shows the one before twice."""
    groups = ['<g id="a0"><circle cx="5" cy="5" r="3"/></g>']
    groups += [f'<g id="a{n}"><use href="#a{n - 1}"/><use href="#a{n - 1}" x="1"/></g>' for n in range(1, deep)]
    return f'<svg xmlns="http://www.w3.org/2000/svg" width="9mm" height="9mm">{"".join(groups)}</svg>'.encode()


def nested_blocks(deep: int = 9, times: int = 10) -> bytes:
    """A DXF whose blocks insert each other, 10 to the 8th times in all."""
    import ezdxf

    drawing = ezdxf.new()
    before = drawing.blocks.new("B0")
    before.add_circle((0, 0), 3)
    for number in range(1, deep):
        block = drawing.blocks.new(f"B{number}")
        for at in range(times):
            block.add_blockref(f"B{number - 1}", (at, number))
        before = block
    drawing.modelspace().add_blockref(f"B{deep - 1}", (0, 0))
    held = io.StringIO()
    drawing.write(held)
    return held.getvalue().encode()


def nested_components(deep: int = 26) -> bytes:
    """A 3MF whose objects hold each other twice."""
    name = "http://schemas.microsoft.com/3dmanufacturing/core/2015/02"
    mesh = (
        '<object id="1" type="model"><mesh><vertices><vertex x="0" y="0" z="0"/><vertex x="9" y="0" z="0"/>'
        '<vertex x="0" y="9" z="0"/><vertex x="0" y="0" z="9"/></vertices><triangles><triangle v1="0" v2="2" v3="1"/>'
        '<triangle v1="0" v2="1" v3="3"/><triangle v1="1" v2="2" v3="3"/><triangle v1="0" v2="3" v3="2"/></triangles>'
        "</mesh></object>"
    )
    twice = "".join(
        f'<object id="{n}" type="model"><components><component objectid="{n - 1}"/><component objectid="{n - 1}"/>'
        "</components></object>"
        for n in range(2, deep)
    )
    model = (
        f'<?xml version="1.0"?><model unit="millimeter" xmlns="{name}"><resources>{mesh}{twice}</resources>'
        f'<build><item objectid="{deep - 1}"/></build></model>'
    )
    kinds = (
        '<?xml version="1.0"?><Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types">'
        '<Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/>'
        '<Default Extension="model" ContentType="application/vnd.ms-package.3dmanufacturing-3dmodel+xml"/></Types>'
    )
    relations = (
        '<?xml version="1.0"?><Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">'
        '<Relationship Target="/3D/3dmodel.model" Id="rel0" '
        'Type="http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"/></Relationships>'
    )
    held = io.BytesIO()
    with zipfile.ZipFile(held, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("[Content_Types].xml", kinds)
        archive.writestr("_rels/.rels", relations)
        archive.writestr("3D/3dmodel.model", model)
    return held.getvalue()


def glb(told: dict) -> bytes:
    text = json.dumps({"asset": {"version": "2.0"}, **told}).encode()
    text += b" " * (-len(text) % 4)
    return struct.pack("<4sIIII", b"glTF", 2, 20 + len(text), len(text), 0x4E4F534A) + text


def sparse_glb(count: int = 300_000_000) -> bytes:
    """A GLB of a few hundred bytes that declares so many vertices, all of them 0."""
    accessor = {"componentType": 5126, "count": count, "type": "VEC3", "min": [0, 0, 0], "max": [0, 0, 0]}
    return glb(
        {
            "scenes": [{"nodes": [0]}], "scene": 0, "nodes": [{"mesh": 0}], "accessors": [accessor],
            "meshes": [{"primitives": [{"attributes": {"POSITION": 0}}]}],
        }
    )  # fmt: skip


def deep_glb(deep: int = 20_000) -> bytes:
    """A GLB whose nodes hold each other in one long line."""
    nodes = [{"children": [at + 1]} for at in range(deep - 1)] + [{"mesh": 0}]
    return glb({"scenes": [{"nodes": [0]}], "scene": 0, "nodes": nodes, "meshes": [{"primitives": []}]})


def wide_png(side: int = 9_900) -> bytes:
    """A PNG of 16 bits and four channels, of one tone, which packs well."""

    def chunk(kind: bytes, body: bytes) -> bytes:
        return struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))

    packer = zlib.compressobj(9)
    rows = b"".join(packer.compress(bytes(1 + 8 * side)) for _ in range(side)) + packer.flush()
    head = struct.pack(">IIBBBBB", side, side, 16, 6, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", rows) + chunk(b"IEND", b"")


def lying_pack(size: int = 600 * 2**20) -> bytes:
    """A pack of motifs whose picture unpacks to much more than it says."""
    index = {"version": 1, "motifs": [{"name": "x", "width_mm": 9, "height_mm": 9, "picture": "001.png"}]}
    held = io.BytesIO()
    with zipfile.ZipFile(held, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("motifs.json", json.dumps(index))
        archive.writestr("001.png", bytes(size))
    data = bytearray(held.getvalue())
    for sign, offset in ((b"PK\x03\x04", 22), (b"PK\x01\x02", 24)):
        at = data.rindex(sign)
        data[at + offset : at + offset + 4] = struct.pack("<I", 1000)
    return bytes(data)


def pack_of_copies(picture: bytes, times: int = 2000) -> bytes:
    """A pack whose motifs are all the same file."""
    entry = {"name": "x", "width_mm": 9, "height_mm": 9, "picture": "001.png"}
    held = io.BytesIO()
    with zipfile.ZipFile(held, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("motifs.json", json.dumps({"version": 1, "motifs": [entry] * times}))
        archive.writestr("001.png", picture)
    return held.getvalue()


def repacked(data: bytes, name: str, old: bytes, new: bytes) -> bytes:
    """A ZIP in which one file says something else."""
    held = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as before, zipfile.ZipFile(held, "w") as after:
        for each in before.namelist():
            content = before.read(each)
            after.writestr(each, content.replace(old, new) if each == name else content)
    return held.getvalue()
