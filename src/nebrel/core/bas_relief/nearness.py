"""How near everything in a picture is: by a source of depth, and by what a hand says of it."""

from collections.abc import Hashable, Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.bas_relief.apart import told_apart
from nebrel.core.bas_relief.overlaps import Depths
from nebrel.core.bas_relief.stage import LEVEL_MM2, behind_all, cut_by_frame, swollen, swollen_parts
from nebrel.core.errors import BadPictureError
from nebrel.core.figure.depth import DepthSource
from nebrel.core.figure.figure import Hand
from nebrel.core.figure.hand import MOVING, HandStroke, drawn_on, left_to_move, moved_by, swelled
from nebrel.core.figure.order import stepped
from nebrel.core.figure.parts import BETWEEN, PictureParts, find_parts
from nebrel.core.figure.silhouette import Silhouette
from nebrel.core.figure.swell import Profile, profile_to

LEAST_DEPTH = 1e-3
# Parts move as evenly as over so much of the width of strokes.
EVEN = 0.8
# What is finer than so many cells is no part; colours that differ by less, so near each other, are one.
GRAIN_CELLS, NEAR_CELLS, ALIKE, ROUNDS = 5, 3.0, 0.12, 3
NOTHING_STANDS_OUT = (
    "No part of the picture stands out of the rest; cut out what is to stand out, say by a stroke what is nearer, or "
    "take depth from what it looks like."
)

_Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Roundness:
    """How parts swell from their outlines.

    Attributes:
        profile: how they rise from them.
        rim: how wide the rim of a flat one is, mm.
        share: times as thick as they would swell to.
    """

    profile: Profile = "round"
    rim: float = 3.0
    share: float = 1.0


@dataclass(frozen=True)
class Nearness:
    """How near everything is.

    Attributes:
        stage: what is shown, on a grid.
        depths: of its samples.
        unsure: float64 (H, W) mm, how far off that may be, where its source can tell; or None.
    """

    stage: Silhouette
    depths: Depths
    unsure: _Floats | None = None


def nearness(stage: Silhouette, scene: bool, source: DepthSource, roundness: Roundness, hand: Hand) -> Nearness:
    """How near everything is.

    Args:
        stage: see `stage_of`.
        scene: whether all of the picture is shown, so that its parts swell and not its frame.
        source: where depth comes from.
        roundness: how parts swell.
        hand: the picture, and strokes and parts in order over it; holes are of no effect.

    Raises:
        BadPictureError: the source needs parts that stand out of a scene, and there are none.
    """
    strokes = tuple(stroke for stroke in hand.strokes if stroke.kind != "hole")
    parts = _parts(stage, hand, strokes) if scene or strokes or hand.order else None
    source_shape = hand.guide.shape[0], hand.guide.shape[1]
    behind = behind_all(stage, parts) if scene and parts is not None else None
    square = _swollen(stage, parts, behind, source_shape)
    square = _rounded(square, stage, roundness)
    found = source(stage, square, strokes)
    square = found.square
    if parts is not None:
        square = swelled(stage, square, strokes, parts)
    depth = found.middle_with(square) + np.sqrt(np.maximum(square, 0))
    standing = depth if found.leaps else np.zeros(depth.shape)
    shaped, moved = depth, np.zeros(depth.shape)
    if parts is not None:
        moved = moved_by(stage, depth, left_to_move(strokes, found.followed), parts)
        if moved.any():
            moved = _evened(parts, moved, EVEN * max(stroke.radius for stroke in strokes) / stage.corner[2])
        moved = moved + stepped(stage, depth + moved, hand.order, parts).front
        shaped = drawn_on(depth + moved, stage, strokes, lambda amount: np.ones(depth.shape)) - moved
    if float(np.ptp(shaped[stage.inside] + moved[stage.inside])) < LEAST_DEPTH:
        raise BadPictureError(NOTHING_STANDS_OUT)
    borders = None if parts is None else (parts.across <= BETWEEN, parts.up <= BETWEEN)
    behind = np.zeros(depth.shape, dtype=np.bool_) if behind is None else behind
    cut = cut_by_frame(stage, source_shape)
    depths = Depths(standing + moved, shaped - standing, stage.inside, cut, borders, behind)
    return Nearness(stage, depths, found.unsure)


def _swollen(
    stage: Silhouette, parts: PictureParts | None, behind: NDArray[np.bool_] | None, source: tuple[int, int]
) -> _Floats:
    if parts is None or behind is None:
        return swollen(stage, source)
    return swollen_parts(stage, parts, behind)


def _parts(stage: Silhouette, hand: Hand, strokes: Sequence[HandStroke]) -> PictureParts:
    channels = [_even(stage.sharp_on_grid(hand.guide[:, :, each])) for each in range(hand.guide.shape[2])]
    guide = np.dstack(channels)
    told: list[tuple[Hashable, _Floats]] = [
        (stroke.kind, stroke.on(stage)) for stroke in strokes if stroke.kind in MOVING
    ]
    shaping = [stroke.on(stage) for stroke in strokes if stroke.kind not in MOVING]
    marks = [mark.spot(stage).on(stage) for mark in hand.order]
    found = find_parts(stage, guide, [*shaping, *(where for _, where in told), *marks])
    return told_apart(found, guide, told)


def _even(guide: _Floats) -> _Floats:
    """A picture, float64 (H, W), without what is finer than its parts, such as fur and grain; their edges stay."""
    found = guide.astype(np.float32)
    for _ in range(ROUNDS):
        found = np.asarray(cv2.bilateralFilter(cv2.medianBlur(found, GRAIN_CELLS), 0, ALIKE, NEAR_CELLS), np.float32)
    return found.astype(np.float64)


def _evened(parts: PictureParts, moved: _Floats, sigma: float) -> _Floats:
    """By how much parts move, evened out over so many samples within them and not across their borders.

    One step of diffusion by as much as a Gaussian of that width is (Weickert, "Anisotropic Diffusion in Image
    Processing", 1998).
    """
    from scipy import sparse
    from scipy.sparse.linalg import spsolve

    inside = parts.labels >= 0
    number = np.full(inside.shape, -1, dtype=np.int64)
    number[inside] = np.arange(int(inside.sum()))
    one = np.concatenate([number[:, :-1].ravel(), number[:-1].ravel()])
    other = np.concatenate([number[:, 1:].ravel(), number[1:].ravel()])
    free = np.concatenate([(parts.across > BETWEEN).ravel(), (parts.up > BETWEEN).ravel()])
    one, other = one[free], other[free]
    count, by = int(inside.sum()), sigma**2 / 2
    diagonal = 1 + by * (np.bincount(one, minlength=count) + np.bincount(other, minlength=count))
    here, off = np.arange(count), np.full(len(one), -by)
    at = np.concatenate([one, other, here]), np.concatenate([other, one, here])
    matrix = sparse.csc_matrix((np.concatenate([off, off, diagonal]), at), shape=(count, count))
    found = np.zeros(moved.shape)
    found[inside] = spsolve(matrix, moved[inside], permc_spec="MMD_AT_PLUS_A")
    return found


def _rounded(square: _Floats, stage: Silhouette, roundness: Roundness) -> _Floats:
    top = float(square.max())
    if top <= LEVEL_MM2:
        return square
    rounded = profile_to(square, roundness.profile, 2 * roundness.share * float(np.sqrt(top)), roundness.rim)
    return np.where(stage.inside, np.maximum(rounded, LEVEL_MM2), np.minimum(rounded, 0))
