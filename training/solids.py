"""Solids as blends of signed distances, and what is seen of them from the front and from behind."""

from dataclasses import dataclass

import numba
import numpy as np
from numpy.typing import NDArray

OVAL, CONE, RING, BOX = range(4)
_Floats = NDArray[np.float64]

_STEPS, _NEAR, _CAREFUL = 72, 2e-3, 0.75
_OUTSIDE = np.inf
_SIDE = 1e-3


@dataclass(frozen=True)
class Piece:
    """One body of a solid, in units of about a figure's size; it is blended with those before it.

    Attributes:
        kind: `OVAL` (half axes in `size`), `CONE` between two balls (radii and length in `size`, along Y from 0),
            `RING` (radius, radius of its rod, nothing; round Y), `BOX` (half sides).
        centre: (3,).
        turn: (3, 3), columns are its own axes.
        size: (3,).
        blend: how softly it joins, above 0; negative takes it away.
        round_by: radius that edges are rounded by.
        paint: which paint is on it.
    """

    kind: int
    centre: _Floats
    turn: _Floats
    size: _Floats
    blend: float = 0.03
    round_by: float = 0.0
    paint: int = 0

    @property
    def row(self) -> _Floats:
        """All of it as one row of numbers, float64 (19,)."""
        told = [[self.kind], self.centre, self.turn.T.ravel(), self.size, [self.blend, self.round_by, self.paint]]
        return np.concatenate([np.asarray(part, dtype=np.float64) for part in told])


@dataclass(frozen=True)
class Seen:
    """A solid looked at against Z over a square of pixels, top row first.

    The unit of length is the longer side of the box round what is covered.

    Attributes:
        front, back: float32 (N, N), towards the viewer is positive; NaN beside it.
        normals: float32 (N, N, 3) of the front, X right, Y up, Z towards the viewer; 0 beside it.
        paint: int16 (N, N); -1 beside it.
        pitch: from pixel to pixel.
    """

    front: NDArray[np.float32]
    back: NDArray[np.float32]
    normals: NDArray[np.float32]
    paint: NDArray[np.int16]
    pitch: float

    @property
    def covered(self) -> NDArray[np.bool_]:
        """Bool (N, N)."""
        return np.isfinite(self.front)


def look_at(pieces: list[Piece], pixels: int, filled: float, margin_px: int = 40) -> Seen | None:
    """A solid from the front, its box's longer side `filled` of the square's; None where nothing is."""
    rows = np.ascontiguousarray([piece.row for piece in pieces])
    reach = np.array([_reach(piece) for piece in pieces])
    low = (rows[:, 1:4] - reach[:, np.newaxis]).min(axis=0)
    high = (rows[:, 1:4] + reach[:, np.newaxis]).max(axis=0)
    side = float(max(high[0] - low[0], high[1] - low[1]))
    coarse = _march(rows, reach, (low[0] + high[0]) / 2, (low[1] + high[1]) / 2, side, margin_px, low[2], high[2])[0]
    there = np.isfinite(coarse)
    if there.sum() < margin_px // 2:
        return None
    down, across = np.flatnonzero(there.any(axis=1)), np.flatnonzero(there.any(axis=0))
    step = side / margin_px
    x = (low[0] + high[0]) / 2 + ((across[0] + across[-1] + 1) / 2 / margin_px - 0.5) * side
    y = (low[1] + high[1]) / 2 - ((down[0] + down[-1] + 1) / 2 / margin_px - 0.5) * side
    longer = step * max(len(range(down[0], down[-1] + 1)), len(range(across[0], across[-1] + 1)))
    front, back, normals, paint = _march(rows, reach, x, y, longer / filled, pixels, low[2], high[2])
    there = np.isfinite(front) & np.isfinite(back)
    front[~there], back[~there], normals[~there], paint[~there] = np.nan, np.nan, 0, -1
    if there.sum() < pixels:
        return None
    return Seen(
        (front / longer).astype(np.float32),
        (back / longer).astype(np.float32),
        normals.astype(np.float32),
        paint.astype(np.int16),
        1 / (filled * pixels),
    )


def _reach(piece: Piece) -> float:
    """A radius round the piece's centre that it does not leave."""
    size = piece.size
    if piece.kind == OVAL:
        own = float(size.max())
    elif piece.kind == CONE:
        own = float(max(size[0], size[1] + size[2]))
    elif piece.kind == RING:
        own = float(size[0] + size[1])
    else:
        own = float(np.linalg.norm(size))
    return own + piece.round_by + 1.5 * abs(piece.blend)


