"""A badger looking out of the hedge at dusk, as a photograph would have it: fur, light, a soft background."""

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.demo.pictures.stamps import Grid

WIDTH_PX, HEIGHT_PX = 900, 1000
SEED = 23
LAMP = np.array((-0.5, 0.62, 0.6))
SKY, GRAIN, GAMMA = 0.26, 0.012, 1 / 2.2
BLACK, WHITE, GREY, EAR, NOSE, EYE = (
    (0.030, 0.028, 0.030), (0.66, 0.62, 0.55), (0.20, 0.185, 0.165), (0.045, 0.04, 0.04), (0.012, 0.012, 0.014),
    (0.008, 0.006, 0.006),
)  # fmt: skip

_Colours = NDArray[np.float64]


@dataclass(frozen=True)
class Portrait:
    """A picture of a badger, and what is true of it.

    Attributes:
        colours: float64 (H, W, 3), 0 to 1.
        coverage: float64 (H, W), 1 where the badger is.
        front: float64 (H, W), how near it is, pixels; NaN beside it.
    """

    colours: _Colours
    coverage: Grid
    front: Grid


@dataclass(frozen=True)
class _Egg:
    """An ellipsoid: where its middle is, how far it reaches, and how it leans in the picture, pixels and degrees."""

    at: tuple[float, float, float]
    reach: tuple[float, float, float]
    lean: float = 0.0

    def front(self, x: Grid, y: Grid) -> Grid:
        turn = np.deg2rad(self.lean)
        u = (x - self.at[0]) * np.cos(turn) + (y - self.at[1]) * np.sin(turn)
        v = -(x - self.at[0]) * np.sin(turn) + (y - self.at[1]) * np.cos(turn)
        inside = 1 - (u / self.reach[0]) ** 2 - (v / self.reach[1]) ** 2
        return np.where(inside > 0, self.at[2] + self.reach[2] * np.sqrt(np.maximum(inside, 0)), -np.inf)


_BODY = (
    _Egg((0, -430, -120), (330, 330, 210)),
    _Egg((-190, -400, -90), (150, 250, 160), 14),
    _Egg((190, -400, -90), (150, 250, 160), -14),
)
_EARS = (_Egg((-168, 268, -70), (52, 60, 34), 24), _Egg((168, 268, -70), (52, 60, 34), -24))
_HEAD = (
    _Egg((0, 90, 0), (212, 218, 170)),
    _Egg((-118, 10, 0), (118, 126, 120), 20),
    _Egg((118, 10, 0), (118, 126, 120), -20),
    _Egg((0, -40, 90), (96, 170, 150)),
)
_NOSE = _Egg((0, -168, 196), (47, 36, 44))
_EYES = (_Egg((-84, 92, 156), (17, 17, 20)), _Egg((84, 92, 156), (17, 17, 20)))
_SOFT_HEAD, _SOFT_BODY = 26.0, 34.0


def draw_badger() -> Portrait:
    """The portrait, 900 × 1000 pixels."""
    rows, columns = np.mgrid[0:HEIGHT_PX, 0:WIDTH_PX].astype(np.float64)
    x, y = columns - WIDTH_PX / 2, 500 - rows
    rng = np.random.default_rng(SEED)
    head, body, ears = (
        _together(_HEAD, x, y, _SOFT_HEAD),
        _together(_BODY, x, y, _SOFT_BODY),
        _together(_EARS, x, y, 1.0),
    )
    nose, eyes = _NOSE.front(x, y), _together(_EYES, x, y, 1.0)
    parts = np.stack([body, ears, head, nose, eyes])
    which, front = parts.argmax(axis=0), parts.max(axis=0)
    there = np.isfinite(front)
    edge = cv2.GaussianBlur(there.astype(np.float64), (0, 0), 0.8)
    paint = _paint(x, y, which)
    fur = _fur(x, y, rng)
    smooth = which >= 3
    level = np.where(there, front, float(front[there].min()))
    bumps = np.where(smooth | ~there, 0.0, 1.1 * fur)
    shade = _shade(np.asarray(cv2.GaussianBlur(level, (0, 0), 1.0) + bumps, dtype=np.float64))
    shine = np.where(smooth, np.clip(shade, 0, 1) ** 30 * 0.6, 0.0)
    lit = (
        paint * (SKY + (1 - SKY) * np.clip(shade, 0, 1))[..., np.newaxis] * (1 + 0.35 * fur * ~smooth)[..., np.newaxis]
    )
    lit += shine[..., np.newaxis]
    seen = lit * edge[..., np.newaxis] + _hedge(rng) * (1 - edge)[..., np.newaxis]
    seen = np.clip(seen, 0, None) ** GAMMA + rng.normal(0, GRAIN, (HEIGHT_PX, WIDTH_PX, 1))
    return Portrait(np.clip(seen, 0, 1), edge, np.where(there, front, np.nan))


