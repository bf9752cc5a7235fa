"""Parts of a figure ordered front to back: a nearer one stands before those that it hides, and they go on behind it."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.figure.form import FigureForm
from nebrel.core.figure.hand import LEAST_SHARE, HandStroke, softened
from nebrel.core.figure.parts import PictureParts, spread
from nebrel.core.figure.silhouette import Silhouette

# A place stands for the part under it: as wide as so many cells of the grid.
MARK_CELLS = 1.5
# Within a part the step at its edge goes on unchanged: so many times as far as the figure is large.
FAR = 30.0
# How far along an edge the step is evened out, and how softly a part begins that goes on behind another; cells.
ALONG, SOFT = 2.0, 2.0
# What lies behind goes on as far as twice the part before it is wide, and a little further.
REACH, FURTHER = 1.05, 2.0
# Discs are no larger than so many cells of a grid that is as coarse as that asks for.
DISC = 14.0
# Behind, nothing is as sharp as before: what is moved is evened out over so much of half the width of the part.
SMOOTH = 0.4
# The rim of a part before others is as wide as its step is high, and no wider than so much of the part.
RIM_SHARE = 0.6

_Floats = NDArray[np.float64]
_Mask = NDArray[np.bool_]


@dataclass(frozen=True)
class PartMark:
    """A part that stands before those after it in a list, and before all that is not in the list.

    Attributes:
        place: float64 (2,), column and row of the source, somewhere on the part.
        step: mm, by how much it stands before what it hides along their edge, at the least.
    """

    place: _Floats
    step: float

    def spot(self, silhouette: Silhouette) -> HandStroke:
        """A stroke of no effect as large as a place."""
        return HandStroke("level", self.place[np.newaxis], MARK_CELLS * silhouette.corner[2])


@dataclass(frozen=True)
class Shift:
    """By how much front and back come nearer, float64 (H, W) mm each."""

    front: _Floats
    back: _Floats


def stepped(silhouette: Silhouette, front: _Floats, marks: Sequence[PartMark], parts: PictureParts) -> Shift:
    """By how much parts come nearer so that they stand in their order.

    A part moves as one, as far as its edge needs it; where it stands far enough before what it hides, it stays. Its rim
    is round, and what it hides goes on behind it.

    Args:
        silhouette: of the figure.
        front: float64 (H, W) mm, before that; any number outside.
        marks: nearest first; of two on one part the first counts.
        parts: of the figure, those of `PartMark.spot` among them.
    """
    from scipy import ndimage

    ranks = _ranks(silhouette, marks, parts)
    rank_at = np.where(parts.labels >= 0, np.take(ranks, parts.labels), -1)
    by, back, widest = np.zeros(front.shape), np.zeros(front.shape), 1.0
    for label in sorted(np.flatnonzero(ranks > 0), key=lambda each: ranks[each]):
        own = parts.labels == label
        behind = (rank_at >= 0) & (rank_at < ranks[label])
        edge = own & ndimage.binary_dilation(behind)
        if not edge.any():
            continue
        step = marks[len(marks) - int(ranks[label])].step
        now = front + by
        row, column = ndimage.distance_transform_edt(~behind, return_distances=False, return_indices=True)
        lacking = np.maximum(0.0, now[row, column] + step - now) * edge
        share = np.maximum(ndimage.gaussian_filter(edge.astype(np.float64), ALONG), 1e-9)
        lacking = np.where(edge, ndimage.gaussian_filter(lacking, ALONG) / share, 0.0)
        lift = np.where(own, spread(parts, edge.astype(np.float64), lacking, FAR * max(front.shape)), 0.0)
        by += np.where(own, lift - _rim(silhouette, own, edge, now + lift - now[row, column], step), 0.0)
        back += lift * (1 - _goes_on(own, behind, silhouette.inside))
        widest = max(widest, float(ndimage.distance_transform_edt(own).max()))
    return Shift(softened(by, silhouette.inside), softened(back, silhouette.inside, SMOOTH * widest))


def shift_of(by: _Floats, inside: _Mask) -> Shift:
    """What strokes move, float64 (H, W) mm, with what lies behind parts that came nearer going on behind them.

    The back comes nearer as much as the front does but for bumps: its shift is opened, morphologically, by a disc as
    wide as what came nearer, so a part within others leaves the back as it was, and one that reaches out over nothing
    takes its back along. Where most of the figure comes nearer, all of it does.
    """
    from scipy import ndimage

    up = np.where(inside, np.maximum(by, 0), 0.0)
    nearer = up > up.max() / 2
    if not nearer.any() or nearer.sum() > inside.sum() / 2:
        return Shift(by, by)
    reach = REACH * float(ndimage.distance_transform_edt(nearer).max()) + FURTHER
    coarse = max(1.0, reach / DISC)
    size = tuple(max(4, round(side / coarse)) for side in by.shape)
    small = cv2.resize(np.where(inside, up, np.inf).astype(np.float32), size[::-1], interpolation=cv2.INTER_NEAREST)
    radius = int(np.ceil(reach / coarse))
    disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * radius + 1, 2 * radius + 1))
    low = cv2.erode(small, disc, borderType=cv2.BORDER_CONSTANT, borderValue=np.inf)
    low = np.where(np.isfinite(small), low, -np.inf).astype(np.float32)
    opened = cv2.dilate(low, disc, borderType=cv2.BORDER_CONSTANT, borderValue=-np.inf)
    opened = np.where(np.isfinite(opened), opened, 0.0).astype(np.float32)
    back = cv2.resize(opened, by.shape[::-1], interpolation=cv2.INTER_LINEAR).astype(np.float64)
    soft = np.minimum(up, softened(np.minimum(back, up), inside, max(1.0, SMOOTH * reach)))
    return Shift(by, np.where(by > 0, soft, by))


def come_nearer(form: FigureForm, *shifts: Shift) -> FigureForm:
    """The form with its front and its back nearer; both still meet at the outline."""
    nowhere = np.zeros(form.square.shape)
    front = sum((each.front for each in shifts), nowhere)
    back = sum((each.back for each in shifts), nowhere)
    half = form.half
    # So much thicker at the most, and not thinner than a little: towards the outline there is no room.
    asked = (front - back) / 2
    gently = half / np.maximum((half**4 + np.maximum(asked, 0) ** 4) ** 0.25, 1e-9)
    thicker = np.maximum(asked * gently, (LEAST_SHARE - 1) * half)
    middle = form.middle + (front + back) / 2
    return replace(form, middle=middle, square=np.where(form.square > 0, (half + thicker) ** 2, form.square))


def _goes_on(own: _Mask, behind: _Mask, inside: _Mask) -> _Floats:
    """Where what lies behind goes on behind a part, float64 (H, W), 0 to 1.

    Where it would close of itself, seen on both sides, and not where the part reaches out over nothing (a morphological
    closing as wide as the part).
    """
    from scipy import ndimage

    reach = REACH * float(ndimage.distance_transform_edt(own).max()) + FURTHER
    room = int(np.ceil(reach)) + 1
    grown = ndimage.distance_transform_edt(np.pad(~behind, room, constant_values=True)) <= reach
    closed = (ndimage.distance_transform_edt(grown) > reach)[room:-room, room:-room] & inside
    soft = ndimage.gaussian_filter((closed | behind).astype(np.float64), SOFT)
    weight = np.maximum(ndimage.gaussian_filter(inside.astype(np.float64), SOFT), 1e-9)
    return np.where(own, np.clip(soft / weight, 0, 1), 0.0)


def _ranks(silhouette: Silhouette, marks: Sequence[PartMark], parts: PictureParts) -> NDArray[np.int64]:
    """Of every part, how many places from the end of the list it stands; 0 for parts that are not in it."""
    ranks = np.zeros(max(1, int(parts.labels.max()) + 1), dtype=np.int64)
    height, width = parts.labels.shape
    top, left, step = silhouette.corner
    for at, mark in enumerate(marks):
        column, row = round((float(mark.place[0]) - left) / step), round((float(mark.place[1]) - top) / step)
        if 0 <= row < height and 0 <= column < width and parts.labels[row, column] >= 0:
            label = parts.labels[row, column]
            ranks[label] = ranks[label] or len(marks) - at
    return ranks


def _rim(silhouette: Silhouette, own: _Mask, edge: _Mask, above: _Floats, step: float) -> _Floats:
    """What a round rim takes off a part along its edge, float64 (H, W) mm; `above` is how far it stands out there."""
    from scipy import ndimage

    away, (row, column) = ndimage.distance_transform_edt(~edge, return_indices=True)
    widest = float(ndimage.distance_transform_edt(own).max()) * silhouette.pitch
    wide = max(min(step, RIM_SHARE * widest), 1e-9)
    inwards = np.clip(away * silhouette.pitch / wide, 0, 1)
    return np.asarray(np.maximum(above, 0)[row, column] * (1 - np.sqrt(1 - (1 - inwards) ** 2)))
