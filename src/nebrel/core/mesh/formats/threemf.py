"""3MF: unit, colours, one object per body. Read by lib3mf, the consortium's own library."""

import ctypes
import io
import zipfile
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from typing import IO, Any, BinaryIO
from xml.sax.saxutils import quoteattr

import lib3mf
import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import BadMeshError, NebrelError, TooLargeError
from nebrel.core.mesh.formats.lines import lines_of
from nebrel.core.mesh.shells import bodies_of, part_of, together
from nebrel.core.mesh.trimesh import TriMesh
from nebrel.core.mesh.weld import weld, weld_vertices

MOST_UNPACKED_BYTES = 4 * 2**30
MOST_RATIO = 200
_HEAD_BYTES = 65_536
_PALETTE = 1
LEVEL = 4
# With no more than so many colours, one over each triangle, they are materials to make it of.
MOST_MATERIALS = 16
ROWS_AT_ONCE = 100_000
_TYPES = (
    '<?xml version="1.0" encoding="UTF-8"?>\n'
    '<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types">'
    '<Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/>'
    '<Default Extension="model" ContentType="application/vnd.ms-package.3dmanufacturing-3dmodel+xml"/></Types>\n'
)
_RELATIONS = (
    '<?xml version="1.0" encoding="UTF-8"?>\n'
    '<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">'
    '<Relationship Target="/3D/3dmodel.model" Id="model" '
    'Type="http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"/></Relationships>\n'
)
_HEAD = (
    b'<?xml version="1.0" encoding="UTF-8"?>\n'
    b'<model unit="millimeter" xml:lang="en-US" xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02" '
    b'xmlns:m="http://schemas.microsoft.com/3dmanufacturing/material/2015/02"><resources>\n'
)


Names = Mapping[str, str]
# Names of objects, and which faces of the mesh each has, int64 (K,).
Objects = Sequence[tuple[str, NDArray[np.int64]]]
# Names of objects, and how many of the faces each has, in their order.
Counted = tuple[tuple[str, int], ...]


def write_3mf(
    mesh: TriMesh,
    file: BinaryIO,
    progress: Callable[[float], None] = lambda _: None,
    names: Names | None = None,
    objects: Objects = (),
) -> None:
    """One object per body, or those that are named, in millimetres; colours of vertices or corners as a colour group.

    Few colours, one over each triangle, are written as base materials instead, called by `names`, `#rrggbb` to a name,
    or by their colour. Written here, because lib3mf takes several times as long (3MF core specification 1.3, materials
    extension 1.2); the tests have lib3mf read and judge what is written.
    """
    bodies = list(objects) or [("Nebrel", faces) for faces in bodies_of(mesh)]
    with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED, compresslevel=LEVEL) as package:
        package.writestr("[Content_Types].xml", _TYPES)
        package.writestr("_rels/.rels", _RELATIONS)
        with package.open("3D/3dmodel.model", "w", force_zip64=True) as model:
            model.write(_HEAD)
            tints = mesh.colours if mesh.corner_colours is None else mesh.corner_colours.reshape(-1, 4)
            kinds = None if tints is None else np.unique(tints, axis=0)
            if kinds is not None:
                model.write(_palette(mesh, kinds, names or {}))
            numbers = range(_PALETTE + 1, _PALETTE + 1 + len(bodies))
            for number, (name, faces) in zip(numbers, bodies, strict=True):
                body = mesh if len(bodies) == 1 else part_of(mesh, faces)
                if mesh.corner_colours is not None and len(bodies) > 1:
                    body = replace(body, corner_colours=mesh.corner_colours[faces])
                _write_object(body, number, name, kinds, model, progress)
            items = b"".join(b'<item objectid="%d"/>' % number for number in numbers)
            model.write(b"</resources><build>" + items + b"</build></model>\n")


