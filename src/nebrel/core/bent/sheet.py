"""A wall before it is bent: how thick it is at every place of a grid whose lines may lie at any distance."""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import BadValueError
from nebrel.core.height.lines.network import HeightLines

Floats = NDArray[np.float64]
# The border slopes towards the picture by so many mm of height for each mm, within half of its width.
STEEPNESS = 2.0
LEAST_WALL_MM = 0.1
EVEN_MM = 1e-6
LEAST_SHOWN_MM = 0.1


@dataclass(frozen=True)
class Border:
    """A plain rim round the picture: how far it reaches in from each edge, and how thick it is, mm."""

    left: float = 0.0
    right: float = 0.0
    top: float = 0.0
    bottom: float = 0.0
    thickness: float = 3.0


@dataclass(frozen=True)
class Sheet:
    """A wall over a grid.

    Attributes:
        u: float64 (W,) rising, mm from the left edge.
        v: float64 (H,) falling, mm from the lower edge; row 0 is the top.
        thickness: float32 (H, W) mm, above 0.
        window: (left, bottom, right, top) mm of what shows the picture.
        picture_low: v of the picture's lower edge, which may lie outside the window.
        pitch: mm between samples of the picture.
        slopes: how far the border slopes towards the picture on the left, below, on the right and on top, mm.
        lines: where its thickness jumps, in samples of the grid, as thick as `thickness`; None where it follows its
            samples everywhere.
    """

    u: Floats
    v: Floats
    thickness: NDArray[np.float32]
    window: tuple[float, float, float, float]
    picture_low: float
    pitch: float
    slopes: tuple[float, float, float, float] = (0.0, 0.0, 0.0, 0.0)
    lines: HeightLines | None = None

    @property
    def even(self) -> bool:
        """Whether its lines are equally far apart both ways."""
        across, down = np.diff(self.u), -np.diff(self.v)
        return bool(np.ptp(across) + np.ptp(down) + abs(across[0] - down[0]) < EVEN_MM)


def lay_out(
    picture: NDArray[np.float32],
    width: float,
    height: float,
    border: Border,
    picture_low: float,
    corners: tuple[tuple[float, float], ...] = (),
) -> Sheet:
    """A picture of thicknesses on a sheet: as wide as its borders leave, cropped where it is too high.

    Args:
        picture: float32 (H, W) mm, top row first, at least 2 × 2.
        width, height: of the sheet, mm.
        border: what lies outside the picture is as thick as the border, whatever its width.
        picture_low: v of the picture's lower edge.
        corners: (u, clear) of lines that become columns of their own; none other lies within `clear` mm of them.

    Raises:
        BadValueError: the borders leave nothing.
    """
    left, right = border.left, width - border.right
    rows, columns = picture.shape
    pitch = (right - left) / (columns - 1)
    bottom, top = max(border.bottom, picture_low), min(height - border.top, picture_low + (rows - 1) * pitch)
    if not (pitch > 0 and top - bottom > min(pitch, LEAST_SHOWN_MM)):
        raise BadValueError(
            f"The border leaves nothing of a sheet of {width:.1f} × {height:.1f} mm; a narrower border is needed."
        )
    drop = float(np.abs(picture - np.float32(border.thickness)).max()) / STEEPNESS
    u, column_of = _lines(left, right, left, pitch, columns, width, drop)
    v, row_of = _lines(bottom, top, picture_low, pitch, rows, height, drop)
    for place, clear in corners:
        kept = (np.abs(u - place) > max(clear, pitch / 4)) | (u <= 0) | (u >= width)
        inserted = int(np.searchsorted(u[kept], place))
        inner = 1e-9 < place < width - 1e-9
        u, column_of = u[kept], column_of[kept]
        if inner:
            u = np.insert(u, inserted, place)
            column_of = np.insert(column_of, inserted, (place - left) / pitch)
    order = np.argsort(-v)
    window = (left, bottom, right, top)
    if window == (0.0, 0.0, width, height) and len(u) == columns and len(v) == rows and not corners:
        return Sheet(u, v[order], picture, window, picture_low, pitch)
    inside = _sample(picture, row_of, column_of)
    share = np.minimum(_share_shown(v, bottom, top, drop)[:, np.newaxis], _share_shown(u, left, right, drop))
    thickness = np.float32(border.thickness) + (inside - np.float32(border.thickness)) * share
    low, below, high, above = (
        _slope(side, drop) if side > 1e-9 else 0.0 for side in (left, bottom, width - right, height - top)
    )
    return Sheet(u, v[order], thickness[order], window, picture_low, pitch, (low, below, high, above))


