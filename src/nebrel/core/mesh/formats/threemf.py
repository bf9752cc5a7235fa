"""3MF by lib3mf, the consortium's own library: unit, colours, one object per body."""

import ctypes
import io
import zipfile
from collections.abc import Callable
from typing import Any, BinaryIO

import lib3mf
import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import BadMeshError, NebrelError, TooLargeError
from nebrel.core.mesh.model import TriMesh
from nebrel.core.mesh.weld import weld

MOST_UNPACKED_BYTES = 4 * 2**30
MOST_RATIO = 200
_HEAD_BYTES = 65_536
# Of a millimetre: a nanometre, finer than a float32 tells apart on anything larger than a centimetre.
DECIMALS = 6


def write_3mf(mesh: TriMesh, file: BinaryIO, progress: Callable[[float], None] = lambda _: None) -> None:
    """One object in millimetres; vertex colours as a colour group."""
    wrapper = lib3mf.get_wrapper()
    model = wrapper.CreateModel()
    model.SetUnit(lib3mf.ModelUnit.MilliMeter)
    body = model.AddMeshObject()
    body.SetName("Nebrel")
    points = np.ascontiguousarray(mesh.vertices, np.float32)
    faces = np.ascontiguousarray(mesh.faces, np.uint32)
    # The wrapper's own method copies one structure at a time; the library takes the arrays as they are.
    wrapper.checkError(
        body,
        wrapper.lib.lib3mf_meshobject_setgeometry(
            body._handle,
            ctypes.c_uint64(len(points)),
            ctypes.cast(points.ctypes.data, ctypes.POINTER(lib3mf.Position)),
            ctypes.c_uint64(len(faces)),
            ctypes.cast(faces.ctypes.data, ctypes.POINTER(lib3mf.Triangle)),
        ),
    )
    if mesh.colours is not None:
        _colour(model, body, mesh.colours, faces)
    model.AddBuildItem(body, wrapper.GetIdentityTransform())
    progress(0.3)
    writer = model.QueryWriter("3mf")
    writer.SetDecimalPrecision(DECIMALS)
    file.write(bytes(writer.WriteToBuffer()))
    progress(1.0)


def _colour(model: Any, body: Any, colours: NDArray[np.uint8], faces: NDArray[np.uint32]) -> None:
    group = model.AddColorGroup()
    kinds, index = np.unique(colours, axis=0, return_inverse=True)
    ids = np.array([group.AddColor(_colour_of(kind)) for kind in kinds], dtype=np.uint32)
    resource = group.GetResourceID()
    properties = np.empty((len(faces), 4), dtype=np.uint32)
    properties[:, 0], properties[:, 1:] = resource, ids[index.ravel()][faces]
    place = ctypes.cast(properties.ctypes.data, ctypes.POINTER(lib3mf.TriangleProperties))
    wrapper = body._wrapper
    wrapper.checkError(
        body,
        wrapper.lib.lib3mf_meshobject_setalltriangleproperties(body._handle, ctypes.c_uint64(len(faces)), place),
    )
    body.SetObjectLevelProperty(resource, int(ids[0]))


def _colour_of(kind: NDArray[np.uint8]) -> Any:
    colour = lib3mf.Color()
    colour.Red, colour.Green, colour.Blue, colour.Alpha = (int(part) for part in kind)
    return colour


def read_3mf(data: bytes, name: str) -> TriMesh:
    """All built objects as one mesh in millimetres.

    Raises:
        BadMeshError: not a 3MF package, broken, or with paths or entities that it must not have.
        TooLargeError: it unpacks to more than may be taken in.
    """
    _check_package(data, name)
    wrapper = lib3mf.get_wrapper()
    model = wrapper.CreateModel()
    try:
        reader = model.QueryReader("3mf")
        reader.SetStrictModeActive(False)
        reader.ReadFromBuffer(data)
        unit = float(_MM_PER_UNIT[model.GetUnit()])
        corners, colours = [], []
        items = model.GetBuildItems()
        while items.MoveNext():
            item = items.GetCurrent()
            transform = _matrix(item.GetObjectTransform())
            for points, faces, painted in _meshes(model, item.GetObjectResource(), transform):
                corners.append((points * unit).astype(np.float32)[faces])
                colours.append(painted)
    except lib3mf.ELib3MFException as cause:
        raise BadMeshError(f"{name} cannot be read as 3MF; please export it again.") from cause
    if not corners:
        raise BadMeshError(f"{name} holds no triangles to be built; at least one is needed.")
    every = np.concatenate(corners)
    if not np.isfinite(every).all():
        raise BadMeshError(f"{name} holds coordinates that are not numbers; every coordinate must be a number.")
    if any(painted is None for painted in colours):
        return weld(every)
    return weld(every, np.concatenate([painted for painted in colours if painted is not None]))