def _palette(mesh: TriMesh, kinds: NDArray[np.uint8], names: Names) -> bytes:
    """The resource that triangles name their colours in."""
    corners = mesh.corner_colours
    lines = []
    if corners is None or len(kinds) > MOST_MATERIALS or (corners != corners[:, :1]).any():
        lines += [f'<m:color color="#{bytes(rgba).hex().upper()}"/>' for rgba in kinds.tolist()]
        head, foot = f'<m:colorgroup id="{_PALETTE}">', "</m:colorgroup>"
    else:
        for rgba in kinds.tolist():
            told = f"#{bytes(rgba[:3]).hex()}"
            name, shown = quoteattr(names.get(told, told)), bytes(rgba).hex().upper()
            lines.append(f'<base name={name} displaycolor="#{shown}"/>')
        head, foot = f'<basematerials id="{_PALETTE}">', "</basematerials>"
    return "\n".join([head, *lines, foot, ""]).encode()


def _write_object(
    mesh: TriMesh,
    number: int,
    name: str,
    kinds: NDArray[np.uint8] | None,
    model: IO[bytes],
    progress: Callable[[float], None],
) -> None:
    faces: NDArray[np.int64] = mesh.faces.astype(np.int64)
    words = [b'<triangle v1="', b'" v2="', b'" v3="', b'"/>\n']
    paint = b""
    tints: NDArray[np.int64] | None = None
    if mesh.corner_colours is not None and kinds is not None:
        tints = _places_in(kinds, mesh.corner_colours.reshape(-1, 4)).reshape(-1, 3)
    elif mesh.colours is not None and kinds is not None:
        tints = _places_in(kinds, mesh.colours)[faces]
    if tints is not None:
        faces = np.hstack([faces, tints])
        own = b'" pid="%d" p1="' % _PALETTE
        words = [b'<triangle v1="', b'" v2="', b'" v3="', own, b'" p2="', b'" p3="', b'"/>\n']
        paint = b' pid="%d" pindex="0"' % _PALETTE
    told = quoteattr(name).encode()
    model.write(b'<object id="%d" name=%b type="model"' % (number, told) + paint + b"><mesh><vertices>\n")
    points = mesh.vertices.astype(np.float32).astype(np.float64)
    total = len(points) + len(faces)
    for start in range(0, len(points), ROWS_AT_ONCE):
        rows = points[start : start + ROWS_AT_ONCE]
        model.write(lines_of([b'<vertex x="', b'" y="', b'" z="', b'"/>\n'], rows))
        progress((start + len(rows)) / total)
    model.write(b"</vertices><triangles>\n")
    for start in range(0, len(faces), ROWS_AT_ONCE):
        part = faces[start : start + ROWS_AT_ONCE]
        model.write(lines_of(words, part))
        progress((len(points) + start + len(part)) / total)
    model.write(b"</triangles></mesh></object>\n")


def _places_in(kinds: NDArray[np.uint8], colours: NDArray[np.uint8]) -> NDArray[np.int64]:
    """Row of every colour in the sorted rows of `kinds`."""
    one, other = (np.ascontiguousarray(table).view(">u4").ravel() for table in (kinds, colours))
    return np.searchsorted(one, other).astype(np.int64)


