"""What a hand says of a figure that its picture cannot: strokes that move parts, and shape the front."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from nebrel.core.figure.form import FigureForm
from nebrel.core.figure.parts import PictureParts, spread
from nebrel.core.figure.silhouette import Silhouette
from nebrel.core.picture.ops.retouch import PixelStroke, stroke_mask

StrokeKind = Literal["nearer", "farther", "level", "thicker", "thinner", "ridge", "crease", "flat", "hole"]
MOVING = ("nearer", "farther", "level")
SWELLING = ("thicker", "thinner")
# How far a stroke reaches where no edge stops it, as a share of the figure's longer side.
PART_REACH, SWELL_REACH = 0.35, 0.12
# A step between two parts is as soft as so many samples, so that it has no stairs.
SOFT_STEP = 1.0
# No stroke makes a part thinner than this share of what it was, or thicker than so many times.
LEAST_SHARE, MOST_SHARE = 0.05, 20.0

_Floats = NDArray[np.float64]


@dataclass(frozen=True)
class HandStroke:
    """A stroke over the picture.

    Attributes:
        kind: `nearer` and `farther` move the part under it; `level` brings all that it crosses to the same depth;
            `thicker` and `thinner` change how far front and back are apart, near it only; `ridge` and `crease` raise
            and sink the front along it; `flat` levels the front under it; `hole` goes through.
        places: float64 (N, 2), columns and rows of the source.
        radius: half its width, pixels of the source, above 0.
        amount: mm, where the kind needs one.
    """

    kind: StrokeKind
    places: _Floats
    radius: float
    amount: float = 0.0

    def on(self, silhouette: Silhouette, wider: float = 1.0) -> _Floats:
        """Where it is on the grid, float64 (H, W), 1 under it to 0."""
        top, left, step = silhouette.corner
        columns, rows = (self.places[:, 0] - left) / step, (self.places[:, 1] - top) / step
        places = np.column_stack([columns, rows, np.ones(len(rows))])
        radius = max(0.75, wider * self.radius / step)
        height, width = silhouette.cover.shape
        return stroke_mask((height, width), [PixelStroke(places, radius, 1.0)]).astype(np.float64)


def pierce(silhouette: Silhouette, strokes: Sequence[HandStroke]) -> Silhouette:
    """The silhouette with the holes that were drawn."""
    cover = silhouette.cover
    for stroke in strokes:
        if stroke.kind == "hole":
            cover = np.minimum(cover, 1 - stroke.on(silhouette))
    return silhouette if cover is silhouette.cover else replace(silhouette, cover=cover)


def left_to_move(strokes: Sequence[HandStroke], followed: Sequence[float]) -> tuple[HandStroke, ...]:
    """Strokes less by how much a source of depth moved the front under each of them already, mm."""
    if not followed:
        return tuple(strokes)
    signs = {"nearer": 1.0, "farther": -1.0}
    return tuple(
        replace(stroke, amount=stroke.amount - signs.get(stroke.kind, 0.0) * by)
        for stroke, by in zip(strokes, followed, strict=True)
    )


def moved_by(silhouette: Silhouette, middle: _Floats, strokes: Sequence[HandStroke], parts: PictureParts) -> _Floats:
    """By how much strokes move parts nearer, float64 (H, W) mm; a later stroke holds where two cross."""
    held, values = np.zeros(middle.shape), np.zeros(middle.shape)
    for stroke in strokes:
        if stroke.kind not in MOVING:
            continue
        there = parts.meant(stroke.on(silhouette))
        if not there.any():
            continue
        if stroke.kind == "level":
            now = middle + values
            target = float(now[there].mean()) - middle
        else:
            target = np.full(middle.shape, stroke.amount if stroke.kind == "nearer" else -stroke.amount)
        values[there], held[there] = target[there], 1.0
    if not held.any():
        return np.zeros(middle.shape)
    by = spread(parts, held, values, PART_REACH * max(silhouette.cover.shape))
    return softened(by, silhouette.inside)


def swelled(silhouette: Silhouette, square: _Floats, strokes: Sequence[HandStroke], parts: PictureParts) -> _Floats:
    """Square of the half thickness after strokes that make thicker or thinner, float64 (H, W) mm²."""
    half = np.sqrt(np.maximum(square, 0))
    held, values = np.zeros(square.shape), np.zeros(square.shape)
    for stroke in strokes:
        if stroke.kind not in SWELLING:
            continue
        there = parts.meant(stroke.on(silhouette))
        if not there.any():
            continue
        # By as many mm at the thickest place under the stroke; all round it in proportion.
        thickest = max(2 * float(half[there].max()), 1e-9)
        amount = stroke.amount if stroke.kind == "thicker" else -stroke.amount
        values[there] = np.log(np.clip((thickest + amount) / thickest, LEAST_SHARE, MOST_SHARE))
        held[there] = 1.0
    if not held.any():
        return square
    grown = softened(spread(parts, held, values, SWELL_REACH * max(silhouette.cover.shape)), silhouette.inside)
    return np.where(square > 0, square * np.exp(2 * grown), square)


def shaped_front(form: FigureForm, strokes: Sequence[HandStroke]) -> FigureForm:
    """The form after strokes that shape its front: ridges, creases and flat places."""
    inside = form.square > 0
    half = form.half
    # The outline stays where it is: nothing rises from where the figure has no thickness.
    front = drawn_on(form.middle + half, form.silhouette, strokes, lambda amount: np.minimum(1.0, 2 * half / amount))
    back = form.middle - half
    thick = np.maximum(front - back, LEAST_SHARE * 2 * half) / 2
    return replace(
        form, middle=np.where(inside, back + thick, form.middle), square=np.where(inside, thick**2, form.square)
    )


def drawn_on(
    front: _Floats, silhouette: Silhouette, strokes: Sequence[HandStroke], room: Callable[[float], _Floats]
) -> _Floats:
    """A front after strokes that shape it: ridges, creases and flat places, float64 (H, W) mm.

    Args:
        front: float64 (H, W) mm.
        silhouette: where it is.
        strokes: of any kind.
        room: how much of so many mm there is room for, float64 (H, W), 0 to 1.
    """
    from scipy import ndimage

    inside, front = silhouette.inside, front.copy()
    for stroke in strokes:
        if stroke.kind == "flat":
            under = stroke.on(silhouette) * inside
            if under.max() >= 0.5:
                front += under * (_plane(front, under) - front)
        elif stroke.kind in ("ridge", "crease"):
            line = stroke.on(silhouette, wider=0.0) >= 0.5
            if not (line & inside).any():
                continue
            away = ndimage.distance_transform_edt(~line) * silhouette.corner[2]
            by = stroke.amount * np.clip(1 - away / max(stroke.radius, silhouette.corner[2]), 0, 1)
            by *= room(max(stroke.amount, 1e-9))
            front += np.where(inside, by if stroke.kind == "ridge" else -by, 0.0)
    return front


def softened(values: _Floats, inside: NDArray[np.bool_], samples: float = SOFT_STEP) -> _Floats:
    """Values with steps as soft as so many samples, of what is inside only."""
    from scipy import ndimage

    weight = ndimage.gaussian_filter(inside.astype(np.float64), samples)
    return np.where(inside, ndimage.gaussian_filter(values, samples) / np.maximum(weight, 1e-9), 0.0)


def _plane(front: _Floats, under: _Floats) -> _Floats:
    """The plane through the front under a stroke, float64 (H, W) mm."""
    rows, columns = np.indices(front.shape)
    every = np.column_stack([columns.ravel(), rows.ravel(), np.ones(front.size)])
    weight = np.sqrt(under.ravel())
    used = weight > 0
    found = np.linalg.lstsq(every[used] * weight[used, np.newaxis], front.ravel()[used] * weight[used], rcond=None)[0]
    plane: _Floats = (every @ found).reshape(front.shape)
    return plane
