"""A picture on a mesh."""

from collections.abc import Callable
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.jit import compiled
from nebrel.core.mesh.atlas import Atlas
from nebrel.core.mesh.trimesh import TriMesh

AT_ONCE = 500_000
# Texels whose middle is this near to a face belong to it too, so that none at its rim is left out; texels.
RIM = 1.0

_Floats = NDArray[np.float64]
Colours = Callable[[_Floats, NDArray[np.int64]], NDArray[np.uint8]]


@dataclass(frozen=True)
class Texture:
    """A picture, and where every corner of a mesh lies in it.

    Attributes:
        image: uint8 (H, W, 3) sRGB.
        places: float64 (M, 3, 2), see `Atlas`.
        charts: how many the mesh is laid out in.
    """

    image: NDArray[np.uint8]
    places: _Floats
    charts: int

    def png(self) -> bytes:
        """The picture as a file."""
        return cv2.imencode(".png", np.ascontiguousarray(self.image[..., ::-1]))[1].tobytes()

    def shared(self, faces: NDArray[np.uint32]) -> tuple[NDArray[np.int64], NDArray[np.float32], NDArray[np.uint32]]:
        """Corners that are the same vertex at the same place in the picture, written once.

        Returns:
            vertices int64 (K,), places float32 (K, 2), and faces uint32 (M, 3) over those.
        """
        places = self.places.reshape(-1, 2).astype(np.float32)
        rows = np.column_stack([faces.ravel().astype(np.int64), places.view(np.int32).astype(np.int64)])
        rows, corner = np.unique(rows, axis=0, return_inverse=True)
        at = rows[:, 1:].astype(np.int32).view(np.float32)
        return rows[:, 0], at, corner.reshape(-1, 3).astype(np.uint32)


def bake(mesh: TriMesh, atlas: Atlas, colours: Colours, progress: Callable[[float], None] = lambda _: None) -> Texture:
    """Paint the picture of an unwrapped mesh.

    Args:
        mesh: to paint.
        atlas: where it lies.
        colours: gives sRGB, uint8 (K, 3), of places on the mesh, float64 (K, 3) mm, and of their faces, int64 (K,).
        progress: called with the fraction done.
    """
    from scipy import ndimage

    width, height = atlas.size_px
    at = np.ascontiguousarray(atlas.places * [width, height] - 0.5)
    face, points = _spread(at, mesh.corners, width, height, RIM)
    image = np.zeros((height, width, 3), dtype=np.uint8)
    rows, columns = np.nonzero(face >= 0)
    for start in range(0, len(rows), AT_ONCE):
        part = rows[start : start + AT_ONCE], columns[start : start + AT_ONCE]
        image[part] = colours(points[part].astype(np.float64), face[part])
        progress(min(1.0, (start + AT_ONCE) / len(rows)))
    # Between charts the nearest colour goes on, so that none of what is round them bleeds in.
    row, column = ndimage.distance_transform_edt(face < 0, return_distances=False, return_indices=True)
    return Texture(image[row, column], atlas.places, atlas.charts)


def corner_colours_at(mesh: TriMesh, points: _Floats, faces: NDArray[np.int64]) -> NDArray[np.uint8]:
    """Colours of a mesh at places on its faces, uint8 (K, 4) with opacity, between those of their corners."""
    tints = mesh.corner_colours[faces] if mesh.corner_colours is not None else None
    if tints is None:
        assert mesh.colours is not None
        tints = mesh.colours[mesh.faces[faces]]
    corners = mesh.corners[faces]
    away = np.linalg.norm(
        np.cross(corners[:, [1, 2, 0]] - points[:, np.newaxis], corners[:, [2, 0, 1]] - points[:, np.newaxis]), axis=2
    )
    shares = away / np.maximum(away.sum(axis=1, keepdims=True), 1e-12)
    return np.round((shares[..., np.newaxis] * tints).sum(axis=1)).astype(np.uint8)


@compiled
def _spread(at, corners, width, height, rim):
    """Which face is under every texel, -1 for none, and where on it, float32 (height, width, 3) mm."""
    face = np.full((height, width), -1, dtype=np.int64)
    off = np.full((height, width), np.float32(np.inf), dtype=np.float32)
    points = np.zeros((height, width, 3), dtype=np.float32)
    for f in range(len(at)):
        ax, ay, bx, by, cx, cy = at[f, 0, 0], at[f, 0, 1], at[f, 1, 0], at[f, 1, 1], at[f, 2, 0], at[f, 2, 1]
        area = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax)
        if area == 0:
            continue
        left, right = int(np.ceil(min(ax, bx, cx) - rim)), int(np.floor(max(ax, bx, cx) + rim))
        top, bottom = int(np.ceil(min(ay, by, cy) - rim)), int(np.floor(max(ay, by, cy) + rim))
        longest = max((bx - ax) ** 2 + (by - ay) ** 2, (cx - bx) ** 2 + (cy - by) ** 2, (ax - cx) ** 2 + (ay - cy) ** 2)
        # A share that is a little below 0 is this far beside the face.
        share_of_texel = np.sqrt(longest) / abs(area)
        for y in range(max(0, top), min(height - 1, bottom) + 1):
            for x in range(max(0, left), min(width - 1, right) + 1):
                wb = ((x - ax) * (cy - ay) - (y - ay) * (cx - ax)) / area
                wc = ((bx - ax) * (y - ay) - (by - ay) * (x - ax)) / area
                wa = 1 - wb - wc
                beside = max(0.0, -min(wa, wb, wc)) / share_of_texel
                if beside > rim or beside >= off[y, x]:
                    continue
                off[y, x] = beside
                face[y, x] = f
                wa, wb, wc = max(wa, 0.0), max(wb, 0.0), max(wc, 0.0)
                total = wa + wb + wc
                for axis in range(3):
                    points[y, x, axis] = (
                        wa * corners[f, 0, axis] + wb * corners[f, 1, axis] + wc * corners[f, 2, axis]
                    ) / total
    return face, points
