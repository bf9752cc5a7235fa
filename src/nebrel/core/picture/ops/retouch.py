"""Changes by hand: brush strokes and what they leave."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import BadValueError
from nebrel.core.picture.picture import Picture, Tones

_SUBPIXEL_BITS = 4
# How much further than its radius the library's smoothed disc reaches, measured.
_DRAWN_WIDER_PX = 0.85
_CALM_PX = 1.5
_HEAL_REACH_PX = 4


@dataclass(frozen=True)
class PixelStroke:
    """One drag of a brush.

    Attributes:
        places: float64 (N, 3) column, row and pressure 0..1 of its points, N at least 1.
        radius_px: half its width at full pressure.
        hardness: 1 a sharp rim, 0 soft from the middle on.
    """

    places: NDArray[np.float64]
    radius_px: float
    hardness: float = 1.0


def mirrored(stroke: PixelStroke, centre: tuple[float, float], axes: int, angle: float) -> list[PixelStroke]:
    """A stroke with all its mirror images about evenly spread axes: the orbit of the dihedral group, 2 × axes strokes.

    Args:
        stroke: what was drawn.
        centre: column and row where the axes meet.
        axes: how many; none leaves the stroke alone.
        angle: of the first from upright, radians, counter-clockwise.
    """
    away = stroke.places[:, :2] - np.array(centre)
    images = [stroke]
    for number in range(axes):
        # Rows run down, so an axis that leans to the left has a negative slope here.
        double = 2 * (np.pi / 2 - angle - number * np.pi / axes)
        flip = np.array([[np.cos(double), np.sin(double)], [np.sin(double), -np.cos(double)]])
        images.append(_moved_stroke(stroke, away @ flip.T + np.array(centre)))
        if number:
            turn = 2 * np.pi * number / axes
            spin = np.array([[np.cos(turn), -np.sin(turn)], [np.sin(turn), np.cos(turn)]])
            images.append(_moved_stroke(stroke, away @ spin.T + np.array(centre)))
    return images


def _moved_stroke(stroke: PixelStroke, spots: NDArray[np.float64]) -> PixelStroke:
    return replace(stroke, places=np.column_stack([spots, stroke.places[:, 2]]))


def stroke_mask(shape: tuple[int, int], strokes: Sequence[PixelStroke]) -> Tones:
    """float32 (H, W), 1 where a stroke covers a pixel wholly, 0 where none does."""
    mask = np.zeros(shape, dtype=np.float32)
    for stroke in strokes:
        np.maximum(mask, _mask_of(shape, stroke), out=mask)
    return mask


def _mask_of(shape: tuple[int, int], stroke: PixelStroke) -> Tones:
    soft = stroke.radius_px * (1 - stroke.hardness) / 2
    canvas = np.zeros(shape, dtype=np.uint8)
    places = _dense(stroke.places, max(0.5, stroke.radius_px / 6))
    unit = 1 << _SUBPIXEL_BITS
    limit = 2**26
    for column, row, pressure in places:
        radius = max(0.1, stroke.radius_px * pressure - soft - _DRAWN_WIDER_PX)
        centre = (int(np.clip(column * unit, -limit, limit)), int(np.clip(row * unit, -limit, limit)))
        cv2.circle(canvas, centre, int(radius * unit), 255, cv2.FILLED, cv2.LINE_AA, _SUBPIXEL_BITS)
    mask = canvas.astype(np.float32) / np.float32(255)
    return mask if soft < 0.3 else np.asarray(cv2.GaussianBlur(mask, (0, 0), soft))


def _dense(places: NDArray[np.float64], step: float) -> NDArray[np.float64]:
    if len(places) < 2:
        return places
    run = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(places[:, :2], axis=0).T))])
    along = np.linspace(0, run[-1], max(2, int(run[-1] / step) + 1))
    return np.column_stack([np.interp(along, run, places[:, i]) for i in range(3)])


def paint(picture: Picture, mask: Tones, tone: float) -> Picture:
    """One tone under the mask; what was blank there becomes material."""
    return replace(
        picture,
        tones=picture.tones + mask * (np.float32(tone) - picture.tones),
        coverage=np.maximum(picture.coverage, mask),
    )


def erase(picture: Picture, mask: Tones) -> Picture:
    """Blank under the mask."""
    return replace(picture, coverage=picture.coverage * (1 - mask))


def fill_from(picture: Picture, column: float, row: float, tolerance: float, tone: float | None) -> Picture:
    """One tone, or blank for None, in all that hangs together around a place and differs from it by `tolerance`."""
    from skimage.segmentation import flood

    height, width = picture.shape
    place = (int(np.clip(round(row), 0, height - 1)), int(np.clip(round(column), 0, width - 1)))
    found = flood(picture.tones, place, tolerance=tolerance)
    found &= (picture.coverage >= 0.5) == bool(picture.coverage[place] >= 0.5)
    mask = np.asarray(found, dtype=np.float32)
    return erase(picture, mask) if tone is None else paint(picture, mask, tone)


def clone(picture: Picture, mask: Tones, columns: float, rows: float) -> Picture:
    """What lies `columns` to the right and `rows` below, laid under the mask."""
    shift = np.array([[1.0, 0, columns], [0, 1, rows]])
    size = (picture.shape[1], picture.shape[0])
    flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
    tones = cv2.warpAffine(picture.tones, shift, size, flags=flags, borderMode=cv2.BORDER_REPLICATE)
    coverage = cv2.warpAffine(picture.coverage, shift, size, flags=flags)
    return replace(
        picture,
        tones=picture.tones + mask * (tones - picture.tones),
        coverage=picture.coverage + mask * (coverage - picture.coverage),
    )


def _calm_rim(tones: Tones, unknown: NDArray[np.uint8]) -> Tones:
    """Known tones averaged nearby, so that single noisy pixels at the rim do not streak into what is healed."""
    known = (unknown == 0).astype(np.float32)
    weight = cv2.GaussianBlur(known, (0, 0), _CALM_PX)
    return np.clip(cv2.GaussianBlur(tones * known, (0, 0), _CALM_PX) / np.maximum(weight, np.float32(1e-6)), 0, 1)


def heal(picture: Picture, mask: Tones) -> Picture:
    """What is under the mask made anew from its surroundings (fast marching, Telea 2004).

    Raises:
        BadValueError: the mask covers everything, so there are no surroundings.
    """
    hole = mask > 0.02
    if not hole.any():
        return picture
    rows, columns = np.flatnonzero(hole.any(axis=1)), np.flatnonzero(hole.any(axis=0))
    margin = 4 * _HEAL_REACH_PX
    part = (
        slice(max(0, rows[0] - margin), rows[-1] + margin + 1),
        slice(max(0, columns[0] - margin), columns[-1] + margin + 1),
    )
    unknown = (hole[part] | (picture.coverage[part] < 0.5)).astype(np.uint8)
    if unknown.all():
        raise BadValueError(
            "The healing strokes leave no surroundings to heal from; leave some of the picture uncovered."
        )
    # The library's formula adds terms of about one level, which only whole levels, and many of them, make small.
    levels = np.round(_calm_rim(picture.tones[part], unknown) * 65_535).astype(np.uint16)
    healed = cv2.inpaint(levels, unknown, _HEAL_REACH_PX, cv2.INPAINT_TELEA).astype(np.float32) / 65_535
    soft = np.minimum(1, mask[part] * 2)
    tones = picture.tones.copy()
    tones[part] += soft * (healed - tones[part])
    return replace(picture, tones=tones)
