"""Files to end with: meshes, whole or not at all."""

from collections.abc import Callable, Mapping
from pathlib import Path

from nebrel.core.errors import BadValueError
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.formats import MeshFormat, write_mesh, write_textured
from nebrel.core.mesh.formats.plain import obj_materials, texture_materials, write_textured_obj
from nebrel.core.mesh.formats.threemf import Objects
from nebrel.core.mesh.texture import Texture
from nebrel.store.blobs import write_atomically


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


def save_drawing(data: bytes, path: Path) -> None:
    """Write the file of a drawing, or nothing at all."""
    try:
        write_atomically(path, lambda file: file.writelines([data]))
    except OSError as cause:
        raise BadValueError(f"{path} cannot be written: {cause.strerror}.") from cause
