"""Mesh files: STL, OBJ, PLY, OFF, 3MF and GLB. Everything inside is millimetres."""

import re
import zipfile
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import PurePath
from typing import BinaryIO, Literal, get_args

import numpy as np

from nebrel.core.errors import BadMeshError
from nebrel.core.mesh.formats import glb, plain, threemf
from nebrel.core.mesh.formats.foreign import read_foreign
from nebrel.core.mesh.formats.off import read_off
from nebrel.core.mesh.formats.stl import read_stl, stl_remark, write_stl
from nebrel.core.mesh.texture import Texture
from nebrel.core.mesh.trimesh import TriMesh

MeshFormat = Literal["stl", "obj", "ply", "off", "3mf", "glb"]
# Formats that carry textures.
TEXTURED: tuple[MeshFormat, ...] = ("glb", "obj")
MESH_FORMATS: tuple[MeshFormat, ...] = get_args(MeshFormat)
MeshUnit = Literal["mm", "cm", "m", "in", "ft"]
UNITS: tuple[MeshUnit, ...] = get_args(MeshUnit)
MM_PER: dict[str, float] = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4, "ft": 304.8}
PLAUSIBLE_MM = (1.0, 3000.0)
FURTHEST_MM = 1e7
HEAD_BYTES = 65_536
_COMMA = re.compile(rb"[ \t]-?\d+,\d+(?:[eE][-+]?\d+)?[ \t]+-?\d+[,.\s]")
Progress = Callable[[float], None]


@dataclass(frozen=True)
class MeshFile:
    """What a file held.

    Attributes:
        mesh: in millimetres.
        unit: what its numbers were taken for.
        unit_given: whether the file itself says so, or it was asked for.
        objects: names of the objects of a format that knows some, and how many of the faces each has, in their order.
        remark: what is odd about the file though it could be read.
    """

    mesh: TriMesh
    unit: MeshUnit
    unit_given: bool
    objects: tuple[tuple[str, int], ...] = ()
    remark: str | None = None

    @property
    def plausible(self) -> bool:
        """Whether it is as large as things that are made; a file in a wrong unit mostly is not."""
        largest = float(np.ptp(self.mesh.vertices, axis=0).max())
        return self.unit_given or PLAUSIBLE_MM[0] <= largest <= PLAUSIBLE_MM[1]


def format_of(name: str) -> MeshFormat:
    """The format that a file name ends in.

    Raises:
        BadMeshError: none of those that are read and written.
    """
    ending = PurePath(name).suffix.lower().lstrip(".")
    for form in MESH_FORMATS:
        if ending == form:
            return form
    raise BadMeshError(f"{name} does not end in {', '.join(f'.{form}' for form in MESH_FORMATS)}; these are accepted.")


def mesh_unit(name: str) -> MeshUnit:
    """The unit of that name.

    Raises:
        BadMeshError: there is none.
    """
    for unit in UNITS:
        if name == unit:
            return unit
    raise BadMeshError(f"The unit is “{name}”; {', '.join(MM_PER)} would be accepted.")


def read_mesh(
    data: bytes,
    name: str,
    unit: str | None = None,
    beside: Callable[[str], bytes | None] = lambda _: None,
    sharp: bool = False,
) -> MeshFile:
    """The mesh in a file, corners at the same place joined.

    Args:
        data: the file.
        name: what it is called; its ending tells the format.
        unit: `mm`, `cm`, `m`, `in` or `ft` for formats that carry none; millimetres when not given.
        beside: gives a file that this one names and that lies beside it, such as OBJ's materials, or None.
        sharp: whether colours of a 3MF that end at edges do so in the mesh, as `corner_colours`.

    Raises:
        BadMeshError: not a mesh, cut short, or with coordinates that are not numbers.
        TooLargeError: more than may be taken in.
    """
    form = format_of(name)
    if not data:
        raise BadMeshError(f"{name} is an empty file; a mesh is needed.")
    if form == "3mf":
        mesh, objects = threemf.read_3mf(data, name, sharp)
        return MeshFile(_sensible(mesh, name), "mm", True, objects)
    if form == "glb":
        mesh, remark = read_foreign(data, name, form, MM_PER["m"])
        return MeshFile(_sensible(mesh, name), "m", True, remark=remark)
    taken, remark = mesh_unit(unit or "mm"), None
    _refuse_commas(data, name)
    if form == "stl":
        mesh, remark = read_stl(data, name), stl_remark(data, name)
        if taken != "mm":
            mesh = TriMesh(mesh.vertices * MM_PER[taken], mesh.faces, mesh.colours)
    elif form == "off":
        mesh = read_off(data, name, MM_PER[taken])
    else:
        mesh, remark = read_foreign(data, name, form, MM_PER[taken], beside)
    return MeshFile(_sensible(mesh, name), taken, unit is not None, remark=remark)


