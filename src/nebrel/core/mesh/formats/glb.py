"""GLB, the binary form of glTF 2.0: metres, Y up, Z towards the viewer, as Nebrel's own axes are."""

import json
from collections.abc import Callable, Sequence
from typing import BinaryIO

import numpy as np
from numpy.typing import NDArray

from nebrel.core.mesh.texture import Texture
from nebrel.core.mesh.trimesh import TriMesh

_FLOAT, _UINT, _BYTE = 5126, 5125, 5121
_ARRAY, _ELEMENTS = 34962, 34963
_LINEAR, _CLAMPED = 9729, 33071
MM_PER_METRE = 1000.0
# Names of objects, and which faces of the mesh each has.
Objects = Sequence[tuple[str, NDArray[np.int64]]]


def write_glb(
    mesh: TriMesh,
    file: BinaryIO,
    progress: Callable[[float], None] = lambda _: None,
    texture: Texture | None = None,
    objects: Objects = (),
) -> None:
    """One node, one mesh, one primitive; colours as normalised bytes (Khronos glTF 2.0 specification, section 4.4), or
    as a texture, whose picture is inside the file. Objects, names with the faces of each, are nodes with names.

    Vertices where corners have different colours, or lie elsewhere in the texture, are written once for each.
    """
    at = None
    if texture is not None:
        of_vertex, at, faces = texture.shared(mesh.faces)
        mesh = TriMesh(mesh.vertices[of_vertex], faces)
    mesh = _split_by_colour(mesh)
    points = (mesh.vertices / MM_PER_METRE).astype("<f4")
    parts = [points.tobytes(), mesh.faces.astype("<u4").tobytes()]
    progress(0.3)
    views: list[dict[str, int]] = [{"target": _ARRAY}, {"target": _ELEMENTS}]
    accessors: list[dict[str, object]] = [
        {"bufferView": 0, "componentType": _FLOAT, "count": len(points), "type": "VEC3",
         "min": points.min(axis=0).tolist(), "max": points.max(axis=0).tolist()},
        {"bufferView": 1, "componentType": _UINT, "count": mesh.faces.size, "type": "SCALAR"},
    ]  # fmt: skip
    attributes = {"POSITION": 0}
    if mesh.colours is not None:
        attributes["COLOR_0"] = 2
        parts.append(mesh.colours.tobytes())
        views.append({"target": _ARRAY})
        accessors.append(
            {"bufferView": 2, "componentType": _BYTE, "normalized": True, "count": len(points), "type": "VEC4"}
        )
    if texture is not None and at is not None:
        attributes["TEXCOORD_0"] = 2
        parts += [at.astype("<f4").tobytes(), _whole_words(texture.png())]
        views += [{"target": _ARRAY}, {}]
        accessors.append({"bufferView": 2, "componentType": _FLOAT, "count": len(points), "type": "VEC2"})
    primitive: dict[str, object] = {"attributes": attributes, "indices": 1}
    nodes: list[dict[str, object]] = [{"mesh": 0}]
    meshes: list[dict[str, object]] = [{"primitives": [primitive]}]
    if objects:
        parts[1], indices = _object_indices(mesh, objects)
        nodes = [{"mesh": at, "name": name} for at, (name, _) in enumerate(objects)]
        meshes = [
            {"name": name, "primitives": [{"attributes": attributes, "indices": len(accessors) + at}]}
            for at, (name, _) in enumerate(objects)
        ]
        accessors += indices
    start, listed = 0, []
    for part, view in zip(parts, views, strict=True):
        listed.append({"buffer": 0, "byteOffset": start, "byteLength": len(part), **view})
        start += len(part)
    document: dict[str, object] = {
        "asset": {"version": "2.0", "generator": "Nebrel"},
        "scene": 0,
        "scenes": [{"nodes": list(range(len(nodes)))}],
        "nodes": nodes,
        "meshes": meshes,
        "accessors": accessors,
        "bufferViews": listed,
        "buffers": [{"byteLength": start}],
    }
    if texture is not None:
        primitive["material"] = 0
        painted = {"baseColorTexture": {"index": 0}, "metallicFactor": 0, "roughnessFactor": 0.8}
        document |= {
            "materials": [{"pbrMetallicRoughness": painted}],
            "textures": [{"source": 0, "sampler": 0}],
            "samplers": [{"magFilter": _LINEAR, "minFilter": _LINEAR, "wrapS": _CLAMPED, "wrapT": _CLAMPED}],
            "images": [{"bufferView": 3, "mimeType": "image/png"}],
        }
    text = json.dumps(document, separators=(",", ":")).encode()
    text += b" " * (-len(text) % 4)
    padding = b"\0" * (-start % 4)
    total = 12 + 8 + len(text) + 8 + start + len(padding)
    file.write(b"glTF" + np.array([2, total], "<u4").tobytes())
    file.write(np.uint32(len(text)).astype("<u4").tobytes() + b"JSON" + text)
    file.write(np.uint32(start + len(padding)).astype("<u4").tobytes() + b"BIN\0")
    for part in parts:
        file.write(part)
    file.write(padding)
    progress(1.0)


def _object_indices(mesh: TriMesh, objects: Objects) -> tuple[bytes, list[dict[str, object]]]:
    """Corners of all objects, one after the other, and an accessor for each."""
    order = np.concatenate([faces for _, faces in objects])
    accessors, start = [], 0
    for _, faces in objects:
        accessors.append(
            {"bufferView": 1, "byteOffset": start, "componentType": _UINT, "count": 3 * len(faces), "type": "SCALAR"}
        )
        start += 12 * len(faces)
    return mesh.faces[order].astype("<u4").tobytes(), accessors


def _whole_words(data: bytes) -> bytes:
    return data + b"\0" * (-len(data) % 4)


def _split_by_colour(mesh: TriMesh) -> TriMesh:
    """The mesh with the colours of its corners at its vertices."""
    if mesh.corner_colours is None:
        return mesh
    tints = np.ascontiguousarray(mesh.corner_colours).view("<u4").ravel().astype(np.uint64)
    corners = mesh.faces.ravel().astype(np.uint64)
    keys, faces = np.unique(corners << np.uint64(32) | tints, return_inverse=True)
    colours = (keys & np.uint64(0xFFFFFFFF)).astype("<u4").view(np.uint8).reshape(-1, 4)
    vertices = mesh.vertices[(keys >> np.uint64(32)).astype(np.int64)]
    return TriMesh(vertices, faces.reshape(-1, 3).astype(np.uint32), colours)
