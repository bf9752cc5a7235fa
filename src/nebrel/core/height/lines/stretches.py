"""Heights along lines as few straight stretches."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

HELD = 1e-6
_Points = NDArray[np.float64]


@dataclass(frozen=True)
class Hats:
    """Straight stretches between some places of a line: at every place shares of the heights at two of them.

    Attributes:
        keys: int64 (K,), the places where stretches meet.
        first, second: int64 (N,), for every place, by number among those, the one before and after it.
        share: float64 (N,), how far it is from the one to the other.
    """

    keys: NDArray[np.int64]
    first: NDArray[np.int64]
    second: NDArray[np.int64]
    share: _Points


def hats_along(points: _Points, sides: _Points, closed: bool, allowed: float) -> Hats:
    """Stretches that follow heights along a line within what is allowed (Douglas and Peucker, 1973).

    Args:
        points: float64 (N, 2), in order.
        sides: float64 (N, 2) mm, to the left and right.
        closed: whether the last leads to the first.
        allowed: mm that heights may be off.
    """
    around = np.vstack([points, points[:1]]) if closed else points
    along = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(around, axis=0), axis=1))])
    asked = np.vstack([sides, sides[:1]]) if closed else sides
    keys = np.flatnonzero(_turning(along, asked, allowed))
    first = np.clip(np.searchsorted(keys, np.arange(len(points)), side="right") - 1, 0, len(keys) - 2)
    share = (along[: len(points)] - along[keys[first]]) / (along[keys[first + 1]] - along[keys[first]])
    count = len(keys) - 1 if closed else len(keys)
    return Hats(keys[:count], first, (first + 1) % count if closed else first + 1, share)


def straightened(sides: _Points, hats: list[Hats]) -> _Points:
    """Heights along all lines, straight on every stretch, that fit the given ones best.

    So the unevenness of single samples is gone. Heights at ends of stretches follow from least squares.
    """
    from scipy.sparse import coo_array
    from scipy.sparse.linalg import spsolve

    offsets = np.cumsum([0, *(len(hat.keys) for hat in hats)])
    starts = np.cumsum([0, *(len(hat.share) for hat in hats)])
    first = np.concatenate([hat.first + offset for hat, offset in zip(hats, offsets[:-1], strict=True)])
    second = np.concatenate([hat.second + offset for hat, offset in zip(hats, offsets[:-1], strict=True)])
    keys = np.concatenate([hat.keys + start for hat, start in zip(hats, starts[:-1], strict=True)])
    share, rows, each = np.concatenate([hat.share for hat in hats]), np.arange(len(sides)), np.arange(len(keys))
    ends = (np.concatenate([rows, rows]), np.concatenate([first, second]))
    shares = coo_array((np.concatenate([1 - share, share]), ends), shape=(len(sides), len(keys))).tocsc()
    held = coo_array((np.full(len(keys), HELD), (each, each)), shape=(len(keys), len(keys)))
    fitted = spsolve((shares.T @ shares + held).tocsc(), shares.T @ sides + HELD * sides[keys])
    return np.asarray(shares @ fitted.reshape(-1, 2))


def _turning(along: _Points, sides: _Points, allowed: float) -> NDArray[np.bool_]:
    """The ends, and the places in between that keep what is straight between them within what is allowed."""
    turning = np.zeros(len(along), dtype=np.bool_)
    turning[[0, -1]] = True
    waiting = [(0, len(along) - 1)]
    while waiting:
        first, last = waiting.pop()
        if last - first < 2:
            continue
        share = (along[first + 1 : last] - along[first]) / (along[last] - along[first])
        straight = sides[first] + share[:, np.newaxis] * (sides[last] - sides[first])
        off = np.abs(sides[first + 1 : last] - straight).max(axis=1)
        worst = int(off.argmax())
        if off[worst] > allowed:
            at = first + 1 + worst
            turning[at] = True
            waiting += [(first, at), (at, last)]
    return turning
