"""Reliefs laid on a relief."""

from dataclasses import dataclass, replace
from typing import Literal

import cv2
import numpy as np
from cv2.typing import MatLike
from numpy.typing import NDArray

from nebrel.core.height.field import HeightField
from nebrel.core.height.nearest_fill import fill_from_nearest

Blend = Literal["highest", "lowest", "add", "cut", "merge"]
LEAST_PX, EDGE_SIGMA_PX, LEVEL = 2, 0.6, 1e-4

_Reals = NDArray[np.float32]


@dataclass(frozen=True)
class LaidRelief:
    """A relief, and where and how it is laid.

    Attributes:
        heights: float32 (h, w) mm over its own zero, top row first.
        coverage: float32 (h, w), 1 where there is something of it, 0 where there is nothing.
        pitch: mm between its samples.
        centre: mm from the lower left corner of what it is laid on, to its middle.
        turn_deg: counter-clockwise.
        mirrored: left for right, before it is turned.
        blend: `highest` and `lowest` of both; `add` to what is below, `cut` out of it; `merge`, which goes over from
            what is below at its edge to itself further in.
        lift: mm from the zero of what is below to its own; from the surface below, where it is added or cut.
        width: mm from its edge over which it merges.
    """

    heights: _Reals
    coverage: _Reals
    pitch: float
    centre: tuple[float, float]
    turn_deg: float = 0.0
    mirrored: bool = False
    blend: Blend = "highest"
    lift: float = 0.0
    width: float = 0.0


@dataclass(frozen=True)
class Laid:
    """What came of it.

    Attributes:
        field: the heights with the relief on them.
        outside: share of the relief that lies beside what it was laid on.
        held_mm: by how much it would have gone deeper than the floor.
    """

    field: HeightField
    outside: float
    held_mm: float


def lay_on(ground: HeightField, relief: LaidRelief, floor: float = -np.inf) -> Laid:
    """A relief laid on a field of heights; exact steps and lines of the field are given up.

    Finer reliefs are averaged over the samples of the field, coarser ones interpolated by cubics that stay between
    their neighbours (no ripples beside steps). Their edges are shares of a sample, so that a curve can be found there.

    Args:
        ground: what it is laid on; where that is blank, nothing is laid.
        relief: what is laid, how and where.
        floor: mm; nothing goes below.
    """
    own, share = _over_the_grid(relief, ground)
    base = ground.heights
    lifted = own + np.float32(relief.lift)
    if relief.blend == "highest":
        made = np.maximum(base, lifted)
    elif relief.blend == "lowest":
        made = np.minimum(base, lifted)
    elif relief.blend == "merge":
        made = base + _inwards(share, relief.width / ground.pitch) * (lifted - base)
    else:
        made = base + lifted if relief.blend == "add" else base - lifted
    laid = base + share * (made - base)
    changed = ground.material & (share > 0)
    deepest = float(laid.min(where=changed, initial=np.inf))
    heights = np.where(changed, np.maximum(laid, np.minimum(base, np.float32(floor))), base).astype(np.float32)
    whole = float((relief.coverage >= 0.5).sum()) * relief.pitch**2
    inside = float(share[ground.material].sum()) * ground.pitch**2
    return Laid(
        replace(ground, heights=heights, terraces=None, lines=None),
        float(np.clip(1 - inside / whole, 0, 1)) if whole > 0 else 0.0,
        max(0.0, floor - deepest) if np.isfinite(floor) and np.isfinite(deepest) else 0.0,
    )


