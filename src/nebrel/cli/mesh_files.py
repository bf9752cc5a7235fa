"""Meshes from files and to files."""

import sys
from collections.abc import Callable, Mapping
from pathlib import Path

from nebrel.cli.files import read_file
from nebrel.core.errors import BadValueError
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.formats import MeshFile, MeshFormat, read_mesh, write_mesh, write_textured
from nebrel.core.mesh.formats.plain import obj_materials, texture_materials, write_textured_obj
from nebrel.core.mesh.formats.threemf import Objects
from nebrel.core.mesh.texture import Texture
from nebrel.piece.report import MeshReport
from nebrel.store.blobs import write_atomically


def open_mesh(path: Path, unit: str | None, sharp: bool = False) -> MeshFile:
    """The mesh in a file; refused when its size says that the unit is missing. For `sharp` see `read_mesh`."""

    def beside(name: str) -> bytes | None:
        other = path.parent / name
        return read_file(other, "mesh_bytes") if other.is_file() else None

    found = read_mesh(read_file(path, "mesh_bytes"), path.name, unit, beside, sharp)
    if not found.plausible:
        raise BadValueError(
            f"{path.name} would be {size_of(found.mesh)} mm, and its format tells no unit; say which with --unit mm, "
            "cm, m, in or ft."
        )
    if found.remark is not None:
        print(f"note: {found.remark}", file=sys.stderr)
    return found


def save_mesh(
    mesh: TriMesh,
    path: Path,
    form: MeshFormat,
    progress: Callable[[float], None] = lambda _: None,
    text: bool = False,
    names: Mapping[str, str] | None = None,
    objects: Objects = (),
) -> None:
    """Write a mesh, or nothing at all; `names` are those of its colours and `objects` its objects, see `write_mesh`."""
    try:
        if form == "obj" and (mesh.colours is not None or mesh.corner_colours is not None):
            materials = path.with_suffix(".mtl")
            write_atomically(materials, lambda file: file.writelines([obj_materials(mesh)]))
            write_atomically(
                path, lambda file: write_mesh(mesh, file, form, progress, False, materials.name, objects=objects)
            )
            return
        write_atomically(path, lambda file: write_mesh(mesh, file, form, progress, text, names=names, objects=objects))
    except OSError as cause:
        raise BadValueError(f"{path} cannot be written: {cause.strerror}.") from cause


def save_textured(
    mesh: TriMesh, texture: Texture, path: Path, form: MeshFormat, progress: Callable[[float], None] = lambda _: None
) -> None:
    """Write a mesh with a texture: a GLB, or an OBJ with its materials and its picture beside it."""
    try:
        if form == "glb":
            write_atomically(path, lambda file: write_textured(mesh, texture, file, form, progress))
            return
        materials, picture = path.with_suffix(".mtl"), path.with_suffix(".png")
        write_atomically(picture, lambda file: file.writelines([texture.png()]))
        write_atomically(materials, lambda file: file.writelines([texture_materials(picture.name)]))
        write_atomically(path, lambda file: write_textured_obj(mesh, texture, file, progress, materials.name))
    except OSError as cause:
        raise BadValueError(f"{path} cannot be written: {cause.strerror}.") from cause


def size_of(mesh: TriMesh) -> str:
    """Its sides, in words."""
    low, high = mesh.vertices.min(axis=0), mesh.vertices.max(axis=0)
    return " × ".join(f"{side:.3f}" for side in high - low)


def mib_of(path: Path) -> str:
    """How large a file is, in words."""
    return f"{path.stat().st_size / 2**20:.1f} MiB"


def tell_findings(report: MeshReport) -> None:
    """Print what a check found, a line each."""
    for finding in report.findings:
        print(f"{finding.severity}: {finding.what} {finding.why}")
