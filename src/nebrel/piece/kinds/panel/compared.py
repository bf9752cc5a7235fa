"""A panel by every source of its depth, side by side; and where that is unsure."""

import numpy as np
from numpy.typing import NDArray

from nebrel.core.bas_relief.nearness import Nearness
from nebrel.core.figure.silhouette import sampled
from nebrel.core.height import HeightField
from nebrel.piece.kinds.panel.document import PanelDocument

LEAST_SPAN = 1e-9


def by_source(document: PanelDocument, kind: str) -> PanelDocument:
    """The panel with its depth from another source; one whose heights follow tones follows both."""
    form = document.height.form
    depth = form.depth.model_copy(update={"kind": kind})
    other = form.model_copy(update={"depth": depth, "of": form.of if form.on else "both"})
    return document.model_copy(update={"height": document.height.model_copy(update={"form": other})})


def taller(found: HeightField, own: HeightField) -> NDArray[np.float64]:
    """By how much one panel stands taller than another, float64 (H, W) mm; NaN where there is nothing."""
    by = found.heights.astype(np.float64) - own.heights
    return np.where(own.material & found.material, by, np.nan)


def unsure_over(near: Nearness, field: HeightField, relief: float) -> NDArray[np.float64] | None:
    """How far off heights may be, mm of the relief, over a panel, float64; NaN where nothing is shown.

    Args:
        near: of the picture, with what its source is unsure of.
        field: heights of the panel.
        relief: mm from the furthest to the nearest.
    """
    if near.unsure is None:
        return None
    stage = near.stage
    depth = (near.depths.standing + near.depths.rounding)[stage.inside]
    shape, (top, left, step) = field.heights.shape, stage.corner
    every = max(1.0, step)
    rows, columns = (np.arange(0, side, every) for side in shape)
    at = (columns - left) / step, (rows - top) / step
    there = sampled(stage.inside.astype(np.float64), at) >= 0.5
    scale = relief / max(float(np.ptp(depth)), LEAST_SPAN)
    return np.where(there, sampled(near.unsure, at) * scale, np.nan)
