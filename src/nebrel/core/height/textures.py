"""Textures of grounds as functions of the place in mm: without seams, and the same at any resolution."""

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from nebrel.core.height.field import HeightField

Kind = Literal["noise", "hammered", "leather", "wood", "hatching"]
OCTAVES = 4
# Hatching: how far a cut is off its place, and how long it is, in distances between cuts.
WOBBLE, CUT_LENGTH = 0.16, 7.0
# Wood: how much longer than wide its grain is, and how much it winds.
LONG, WINDING = 9.0, 0.9
DENT, CREASE, BENT, LATE = 0.62, 0.5, 0.22, 0.8

_Reals = NDArray[np.float32]


def texture(kind: Kind, x: _Reals, y: _Reals, size: float, angle_deg: float = 0.0, seed: int = 0) -> _Reals:
    """Heights of a texture.

    Args:
        kind: `noise` is gradient noise of several octaves (Perlin, "Improving Noise", 2002); `hammered` has round dents
            and `leather` grains with creases between them, both cellular (Worley, "A Cellular Texture Basis Function",
            1996); `wood` is a grain that winds; `hatching` rows of cuts.
        x, y: float32 (H, W) mm each.
        size: mm, of a grain, a dent, or between two lines; above 0.
        angle_deg: by which it is turned, counter-clockwise.
        seed: another one gives another texture of the same kind.

    Returns:
        float32 (H, W), 0 lowest to 1 highest.
    """
    turn = np.deg2rad(angle_deg)
    u = ((x * np.cos(turn) + y * np.sin(turn)) / size).astype(np.float32)
    v = ((-x * np.sin(turn) + y * np.cos(turn)) / size).astype(np.float32)
    if kind == "noise":
        return np.clip(0.5 + 0.75 * _fractal(u, v, seed), 0, 1).astype(np.float32)
    if kind == "hammered":
        nearest, _ = _cells(u, v, seed)
        return np.clip((nearest / DENT) ** 2, 0, 1).astype(np.float32)
    if kind == "leather":
        # Grains are no polygons: the places are bent before they are told to cells.
        bent_u, bent_v = (each + BENT * _gradient(1.3 * u, 1.3 * v, seed + own) for each, own in ((u, 11), (v, 12)))
        nearest, second = _cells(bent_u, bent_v, seed)
        inside = np.clip((second - nearest) / CREASE, 0, 1)
        swollen = np.sqrt(inside * (2 - inside)) * (0.9 + 0.14 * _fractal(3 * u, 3 * v, seed + 7))
        return np.clip(swollen, 0, 1).astype(np.float32)
    if kind == "wood":
        rings = v + WINDING * _gradient(u / LONG, v / 3, seed) + 0.25 * _gradient(u / (LONG / 2), v, seed + 1)
        fibre = _gradient(u / 3, 6 * v, seed + 2)
        place = rings - np.floor(rings)
        # Late wood is a ridge at the end of every ring, and falls off steeply.
        ring = np.where(place < LATE, (place / LATE) ** 2, _fade((1 - place) / (1 - LATE)))
        return np.clip(0.7 * ring + 0.15 + 0.15 * fibre, 0, 1).astype(np.float32)
    return _hatching(u, v, seed)


def _hatching(u: _Reals, v: _Reals, seed: int) -> _Reals:
    """Rows of cuts, each of its own length and depth, that run out at both ends."""
    row = np.floor(v)
    shift = CUT_LENGTH * _hashed(row, np.zeros_like(row), seed)
    number = np.floor((u + shift) / CUT_LENGTH)
    along = (u + shift) / CUT_LENGTH - number
    depth = 0.65 + 0.35 * _hashed(number, row, seed + 1)
    off = WOBBLE * _gradient((u / 4).astype(np.float32), row + np.float32(0.5), seed + 2)
    across = np.abs(v - row - 0.5 + off) * 2
    ends = np.clip(np.minimum(along, 1 - along) * CUT_LENGTH / 1.2, 0, 1)
    cut = np.clip(1 - across / np.maximum(0.95 * np.sqrt(ends), 1e-3), 0, 1)
    return (1 - depth * cut).astype(np.float32)


