"""Meshes from other programs, read by trimesh: OBJ, PLY and GLB."""

import io
import re
import struct
from collections.abc import Callable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import BadMeshError, TooLargeError
from nebrel.core.mesh.formats.ply_text import in_binary
from nebrel.core.mesh.formats.polygons import triangulated
from nebrel.core.mesh.trimesh import TriMesh
from nebrel.core.mesh.weld import weld_vertices

MOST_TRIANGLES = 60_000_000
# Colours at the vertices say more than the materials of faces, so those are passed over where there are any.
_FIRST_COLOURED = re.compile(rb"(?:(?!v[ \t])[^\n]*\n)*v(?:[ \t]+[^\s]+){6,}[ \t\r]*\n")
_MATERIAL = re.compile(rb"^(?:mtllib|usemtl)\b.*$", re.MULTILINE)
_POLYGON = re.compile(rb"^f(?:[ \t]+[^\s#]+){4,}", re.MULTILINE)
_VERTEX = re.compile(rb"^v[ \t]([^\r\n#]*)", re.MULTILINE)
_PLY_FACES = ("vertex_indices", "vertex_index")
_SIGNS = {"ply": b"ply", "glb": b"glTF"}


def read_foreign(
    data: bytes,
    name: str,
    form: str,
    mm_per_unit: float,
    beside: Callable[[str], bytes | None] = lambda _: None,
) -> tuple[TriMesh, str | None]:
    """The mesh of all objects in a file, joined where corners agree to the last bit of a float32, and what is to be
    said about it.

    Raises:
        BadMeshError: not such a file, broken, or without triangles.
        TooLargeError: more than 60 million triangles.
    """
    import trimesh

    _check_head(data, name, form)
    remark = None
    if form == "obj" and _FIRST_COLOURED.match(data):
        remark = _passed_over(data, name, beside)
        data = _MATERIAL.sub(b"", data)
    try:
        data = _without_polygons(data) if form == "obj" else in_binary(data) if form == "ply" else data
        scene = trimesh.load_scene(io.BytesIO(data), file_type=form, process=False, resolver=_resolver(beside))
        for part in scene.geometry.values():
            if form == "ply":
                _cut_polygons(part)
                remark = _mixed_at_corners(part, name) or remark
            remark = _paint(part, name) or remark
        loaded: Any = scene.to_mesh()
    except MemoryError as cause:
        raise TooLargeError(f"{name} declares more than fits into memory; please export it again.") from cause
    except Exception as cause:
        raise BadMeshError(
            f"{name} cannot be read as {form.upper()}: it is damaged, or not such a file; please export it again."
        ) from cause
    vertices, faces = np.asarray(loaded.vertices, np.float64), np.asarray(loaded.faces, np.int64)
    if len(faces) == 0:
        raise BadMeshError(f"{name} holds no triangles; at least one is needed.")
    if len(faces) > MOST_TRIANGLES:
        raise TooLargeError(f"{name} holds {len(faces):,} triangles; up to {MOST_TRIANGLES:,} are accepted.")
    if faces.min() < 0 or faces.max() >= len(vertices):
        raise BadMeshError(f"{name} names corners that it does not hold; please export it again.")
    with np.errstate(over="ignore", invalid="ignore"):
        points = (vertices * mm_per_unit).astype(np.float32)
    numbers = np.asarray(np.isfinite(points).all(axis=1))
    if not numbers[faces].all():
        raise BadMeshError(f"{name} holds coordinates that are not numbers; every coordinate must be a number.")
    return weld_vertices(TriMesh(points.astype(np.float64), faces.astype(np.uint32), _colours(loaded))), remark


def _passed_over(data: bytes, name: str, beside: Callable[[str], bytes | None]) -> str | None:
    """What is said of a texture that is not taken, as corners have colours of their own; None where there is none."""
    libraries = (
        line[7:].strip().decode(errors="replace") for line in _MATERIAL.findall(data) if line[:7] == b"mtllib "
    )
    if any(b"map_Kd" in (beside(_plain(library)) or b"") for library in libraries):
        return f"{name} has colours at its corners and a texture; the colours at its corners are kept."
    return None


def _without_polygons(data: bytes) -> bytes:
    """An OBJ whose faces of more than three corners are cut into triangles."""
    lines = list(_POLYGON.finditer(data))
    if not lines:
        return data
    starts = np.array([match.start() for match in _VERTEX.finditer(data)])
    points = np.array([match[1].split()[:3] for match in _VERTEX.finditer(data)], dtype=np.bytes_).astype(np.float64)
    polygons, words = [], []
    for match in lines:
        corners = match[0].split()[1:]
        numbers = np.array([int(corner.split(b"/", 1)[0]) for corner in corners], dtype=np.int64)
        # Negative numbers count backwards from the last corner that was named before.
        before = int(np.searchsorted(starts, match.start())) if (numbers < 0).any() else 0
        polygons.append(np.where(numbers < 0, numbers + before, numbers - 1))
        words.append(corners)
    if min(int(each.min()) for each in polygons) < 0 or max(int(each.max()) for each in polygons) >= len(points):
        return data
    # Every polygon has points of its own here, so that its triangles say which of its corners they join.
    firsts = np.cumsum([0, *map(len, polygons)])
    own = [np.arange(firsts[at], firsts[at + 1]) for at in range(len(polygons))]
    triangles = triangulated(points[np.concatenate(polygons)], own)
    flat = [corner for corners in words for corner in corners]
    told = [b"f " + b" ".join(flat[corner] for corner in triangle) for triangle in triangles.tolist()]
    parts, at, made = [], 0, 0
    for match, corners in zip(lines, words, strict=True):
        parts += [data[at : match.start()], b"\n".join(told[made : made + len(corners) - 2])]
        at, made = match.end(), made + len(corners) - 2
    return b"".join([*parts, data[at:]])


