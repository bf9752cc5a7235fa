"""What of a picture is drawn: where dark parts from bright, and which of both is the ink."""

from dataclasses import dataclass
from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.histogram import best_threshold
from nebrel.core.picture.picture import Picture

Mask = NDArray[np.bool_]
Ink = Literal["dark", "bright"]
# How broad the rim is that is looked at, and the squares in its corners, as shares of the shorter side.
RIM_SHARE, CORNER_SHARE = 0.01, 0.006
THREE, FOUR = 3, 4
# How sure one is by four corners alike alone, and below what a guess is a close call.
SURE_BY_CORNERS, CLOSE_CALL = 0.3, 0.5
ENCLOSED_MORE, CORNERS_COUNT, BRIGHT_PAPER = 0.2, 0.3, 0.2


@dataclass(frozen=True)
class InkGuess:
    """Which tone was drawn with.

    Attributes:
        ink: the tone.
        sure: from 0, as good as tossed, to 1.
    """

    ink: Ink
    sure: float

    @property
    def close(self) -> bool:
        """Whether the other tone would be nearly as good a guess."""
        return self.sure < CLOSE_CALL


def automatic_threshold(picture: Picture) -> float:
    """The tone that parts the picture best into dark and bright (Otsu 1979)."""
    tones = shown_tones(picture)
    if tones.size == 0 or tones.min() == tones.max():
        return 0.5
    return best_threshold(tones, 1024)


def shown_tones(picture: Picture) -> NDArray[np.float32]:
    """The tones of all pixels that are more material than blank, in any shape."""
    return picture.tones if picture.coverage.min() >= 0.5 else picture.tones[picture.coverage >= 0.5]


def drawn_ink(picture: Picture) -> Ink:
    """Whether the picture is drawn in dark or in bright, as `guess_ink` takes it."""
    return guess_ink(picture).ink


def guess_ink(picture: Picture, threshold: float | None = None) -> InkGuess:
    """Which tone was drawn with, judged by what lies along the rim and by what encloses what, not by its share.

    Paper reaches the corners and most of the rim; what is drawn may reach the sides. Of what is cut out, so that blank
    is its paper, the tone along the cut is the body that is drawn. Where corners say nothing, the tone more of which is
    enclosed by the other one is the ink.

    Args:
        picture: what was drawn.
        threshold: the tone that parts dark from bright; None finds it.
    """
    material = picture.coverage >= 0.5
    if not material.any():
        return InkGuess("dark", 0.0)
    parted = automatic_threshold(picture) if threshold is None else threshold
    dark = (picture.tones < np.float32(parted)) & material
    rim = _rim(material.shape)
    if material[rim].mean() < 0.5:
        cut = material & cv2.dilate((~material).astype(np.uint8), np.ones((3, 3), np.uint8)).astype(bool)
        share = float(dark[cut].mean()) if cut.any() else 0.5
        return InkGuess("dark" if share >= 0.5 else "bright", abs(2 * share - 1))
    paper = 1.0 - float(dark[rim & material].mean())
    bright_corners, dark_corners = _corners(~dark & material), _corners(dark)
    if bright_corners >= THREE:
        # A body may reach the sides, and one corner; paper alone reaches all of them, and most of the rim.
        return InkGuess("dark", SURE_BY_CORNERS * bright_corners / FOUR + (1 - SURE_BY_CORNERS) * paper)
    if dark_corners == FOUR:
        # Dark paper is rarer than marks in the corners.
        return InkGuess("bright", max(SURE_BY_CORNERS, 1 - 4 * paper))
    leaning = 2 * paper - 1 + CORNERS_COUNT * (bright_corners - dark_corners) / FOUR
    if dark_corners == THREE and leaning > SURE_BY_CORNERS:
        # It may be marks in corners as well as a bright body on dark paper.
        return InkGuess("dark", SURE_BY_CORNERS)
    if abs(leaning) < CLOSE_CALL:
        more = _enclosed(dark) - _enclosed(material & ~dark)
        leaning = leaning + BRIGHT_PAPER + (more if abs(more) > ENCLOSED_MORE else 0.0) / 2
        return InkGuess("dark" if leaning >= 0 else "bright", min(abs(leaning), 1.0) * CLOSE_CALL)
    return InkGuess("dark" if leaning > 0 else "bright", min(abs(leaning), 1.0))


def ink_of(picture: Picture, ink: Ink) -> Mask:
    """Where the picture shows the tone of that ink."""
    bright = picture.tones >= np.float32(automatic_threshold(picture))
    return (bright if ink == "bright" else ~bright) & (picture.coverage >= 0.5)


def _rim(shape: tuple[int, ...]) -> Mask:
    deep = max(1, round(RIM_SHARE * min(shape)))
    rim = np.ones(shape, dtype=bool)
    rim[deep:-deep, deep:-deep] = False
    return rim


def _corners(mask: Mask) -> int:
    """How many corners are of the mask."""
    side = max(1, round(CORNER_SHARE * min(mask.shape)))
    near, far = slice(0, side), slice(-side, None)
    return sum(2 * int(mask[rows, columns].sum()) > side * side for rows in (near, far) for columns in (near, far))


def _enclosed(mask: Mask) -> float:
    """How much of a mask, as a share of it, is in pieces that do not reach the rim."""
    total = int(mask.sum())
    if total == 0:
        return 0.0
    _, labels, stats, _ = cv2.connectedComponentsWithStats(mask.astype(np.uint8), connectivity=4)
    at_rim = np.unique(np.concatenate([labels[0], labels[-1], labels[:, 0], labels[:, -1]]))
    return 1.0 - float(stats[at_rim[at_rim > 0], cv2.CC_STAT_AREA].sum()) / total