@numba.njit(cache=True)
def _away(row, x, y, z):
    """Signed distance from one piece, or less."""
    dx, dy, dz = x - row[1], y - row[2], z - row[3]
    px = row[4] * dx + row[5] * dy + row[6] * dz
    py = row[7] * dx + row[8] * dy + row[9] * dz
    pz = row[10] * dx + row[11] * dy + row[12] * dz
    a, b, c = row[13], row[14], row[15]
    kind = int(row[0])
    if kind == 0:
        far = np.sqrt((px / a) ** 2 + (py / b) ** 2 + (pz / c) ** 2)
        steep = np.sqrt((px / a**2) ** 2 + (py / b**2) ** 2 + (pz / c**2) ** 2)
        if steep < 1e-9:
            return -min(a, b, c)
        return far * (far - 1) / steep
    if kind == 1:
        across = np.sqrt(px * px + pz * pz)
        share = (a - b) / c
        level = np.sqrt(max(1e-9, 1 - share * share))
        along = -share * across + level * py
        if along < 0:
            return np.sqrt(across * across + py * py) - a
        if along > level * c:
            return np.sqrt(across * across + (py - c) ** 2) - b
        return across * level + py * share - a
    if kind == 2:
        across = np.sqrt(px * px + pz * pz) - a
        return np.sqrt(across * across + py * py) - b
    qx, qy, qz = abs(px) - a, abs(py) - b, abs(pz) - c
    outside = np.sqrt(max(qx, 0) ** 2 + max(qy, 0) ** 2 + max(qz, 0) ** 2)
    return outside + min(max(qx, qy, qz), 0.0)


@numba.njit(cache=True)
def _distance(rows, used, count, x, y, z):
    """Signed distance of the blend of the first `count` pieces of `used`, and the paint that is there."""
    total, paint, nearest = 1e9, 0, 1e9
    for i in range(count):
        row = rows[used[i]]
        own = _away(row, x, y, z) - row[17]
        blend = abs(row[16])
        if row[16] >= 0:
            if own < nearest:
                nearest = own
                paint = int(row[18])
            mixed = max(blend - abs(total - own), 0.0) / blend
            total = min(total, own) - mixed * mixed * blend * 0.25
        else:
            own = -own
            if own > total:
                paint = int(row[18])
            mixed = max(blend - abs(total - own), 0.0) / blend
            total = max(total, own) + mixed * mixed * blend * 0.25
    return total, paint


@numba.njit(cache=True)
def _march(rows, reach, middle_x, middle_y, side, pixels, low, high):
    """Rays along Z from both sides: front, back, normals of the front, paint."""
    front = np.full((pixels, pixels), np.nan)
    back = np.full((pixels, pixels), np.nan)
    normals = np.zeros((pixels, pixels, 3))
    paint = np.full((pixels, pixels), -1, dtype=np.int64)
    used = np.empty(len(rows), dtype=np.int64)
    scale = high - low
    for row in range(pixels):
        y = middle_y - ((row + 0.5) / pixels - 0.5) * side
        for column in range(pixels):
            x = middle_x + ((column + 0.5) / pixels - 0.5) * side
            count = 0
            for k in range(len(rows)):
                if (x - rows[k, 1]) ** 2 + (y - rows[k, 2]) ** 2 < reach[k] ** 2:
                    used[count] = k
                    count += 1
            if count == 0:
                continue
            hits = 0
            for way in range(2):
                z = high if way == 0 else low
                for _ in range(_STEPS):
                    away, _p = _distance(rows, used, count, x, y, z)
                    if away < _NEAR * scale:
                        z_hit = z - away if way == 0 else z + away
                        if way == 0:
                            front[row, column] = z_hit
                        else:
                            back[row, column] = z_hit
                        hits += 1
                        break
                    step = max(_CAREFUL * away, _NEAR * scale)
                    z += -step if way == 0 else step
                    if z < low or z > high:
                        break
            if hits < 2:
                continue
            z, e = front[row, column], _SIDE * scale
            gx = _distance(rows, used, count, x + e, y, z)[0] - _distance(rows, used, count, x - e, y, z)[0]
            gy = _distance(rows, used, count, x, y + e, z)[0] - _distance(rows, used, count, x, y - e, z)[0]
            gz = _distance(rows, used, count, x, y, z + e)[0] - _distance(rows, used, count, x, y, z - e)[0]
            long = max(1e-12, np.sqrt(gx * gx + gy * gy + gz * gz))
            normals[row, column, 0] = gx / long
            normals[row, column, 1] = gy / long
            normals[row, column, 2] = gz / long
            paint[row, column] = _distance(rows, used, count, x, y, z)[1]
    return front, back, normals, paint
