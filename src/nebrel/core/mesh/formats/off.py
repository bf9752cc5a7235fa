"""Object File Format, with or without colours."""

import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import BadMeshError
from nebrel.core.mesh.formats.polygons import triangulated
from nebrel.core.mesh.trimesh import TriMesh
from nebrel.core.mesh.weld import weld_vertices

_HEADS = {b"OFF": 3, b"COFF": 7}


def read_off(data: bytes, name: str, mm_per_unit: float) -> TriMesh:
    """The mesh in an OFF or COFF file, polygons cut into triangles.

    Raises:
        BadMeshError: not such a file, cut short, or with numbers that are none.
    """
    lines = data.split(b"\n")
    if b"#" in data:
        lines = [line.split(b"#", 1)[0] for line in lines]
    words = b" ".join(lines).split()
    width = _HEADS.get(words[0] if words else b"")
    if width is None:
        raise BadMeshError(f"{name} is not an OFF file; OFF and COFF are accepted.")
    try:
        numbers = np.array(words[1:], dtype=np.bytes_).astype(np.float64)
    except ValueError as cause:
        raise BadMeshError(f"{name} holds something that is not a number; decimals need a point.") from cause
    if len(numbers) < 3 or not (np.isfinite(numbers[:2]).all() and numbers[0] >= 3 and numbers[1] >= 1):
        raise BadMeshError(f"{name} holds no triangles; at least one is needed.")
    count, faces_end = int(numbers[0]), 3 + int(numbers[0]) * width
    if len(numbers) < faces_end + 4 * int(numbers[1]):
        raise BadMeshError(f"{name} ends too early; please copy or export it again.")
    table = numbers[3:faces_end].reshape(count, width)
    faces = _triangles(table[:, :3], numbers[faces_end:], int(numbers[1]), name)
    points = (table[:, :3] * mm_per_unit).astype(np.float32)
    if not np.isfinite(points[faces]).all():
        raise BadMeshError(f"{name} holds coordinates that are not numbers; every coordinate must be a number.")
    colours = None
    if width > 3:
        scale = 255 if table[:, 3:].max() <= 1 else 1
        colours = np.clip(np.round(table[:, 3:] * scale), 0, 255).astype(np.uint8)
    return weld_vertices(TriMesh(points.astype(np.float64), faces.astype(np.uint32), colours))


def _triangles(points: NDArray[np.float64], numbers: NDArray[np.float64], count: int, name: str) -> NDArray[np.int64]:
    if len(numbers) >= 4 * count and (numbers[: 4 * count : 4] == 3).all() and len(numbers) == 4 * count:
        return _there(numbers.reshape(-1, 4)[:, 1:].astype(np.int64), len(points), name)
    polygons, at = [], 0
    for _ in range(count):
        sides = int(numbers[at]) if at < len(numbers) else 0
        corners = numbers[at + 1 : at + 1 + sides].astype(np.int64)
        if sides < 3 or len(corners) < sides:
            raise BadMeshError(f"{name} ends too early; please copy or export it again.")
        polygons.append(_there(corners, len(points), name))
        at += 1 + sides
    return triangulated(points, polygons)


def _there(corners: NDArray[np.int64], count: int, name: str) -> NDArray[np.int64]:
    if corners.min() < 0 or corners.max() >= count:
        raise BadMeshError(f"{name} names corners that it does not hold; please export it again.")
    return corners
