"""Pictures of Fernhollow's garden figures: under lamps from several sides, and as plain drawings."""

from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.csg.boolean import mesh_of
from nebrel.core.heightfield.from_above import heights_from_above
from nebrel.core.mesh import TriMesh
from nebrel.demo.models.garden import GARDEN, GardenPart

Look = Literal["left", "right", "above", "drawing"]
# Towards the lamp: right, up, towards the viewer.
LAMPS: dict[str, tuple[float, float, float]] = {
    "left": (-0.6, 0.45, 0.66), "right": (0.62, 0.4, 0.67), "above": (0.05, 0.8, 0.6)
}  # fmt: skip
LONGEST_PX, FINER, ROOM_PX = 720, 2, 24
SHADE, INK_PX, INK, STEP_MM = 0.36, 2.0, 0.16, 2.5
_Floats = NDArray[np.float64]


def draw_garden(name: str, look: Look) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """A figure of the garden from the front: colours, float64 (H, W, 3), and what is figure, float64 (H, W), 0 to 1."""
    heights, part, pitch = _seen(GARDEN[name]())
    covered = part >= 0
    tints = np.array([each.colour for each in GARDEN[name]()], dtype=np.float64) / 255
    colours = np.where(covered[..., np.newaxis], tints[part], 1.0)
    if look == "drawing":
        colours *= 1 - (1 - INK) * _ink(heights, tints[part], covered, pitch)[..., np.newaxis]
    else:
        lamp = np.array(LAMPS[look]) / np.linalg.norm(LAMPS[look])
        lit = np.clip((_normals(heights, pitch) * lamp).sum(axis=2), 0, 1)
        colours *= (SHADE + (1 - SHADE) * lit)[..., np.newaxis]
    share = cv2.resize(covered.astype(np.float64), None, fx=1 / FINER, fy=1 / FINER, interpolation=cv2.INTER_AREA)
    there = colours * covered[..., np.newaxis]
    mixed = cv2.resize(there, None, fx=1 / FINER, fy=1 / FINER, interpolation=cv2.INTER_AREA)
    shown = np.clip(mixed / np.maximum(share, 1e-6)[..., np.newaxis], 0, 1)
    return shown, np.asarray(share, dtype=np.float64)


def _seen(parts: list[GardenPart]) -> tuple[_Floats, NDArray[np.int64], float]:
    """Heights of what is nearest, which part that is (-1 for none), and mm from pixel to pixel."""
    meshes = [mesh_of(each.solid) for each in parts]
    low = np.min([mesh.vertices.min(axis=0) for mesh in meshes], axis=0)
    high = np.max([mesh.vertices.max(axis=0) for mesh in meshes], axis=0)
    pitch = float((high - low)[:2].max()) / (FINER * LONGEST_PX)
    columns, rows = (int(np.ceil(side / pitch)) + 2 * ROOM_PX * FINER for side in (high - low)[:2])
    heights, part = np.full((rows, columns), -np.inf), np.full((rows, columns), -1, dtype=np.int64)
    for number, mesh in enumerate(meshes):
        own = mesh.vertices.min(axis=0)
        sides = np.ptp(mesh.vertices, axis=0)
        longest = max(4, round(float(sides[:2].max()) / pitch))
        found = heights_from_above(TriMesh(mesh.vertices - own, mesh.faces), longest)
        left = round(float(own[0] - low[0]) / pitch) + ROOM_PX * FINER
        bottom = rows - ROOM_PX * FINER - round(float(own[1] - low[1]) / pitch)
        tall, wide = found.heights.shape
        place = slice(bottom - tall, bottom), slice(left, left + wide)
        nearer = (found.material >= 0.5) & (found.heights + own[2] > heights[place])
        heights[place] = np.where(nearer, found.heights + own[2], heights[place])
        part[place] = np.where(nearer, number, part[place])
    return heights, part, pitch


def _normals(heights: _Floats, pitch: float) -> _Floats:
    filled = np.where(np.isfinite(heights), heights, float(heights[np.isfinite(heights)].min()))
    down, across = np.gradient(filled, pitch)
    normals = np.dstack([-across, down, np.ones_like(across)])
    return np.asarray(normals / np.linalg.norm(normals, axis=2, keepdims=True))


def _ink(heights: _Floats, tints: _Floats, covered: NDArray[np.bool_], pitch: float) -> _Floats:
    """Where a pen draws: round the outline, between colours, and where one part stands before another."""
    filled = np.where(covered, heights, -1e3)
    drawn = np.zeros(heights.shape, dtype=np.uint8)
    for axis in (0, 1):
        step = np.abs(np.diff(filled, axis=axis)) > STEP_MM
        change = (np.diff(tints, axis=axis) != 0).any(axis=2)
        edge = (step | change).astype(np.uint8)
        drawn |= np.pad(edge, ((0, 1), (0, 0)) if axis == 0 else ((0, 0), (0, 1)))
    wide = cv2.dilate(drawn, cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (int(2 * INK_PX * FINER) + 1,) * 2))
    return wide.astype(np.float64)