def _refuse_commas(data: bytes, name: str) -> None:
    """Text formats write decimals with a point; some programs write them with the comma of their language."""
    head = data[:HEAD_BYTES]
    if b"\0" not in head and _COMMA.search(head):
        raise BadMeshError(f"{name} writes decimals with a comma, like 0,5; export it with decimal points.")


def _sensible(mesh: TriMesh, name: str) -> TriMesh:
    furthest = float(np.abs(mesh.vertices).max())
    if furthest > FURTHEST_MM:
        raise BadMeshError(
            f"{name} has coordinates of {furthest:.3g} mm; up to {FURTHEST_MM / 1e6:g} km from the origin are accepted."
        )
    return mesh


def write_textured(
    mesh: TriMesh,
    texture: Texture,
    file: BinaryIO,
    form: MeshFormat,
    progress: Progress = lambda _: None,
    name: str = "piece",
) -> None:
    """Write a mesh with a texture: a GLB with its picture inside, or a ZIP of an OBJ, its materials and its picture.

    Args:
        mesh: to write.
        texture: on it.
        file: open for writing.
        form: `glb` or `obj`.
        progress: called with the fraction done.
        name: what the files in the ZIP are called, without ending.
    """
    if form == "glb":
        glb.write_glb(mesh, file, progress, texture)
        return
    with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as package:
        with package.open(f"{name}.obj", "w", force_zip64=True) as inside:
            plain.write_textured_obj(mesh, texture, inside, progress, f"{name}.mtl")
        package.writestr(f"{name}.mtl", plain.texture_materials(f"{name}.png"))
        package.writestr(zipfile.ZipInfo(f"{name}.png"), texture.png())


def write_mesh(
    mesh: TriMesh,
    file: BinaryIO,
    form: MeshFormat,
    progress: Progress = lambda _: None,
    text: bool = False,
    materials: str | None = None,
    names: threemf.Names | None = None,
    objects: threemf.Objects = (),
) -> None:
    """Write a mesh in millimetres, or in metres where the format asks for them.

    Args:
        mesh: to write.
        file: open for writing.
        form: format; STL keeps no colours.
        progress: called with the fraction done.
        text: STL as text, which is five times larger.
        materials: name of the file of materials beside an OBJ, see `plain.obj_materials`.
        names: what colours are called in 3MF, see `threemf.write_3mf`.
        objects: names of objects and the faces of each, for 3MF, GLB and OBJ, which know objects.
    """
    if form == "stl":
        (plain.write_text_stl if text else write_stl)(mesh, file, progress)
    elif form == "obj":
        plain.write_obj(mesh, file, progress, materials, objects)
    elif form == "ply":
        plain.write_ply(mesh, file, progress)
    elif form == "off":
        plain.write_off(mesh, file, progress)
    elif form == "3mf":
        threemf.write_3mf(mesh, file, progress, names, objects)
    else:
        glb.write_glb(mesh, file, progress, objects=objects)


def write_obj_package(
    mesh: TriMesh, file: BinaryIO, progress: Progress, name: str, objects: threemf.Objects = ()
) -> None:
    """A ZIP of a coloured OBJ and its materials.

    Args:
        mesh: to write, with colours.
        file: open for writing.
        progress: called with the fraction done.
        name: what the files in it are called, without ending.
        objects: as of `write_mesh`.
    """
    with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as package:
        with package.open(f"{name}.obj", "w", force_zip64=True) as inside:
            plain.write_obj(mesh, inside, progress, f"{name}.mtl", objects)
        package.writestr(f"{name}.mtl", plain.obj_materials(mesh))
