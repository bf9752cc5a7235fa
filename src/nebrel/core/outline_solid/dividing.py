"""Triangles over a plane, divided until a surface over them strays no further from what it should be than allowed."""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

_Reals = NDArray[np.float64]
_Index = NDArray[np.int64]
MOST_ROUNDS = 12
MOST_FACES = 1_500_000
# What is shorter or thinner is left as it is, so that rounding turns no triangle over.
SHORTEST_MM, THINNEST_MM = 0.04, 0.02


def divide(
    places: _Reals, levels: _Reals, faces: _Index, height_at: Callable[[_Reals], _Reals], chord: float
) -> tuple[_Reals, _Reals, _Index]:
    """Halve sides of triangles, on both sides at once, until the middle of each is true.

    Args:
        places: float64 (N, 2) corners.
        levels: float64 (N,) how high each stands; sides between two at 0 stay whole.
        faces: int64 (M, 3), counter-clockwise.
        height_at: of float64 (K, 2) places, float64 (K,).
        chord: how far the middle of a side may be from the surface, square to it, mm.

    Returns:
        Places, levels and faces; the first N corners are those that came.
    """
    waiting = np.ones(len(faces), dtype=np.bool_)
    for _ in range(MOST_ROUNDS):
        if not waiting.any() or len(faces) > MOST_FACES:
            break
        sides, of_face = _sides(faces)
        asked = np.zeros(len(sides), dtype=np.bool_)
        asked[of_face[waiting]] = True
        asked &= np.hypot(*(places[sides[:, 0]] - places[sides[:, 1]]).T) > SHORTEST_MM
        asked &= (levels[sides] > 0).any(axis=1)
        asked[of_face[_thin(places, faces)]] = False
        here = np.flatnonzero(asked)
        middles = places[sides[here]].mean(axis=1)
        wanted = height_at(middles)
        off = np.abs(wanted - levels[sides[here]].mean(axis=1)) > chord * _stretch(places, levels, faces, of_face)[here]
        halved = here[off]
        if not len(halved):
            break
        new = np.full(len(sides), -1, dtype=np.int64)
        new[halved] = len(places) + np.arange(len(halved))
        places, levels = np.vstack([places, middles[off]]), np.append(levels, wanted[off])
        faces, waiting = _cut(faces, new[of_face])
    return places, levels, faces


def _sides(faces: _Index) -> tuple[_Index, _Index]:
    """All sides, int64 (E, 2), and those of every face, int64 (M, 3): the side after each corner."""
    both = np.sort(np.stack([faces, np.roll(faces, -1, axis=1)], axis=2).reshape(-1, 2), axis=1)
    sides, index = np.unique(both, axis=0, return_inverse=True)
    return sides, index.reshape(-1, 3)


def _stretch(places: _Reals, levels: _Reals, faces: _Index, of_face: _Index) -> _Reals:
    """How much further apart two surfaces are upright than squarely, at every side: where its flatter face leans."""
    corners = np.column_stack([places, levels])[faces]
    across = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    leaning = np.linalg.norm(across, axis=1) / np.maximum(np.abs(across[:, 2]), 1e-12)
    found = np.full(int(of_face.max()) + 1, np.inf)
    np.minimum.at(found, of_face, leaning[:, None])
    return found


def _thin(places: _Reals, faces: _Index) -> NDArray[np.bool_]:
    corners = places[faces]
    along = np.roll(corners, -1, axis=1) - corners
    longest = np.hypot(along[:, :, 0], along[:, :, 1]).max(axis=1)
    twice = np.abs(along[:, 0, 0] * along[:, 1, 1] - along[:, 0, 1] * along[:, 1, 0])
    return np.asarray(twice < THINNEST_MM * longest)


def _cut(faces: _Index, middles: _Index) -> tuple[_Index, NDArray[np.bool_]]:
    """Faces cut at the middles of their sides, -1 where a side stays whole; and which of them are new."""
    count = (middles >= 0).sum(axis=1)
    # Turned so that the first side is halved where one is, and the last is whole where two are.
    turn = np.where(count == 1, np.argmax(middles >= 0, axis=1), (np.argmin(middles >= 0, axis=1) + 1) % 3)
    order = (turn[:, None] + np.arange(3)) % 3
    a, b, c = np.take_along_axis(faces, order, axis=1).T
    m, n, o = np.take_along_axis(middles, order, axis=1).T
    one, two, three = count == 1, count == 2, count == 3
    parts = [
        (one, (a, m, c), (m, b, c)),
        (two, (m, b, n), (a, m, n), (a, n, c)),
        (three, (a, m, o), (m, b, n), (o, n, c), (m, n, o)),
    ]
    new = [np.column_stack([each[which] for each in face]) for which, *made in parts for face in made]
    kept = faces[count == 0]
    found = np.vstack([kept, *new])
    return found, np.arange(len(found)) >= len(kept)
