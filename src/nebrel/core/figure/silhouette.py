"""What stands out of its background, on the grid that a figure is worked out on."""

from dataclasses import dataclass
from typing import TYPE_CHECKING, Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import BadPictureError, BadValueError

if TYPE_CHECKING:
    from scipy import sparse

# Cells round the silhouette, so that the surface closes inside the grid.
ROOM = 3
LEAST_CELLS, MOST_CELLS = 32, 1024
LEAST_INSIDE = 12
WHOLE_SHARE = 0.999

_Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Silhouette:
    """The outline of a figure seen from the front.

    X runs right and Y up; the lower left corner of the box round what is covered is (0, 0) mm.

    Attributes:
        cover: float64 (H, W), 1 inside to 0 outside, top row first; the outline runs where it is one half.
        pitch: mm from sample to sample.
        low: X and Y of the lower left sample, mm.
        corner: row and column of the source at the grid's sample (0, 0), and source pixels for one sample of the grid.
        width_px, height_px: of the box round what is covered, pixels of the source.
        at_frame: whether it touches the edge of the picture.
    """

    cover: _Floats
    pitch: float
    low: tuple[float, float]
    corner: tuple[float, float, float]
    width_px: float
    height_px: float
    at_frame: bool = False

    @property
    def inside(self) -> NDArray[np.bool_]:
        """Bool (H, W)."""
        return self.cover >= 0.5

    @property
    def box(self) -> tuple[float, float]:
        """Width and height of the box round what is covered, mm."""
        mm_per_px = self.pitch / self.corner[2]
        return self.width_px * mm_per_px, self.height_px * mm_per_px

    @property
    def deep(self) -> _Floats:
        """How far inside the outline, float64 (H, W) mm; 0 outside."""
        from scipy import ndimage

        away, (row, column) = ndimage.distance_transform_edt(self.inside, return_indices=True)
        beyond = np.clip(0.5 - self.cover[row, column], 0, 0.5)
        return np.maximum(0, away - beyond) * self.pitch

    def on_grid(self, samples: NDArray[np.float32]) -> _Floats:
        """Values of a picture as large as the source, resampled to the grid, float64 (H, W)."""
        return _resample(samples, self.corner, self.cover.shape, False, "edge")

    def sharp_on_grid(self, samples: NDArray[np.float32]) -> _Floats:
        """The same with edges as sharp as the grid has room for."""
        return _resample(samples, self.corner, self.cover.shape, True, "edge")

    def samples_at(self, x: _Floats, y: _Floats) -> tuple[_Floats, _Floats]:
        """Columns and rows of the grid at places in mm, not whole."""
        return (x - self.low[0]) / self.pitch, self.cover.shape[0] - 1 - (y - self.low[1]) / self.pitch

    def source_at(self, x: _Floats, y: _Floats) -> tuple[_Floats, _Floats]:
        """Columns and rows of the source at places in mm, not whole."""
        columns, rows = self.samples_at(x, y)
        top, left, step = self.corner
        return left + step * columns, top + step * rows

    def pixel_place(self, column: float, row: float) -> tuple[float, float]:
        """X and Y of the middle of a pixel of the source, mm."""
        top, left, step = self.corner
        x = self.low[0] + (column - left) / step * self.pitch
        return x, self.low[1] + (self.cover.shape[0] - 1 - (row - top) / step) * self.pitch