_MM_PER_UNIT = {
    lib3mf.ModelUnit.MicroMeter: 0.001,
    lib3mf.ModelUnit.MilliMeter: 1.0,
    lib3mf.ModelUnit.CentiMeter: 10.0,
    lib3mf.ModelUnit.Inch: 25.4,
    lib3mf.ModelUnit.Foot: 304.8,
    lib3mf.ModelUnit.Meter: 1000.0,
}
Placed = tuple[NDArray[np.float64], NDArray[np.uint32], NDArray[np.uint8] | None]


def _meshes(model: Any, resource: Any, transform: NDArray[np.float64]) -> list[Placed]:
    if resource.IsComponentsObject():
        whole = model.GetComponentsObjectByID(resource.GetResourceID())
        placed: list[Placed] = []
        for at in range(whole.GetComponentCount()):
            component = whole.GetComponent(at)
            own = _matrix(component.GetTransform()) @ transform
            placed += _meshes(model, component.GetObjectResource(), own)
        return placed
    body = model.GetMeshObjectByID(resource.GetResourceID())
    points, faces = _arrays(body)
    if len(faces) == 0:
        return []
    moved = np.column_stack([points.astype(np.float64), np.ones(len(points))]) @ transform
    return [(moved[:, :3], faces, _painted(model, body, len(faces)))]


def _arrays(body: Any) -> tuple[NDArray[np.float32], NDArray[np.uint32]]:
    wrapper, needed = body._wrapper, ctypes.c_uint64(0)
    points = np.empty((body.GetVertexCount(), 3), dtype=np.float32)
    faces = np.empty((body.GetTriangleCount(), 3), dtype=np.uint32)
    for array, kind, get in (
        (points, lib3mf.Position, wrapper.lib.lib3mf_meshobject_getvertices),
        (faces, lib3mf.Triangle, wrapper.lib.lib3mf_meshobject_gettriangleindices),
    ):
        place = ctypes.cast(array.ctypes.data, ctypes.POINTER(kind))
        wrapper.checkError(body, get(body._handle, ctypes.c_uint64(len(array)), needed, place))
    return points, faces


def _painted(model: Any, body: Any, count: int) -> NDArray[np.uint8] | None:
    groups = model.GetColorGroups()
    colours: dict[tuple[int, int], tuple[int, int, int, int]] = {}
    while groups.MoveNext():
        group = groups.GetCurrentColorGroup()
        for at in group.GetAllPropertyIDs():
            colour = group.GetColor(at)
            colours[group.GetResourceID(), at] = (colour.Red, colour.Green, colour.Blue, colour.Alpha)
    if not colours:
        return None
    properties = np.zeros((count, 4), dtype=np.uint32)
    wrapper, needed = body._wrapper, ctypes.c_uint64(0)
    place = ctypes.cast(properties.ctypes.data, ctypes.POINTER(lib3mf.TriangleProperties))
    get = wrapper.lib.lib3mf_meshobject_getalltriangleproperties
    wrapper.checkError(body, get(body._handle, ctypes.c_uint64(count), needed, place))
    painted = np.full((count, 3, 4), 255, dtype=np.uint8)
    for (resource, at), colour in colours.items():
        mine = properties[:, :1] == resource
        painted[mine & (properties[:, 1:] == at)] = colour
    return painted


def _matrix(transform: Any) -> NDArray[np.float64]:
    """4 × 4, applied to rows from the right."""
    matrix = np.eye(4)
    matrix[:, :3] = [[transform.Fields[row][column] for column in range(3)] for row in range(4)]
    return matrix


def _check_package(data: bytes, name: str) -> None:
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as package:
            entries = package.infolist()
            unpacked = sum(entry.file_size for entry in entries)
            if unpacked > MOST_UNPACKED_BYTES or unpacked > MOST_RATIO * max(len(data), 1):
                raise TooLargeError(
                    f"{name} unpacks to {unpacked / 2**20:,.0f} MiB, far more than its {len(data) / 2**20:,.1f} MiB; "
                    f"up to {MOST_RATIO} times is accepted."
                )
            for entry in entries:
                if entry.filename.startswith(("/", "\\")) or ".." in entry.filename.split("/"):
                    raise BadMeshError(f"{name} holds a path out of its package; such files are not accepted.")
                if entry.filename.lower().endswith((".model", ".rels", ".xml")):
                    with package.open(entry) as part:
                        if b"<!DOCTYPE" in part.read(_HEAD_BYTES).upper():
                            raise BadMeshError(f"{name} declares XML entities; such files are not accepted.")
    except NebrelError:
        raise
    except Exception as cause:
        raise BadMeshError(f"{name} is not a 3MF package; please export it again.") from cause
