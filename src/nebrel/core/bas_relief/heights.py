"""Heights of a bas-relief over the pixels of a picture: large form from its depth, fine form from its tones."""

from collections.abc import Callable
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.bas_relief.hold_back import Held, Shallow, hold_back
from nebrel.core.bas_relief.nearness import Nearness
from nebrel.core.bas_relief.overlaps import AxisLinks, links_of
from nebrel.core.figure.silhouette import Silhouette, smoothly_sampled

# Round a leap each side goes on by itself for so many cells of the grid.
BAND = 3.0
# How softly the line between both sides follows the cells, in cells.
SIDE_SOFT = 1.0
# Fine tones are held back for so many cells beside a leap, and then by mm less for every mm further away.
ROOM_CELLS, ROOM_SLOPE = 4.0, 0.25

_Floats = NDArray[np.float64]
_Pixels = NDArray[np.float32]
_Mask = NDArray[np.bool_]


@dataclass(frozen=True)
class FineTones:
    """Fine relief from tones.

    Attributes:
        strength: mm from black to white; negative where dark stands tall.
        radius: mm; what is broader than that is light and paint, and no form.
    """

    strength: float
    radius: float


def relief_heights(
    near: Nearness,
    coverage: _Pixels,
    wish: Shallow,
    progress: Callable[[float], None] = lambda _: None,
) -> _Pixels:
    """Heights of a relief over a picture's pixels.

    Args:
        near: how near everything is.
        coverage: float32 (H, W), of the picture that the stage was made of.
        wish: what the relief is to be.
        progress: called with the fraction done.

    Returns:
        float32 (H, W) mm, 0 on the ground; where parts hide each other both sides go on up to a line between them.
    """
    stage = near.stage
    held = hold_back(near.depths, stage.pitch, wish, lambda part: progress(0.8 * part))
    heights = _over_pixels(held, stage, coverage.shape)
    if wish.grounded:
        heights *= np.clip(coverage, 0, 1)
    progress(1.0)
    return heights


def room_for_tones(near: Nearness, shape: tuple[int, int], step: float) -> _Pixels | None:
    """How much fine tones may add or take, float32 (H, W) mm; None where nothing hides anything.

    Beside a leap it is a third of the least step to either side, so that what is in front stays in front; further away
    it grows.

    Args:
        near: how near everything is.
        shape: of the picture.
        step: least step at leaps, mm.
    """
    from scipy import ndimage

    marked = _marked(links_of(near.depths), near.stage.inside.shape) != 0
    if not marked.any():
        return None
    away = ndimage.distance_transform_edt(~marked) * near.stage.pitch
    beyond = np.maximum(away - ROOM_CELLS * near.stage.pitch, 0)
    return _at_pixels(step / 3 + ROOM_SLOPE * beyond, near.stage, shape)


def add_fine_tones(
    heights: _Pixels,
    tones: _Pixels,
    coverage: _Pixels,
    mm_per_px: float,
    fine: FineTones,
    room: _Pixels | None = None,
) -> _Pixels:
    """Heights with the fine tones of a picture on them, never below 0.

    Tones count less where they are as strong as black beside white: paint is no form.

    Args:
        heights, tones, coverage: float32 (H, W) each.
        mm_per_px: mm from pixel to pixel.
        fine: how strong, and how fine.
        room: float32 (H, W) mm, what they add or take stays below that; see `room_for_tones`.
    """
    sigma = max(0.5, fine.radius / mm_per_px)
    there = (coverage >= 0.5).astype(np.float32)
    weight = np.maximum(_blurred(there, sigma), np.float32(1e-6))
    broad = _blurred(tones * there, sigma) / weight
    by = np.tanh(tones - broad) * np.float32(fine.strength)
    if room is not None:
        most = np.maximum(room, np.float32(1e-6))
        by = most * np.tanh(by / most)
    return np.where(there > 0, np.maximum(heights + by * coverage, 0), heights).astype(np.float32)


def _blurred(values: _Pixels, sigma: float) -> _Pixels:
    return np.asarray(cv2.GaussianBlur(values, (0, 0), sigma, borderType=cv2.BORDER_REFLECT), dtype=np.float32)


def _over_pixels(held: Held, stage: Silhouette, shape: tuple[int, ...]) -> _Pixels:
    """Heights of the grid over pixels; on either side of a leap, and of the outline, they go on as they were."""
    side, band = _sides(held.links, stage.inside)
    front, behind = (_filled(held.heights, stage.inside & ~(band & taken)) for taken in (side < 0, side >= 0))
    if not band.any():
        return _at_pixels(front, stage, shape)
    line = _at_pixels(side, stage, shape)
    steep = np.hypot(*np.gradient(line))
    share = np.clip(0.5 + line / np.maximum(steep, 1e-6), 0, 1)
    over, under = _at_pixels(front, stage, shape), _at_pixels(behind, stage, shape)
    return np.asarray(under + share * (over - under), dtype=np.float32)


def _sides(links: tuple[AxisLinks, AxisLinks], inside: _Mask) -> tuple[_Floats, _Mask]:
    """Which side of the nearest leap a cell is on, float64 (H, W), 1 in front to -1 behind, and where one is near."""
    from scipy import ndimage

    marked = _marked(links, inside.shape)
    if not marked.any():
        return marked, np.zeros(inside.shape, dtype=np.bool_)
    away, (row, column) = ndimage.distance_transform_edt(marked == 0, return_indices=True)
    band = (away <= BAND) & inside
    side = np.where(away <= BAND + 4 * SIDE_SOFT, np.sign(marked[row, column]), 0.0)
    return ndimage.gaussian_filter(side, SIDE_SOFT), band


def _marked(links: tuple[AxisLinks, AxisLinks], shape: tuple[int, ...]) -> _Floats:
    """Beside leaps, above 0 in front of them and below 0 behind them; 0 elsewhere."""
    marked = np.zeros(shape)
    for each in links:
        across = each.axis == 1
        one, other = (marked[:, :-1], marked[:, 1:]) if across else (marked[:-1], marked[1:])
        one[each.leap != 0] -= each.leap[each.leap != 0]
        other[each.leap != 0] += each.leap[each.leap != 0]
    return marked


def _filled(values: _Floats, kept: _Mask) -> _Floats:
    from scipy import ndimage

    row, column = ndimage.distance_transform_edt(~kept, return_distances=False, return_indices=True)
    return np.asarray(values[row, column])


def _at_pixels(values: _Floats, stage: Silhouette, shape: tuple[int, ...]) -> _Pixels:
    top, left, step = stage.corner
    columns, rows = (np.arange(shape[1]) - left) / step, (np.arange(shape[0]) - top) / step
    return smoothly_sampled(values, (columns, rows)).astype(np.float32)
