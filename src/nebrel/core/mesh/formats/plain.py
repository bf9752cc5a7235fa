"""Formats of plain numbers: OBJ, PLY, OFF and STL as text."""

from collections.abc import Callable, Iterator, Sequence
from typing import IO, BinaryIO

import numpy as np
from numpy.typing import NDArray

from nebrel.core.mesh.texture import Texture
from nebrel.core.mesh.trimesh import TriMesh

LINES_AT_ONCE = 100_000
MOST_MATERIALS, COARSE_COLOURS = 256, 51
Progress = Callable[[float], None]
# Names of objects, and which faces of the mesh each has.
Objects = Sequence[tuple[str, NDArray[np.int64]]]


def write_obj(
    mesh: TriMesh, file: IO[bytes], progress: Progress, materials: str | None = None, objects: Objects = ()
) -> None:
    """Wavefront OBJ in millimetres; colours follow the coordinates of their vertex, as most programs read them.

    With the name of a file of `materials` (see `obj_materials`), every face names the one of its own colour too; with
    `objects`, names and the faces of each, they are objects of the file.
    """
    file.write(b"# Nebrel, millimetres\n")
    rows: NDArray[np.float64] = mesh.vertices
    line = "v %.9g %.9g %.9g\n"
    if mesh.colours is not None:
        rows = np.hstack([mesh.vertices, mesh.colours[:, :3] / 255])
        line = "v %.9g %.9g %.9g %.6g %.6g %.6g\n"
    _write_lines(file, line, rows, lambda part: progress(part / 2))
    faces = mesh.faces.astype(np.int64) + 1
    of_face = None
    if (mesh.colours is not None or mesh.corner_colours is not None) and materials is not None:
        file.write(f"mtllib {materials}\n".encode())
        _, of_face = _face_colours(mesh)
    for name, own in objects or [("", np.arange(len(faces)))]:
        if name:
            file.write(f"o {' '.join(name.split())}\n".encode())
        for number in [None] if of_face is None else np.unique(of_face[own]).tolist():
            chosen = own
            if number is not None and of_face is not None:
                file.write(f"usemtl colour{number}\n".encode())
                chosen = own[of_face[own] == number]
            _write_lines(file, "f %d %d %d\n", faces[chosen], lambda _: None)
    progress(1.0)


def write_textured_obj(
    mesh: TriMesh, texture: Texture, file: IO[bytes], progress: Progress, materials: str = "materials.mtl"
) -> None:
    """Wavefront OBJ in millimetres with a place in a texture for every corner; `materials` names the file of
    `texture_materials`."""
    of_vertex, at, faces = texture.shared(mesh.faces)
    file.write(f"# Nebrel, millimetres\nmtllib {materials}\n".encode())
    _write_lines(file, "v %.9g %.9g %.9g\n", mesh.vertices, lambda part: progress(part / 3))
    rows = np.column_stack([at[:, 0], 1 - at[:, 1]])
    _write_lines(file, "vt %.7g %.7g\n", rows, lambda part: progress((1 + part) / 3))
    file.write(b"usemtl painted\n")
    corners = np.stack([of_vertex[faces], faces.astype(np.int64)], axis=2).reshape(-1, 6) + 1
    _write_lines(file, "f %d/%d %d/%d %d/%d\n", corners, lambda part: progress((2 + part) / 3))


def texture_materials(picture: str) -> bytes:
    """The file of materials of a textured OBJ; `picture` names the file of its texture."""
    return f"# Nebrel\nnewmtl painted\nKd 1 1 1\nillum 1\nmap_Kd {picture}\n".encode()


def obj_materials(mesh: TriMesh) -> bytes:
    """The file of materials of a coloured mesh, one for every colour, the nearest of 256 when there are more."""
    colours, _ = _face_colours(mesh)
    lines = ["# Nebrel"]
    for number, (red, green, blue) in enumerate(colours / 255):
        lines += [f"newmtl colour{number}", f"Kd {red:.6g} {green:.6g} {blue:.6g}", "illum 1"]
    return ("\n".join(lines) + "\n").encode()