def _together(eggs: tuple[_Egg, ...], x: Grid, y: Grid, soft: float) -> Grid:
    """The front of eggs that grow into each other within so many pixels of depth."""
    fronts = np.stack([egg.front(x, y) for egg in eggs])
    top = fronts.max(axis=0)
    with np.errstate(invalid="ignore"):
        grown = top + soft * np.log(np.exp(np.maximum(fronts - top, -60 * soft) / soft).sum(axis=0))
    there = np.isfinite(top)
    # Where an egg ends within another, hardly a hair of it is left to be smoothed.
    weight = cv2.GaussianBlur(there.astype(np.float64), (0, 0), soft / 4)
    smooth = cv2.GaussianBlur(np.where(there, grown, 0.0), (0, 0), soft / 4) / np.maximum(weight, 1e-9)
    return np.where(there, smooth, -np.inf)


def _paint(x: Grid, y: Grid, which: NDArray[np.int64]) -> _Colours:
    """What is black, white and grey: two stripes run from the ears over the eyes to the nose."""
    aside = np.abs(x)
    middle = 34 + 0.27 * np.maximum(y + 120, 0)
    half = 22 + 0.13 * np.clip(y + 140, 0, 420)
    stripe = np.clip((half - np.abs(aside - middle)) / 9 + 0.5, 0, 1) * np.clip((y + 150) / 40, 0, 1)
    head = _mixed(WHITE, BLACK, stripe)
    tip = np.clip((y - 292) / 12, 0, 1)
    found = np.empty((*x.shape, 3))
    for part, colours in enumerate(
        (_mixed(GREY, BLACK, np.clip((-y - 330) / 160, 0, 0.75)), _mixed(EAR, WHITE, tip), head)
    ):
        found[which == part] = colours[which == part]
    found[which == 3], found[which == 4] = NOSE, EYE
    return np.asarray(cv2.GaussianBlur(found, (0, 0), 1.2), dtype=np.float64)


def _mixed(one: tuple[float, ...], other: tuple[float, ...], share: Grid) -> _Colours:
    return np.asarray(np.array(one) + share[..., np.newaxis] * (np.array(other) - np.array(one)))


def _fur(x: Grid, y: Grid, rng: np.random.Generator) -> Grid:
    """Hairs, about -1 to 1: noise drawn out along the way in which the coat lies, away from the nose."""
    noise = rng.normal(0, 1, x.shape).astype(np.float32)
    away = np.hypot(x, y + 160) + 1e-6
    along_x, along_y = x / away, np.where(y < -190, -1.0, (y + 160) / away)
    length = np.hypot(along_x, along_y) + 1e-6
    step_x, step_y = (along_x / length).astype(np.float32), (-along_y / length).astype(np.float32)
    columns, rows = np.meshgrid(np.arange(WIDTH_PX, dtype=np.float32), np.arange(HEIGHT_PX, dtype=np.float32))
    total = np.zeros(x.shape, dtype=np.float32)
    for place in range(-9, 10):
        total += cv2.remap(
            noise, columns + place * step_x, rows + place * step_y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REFLECT
        )
    fine = total / 4.4
    return np.asarray(
        np.clip(0.6 * fine + 0.4 * cv2.GaussianBlur(fine, (0, 0), 2.0) * 2.5, -1.6, 1.6), dtype=np.float64
    )


def _shade(front: Grid) -> Grid:
    down, across = np.gradient(front)
    normals = np.dstack([-across, down, np.ones_like(front)])
    normals /= np.linalg.norm(normals, axis=2, keepdims=True)
    return np.asarray(normals @ (LAMP / np.linalg.norm(LAMP)))


def _hedge(rng: np.random.Generator) -> _Colours:
    """Leaves far behind, out of focus."""
    base = np.zeros((HEIGHT_PX, WIDTH_PX, 3))
    for size, strength in ((70.0, 1.0), (28.0, 0.45)):
        noise = cv2.GaussianBlur(rng.normal(0, 1, (HEIGHT_PX, WIDTH_PX)), (0, 0), size)
        base += strength * (noise / noise.std())[..., np.newaxis] * np.array((0.018, 0.03, 0.012))
    return np.asarray(np.clip(base + np.array((0.07, 0.105, 0.05)), 0.006, None))
