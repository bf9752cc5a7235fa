"""What is learned from: inputs and truths of drawn figures."""

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.figure.network import FILLED, frame_of, stacked
from training.families import TRAINED, Family, any_view, placed
from training.hand import hand_maps
from training.pictures import imperfect, picture_of
from training.solids import Seen, look_at

LEAP = 0.05
ONE_PART = 0.97
THINNEST = 0.01
_Pixels = NDArray[np.float32]
_Rng = np.random.Generator


@dataclass(frozen=True)
class Sample:
    """One picture of a figure, and the truth of it.

    Attributes:
        inputs: float32 (INPUTS, N, N), see `nebrel.core.figure.network`.
        covered: bool (N, N), where the truth is known.
        middle, thick: float32 (N, N), halfway between front and back less its mean, and the logarithm of the true
            half thickness over the swollen one.
        swollen: float32 (N, N), half thickness that the outline swells to.
        normals: float32 (3, N, N).
        edges: float32 (N, N), 1 where the depth leaps.
    """

    inputs: _Pixels
    covered: NDArray[np.bool_]
    middle: _Pixels
    thick: _Pixels
    swollen: _Pixels
    normals: _Pixels
    edges: _Pixels


def draw_solid(rng: _Rng, pixels: int, family: Family | None = None) -> Seen:
    """A figure of a family, from some side."""
    while True:
        chosen = family or list(TRAINED)[rng.choice(len(TRAINED), p=list(TRAINED.values()))]
        seen = look_at(placed(chosen(rng), any_view(rng)), pixels, FILLED)
        if seen is not None and _hangs_together(seen):
            return seen


def _hangs_together(seen: Seen) -> bool:
    sizes = cv2.connectedComponentsWithStats(seen.covered.astype(np.uint8))[2][1:, cv2.CC_STAT_AREA]
    return bool(sizes.max() > ONE_PART * sizes.sum())


def sample_of(seen: Seen, rng: _Rng, style: str | None = None, with_hand: bool = True) -> Sample:
    """A picture of a figure with its truth; mirrored half the time, which is as good a figure."""
    picture, cover = picture_of(seen, rng, style), imperfect(seen.covered, rng)
    swollen = frame_of(cover)
    covered = seen.covered & (cover >= 0.5)
    middle = np.where(covered, (seen.front + seen.back) / 2, 0).astype(np.float32)
    middle = np.where(covered, middle - middle[covered].mean(), 0).astype(np.float32)
    half = np.where(covered, np.maximum((seen.front - seen.back) / 2, THINNEST), THINNEST)
    thick = np.clip(np.log(half / np.maximum(swollen, THINNEST)), -2, 2)
    front = np.where(covered, middle + half, 0)
    filled = np.where(covered, seen.front, -2).astype(np.float32)
    leap = cv2.dilate(filled, np.ones((3, 3), np.uint8)) - filled > LEAP * max(1.0, 64 / len(filled))
    wrong = front - swollen
    wrong = np.where(covered, wrong - wrong[covered].mean(), 0).astype(np.float32)
    strokes = hand_maps(wrong, front.astype(np.float32), covered, rng) if with_hand else np.zeros((3, *cover.shape))
    inputs = stacked(picture, cover, swollen, strokes)
    normals = seen.normals.transpose(2, 0, 1).copy()
    made = [inputs, covered, middle, thick.astype(np.float32), swollen, normals, (leap & covered).astype(np.float32)]
    if with_hand and rng.random() < 0.5:
        made = [np.ascontiguousarray(each[..., ::-1]) for each in made]
        made[5][0] *= -1
    return Sample(*made)
