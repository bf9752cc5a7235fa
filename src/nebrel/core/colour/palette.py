"""The few colours that come nearest to many."""

from dataclasses import dataclass
from itertools import combinations
from math import comb

import numpy as np
from numpy.typing import NDArray

from nebrel.core.colour.oklab import oklab_of, rgb_of
from nebrel.core.errors import BadValueError

FEWEST, MOST = 1, 16
TRIES, SEED = 8, 20
SAMPLES = 20_000
# So many choices of filaments are all tried; of more, one after another is taken that helps most.
MOST_CHOICES = 3_000

_Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Tint:
    """A colour that something can be made in.

    Attributes:
        name: what it is called.
        rgb: red, green and blue, 0 to 255.
    """

    name: str
    rgb: tuple[int, int, int]

    @property
    def hex(self) -> str:
        """Like #a03020."""
        return "#" + "".join(f"{part:02x}" for part in self.rgb)


def tint_of(name: str, colour: str) -> Tint:
    """A tint by its colour as #rrggbb.

    Raises:
        BadValueError: no such colour.
    """
    digits = colour.lstrip("#")
    try:
        if len(digits) != 6:
            raise ValueError
        rgb = bytes.fromhex(digits)
    except ValueError as cause:
        raise BadValueError(f"The colour of “{name}” is “{colour}”; one like #a03020 would be accepted.") from cause
    return Tint(name or f"#{digits.lower()}", (rgb[0], rgb[1], rgb[2]))


def lab_of(tints: tuple[Tint, ...]) -> _Floats:
    """Float64 (N, 3)."""
    return oklab_of(np.array([tint.rgb for tint in tints], dtype=np.uint8))


def gathered(lab: _Floats, weights: _Floats, count: int) -> tuple[Tint, ...]:
    """The `count` colours that k-means finds in OKLab, those with most first; fewer where there are no more.

    Args:
        lab: float64 (M, 3).
        weights: float64 (M,), how much each counts.
        count: 1 to 16.

    Raises:
        BadValueError: another count.
    """
    from scipy.cluster.vq import kmeans2

    _need_count(count)
    rng = np.random.default_rng(SEED)
    picked = lab[rng.choice(len(lab), SAMPLES, p=weights / weights.sum())]
    count = min(count, len(np.unique(picked.round(4), axis=0)))
    best, least = picked[:1], np.inf
    for _ in range(TRIES):
        centres, labels = kmeans2(picked, count, minit="++", rng=rng, missing="warn")
        error = float(((picked - centres[labels]) ** 2).sum())
        if error < least:
            best, least = centres[np.argsort(-np.bincount(labels, minlength=count))], error
    return tuple(tint_of("", "#" + bytes(rgb.tolist()).hex()) for rgb in rgb_of(best))


def chosen(lab: _Floats, weights: _Floats, tints: tuple[Tint, ...], count: int) -> tuple[Tint, ...]:
    """The `count` of some tints that come nearest to colours, in the order of the list.

    Args:
        lab, weights: as for `gathered`.
        tints: to choose from, at least one.
        count: 1 to 16; all are taken where there are no more.

    Raises:
        BadValueError: another count, or no tints.
    """
    _need_count(count)
    if not tints:
        raise BadValueError("No filaments are given; at least one is needed.")
    if count >= len(tints):
        return tints
    rng = np.random.default_rng(SEED)
    picked = lab[rng.choice(len(lab), SAMPLES // 10, p=weights / weights.sum())]
    apart = ((picked[:, np.newaxis] - lab_of(tints)) ** 2).sum(axis=2)
    if comb(len(tints), count) <= MOST_CHOICES:
        taken = min(combinations(range(len(tints)), count), key=lambda some: apart[:, list(some)].min(axis=1).sum())
        return tuple(tints[at] for at in taken)
    some: list[int] = []
    nearest = np.full(len(picked), np.inf)
    for _ in range(count):
        gains = np.minimum(nearest[:, np.newaxis], apart).sum(axis=0)
        gains[some] = np.inf
        some.append(int(gains.argmin()))
        nearest = np.minimum(nearest, apart[:, some[-1]])
    return tuple(tints[at] for at in sorted(some))


def _need_count(count: int) -> None:
    if not FEWEST <= count <= MOST:
        raise BadValueError(f"{count} colours are asked for; {FEWEST} to {MOST} would be accepted.")