def _lines(
    first: float, last: float, origin: float, pitch: float, count: int, end: float, drop: float
) -> tuple[Floats, Floats]:
    """Places of lines from 0 to `end`, and which line of the picture each is; the picture is from `first` to `last`."""
    lines = origin + pitch * np.arange(count)
    near = pitch / 4
    inner = lines[(lines > first + near) & (lines < last - near)]
    parts = [np.array([first]), inner, np.array([last])]
    if first > 1e-9:
        slope = _slope(first, drop)
        parts = [_space(0, first - slope, pitch), _space(first - slope, first, pitch)[1:-1], *parts]
    if last < end - 1e-9:
        slope = _slope(end - last, drop)
        parts = [*parts, _space(last, last + slope, pitch)[1:-1], _space(last + slope, end, pitch)]
    places = np.concatenate(parts)
    return places, np.clip((places - origin) / pitch, 0, count - 1)


def _slope(border: float, drop: float) -> float:
    """How far the slope between a border and the picture reaches."""
    return min(border / 2, max(drop, 1e-3))


def _share_shown(lines: Floats, first: float, last: float, drop: float) -> NDArray[np.float32]:
    """How much of the picture there is at every line: 1 inside, 0 on the border, between them on the slope."""
    before, after = _slope(first, drop), _slope(float(lines.max()) - last, drop)
    into = np.ones(len(lines))
    if first > 1e-9:
        into = np.minimum(into, (lines - first) / before + 1)
    if lines.max() - last > 1e-9:
        into = np.minimum(into, (last - lines) / after + 1)
    return np.clip(into, 0, 1).astype(np.float32)


def _space(low: float, high: float, pitch: float) -> Floats:
    return np.linspace(low, high, max(1, int(np.ceil((high - low) / pitch - 1e-6))) + 1)


def _sample(picture: NDArray[np.float32], row_of: Floats, column_of: Floats) -> NDArray[np.float32]:
    """The picture at broken rows, counted from its lower edge, and broken columns."""
    rows, columns = picture.shape
    down = rows - 1 - row_of
    upper = np.clip(np.floor(down + 1e-9).astype(np.int64), 0, rows - 2)
    before = np.clip(np.floor(column_of + 1e-9).astype(np.int64), 0, columns - 2)
    share_y = np.clip(down - upper, 0, 1).astype(np.float32)
    share_x = np.clip(column_of - before, 0, 1).astype(np.float32)
    share_y[share_y < 1e-6] = 0
    share_x[share_x < 1e-6] = 0
    high = picture[upper]
    if share_y.any():
        high = high + (picture[upper + 1] - high) * share_y[:, np.newaxis]
    left = high[:, before]
    if not share_x.any():
        return left
    return left + (high[:, before + 1] - left) * share_x


def inscribe(sheet: Sheet, cover: NDArray[np.float32], box: tuple[float, float, float, float], depth: float) -> Sheet:
    """The sheet with a drawing raised by `depth` mm, or sunk where that is below 0.

    Args:
        cover: float32 (h, w), 0 to 1, how much of the drawing there is; top row first.
        box: (left, bottom, right, top) mm that the drawing fills.
    """
    from scipy import ndimage

    left, bottom, right, top = box
    across = np.flatnonzero((sheet.u >= left) & (sheet.u <= right))
    down = np.flatnonzero((sheet.v >= bottom) & (sheet.v <= top))
    if len(across) == 0 or len(down) == 0:
        return sheet
    rows, columns = cover.shape
    x = (sheet.u[across] - left) / (right - left) * columns - 0.5
    y = (top - sheet.v[down]) / (top - bottom) * rows - 0.5
    blur = 0.5 * np.array([rows * sheet.pitch / (top - bottom), columns * sheet.pitch / (right - left)])
    soft = ndimage.gaussian_filter(cover, np.maximum(0.0, 0.6 * blur))
    drawn = ndimage.map_coordinates(soft, np.meshgrid(y, x, indexing="ij"), order=1, mode="constant")
    thickness = sheet.thickness.copy()
    thickness[np.ix_(down, across)] += np.float32(depth) * drawn.astype(np.float32)
    return replace(sheet, thickness=np.maximum(thickness, np.float32(LEAST_WALL_MM)))
