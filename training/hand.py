"""A hand that says where a swollen figure is wrong: which way, in coarse steps, and where edges and planes are."""

import cv2
import numpy as np
from numpy.typing import NDArray

COARSE = 0.1
MOST_STROKES = 5
KINDS = 3
_Pixels = NDArray[np.float32]
_Rng = np.random.Generator


def hand_maps(wrong: _Pixels, front: _Pixels, covered: NDArray[np.bool_], rng: _Rng) -> _Pixels:
    """Strokes as sparse maps, float32 (3, N, N): nearer and farther, ridge and crease, flat; 0 where there is none.

    Args:
        wrong: by how much the true front is nearer than the swollen one, in longer sides of the box.
        front: the true front.
        covered: where the figure is.
        rng: which strokes are drawn; half of all figures get none.
    """
    size = len(wrong)
    maps = np.zeros((KINDS, size, size), dtype=np.float32)
    if rng.random() < 0.5:
        return maps
    soft = cv2.GaussianBlur(np.where(covered, wrong, 0).astype(np.float32), (0, 0), 2.0 * size / 64)
    weight = np.where(covered, np.abs(soft), 0).ravel() ** 2
    for _ in range(int(rng.integers(1, MOST_STROKES))):
        if weight.sum() <= 0:
            break
        row, column = divmod(int(rng.choice(len(weight), p=weight / weight.sum())), size)
        amount = COARSE * np.round(soft[row, column] / COARSE)
        maps[0][_line(row, column, size, rng) & covered] = amount
    if rng.random() < 0.4:
        filled = np.where(covered, front, np.nanmin(np.where(covered, front, np.nan))).astype(np.float32)
        bent = cv2.Laplacian(cv2.GaussianBlur(filled, (0, 0), 1.0), cv2.CV_32F) * cv2.erode(
            covered.astype(np.uint8), np.ones((5, 5), np.uint8)
        )
        place = int(np.abs(bent).argmax()) if rng.random() < 0.5 else int(rng.integers(bent.size))
        row, column = divmod(place, size)
        near = _disc(row, column, size, rng.uniform(0.05, 0.15))
        sharp = near & (np.abs(bent) > 0.6 * np.abs(bent[near]).max()) & covered
        maps[1][sharp] = -np.sign(bent[sharp])
    if rng.random() < 0.3:
        places = np.flatnonzero(covered)
        row, column = divmod(int(rng.choice(places)), size)
        near = _disc(row, column, size, rng.uniform(0.04, 0.1)) & covered
        down, across = np.gradient(np.where(covered, front, 0))
        if near.any() and down[near].std() + across[near].std() < 0.15 / size:
            maps[2][near] = 1
    return maps


def _line(row: int, column: int, size: int, rng: _Rng) -> NDArray[np.bool_]:
    drawn = np.zeros((size, size), dtype=np.uint8)
    angle, long = rng.uniform(0, np.pi), rng.uniform(0.02, 0.1) * size
    dx, dy = round(float(np.cos(angle) * long)), round(float(np.sin(angle) * long))
    cv2.line(drawn, (column - dx, row - dy), (column + dx, row + dy), 1, max(1, size // 32))
    return drawn.astype(bool)


def _disc(row: int, column: int, size: int, radius: float) -> NDArray[np.bool_]:
    rows, columns = np.indices((size, size))
    near: NDArray[np.bool_] = np.hypot(rows - row, columns - column) <= radius * size
    return near
