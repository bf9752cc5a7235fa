"""What a relief shows of a picture: what is cut out, before a ground; or all of it, as a scene."""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from nebrel.core.figure.parts import PictureParts
from nebrel.core.figure.silhouette import ROOM, WHOLE_SHARE, Silhouette, sampled_on, silhouette_of
from nebrel.core.figure.swell import swell

# An area that takes up so much of the frame's edge is what is behind everything.
BEHIND_SHARE = 0.2
# A part goes on beyond the frame by so much of the frame, so that it does not close there.
BEYOND_SHARE = 0.5
# Even what is level is a little thicker than nothing.
LEVEL_MM2 = 1e-6
LEAST_PART = 12
# Beside the frame of a picture the coverage is soft by so many pixels.
SOFT_PX = 2.0

_Floats = NDArray[np.float64]
_Mask = NDArray[np.bool_]


def is_scene(coverage: NDArray[np.float32]) -> bool:
    """Whether nothing is cut out of a picture, float32 (H, W), so that all of it is shown."""
    return bool((coverage >= 0.5).mean() > WHOLE_SHARE)


def stage_of(coverage: NDArray[np.float32], mm_per_px: float, cells: int) -> Silhouette:
    """The grid that a relief is worked out on, over what is cut out of a picture or over all of it.

    Args:
        coverage: float32 (H, W), 1 material, 0 blank.
        mm_per_px: mm from pixel to pixel, above 0.
        cells: along the longer side.

    Raises:
        BadPictureError: nothing is to be seen.
    """
    if not is_scene(coverage):
        return silhouette_of(coverage, mm_per_px, cells)
    rows, columns = coverage.shape
    step = max(rows, columns) / cells
    shape = (int(np.ceil(rows / step)) + 2 * ROOM, int(np.ceil(columns / step)) + 2 * ROOM)
    corner = (-0.5 + step * (0.5 - ROOM), -0.5 + step * (0.5 - ROOM), step)
    cover = sampled_on(np.ones_like(coverage), corner, shape)
    cover[:2], cover[-2:], cover[:, :2], cover[:, -2:] = 0, 0, 0, 0
    pitch = mm_per_px * step
    low = ((0.5 - ROOM) * pitch, (rows / step - shape[0] + ROOM + 0.5) * pitch)
    return Silhouette(cover, pitch, low, corner, float(columns), float(rows), at_frame=True)


def swollen(stage: Silhouette, source: tuple[int, int]) -> _Floats:
    """Square of the half thickness that what is cut out swells to, float64 (H, W) mm².

    What the frame of the picture cuts off goes on beyond it: a bust does not round off below.

    Args:
        stage: of what is cut out.
        source: rows and columns of the picture.
    """
    if not stage.at_frame:
        return swell(stage)
    rows, columns = _in_picture(stage, source)
    within = stage.cover[rows, columns]
    beyond = int(BEYOND_SHARE * max(within.shape))
    wide = np.pad(np.pad(within, beyond, mode="symmetric"), ROOM)
    wide[:2], wide[-2:], wide[:, :2], wide[:, -2:] = 0, 0, 0, 0
    found = swell(replace(stage, cover=wide))
    around = beyond + ROOM
    kept = found[around - rows.start :, around - columns.start :][: stage.cover.shape[0], : stage.cover.shape[1]]
    return np.where(stage.inside, np.maximum(kept, LEVEL_MM2), np.minimum(swell(stage), 0))


def cut_by_frame(stage: Silhouette, source: tuple[int, int]) -> _Mask:
    """Where what is shown ends only because the picture does, bool (H, W); arguments as of `swollen`."""
    rows, columns = _in_picture(stage, source)
    beyond = np.ones(stage.cover.shape, dtype=np.bool_)
    beyond[rows.start + 1 : rows.stop - 1, columns.start + 1 : columns.stop - 1] = False
    return stage.inside & beyond


def _in_picture(stage: Silhouette, source: tuple[int, int]) -> tuple[slice, slice]:
    """Rows and columns of the grid that lie on the picture, and not on its soft edge."""
    found = []
    for start, size, cells in zip(stage.corner[:2], source, stage.cover.shape, strict=True):
        first = max(0, int(np.ceil((SOFT_PX - start) / stage.corner[2])))
        last = int(np.floor((size - 1 - SOFT_PX - start) / stage.corner[2]))
        found.append(slice(first, min(last + 1, cells)))
    return found[0], found[1]


def behind_all(stage: Silhouette, parts: PictureParts) -> _Mask:
    """Where the parts of a scene are that take up much of its frame, bool (H, W): they are behind everything."""
    frame = _frame(stage)
    labels = parts.labels[frame]
    edge = np.concatenate([labels[0], labels[-1], labels[:, 0], labels[:, -1]])
    behind = np.bincount(edge[edge >= 0], minlength=int(labels.max()) + 1) > BEHIND_SHARE * len(edge)
    return np.where(stage.inside, behind[np.maximum(parts.labels, 0)], False)


def swollen_parts(stage: Silhouette, parts: PictureParts, behind: _Mask) -> _Floats:
    """Square of the half thickness that every part of a scene swells to, float64 (H, W) mm²; 0 outside.

    What is behind stays level. Parts that reach the frame go on beyond it.
    """
    frame = _frame(stage)
    labels = np.where(behind, -1, parts.labels)[frame]
    beyond = int(BEYOND_SHARE * max(labels.shape))
    wide = np.pad(labels, beyond, mode="symmetric")
    square = np.full(wide.shape, LEVEL_MM2)
    for label in np.flatnonzero(np.bincount(labels[labels >= 0]) >= LEAST_PART):
        own = np.pad(wide == label, ROOM)
        part = Silhouette(own.astype(np.float64), stage.pitch, (0.0, 0.0), (0.0, 0.0, 1.0), 1.0, 1.0)
        square = np.where(wide == label, np.maximum(swell(part)[ROOM:-ROOM, ROOM:-ROOM], LEVEL_MM2), square)
    all_of_it = np.zeros(stage.inside.shape)
    all_of_it[frame] = square[beyond : beyond + labels.shape[0], beyond : beyond + labels.shape[1]]
    return np.where(stage.inside, all_of_it, 0.0)


def _frame(stage: Silhouette) -> tuple[slice, slice]:
    """The box of what is shown, rows and columns of the grid."""
    rows, columns = np.flatnonzero(stage.inside.any(axis=1)), np.flatnonzero(stage.inside.any(axis=0))
    return slice(rows[0], rows[-1] + 1), slice(columns[0], columns[-1] + 1)