def _face_colours(mesh: TriMesh) -> tuple[NDArray[np.float64], NDArray[np.int64]]:
    """Colours float64 (K, 3) 0 to 255, and which of them every face has."""
    if mesh.corner_colours is not None:
        own = mesh.corner_colours[:, :, :3].mean(axis=1)
    else:
        assert mesh.colours is not None
        own = mesh.colours[mesh.faces][:, :, :3].mean(axis=1)
    exact = np.unique(np.round(own), axis=0)
    step = 1 if len(exact) <= MOST_MATERIALS else COARSE_COLOURS
    colours, of_face = np.unique(np.round(own / step) * step, axis=0, return_inverse=True)
    return np.minimum(colours, 255), of_face.ravel().astype(np.int64)


def write_off(mesh: TriMesh, file: BinaryIO, progress: Progress) -> None:
    """Object File Format, with colours of vertices as COFF."""
    coloured = mesh.colours is not None
    file.write(f"{'COFF' if coloured else 'OFF'}\n{len(mesh.vertices)} {len(mesh.faces)} 0\n".encode())
    rows: NDArray[np.float64] = mesh.vertices
    line = "%.9g %.9g %.9g\n"
    if mesh.colours is not None:
        rows = np.hstack([mesh.vertices, mesh.colours])
        line = "%.9g %.9g %.9g %d %d %d %d\n"
    _write_lines(file, line, rows, lambda part: progress(part / 2))
    _write_lines(file, "3 %d %d %d\n", mesh.faces.astype(np.int64), lambda part: progress(0.5 + part / 2))


def write_text_stl(mesh: TriMesh, file: BinaryIO, progress: Progress) -> None:
    """STL as text, millimetres."""
    file.write(b"solid nebrel\n")
    corners = mesh.corners
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-30)
    facet = (
        "facet normal %.7g %.7g %.7g\nouter loop\n" + "vertex %.9g %.9g %.9g\n" * 3 + "endloop\nendfacet\n"
    )  # fmt: skip
    _write_lines(file, facet, np.hstack([normals, corners.reshape(-1, 9)]), progress)
    file.write(b"endsolid nebrel\n")


def write_ply(mesh: TriMesh, file: BinaryIO, progress: Progress) -> None:
    """Binary little-endian PLY in millimetres."""
    points = [("x", "<f4"), ("y", "<f4"), ("z", "<f4")]
    head = ["ply", "format binary_little_endian 1.0", "comment Nebrel, millimetres"]
    head += [f"element vertex {len(mesh.vertices)}", *(f"property float {name}" for name, _ in points)]
    if mesh.colours is not None:
        points += [(name, "u1") for name in ("red", "green", "blue", "alpha")]
        head += [f"property uchar {name}" for name in ("red", "green", "blue", "alpha")]
    head += [f"element face {len(mesh.faces)}", "property list uchar uint vertex_indices"]
    rows: list[tuple[str, str] | tuple[str, str, int]] = [("count", "u1"), ("corners", "<u4", 3)]
    if mesh.corner_colours is not None:
        rows.append(("colour", "u1", 4))
        head += [f"property uchar {name}" for name in ("red", "green", "blue", "alpha")]
    head.append("end_header")
    file.write(("\n".join(head) + "\n").encode())
    vertices = np.empty(len(mesh.vertices), dtype=points)
    for axis, name in enumerate("xyz"):
        vertices[name] = mesh.vertices[:, axis]
    if mesh.colours is not None:
        for channel, name in enumerate(("red", "green", "blue", "alpha")):
            vertices[name] = mesh.colours[:, channel]
    file.write(vertices.view(np.uint8).data)
    progress(0.4)
    faces = np.empty(len(mesh.faces), dtype=rows)
    faces["count"], faces["corners"] = 3, mesh.faces
    if mesh.corner_colours is not None:
        faces["colour"] = np.round(mesh.corner_colours.mean(axis=1))
    file.write(faces.view(np.uint8).data)
    progress(1.0)


def _write_lines(file: IO[bytes], line: str, rows: NDArray[np.float64] | NDArray[np.int64], progress: Progress) -> None:
    for start, batch in _batches(rows):
        file.write(((line * len(batch)) % tuple(batch.ravel().tolist())).encode())
        progress(min(1.0, (start + len(batch)) / len(rows)))


def _batches(
    rows: NDArray[np.float64] | NDArray[np.int64],
) -> Iterator[tuple[int, NDArray[np.float64] | NDArray[np.int64]]]:
    for start in range(0, len(rows), LINES_AT_ONCE):
        yield start, rows[start : start + LINES_AT_ONCE]