def sampled(values: NDArray[np.floating], at: tuple[_Floats, _Floats]) -> _Floats:
    """Bilinear over columns × rows that are not whole, float64 (rows, columns); the border goes on beyond it."""
    columns, rows = np.meshgrid(at[0].astype(np.float32), at[1].astype(np.float32))
    found = cv2.remap(values.astype(np.float32), columns, rows, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    return np.asarray(found, dtype=np.float64)


def smoothly_sampled(values: NDArray[np.floating], at: tuple[NDArray[np.floating], NDArray[np.floating]]) -> _Floats:
    """Cubic splines over columns × rows that are not whole, float64 (rows, columns); the border goes on beyond it.

    Their slopes have no kinks between samples and no ripple, which is what light shows (Unser, "Splines: A Perfect Fit
    for Signal and Image Processing", 1999).
    """
    from scipy import ndimage

    bent = ndimage.spline_filter(np.asarray(values, dtype=np.float64), order=3, mode="mirror")
    columns, rows = (_spline_weights(places, size) for places, size in zip(at, bent.shape[::-1], strict=True))
    return np.asarray(rows @ (columns @ bent.T).T)


def _spline_weights(places: NDArray[np.floating], size: int) -> "sparse.csr_matrix":
    """What every coefficient of a cubic spline weighs at places, (N, size); mirrored at both ends."""
    from scipy import sparse

    inside = np.clip(places, 0, size - 1)
    first = np.floor(inside).astype(np.int64)
    t = inside - first
    weights = np.stack([(1 - t) ** 3, 4 - 6 * t**2 + 3 * t**3, 1 + 3 * (t + t**2 - t**3), t**3]) / 6
    columns = np.abs(np.stack([first + by for by in (-1, 0, 1, 2)]))
    columns = np.where(columns >= size, np.maximum(2 * (size - 1) - columns, 0), columns)
    rows = np.broadcast_to(np.arange(len(places)), columns.shape)
    return sparse.csr_matrix((weights.ravel(), (rows.ravel(), columns.ravel())), shape=(len(places), size))


def silhouette_of(coverage: NDArray[np.float32], mm_per_px: float, cells: int) -> Silhouette:
    """The silhouette of a cut-out picture; the lower left corner of the box round what is covered becomes (0, 0).

    Args:
        coverage: float32 (H, W), 1 material, 0 blank.
        mm_per_px: mm from pixel to pixel, above 0.
        cells: grid cells along the longer side of the box round what is covered.

    Raises:
        BadValueError: cells out of range.
        BadPictureError: nothing is cut out, or nothing is left.
    """
    if not LEAST_CELLS <= cells <= MOST_CELLS:
        raise BadValueError(f"{cells} cells along the longer side; {LEAST_CELLS} to {MOST_CELLS} would be accepted.")
    covered = coverage >= 0.5
    if int(covered.sum()) < LEAST_INSIDE:
        raise BadPictureError("Nothing of the picture is left to make a figure of; an outline to stand out is needed.")
    if covered.mean() > WHOLE_SHARE:
        raise BadPictureError(
            "Nothing is cut out of its background, so there is no outline to make a figure of; "
            "a picture with an alpha channel, or one that is cut out, is needed."
        )
    rows, columns = np.flatnonzero(covered.any(axis=1)), np.flatnonzero(covered.any(axis=0))
    tall, wide = rows[-1] - rows[0] + 1.0, columns[-1] - columns[0] + 1.0
    step = max(tall, wide) / cells
    shape = (int(np.ceil(tall / step)) + 2 * ROOM, int(np.ceil(wide / step)) + 2 * ROOM)
    # Sample centres: the box's own border lies half a source sample beyond its outermost ones.
    corner = (rows[0] - 0.5 + step * (0.5 - ROOM), columns[0] - 0.5 + step * (0.5 - ROOM), step)
    cover = sampled_on(coverage, corner, shape)
    cover[:2], cover[-2:], cover[:, :2], cover[:, -2:] = 0, 0, 0, 0
    pitch = mm_per_px * step
    low = ((0.5 - ROOM) * pitch, (tall / step - shape[0] + ROOM + 0.5) * pitch)
    at_frame = bool(covered[0].any() or covered[-1].any() or covered[:, 0].any() or covered[:, -1].any())
    return Silhouette(cover, pitch, low, corner, wide, tall, at_frame)


def sampled_on(
    samples: NDArray[np.float32], corner: tuple[float, float, float], shape: tuple[int, ...], sharp: bool = False
) -> _Floats:
    """A coverage at the samples of a grid, smoothed as far as its step asks for; blank beyond it.

    Args:
        samples: float32 (H, W).
        corner: row and column of the source at the grid's sample (0, 0), and source pixels for one sample.
        shape: of the grid.
        sharp: with edges as sharp as the grid has room for.

    Returns:
        float64 (H', W').
    """
    return _resample(samples, corner, shape, sharp, "constant")


def _resample(
    samples: NDArray[np.float32],
    corner: tuple[float, float, float],
    shape: tuple[int, ...],
    sharp: bool,
    beyond: Literal["constant", "edge"],
) -> _Floats:
    top, left, step = corner
    # A soft edge is as wide as a sample of the coarser of both: stairs of pixels are no form.
    sigma = max(1e-3, 0.35 * step) if sharp else max(0.6, 0.5 * step)
    padded = np.pad(samples, 2, mode=beyond)
    soft = cv2.GaussianBlur(padded, (0, 0), sigma, borderType=cv2.BORDER_REPLICATE)
    x = (left + step * np.arange(shape[1]) + 2).astype(np.float32)
    y = (top + step * np.arange(shape[0]) + 2).astype(np.float32)
    grid_x, grid_y = np.meshgrid(x, y)
    edge = cv2.BORDER_CONSTANT if beyond == "constant" else cv2.BORDER_REPLICATE
    found = cv2.remap(soft, grid_x, grid_y, cv2.INTER_LINEAR, borderMode=edge, borderValue=0)
    return np.asarray(found, dtype=np.float64)
