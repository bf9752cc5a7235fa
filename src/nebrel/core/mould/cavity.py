"""How deep a solid reaches to either side of a parting plane, over a grid."""

from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import BadValueError
from nebrel.core.heightfield.from_above import raise_on_grid
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.measure import volume

# Places looked at within a sample, along each side: a sample is their mean, so that edges are shares of a sample.
WITHIN = 4
PLANES, LEAST_TALL_MM = 129, 1e-3
# Where the mean of places is off the innermost by less than this share of what they span, nothing jumps.
SMOOTH_SHARE, STEEP_PX = 0.2, 1.0
NOTHING = np.float32(-np.inf)

Depths = NDArray[np.float32]


@dataclass(frozen=True)
class Cavity:
    """What a mould is hollow of, in the frame of the solid: the parting plane is level, casts are pulled off upwards.

    Attributes:
        front, back: float32 (H, W) mm above and below the plane, top row first; 0 beside the solid.
        pitch: mm between samples.
        plane: mm over the solid's lowest place.
        corner: x and y of the lower left sample, in the frame of the mesh, mm.
        filled_mm3: what the mould leaves out of undercuts and hollows, so that casts are filled there.
    """

    front: Depths
    back: Depths
    pitch: float
    plane: float
    corner: tuple[float, float]
    filled_mm3: float

    @property
    def deepest(self) -> float:
        """How far the solid reaches from the plane at the most, mm."""
        return float(max(self.front.max(), self.back.max()))


def cavity_of(mesh: TriMesh, pitch: float, plane: float | None, sides: int, widest: bool = False) -> Cavity:
    """What a mould of a solid is hollow of.

    Undercuts are filled: from each side only the outermost surface counts.

    Args:
        mesh: closed, mm, anywhere.
        pitch: mm between samples, about; whole numbers of it make up the solid's width.
        plane: of the parting, mm over the lowest place; None for where least is filled, or, with one side, the lowest.
        widest: whether samples where it jumps are as deep as the deepest place within them, so that nothing of the
            solid reaches into a mould whose walls follow samples; otherwise shares, so that edges can be found.
        sides: 1 for what lies above the plane only, 2 for both.

    Raises:
        BadValueError: the plane passes beside the solid.
    """
    low, high = mesh.vertices.min(axis=0), mesh.vertices.max(axis=0)
    width, depth, tall = (float(side) for side in high - low)
    columns = max(2, round(width / pitch))
    pitch = width / columns
    shape = (max(2, round(depth / pitch)) + 1, columns + 1)
    corner = (low[0], low[1] + (depth - (shape[0] - 1) * pitch) / 2)
    top = _outermost(mesh.vertices - (*corner, low[2]), mesh.faces, shape, pitch)
    under = _outermost((mesh.vertices - (*corner, high[2])) * (1, 1, -1), mesh.faces, shape, pitch)
    bottom = np.where(np.isfinite(under), np.float32(tall) - under, np.float32(np.inf))
    if plane is None:
        plane = 0.0 if sides == 1 else _least_filled(top, bottom, tall)
    if not 0 <= plane < tall - LEAST_TALL_MM:
        raise BadValueError(
            f"The parting plane lies at {plane:g} mm and the piece is {tall:.2f} mm tall; 0 to less than that would be "
            "accepted."
        )
    front = _sampled(np.maximum(top - np.float32(plane), 0), pitch, widest)
    back = _sampled(np.maximum(np.float32(plane) - bottom, 0), pitch, widest) if sides == 2 else np.zeros_like(front)
    hollow = float(front.sum(dtype=np.float64) + back.sum(dtype=np.float64)) * pitch**2
    below = 0.0 if sides == 2 else _below(top, bottom, plane) * (pitch / WITHIN) ** 2
    at = (float(corner[0]), float(corner[1]))
    return Cavity(front, back, pitch, plane, at, max(0.0, hollow + below - abs(volume(mesh))))


def with_border(cavity: Cavity, mm: float) -> Cavity:
    """The same with a border of at least so many mm of nothing around it."""
    border = max(2, int(np.ceil(mm / cavity.pitch)))
    left, low = (place - border * cavity.pitch for place in cavity.corner)
    front, back = (np.pad(each, border) for each in (cavity.front, cavity.back))
    return replace(cavity, front=front, back=back, corner=(left, low))


def _outermost(
    vertices: NDArray[np.float64], faces: NDArray[np.uint32], shape: tuple[int, ...], pitch: float
) -> Depths:
    """The highest place over every place looked at, float32 (4 H, 4 W) mm; minus infinity where there is nothing."""
    rows, columns = (WITHIN * side for side in shape)
    fine, first = pitch / WITHIN, (WITHIN - 1) / (2 * WITHIN)
    places = vertices / (fine, fine, 1.0)
    places[:, 0] += first * WITHIN
    places[:, 1] = (shape[0] - 1) * WITHIN + first * WITHIN - places[:, 1]
    heights = np.full((rows, columns), NOTHING, dtype=np.float32)
    raise_on_grid(places, faces, heights)
    return heights


def _sampled(fine: Depths, pitch: float, widest: bool) -> Depths:
    """What samples are of places looked at within them: where it jumps their mean, or the deepest of them; elsewhere
    the mean of the innermost, so that ridges stay sharp."""
    rows, columns = fine.shape
    blocks = fine.reshape(rows // WITHIN, WITHIN, columns // WITHIN, WITHIN)
    means = blocks.mean(axis=(1, 3))
    half = WITHIN // 2
    inner = blocks[:, half - 1 : half + 1, :, half - 1 : half + 1].mean(axis=(1, 3))
    span = blocks.max(axis=(1, 3)) - blocks.min(axis=(1, 3))
    smooth = (np.abs(means - inner) < SMOOTH_SHARE * span) & (blocks.min(axis=(1, 3)) > 0)
    made: Depths = np.where(smooth, inner, blocks.max(axis=(1, 3)) if widest else means).astype(np.float32)
    if not widest:
        return made
    # Between samples walls are straight: beside a jump samples are as deep as those around them.
    window = np.ones((3, 3), np.uint8)
    beside = cv2.dilate((~smooth & (span > STEEP_PX * pitch)).astype(np.uint8), window) > 0
    return np.where(beside, cv2.dilate(made, window), made).astype(np.float32)


def _least_filled(top: Depths, bottom: Depths, tall: float) -> float:
    """The plane at which least lies between it and the solid; the middle of those that are as good."""
    there = np.isfinite(top)
    upper, lower = top[there][::WITHIN].astype(np.float64), bottom[there][::WITHIN].astype(np.float64)
    planes = np.linspace(0, tall, PLANES)[1:-1]
    filled = np.array([np.maximum(lower - at, 0).sum() + np.maximum(at - upper, 0).sum() for at in planes])
    good = planes[filled <= filled.min() + 1e-3 * max(1.0, float((upper - lower).sum()))]
    return float(good[len(good) // 2])


def _below(top: Depths, bottom: Depths, plane: float) -> float:
    """What of the solid lies below the plane, over places looked at, mm each."""
    there = np.isfinite(top)
    under = np.minimum(top[there], np.float32(plane)) - np.minimum(bottom[there], np.float32(plane))
    return float(np.maximum(under, 0).sum(dtype=np.float64))