def _fractal(u: _Reals, v: _Reals, seed: int) -> _Reals:
    total = np.zeros_like(u)
    for octave in range(OCTAVES):
        finer = np.float32(2**octave)
        total += _gradient(u * finer, v * finer, seed + 31 * octave) / finer
    return total


def _hashed(column: _Reals, row: _Reals, seed: int) -> _Reals:
    """A number in 0..1 for every whole column and row, float32."""
    mixed = column.astype(np.int64).astype(np.uint64) * np.uint64(0x9E3779B97F4A7C15)
    mixed ^= row.astype(np.int64).astype(np.uint64) * np.uint64(0xC2B2AE3D27D4EB4F)
    mixed += np.uint64(seed * 0x165667B19E3779F9 % 2**64)
    for shift in (33, 29, 32):
        mixed ^= mixed >> np.uint64(shift)
        mixed *= np.uint64(0xFF51AFD7ED558CCD)
    return ((mixed >> np.uint64(40)).astype(np.float32) / np.float32(2**24)).astype(np.float32)


def _gradient(u: _Reals, v: _Reals, seed: int) -> _Reals:
    """Gradient noise with cells of 1, float32, about -0.7 to 0.7."""
    column, row = np.floor(u), np.floor(v)
    x, y = u - column, v - row
    total = np.zeros_like(u)
    for right in (0, 1):
        for up in (0, 1):
            angle = np.float32(2 * np.pi) * _hashed(column + right, row + up, seed)
            slope = np.cos(angle) * (x - right) + np.sin(angle) * (y - up)
            total += slope * _fade(1 - np.abs(x - right)) * _fade(1 - np.abs(y - up))
    return total.astype(np.float32)


def _fade(share: _Reals) -> _Reals:
    return (share**3 * (share * (share * 6 - 15) + 10)).astype(np.float32)


def _cells(u: _Reals, v: _Reals, seed: int) -> tuple[_Reals, _Reals]:
    """Distances from the nearest and the second nearest of points, one in every cell of 1, float32 each."""
    column, row = np.floor(u), np.floor(v)
    nearest, second = np.full_like(u, np.inf), np.full_like(u, np.inf)
    for right in (-1, 0, 1):
        for up in (-1, 0, 1):
            x = column + right + 0.15 + 0.7 * _hashed(column + right, row + up, seed)
            y = row + up + 0.15 + 0.7 * _hashed(column + right, row + up, seed + 101)
            away = np.hypot(u - x, v - y).astype(np.float32)
            second = np.minimum(second, np.maximum(nearest, away))
            nearest = np.minimum(nearest, away)
    return nearest, second


@dataclass(frozen=True)
class Texture:
    """A texture for heights.

    Attributes:
        kind, size, angle_deg, seed: as of `texture`.
        depth: mm from its lowest to its highest.
        below: mm; it fades out towards places as high as that. None for one that lies everywhere.
    """

    kind: Kind
    size: float
    depth: float
    angle_deg: float = 0.0
    seed: int = 0
    below: float | None = None


def textured(field: HeightField, wish: Texture) -> HeightField:
    """A field with a texture on it, or on what is low of it; exact steps and lines are given up."""
    rows, columns = field.heights.shape
    x, y = np.meshgrid(
        (np.arange(columns) * field.pitch).astype(np.float32),
        ((rows - 1 - np.arange(rows)) * field.pitch).astype(np.float32),
    )
    by = texture(wish.kind, x, y, wish.size, wish.angle_deg, wish.seed) * np.float32(wish.depth)
    if wish.below is not None:
        by *= _fade(np.clip(1 - field.heights / np.float32(max(wish.below, 1e-6)), 0, 1).astype(np.float32))
    return replace(field, heights=field.heights + by, terraces=None, lines=None)
