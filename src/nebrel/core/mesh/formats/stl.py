"""STL, binary and ASCII. The format carries no unit; Nebrel writes and reads millimetres."""

import re
from collections import deque
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import BinaryIO

import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import BadMeshError, TooLargeError
from nebrel.core.jit import compiled
from nebrel.core.mesh.trimesh import TriMesh
from nebrel.core.mesh.weld import weld

HEADER = b"Nebrel binary STL, millimetres".ljust(80)
FACES_AT_ONCE = 40_000
AHEAD = 2
MOST_TRIANGLES = 60_000_000
_RECORD = np.dtype([("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("attribute", "<u2")])
_WRITTEN = np.dtype([(f"{point}{axis}", "<f4") for point in "nabc" for axis in "xyz"] + [("attribute", "<u2")])
_NUMBER = rb"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?|[-+]?(?:nan|inf(?:inity)?)"
_VERTEX = re.compile(rb"vertex\s+(" + _NUMBER + rb")\s+(" + _NUMBER + rb")\s+(" + _NUMBER + rb")", re.IGNORECASE)


def stl_bytes(mesh: TriMesh) -> int:
    """Size of the binary file that `write_stl` makes."""
    return 84 + _RECORD.itemsize * len(mesh.faces)


def write_stl(mesh: TriMesh, file: BinaryIO, progress: Callable[[float], None] = lambda _: None) -> None:
    """Write `mesh` as binary STL, a bounded number of faces at a time, the next ones made by two threads meanwhile."""
    file.write(HEADER)
    file.write(np.uint32(len(mesh.faces)).astype("<u4").tobytes())
    points = mesh.vertices.astype(np.float32)
    batches = -(-len(mesh.faces) // FACES_AT_ONCE)
    buffers = [np.empty(min(FACES_AT_ONCE, len(mesh.faces)), dtype=_WRITTEN) for _ in range(AHEAD + 1)]

    def records(number: int) -> NDArray[np.void]:
        faces = mesh.faces[number * FACES_AT_ONCE : (number + 1) * FACES_AT_ONCE]
        batch = buffers[number % len(buffers)][: len(faces)]
        _fill_records(points, faces, batch)
        return batch

    with ThreadPoolExecutor(max_workers=AHEAD) as makers:
        coming = deque(makers.submit(records, number) for number in range(min(AHEAD, batches)))
        for number in range(batches):
            batch = coming.popleft().result()
            if number + AHEAD < batches:
                coming.append(makers.submit(records, number + AHEAD))
            file.write(batch.view(np.uint8).data)
            progress((number + 1) / batches)


@compiled
def _fill_records(points, faces, batch):
    for i in range(len(faces)):
        a, b, c = faces[i, 0], faces[i, 1], faces[i, 2]
        ax, ay, az = points[a, 0], points[a, 1], points[a, 2]
        bx, by, bz = points[b, 0], points[b, 1], points[b, 2]
        cx, cy, cz = points[c, 0], points[c, 1], points[c, 2]
        ux, uy, uz = bx - ax, by - ay, bz - az
        vx, vy, vz = cx - ax, cy - ay, cz - az
        nx, ny, nz = uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx
        length = max(np.sqrt(nx * nx + ny * ny + nz * nz), np.float32(1e-30))
        record = batch[i]
        record.nx, record.ny, record.nz = nx / length, ny / length, nz / length
        record.ax, record.ay, record.az = ax, ay, az
        record.bx, record.by, record.bz = bx, by, bz
        record.cx, record.cy, record.cz = cx, cy, cz
        record.attribute = 0


def read_stl(data: bytes, name: str = "The file") -> TriMesh:
    """The mesh in an STL file, binary or ASCII, its corners welded where they agree to the last bit.

    Raises:
        BadMeshError: not STL, cut short, without triangles, or with coordinates that are not numbers.
        TooLargeError: it declares more than 60 million triangles.
    """
    if not data:
        raise BadMeshError(f"{name} is an empty file; a binary or ASCII STL file is accepted.")
    corners = _binary_corners(data, name)
    if corners is None:
        corners = _ascii_corners(data, name)
    if not np.isfinite(corners).all():
        raise BadMeshError(f"{name} holds coordinates that are not numbers; every coordinate must be a number.")
    return weld(corners)


def stl_remark(data: bytes, name: str) -> str | None:
    """What is to be said where the head of a binary STL and what follows it disagree; None where they do not."""
    if len(data) < 84 or _looks_like_text(data):
        return None
    count, held = int.from_bytes(data[80:84], "little"), _held(data)
    if held is None:
        return f"{name} goes on after the {count:,} triangles that it declares; what follows was not read."
    if held == count:
        return None
    less = "it may have been cut short" if held < count else "all of them were read"
    return f"{name} declares {count:,} triangles and holds {held:,}; {less}."


def _held(data: bytes) -> int | None:
    """How many whole triangles follow the head of a binary STL; None where there is a rest."""
    held, rest = divmod(len(data) - 84, _RECORD.itemsize)
    return None if rest else held


def _binary_corners(data: bytes, name: str) -> NDArray[np.float32] | None:
    if len(data) < 84:
        return None
    count, held = int.from_bytes(data[80:84], "little"), _held(data)
    if count == held or (not _looks_like_text(data) and (count or held)):
        if count > MOST_TRIANGLES:
            raise TooLargeError(f"{name} declares {count:,} triangles; up to {MOST_TRIANGLES:,} are accepted.")
        # A head that miscounts is believed less than what follows it, where that comes out even.
        there = count if held is None else held
        if len(data) < 84 + there * _RECORD.itemsize:
            raise BadMeshError(
                f"{name} ends too early: it declares {count:,} triangles and holds "
                f"{(len(data) - 84) // _RECORD.itemsize:,}; please copy or export it again."
            )
        if there == 0:
            raise BadMeshError(f"{name} holds no triangles; at least one is needed.")
        return np.ascontiguousarray(np.frombuffer(data, _RECORD, there, offset=84)["corners"])
    return None


def _looks_like_text(data: bytes) -> bool:
    head = data[:2048]
    return head.lstrip()[:5].lower() == b"solid" and b"\0" not in head[84:]


def _ascii_corners(data: bytes, name: str) -> NDArray[np.float32]:
    if data.lstrip()[:5].lower() != b"solid":
        raise BadMeshError(f"{name} is not an STL file; binary and ASCII STL files are accepted.")
    numbers = [match.groups() for match in _VERTEX.finditer(data)]
    if not numbers:
        raise BadMeshError(f"{name} holds no triangles; at least one is needed.")
    if len(numbers) % 3 or b"endsolid" not in data[-4096:].lower():
        raise BadMeshError(f"{name} ends too early; please copy or export it again.")
    return np.array(numbers).astype(np.float64).astype(np.float32).reshape(-1, 3, 3)
