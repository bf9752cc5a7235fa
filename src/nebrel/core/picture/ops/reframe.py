"""Changes of the frame: what of the picture is seen, from where, and with how many pixels.

Every function returns the new picture and the 3 × 3 matrix that takes places in the old array, `(column, row, 1)` with
pixel centres on whole numbers, to places in the new one. What comes from outside the old picture is blank.
"""

from collections.abc import Callable
from dataclasses import replace
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image

from nebrel.core.errors import BadValueError
from nebrel.core.picture.picture import Picture, Tones

Matrix = NDArray[np.float64]
LARGEST_SIDE_PX = 16_384
_EDGE_SIGMA_TONE = 0.08


class Reframed(NamedTuple):
    """A picture in its new frame, and where the old places went."""

    picture: Picture
    moved: Matrix


class Box(NamedTuple):
    """A part of a picture in shares of its extent, from the lower left corner."""

    left: float
    bottom: float
    right: float
    top: float


def crop(picture: Picture, box: Box) -> Reframed:
    """The part of the picture inside `box`, to whole pixels.

    Raises:
        BadValueError: the box leaves fewer than 2 × 2 pixels.
    """
    height, width = picture.shape
    left, right = (round(np.clip(share, 0, 1) * (width - 1)) for share in (box.left, box.right))
    top, bottom = (round((1 - np.clip(share, 0, 1)) * (height - 1)) for share in (box.top, box.bottom))
    if right - left < 1 or bottom - top < 1:
        raise BadValueError(
            "The crop leaves nothing of the picture; a box that covers at least 2 × 2 of its pixels is needed."
        )
    cut = (slice(top, bottom + 1), slice(left, right + 1))
    return Reframed(_each(picture, lambda samples: samples[cut]), _shift(-left, -top))


def content_box(picture: Picture, background: float | None = None, threshold: float = 0.06) -> Box:
    """The smallest box around what the picture shows: its material, apart from the tone of its background.

    Args:
        picture: to look at.
        background: the tone that counts as empty; by default the median tone of the rim.
        threshold: a tone further than this from the background is content.

    Raises:
        BadValueError: nothing stands out of the background.
    """
    rim = np.concatenate([picture.tones[0], picture.tones[-1], picture.tones[:, 0], picture.tones[:, -1]])
    empty = float(np.median(rim)) if background is None else background
    smooth = cv2.GaussianBlur(picture.tones, (0, 0), 1.0)
    content = picture.coverage >= 0.5
    if content.all():
        content = np.abs(smooth - empty) > threshold
    rows, columns = np.flatnonzero(content.any(axis=1)), np.flatnonzero(content.any(axis=0))
    if rows.size < 2 or columns.size < 2:
        raise BadValueError("Nothing stands out of the background, so there is nothing to trim to.")
    down, across = picture.shape[0] - 1, picture.shape[1] - 1
    return Box(
        left=max(0.0, (columns[0] - 1) / across),
        bottom=max(0.0, 1 - (rows[-1] + 1) / down),
        right=min(1.0, (columns[-1] + 1) / across),
        top=min(1.0, 1 - (rows[0] - 1) / down),
    )


def flip(picture: Picture, across: bool) -> Reframed:
    """The picture mirrored left to right (`across`) or top to bottom."""
    height, width = picture.shape
    if across:
        moved = np.array([[-1.0, 0, width - 1], [0, 1, 0], [0, 0, 1]])
        return Reframed(_each(picture, lambda samples: samples[:, ::-1]), moved)
    moved = np.array([[1.0, 0, 0], [0, -1, height - 1], [0, 0, 1]])
    return Reframed(_each(picture, lambda samples: samples[::-1]), moved)


def turn(picture: Picture, angle_deg: float, keep_size: bool = False) -> Reframed:
    """The picture turned counter-clockwise; whole quarters move pixels, other angles resample them.

    Args:
        picture: to turn.
        angle_deg: any angle.
        keep_size: cut back to the largest upright box without blanks, with the old proportions.
    """
    quarters = round(angle_deg / 90)
    height, width = picture.shape
    if abs(angle_deg - 90 * quarters) < 1e-9:
        turned = _each(picture, lambda samples: np.rot90(samples, quarters % 4))
        moved = _about(width, height, turned.shape[1], turned.shape[0], np.deg2rad(90 * (quarters % 4)), 1.0)
        return Reframed(turned, moved)
    angle = np.deg2rad(angle_deg)
    new_width, new_height = turned_size(width, height, angle_deg, keep_size)
    moved = _about(width, height, new_width, new_height, angle, 1.0)
    return Reframed(_warp(picture, moved, (new_width, new_height)), moved)


def turned_size(width: float, height: float, angle_deg: float, keep_size: bool) -> tuple[int, int]:
    """Columns and rows after `turn`."""
    sine, cosine = abs(np.sin(np.deg2rad(angle_deg))), abs(np.cos(np.deg2rad(angle_deg)))
    across, down = width - 1, height - 1
    if keep_size:
        shrink = min(across / (across * cosine + down * sine), down / (across * sine + down * cosine))
        return max(2, int(across * shrink) + 1), max(2, int(down * shrink) + 1)
    return round(across * cosine + down * sine) + 1, round(across * sine + down * cosine) + 1


