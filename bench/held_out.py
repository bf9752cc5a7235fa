"""Figures that nothing was trained on, and pictures of them."""

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from training.families import HELD_OUT, TRAINED
from training.pictures import picture_of
from training.samples import draw_solid
from training.solids import Seen

from bench.known_solids import KnownSolid
from nebrel.core.figure.normals import normals_of

COUNT, SEED, PIXELS, LONGER_MM = 36, 77, 256, 100.0
_NEW = COUNT // 2

_Pixels = NDArray[np.float32]


@lru_cache(maxsize=1)
def held_out() -> tuple[Seen, ...]:
    """36 drawn shapes: 18 of families that training never draws, 18 of the others, drawn anew."""
    found = []
    for number in range(COUNT):
        rng = np.random.default_rng((SEED, number))
        family = HELD_OUT[number % len(HELD_OUT)] if number < _NEW else list(TRAINED)[number % len(TRAINED)]
        found.append(draw_solid(rng, PIXELS, family))
    return tuple(found)


def seen_solid(solid: KnownSolid) -> Seen:
    """A known solid as the drawing of pictures takes it."""
    rows, columns = (np.flatnonzero(solid.covered.any(axis=axis)) for axis in (1, 0))
    longer = (max(np.ptp(rows), np.ptp(columns)) + 1) * solid.mm_per_px
    there = solid.covered[..., np.newaxis]
    normals = np.where(there, np.nan_to_num(normals_of(solid.front, solid.mm_per_px)), 0)
    return Seen(
        (solid.front / longer).astype(np.float32),
        (solid.back / longer).astype(np.float32),
        normals.astype(np.float32),
        np.where(solid.covered, 0, -1).astype(np.int16),
        solid.mm_per_px / longer,
    )


def pictures_of(seen: Seen, number: int) -> dict[str, _Pixels]:
    """A figure under one clean lamp, and as any picture may be: lit anyhow, painted, inked, with noise."""
    rngs = (np.random.default_rng((number, 3)) for _ in range(2))
    return {
        light: picture_of(seen, rng, "shaded" if light == "clean" else None)
        for light, rng in zip(("clean", "varied"), rngs, strict=True)
    }