def _over_the_grid(relief: LaidRelief, ground: HeightField) -> tuple[_Reals, _Reals]:
    """Heights of a relief on samples of another grid, and how much of each it covers, float32 (H, W) each."""
    filled = fill_from_nearest(relief.coverage >= 0.5, relief.heights).astype(np.float32)
    coverage, pitch = relief.coverage, relief.pitch
    if pitch < ground.pitch:
        filled, coverage, pitch = _averaged(filled, coverage, pitch, ground.pitch)
    across = _to_relief(ground, relief, filled.shape, pitch)
    flags = cv2.WARP_INVERSE_MAP
    rows, columns = ground.heights.shape

    def warped(values: MatLike, by: int, border: int) -> _Reals:
        return np.asarray(
            cv2.warpAffine(values, across, (columns, rows), flags=by | flags, borderMode=border), np.float32
        )

    window = np.ones((3, 3), np.uint8)
    low = warped(cv2.erode(filled, window), cv2.INTER_NEAREST, cv2.BORDER_REPLICATE)
    high = warped(cv2.dilate(filled, window), cv2.INTER_NEAREST, cv2.BORDER_REPLICATE)
    own = np.clip(warped(filled, cv2.INTER_CUBIC, cv2.BORDER_REPLICATE), low, high)
    # What is outside of its picture is not covered; the outermost samples lie on its edges.
    framed = cv2.copyMakeBorder(coverage, 1, 1, 1, 1, cv2.BORDER_CONSTANT, value=0.0)
    inner = across + np.array([[0, 0, 1.0], [0, 0, 1.0]])
    share = cv2.warpAffine(
        framed, inner, (columns, rows), flags=cv2.INTER_LINEAR | flags, borderMode=cv2.BORDER_CONSTANT, borderValue=0.0
    )
    return own, _sharp(share)


def _sharp(share: MatLike) -> _Reals:
    """Shares that pass from 0 to 1 within one sample where these pass one half, however soft they are.

    How far a sample is from that contour follows from its share and the gradient there, to first order.
    """
    soft = cv2.GaussianBlur(share, (0, 0), EDGE_SIGMA_PX)
    down, across = np.gradient(soft)
    away = (soft - 0.5) / np.maximum(np.hypot(down, across), LEVEL)
    return np.clip(away + 0.5, 0, 1).astype(np.float32)


def _averaged(heights: _Reals, coverage: _Reals, pitch: float, wanted: float) -> tuple[_Reals, _Reals, float]:
    """The same with samples about as far apart as wanted, each the mean of what it covers."""
    rows, columns = heights.shape
    share = pitch / wanted
    size = (max(LEAST_PX, round(columns * share)), max(LEAST_PX, round(rows * share)))
    fewer = [cv2.resize(each, size, interpolation=cv2.INTER_AREA).astype(np.float32) for each in (heights, coverage)]
    return fewer[0], fewer[1], pitch * columns / size[0]


def _to_relief(ground: HeightField, relief: LaidRelief, shape: tuple[int, ...], pitch: float) -> NDArray[np.float64]:
    """The affine map (2, 3) from column and row of the grid to those of the relief."""
    rows, (own_rows, own_columns) = ground.heights.shape[0], shape
    turn = np.deg2rad(relief.turn_deg)
    cosine, sine = np.cos(turn), np.sin(turn)
    to_mm = np.array([[ground.pitch, 0, 0], [0, -ground.pitch, (rows - 1) * ground.pitch], [0, 0, 1.0]])
    moved = np.array([[1, 0, -relief.centre[0]], [0, 1, -relief.centre[1]], [0, 0, 1.0]])
    turned = np.array([[cosine, sine, 0], [-sine, cosine, 0], [0, 0, 1.0]])
    mirrored = np.diag([-1.0 if relief.mirrored else 1.0, 1.0, 1.0])
    to_px = np.array([[1 / pitch, 0, (own_columns - 1) / 2], [0, -1 / pitch, (own_rows - 1) / 2], [0, 0, 1.0]])
    made: NDArray[np.float64] = (to_px @ mirrored @ turned @ moved @ to_mm)[:2]
    return made


def _inwards(share: _Reals, width_px: float) -> _Reals:
    """0 at the edge of what is covered, 1 from `width_px` samples further in, smooth at both."""
    padded = np.pad((share >= 0.5).astype(np.uint8), 1)
    away = cv2.distanceTransform(padded, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)[1:-1, 1:-1]
    part = np.clip(away / np.float32(max(width_px, 1.0)), 0, 1)
    return (part * part * (3 - 2 * part)).astype(np.float32)
