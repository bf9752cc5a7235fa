"""Depth from light and shade, on top of what the outline swells to."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nebrel.core.figure.depth import Deepened
from nebrel.core.figure.hand import HandStroke
from nebrel.core.figure.normals import integrated, normals_of
from nebrel.core.figure.parts import find_parts
from nebrel.core.figure.silhouette import Silhouette

ROUNDS = 4
# Normals turn by so much of what would explain their tone at each round, and by no more than this.
SHARE, MOST_TURN = 0.6, 0.25
# Where a figure turns away no tone is believed; it is fully where it faces the viewer by more.
TURNED, FACING = 0.25, 0.55
# Less contrast than this between light and shade says nothing.
LEAST_LIGHT = 0.02

_Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Shading:
    """Shape from shading.

    Attributes:
        picture: float32 (H, W, 3), as large as the source of the silhouette, 0 to 1.
        strength: how far normals follow the tones, 0 to 1.
    """

    picture: NDArray[np.float32]
    strength: float = 1.0

    def __call__(self, silhouette: Silhouette, square: _Floats, strokes: Sequence[HandStroke] = ()) -> Deepened:
        """The front whose tones under one lamp and some sky come nearer to the picture's.

        Light is a level and a direction, found by least squares from tones and the swollen normals; every part between
        the picture's edges has a paint of its own, found in turn with the light (Barron and Malik, "Shape,
        Illumination, and Reflectance from Shading", 2015, has the whole of the problem; this is its smallest form).
        Normals turn towards or away from the light until they explain what is left, and are integrated.
        """
        inside = silhouette.inside
        front = np.sqrt(np.maximum(square, 0))
        colours = np.dstack([silhouette.sharp_on_grid(self.picture[:, :, each]) for each in range(3)])
        parts = find_parts(silhouette, colours, ()).labels
        tones = colours @ np.array([0.299, 0.587, 0.114])
        swollen = front
        for _ in range(ROUNDS):
            normals = normals_of(front, silhouette.pitch)
            trust = np.clip((normals[..., 2] - TURNED) / (FACING - TURNED), 0, 1) * inside
            light, paints = _lit(tones, normals, trust, parts)
            direction = light[1:]
            bright = float(np.linalg.norm(direction))
            if bright < LEAST_LIGHT:
                break
            left = tones / np.maximum(paints, 0.05) - (light[0] + normals @ direction)
            aside = direction - (normals @ direction)[..., np.newaxis] * normals
            steep = np.maximum((aside**2).sum(axis=2), (0.3 * bright) ** 2)
            by = np.clip(SHARE * self.strength * left / steep * np.sqrt(steep), -MOST_TURN, MOST_TURN) / np.sqrt(steep)
            turned = normals + (by * trust)[..., np.newaxis] * aside
            turned /= np.linalg.norm(turned, axis=2, keepdims=True)
            front = integrated(turned, swollen, inside, silhouette.pitch, trust)
        return Deepened(square, middle=np.where(inside, front - swollen, 0.0))


def _lit(tones: _Floats, normals: _Floats, trust: _Floats, parts: NDArray[np.int32]) -> tuple[_Floats, _Floats]:
    """Light, float64 (4,): a level and a direction; and the paint of every sample, float64 (H, W)."""
    used = trust > 0.5
    if int(used.sum()) < 16:
        return np.zeros(4), np.ones(tones.shape)
    basis = np.column_stack([np.ones(int(used.sum())), normals[used]])
    labels, wanted = parts[used], tones[used]
    count = int(parts.max()) + 1
    paint = np.bincount(labels, wanted, count) / np.maximum(np.bincount(labels, minlength=count), 1)
    light: _Floats = np.zeros(4)
    for _ in range(ROUNDS):
        weighted = basis * paint[labels][:, np.newaxis]
        light = np.asarray(np.linalg.lstsq(weighted, wanted, rcond=None)[0])
        shade = np.maximum(basis @ light, 0.02)
        own = np.bincount(labels, wanted * shade, count) / np.maximum(np.bincount(labels, shade**2, count), 1e-9)
        paint = np.where(own > 0, own, paint)
    return light, np.where(parts >= 0, paint[np.maximum(parts, 0)], 1.0)