def read_3mf(data: bytes, name: str, sharp: bool = False) -> tuple[TriMesh, Counted]:
    """All built objects as one mesh in millimetres, and their names with how many of its faces each has.

    Where corners at one place have different colours, the first counts; if `sharp`, every corner keeps its own.

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
        parts: list[TriMesh] = []
        names: list[str] = []
        _refuse_many(model, name)
        items = model.GetBuildItems()
        while items.MoveNext():
            item = items.GetCurrent()
            transform = _matrix(item.GetObjectTransform())
            for title, points, faces, painted in _meshes(model, item.GetObjectResource(), transform):
                parts.append(_part(points * unit, faces, painted, sharp))
                names.append(title or f"Object {len(parts)}")
    except lib3mf.ELib3MFException as cause:
        raise BadMeshError(f"{name} cannot be read as 3MF; please export it again.") from cause
    if not parts:
        raise BadMeshError(f"{name} holds no triangles to be built; at least one is needed.")
    if not all(np.isfinite(part.vertices).all() for part in parts):
        raise BadMeshError(f"{name} holds coordinates that are not numbers; every coordinate must be a number.")
    whole = together(parts)
    corners = [part.corner_colours for part in parts if part.corner_colours is not None]
    objects = tuple((title, len(part.faces)) for title, part in zip(names, parts, strict=True))
    return replace(whole, corner_colours=np.vstack(corners)) if len(corners) == len(parts) else whole, objects


def _part(
    points: NDArray[np.float64], faces: NDArray[np.uint32], painted: NDArray[np.uint8] | None, sharp: bool
) -> TriMesh:
    """One object, its corners joined where they are at the same place; objects are not joined with each other."""
    if painted is None:
        return weld_vertices(TriMesh(points, faces))
    welded = weld(points.astype(np.float32)[faces], painted)
    return replace(welded, colours=None, corner_colours=painted) if sharp else welded


# Of what is built, with all that it holds.
MOST_PARTS, MOST_TRIANGLES = 20_000, 100_000_000
_MM_PER_UNIT = {
    lib3mf.ModelUnit.MicroMeter: 0.001,
    lib3mf.ModelUnit.MilliMeter: 1.0,
    lib3mf.ModelUnit.CentiMeter: 10.0,
    lib3mf.ModelUnit.Inch: 25.4,
    lib3mf.ModelUnit.Foot: 304.8,
    lib3mf.ModelUnit.Meter: 1000.0,
}
Placed = tuple[str, NDArray[np.float64], NDArray[np.uint32], NDArray[np.uint8] | None]


def _refuse_many(model: Any, name: str) -> None:
    """Objects that hold each other many times over are counted before they are laid out."""
    known: dict[int, tuple[int, int]] = {}

    def counted(resource: Any) -> tuple[int, int]:
        number = resource.GetResourceID()
        if number in known:
            return known[number]
        if resource.IsComponentsObject():
            whole = model.GetComponentsObjectByID(number)
            each = [counted(whole.GetComponent(at).GetObjectResource()) for at in range(whole.GetComponentCount())]
            known[number] = (sum(parts for parts, _ in each), sum(triangles for _, triangles in each))
        else:
            known[number] = (1, model.GetMeshObjectByID(number).GetTriangleCount())
        return known[number]

    items, parts, triangles = model.GetBuildItems(), 0, 0
    while items.MoveNext():
        more, larger = counted(items.GetCurrent().GetObjectResource())
        parts, triangles = parts + more, triangles + larger
    if parts > MOST_PARTS or triangles > MOST_TRIANGLES:
        raise TooLargeError(
            f"{name} holds {parts:,} parts of {triangles:,} triangles, as objects that hold each other; up to "
            f"{MOST_PARTS:,} parts and {MOST_TRIANGLES:,} triangles are accepted."
        )


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
    return [(body.GetName(), moved[:, :3], faces, _read_paint(model, body, len(faces)))]


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


def _read_paint(model: Any, body: Any, count: int) -> NDArray[np.uint8] | None:
    groups = model.GetColorGroups()
    colours: dict[tuple[int, int], tuple[int, int, int, int]] = {}
    while groups.MoveNext():
        group = groups.GetCurrentColorGroup()
        for at in group.GetAllPropertyIDs():
            colour = group.GetColor(at)
            colours[group.GetResourceID(), at] = (colour.Red, colour.Green, colour.Blue, colour.Alpha)
    materials = model.GetBaseMaterialGroups()
    while materials.MoveNext():
        made_of = materials.GetCurrentBaseMaterialGroup()
        for at in made_of.GetAllPropertyIDs():
            colour = made_of.GetDisplayColor(at)
            colours[made_of.GetResourceID(), at] = (colour.Red, colour.Green, colour.Blue, colour.Alpha)
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