def _cut_polygons(part: Any) -> None:
    """Cut the polygons of a PLY into triangles that lie within them; what is read cuts them into fans."""
    raw = part.metadata.get("_ply_raw", {}).get("face", {}).get("data")
    polygons = next((raw[name] for name in _PLY_FACES if name in raw), None) if isinstance(raw, dict) else None
    if polygons is None or len(polygons) == len(part.faces) or len({len(each) for each in polygons} - {3}) == 0:
        return
    sides = [np.asarray(each, dtype=np.int64) for each in polygons]
    if sum(len(each) - 2 for each in sides) == len(part.faces):
        kind = part.visual.kind
        colours = None if kind is None else getattr(part.visual, f"{kind}_colors").copy()
        part.faces = triangulated(np.asarray(part.vertices, np.float64), sides)
        if colours is not None and kind == "vertex":
            part.visual.vertex_colors = colours
        elif colours is not None and len(colours) == len(sides):
            part.visual.face_colors = np.repeat(colours, [len(each) - 2 for each in sides], axis=0)


def _mixed_at_corners(part: Any, name: str) -> str | None:
    """Give a part whose faces have colours the mean of them at every corner, and say so; None where they have none."""
    import trimesh

    if part.visual.kind != "face":
        return None
    corners = np.asarray(part.faces).ravel()
    each = np.repeat(np.asarray(part.visual.face_colors, np.float64), 3, axis=0)
    counts = np.maximum(np.bincount(corners, minlength=len(part.vertices)), 1)
    sums = np.column_stack([np.bincount(corners, channel, len(part.vertices)) for channel in each.T])
    mixed = np.round(sums / counts[:, np.newaxis]).astype(np.uint8)
    part.visual = trimesh.visual.ColorVisuals(part, vertex_colors=mixed)
    return f"{name} colours its faces; every corner has the mean of those of its faces now."


def _plain(path: str) -> str:
    return path.replace("\\", "/").rsplit("/", 1)[-1]


def _resolver(beside: Callable[[str], bytes | None]) -> Any:
    """Files that lie beside the mesh, by their plain name only: nothing is looked up elsewhere."""
    from trimesh.resolvers import Resolver

    class Beside(Resolver):
        def __init__(self) -> None:
            pass

        def namespaced(self, namespace: str) -> Resolver:
            return self

        def write(self, name: str, data: object) -> None:
            raise ValueError(f"Nothing is written to {name}.")

        def get(self, name: str) -> bytes:
            found = beside(_plain(name))
            if found is None:
                raise ValueError(f"There is no {name}.")
            return found

        def keys(self) -> list[str]:
            return []

    return Beside()


def _paint(part: Any, name: str) -> str | None:
    """Give a part with a material its colour at every vertex: that of its texture there, which is said, or the
    material's own."""
    import trimesh

    material = getattr(part.visual, "material", None)
    picture = getattr(material, "image", None) or getattr(material, "baseColorTexture", None)
    if picture is not None and getattr(part.visual, "uv", None) is not None:
        part.visual = part.visual.to_color()
        return f"{name} has a texture; every corner has its colour there now, and what is finer than triangles is lost."
    colour = getattr(getattr(part.visual, "material", None), "main_color", None)
    if colour is not None and part.visual.kind == "texture":
        every = np.tile(np.asarray(colour, np.uint8), (len(part.vertices), 1))
        part.visual = trimesh.visual.ColorVisuals(part, vertex_colors=every)
    return None


def _colours(loaded: Any) -> NDArray[np.uint8] | None:
    if getattr(loaded.visual, "kind", None) != "vertex":
        return None
    colours = np.asarray(loaded.visual.vertex_colors, np.uint8)
    return colours if len(colours) == len(loaded.vertices) else None


def _check_head(data: bytes, name: str, form: str) -> None:
    sign = _SIGNS.get(form)
    if sign is not None and not data.startswith(sign):
        raise BadMeshError(f"{name} is not a {form.upper()} file; please check what it is.")
    if form == "glb":
        declared = struct.unpack_from("<I", data, 8)[0] if len(data) >= 12 else 0
        if declared != len(data):
            raise BadMeshError(
                f"{name} declares {declared:,} bytes and has {len(data):,}; please copy or export it again."
            )
