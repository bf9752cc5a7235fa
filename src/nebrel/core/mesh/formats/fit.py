"""Meshes that fit into a file of a given size."""

import io
from collections.abc import Callable

from nebrel.core.errors import BadValueError
from nebrel.core.mesh.distance import measure_between
from nebrel.core.mesh.fewer.simplify import FEWEST, Simplified, reduce_faces
from nebrel.core.mesh.formats import MeshFormat, write_mesh
from nebrel.core.mesh.formats.stl import stl_bytes
from nebrel.core.mesh.trimesh import TriMesh

SLACK = 0.99


def to_bytes(
    mesh: TriMesh, form: MeshFormat, limit: int, progress: Callable[[float], None] = lambda _: None
) -> Simplified:
    """As many triangles as fit into `limit` bytes of a format; tried, because most formats' size depends on numbers.

    Raises:
        BadValueError: not even the lightest mesh fits.
    """
    lighter, written = mesh, bytes_of(mesh, form)
    while written > limit:
        count = int(len(lighter.faces) * limit / written * SLACK)
        before, lighter = lighter, reduce_faces(mesh, max(FEWEST, count))
        if len(lighter.faces) >= len(before.faces):
            raise BadValueError(
                f"No {form.upper()} file of this mesh fits into {limit:,} bytes; {written:,} would be needed."
            )
        written = bytes_of(lighter, form)
    return Simplified(lighter, measure_between(mesh, lighter, progress))


def bytes_of(mesh: TriMesh, form: MeshFormat) -> int:
    """Size of the file that a mesh makes in a format."""
    if form == "stl":
        return stl_bytes(mesh)
    held = io.BytesIO()
    write_mesh(mesh, held, form)
    return held.tell()