def straighten_sheet(picture: Picture, corners: NDArray[np.float64]) -> Reframed:
    """The four-sided sheet inside `corners` as an upright rectangle, as if seen from straight above.

    Args:
        picture: a photograph of a sheet.
        corners: float64 (4, 2) shares from the lower left: lower left, lower right, upper right, upper left.

    Raises:
        BadValueError: the corners do not bound a convex four-sided area.
    """
    height, width = picture.shape
    places = np.column_stack([corners[:, 0] * (width - 1), (1 - corners[:, 1]) * (height - 1)]).astype(np.float32)
    edges = np.roll(places, -1, axis=0) - places
    turns = edges[:, 0] * np.roll(edges[:, 1], -1) - edges[:, 1] * np.roll(edges[:, 0], -1)
    if not (turns < -1).all():
        raise BadValueError(
            "The four corners must go round the sheet without crossing, starting at its lower left corner."
        )
    lengths = np.hypot(edges[:, 0], edges[:, 1])
    new_width = max(2, round(float(lengths[[0, 2]].mean())) + 1)
    new_height = max(2, round(float(lengths[[1, 3]].mean())) + 1)
    across, down = new_width - 1, new_height - 1
    upright = np.array([[0, down], [across, down], [across, 0], [0, 0]], dtype=np.float32)
    moved = np.asarray(cv2.getPerspectiveTransform(places, upright), dtype=np.float64)
    return Reframed(_warp(picture, moved, (new_width, new_height)), moved)


def surround(picture: Picture, left: int, bottom: int, right: int, top: int, tone: float | None) -> Reframed:
    """The picture with more canvas around it, whole pixels on each side, in one tone or, for None, blank.

    Raises:
        BadValueError: the result would be larger than 16,384 pixels a side.
    """
    height, width = picture.shape
    if max(height + top + bottom, width + left + right) > LARGEST_SIDE_PX:
        raise BadValueError(
            f"With this border the picture would be {width + left + right:,} × {height + top + bottom:,} pixels; "
            f"up to {LARGEST_SIDE_PX:,} a side are accepted."
        )
    around = ((top, bottom), (left, right))
    wide = replace(
        picture,
        tones=np.pad(picture.tones, around, constant_values=np.float32(tone or 0.0)),
        coverage=np.pad(picture.coverage, around, constant_values=np.float32(tone is not None)),
        rgb=None
        if picture.rgb is None
        else np.pad(picture.rgb, (*around, (0, 0)), constant_values=np.float32(tone or 0.0)),
    )
    return Reframed(wide, _shift(left, top))


def resample(picture: Picture, columns: int, rows: int) -> Reframed:
    """The picture with another number of pixels over the same extent.

    Fewer pixels come from a Lanczos filter of three lobes. More pixels come from cubic interpolation, held between
    the darkest and brightest neighbour so that edges get no halo, then smoothed along edges only (bilateral filter,
    Tomasi and Manduchi 1998); this adds no detail.
    """
    height, width = picture.shape
    moved = np.diag([(columns - 1) / (width - 1), (rows - 1) / (height - 1), 1.0])
    if columns <= width and rows <= height:
        return Reframed(_each(picture, lambda samples: _lanczos(samples, columns, rows)), moved)
    larger = _warp(picture, moved, (columns, rows))
    low = cv2.warpPerspective(cv2.erode(picture.tones, _AROUND), moved, (columns, rows), flags=cv2.INTER_LINEAR)
    high = cv2.warpPerspective(cv2.dilate(picture.tones, _AROUND), moved, (columns, rows), flags=cv2.INTER_LINEAR)
    reach = max(1.0, columns / width)
    tones = cv2.bilateralFilter(np.clip(larger.tones, low, high), 5, _EDGE_SIGMA_TONE, reach)
    return Reframed(replace(larger, tones=np.asarray(tones, dtype=np.float32)), moved)


_AROUND = np.ones((3, 3), dtype=np.uint8)


def _each(picture: Picture, change: Callable[[Tones], Tones]) -> Picture:
    rgb = picture.rgb
    return replace(
        picture,
        tones=np.ascontiguousarray(change(picture.tones)),
        coverage=np.ascontiguousarray(change(picture.coverage)),
        rgb=None if rgb is None else np.ascontiguousarray(change(rgb)),
    )


def _lanczos(samples: Tones, columns: int, rows: int) -> Tones:
    if samples.ndim == 3:
        return np.dstack([_lanczos(np.ascontiguousarray(samples[..., i]), columns, rows) for i in range(3)])
    if samples.min() == samples.max():
        return np.full((rows, columns), samples.flat[0], dtype=np.float32)
    image = Image.fromarray(np.ascontiguousarray(samples))
    resized = np.asarray(image.resize((columns, rows), Image.Resampling.LANCZOS), dtype=np.float32)
    return np.clip(resized, 0, 1)


def _warp(picture: Picture, moved: Matrix, size: tuple[int, int]) -> Picture:
    def warp(samples: Tones, smooth: int, border: int) -> Tones:
        return np.clip(cv2.warpPerspective(samples, moved, size, flags=smooth, borderMode=border), 0, 1)

    return replace(
        picture,
        tones=warp(picture.tones, cv2.INTER_CUBIC, cv2.BORDER_REPLICATE),
        coverage=warp(picture.coverage, cv2.INTER_LINEAR, cv2.BORDER_CONSTANT),
        rgb=None if picture.rgb is None else warp(picture.rgb, cv2.INTER_CUBIC, cv2.BORDER_REPLICATE),
    )


def _shift(columns: float, rows: float) -> Matrix:
    return np.array([[1.0, 0, columns], [0, 1, rows], [0, 0, 1]])


def _about(width: int, height: int, new_width: int, new_height: int, angle: float, scale: float) -> Matrix:
    """Turn counter-clockwise about the old centre and move that to the new centre; rows count downwards."""
    cosine, sine = scale * np.cos(angle), scale * np.sin(angle)
    turned = np.array([[cosine, sine, 0], [-sine, cosine, 0], [0, 0, 1]])
    centre, target = _shift(-(width - 1) / 2, -(height - 1) / 2), _shift((new_width - 1) / 2, (new_height - 1) / 2)
    matrix: Matrix = target @ turned @ centre
    return matrix
