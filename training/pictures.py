"""Pictures of a solid as people take and draw them: shaded, flat, inked, with paint, noise and imperfect cut-outs."""

import cv2
import numpy as np
from numpy.typing import NDArray

from training.solids import Seen

_Pixels = NDArray[np.float32]
_Rng = np.random.Generator
_SHADOW_STEPS = 10
STYLES = ("shaded", "drawn", "flat", "inked")
_OFTEN = (0.56, 0.18, 0.18, 0.08)


def picture_of(seen: Seen, rng: _Rng, style: str | None = None) -> _Pixels:
    """The front of a solid as a picture, float32 (N, N, 3), 0 to 1; grey beside it."""
    style = style or str(rng.choice(STYLES, p=_OFTEN))
    there = seen.covered
    paint = _paint(seen, rng)
    if style == "inked":
        picture = np.ones_like(paint) * np.float32(rng.uniform(0.85, 1))
    elif style == "flat":
        picture = paint
    else:
        light = shade(seen, rng)
        if style == "drawn":
            levels = int(rng.integers(2, 5))
            light = np.round(light * levels) / levels
        picture = paint * light[..., np.newaxis]
        if style == "shaded" and rng.random() < 0.4:
            picture = picture + _gloss(seen, rng)[..., np.newaxis]
    if style != "shaded" or rng.random() < 0.12:
        picture = picture * (1 - _ink(seen, rng)[..., np.newaxis] * np.float32(rng.uniform(0.5, 1)))
    if rng.random() < 0.2:
        picture = np.repeat(picture.mean(axis=2, keepdims=True), 3, axis=2)
    picture = np.clip(picture, 0, 1) ** np.float32(rng.uniform(0.7, 1.4))
    if rng.random() < 0.3:
        picture = cv2.GaussianBlur(picture, (0, 0), float(rng.uniform(0.3, 1.0)))
    if rng.random() < 0.5:
        picture = picture + rng.normal(0, rng.uniform(0.005, 0.05), picture.shape)
    return np.where(there[..., np.newaxis], np.clip(picture, 0, 1), 0.5).astype(np.float32)


def shade(seen: Seen, rng: _Rng) -> _Pixels:
    """How light every place is under one lamp and some sky, float32 (N, N), 0 to 1."""
    lamp = _lamp(rng)
    straight = np.clip(seen.normals @ lamp, 0, 1)
    if rng.random() < 0.35:
        straight = straight * _unshadowed(seen, lamp)
    sky = 0.5 + 0.5 * seen.normals[:, :, 1]
    share = rng.uniform(0.15, 0.6)
    light = share * (0.6 + 0.4 * sky) + (1 - share) * straight
    if rng.random() < 0.6:
        front = np.where(seen.covered, seen.front, np.nanmin(seen.front)).astype(np.float32)
        hollow = cv2.GaussianBlur(front, (0, 0), 3 * len(front) / 64) - front
        light = light * np.clip(1 - rng.uniform(1, 4) * np.maximum(hollow, 0), 0.4, 1)
    return np.clip(light, 0, 1).astype(np.float32)


def imperfect(covered: NDArray[np.bool_], rng: _Rng) -> _Pixels:
    """A cut-out of it as a hand or a program makes it, float32 (N, N), 0 to 1."""
    soft = cv2.GaussianBlur(covered.astype(np.float32), (0, 0), float(rng.uniform(0.4, 1.0)))
    if rng.random() < 0.3:
        rough = cv2.GaussianBlur(rng.normal(size=covered.shape).astype(np.float32), (0, 0), 2.0)
        soft = soft + rng.uniform(0.2, 1.0) * rough
        soft = cv2.GaussianBlur((soft > 0.5).astype(np.float32), (0, 0), 0.6)
    return np.clip(soft, 0, 1).astype(np.float32)


def _lamp(rng: _Rng) -> _Pixels:
    lamp = rng.normal(size=3) * [0.8, 0.5, 0.3] + [0, 0.5, 0.8]
    lamp[2] = abs(lamp[2])
    return (lamp / np.linalg.norm(lamp)).astype(np.float32)


def _paint(seen: Seen, rng: _Rng) -> _Pixels:
    count = int(seen.paint.max()) + 2
    first = rng.uniform(0.25, 1.0, 3)
    paints = np.clip(first + rng.normal(0, rng.choice([0.0, 0.1, 0.3]), (count, 3)), 0.08, 1)
    paint = paints[np.maximum(seen.paint, 0)].astype(np.float32)
    if rng.random() < 0.4:
        size = len(paint)
        wave = rng.uniform(0.05, 0.4) * cv2.GaussianBlur(
            rng.normal(size=(size, size)).astype(np.float32), (0, 0), float(rng.uniform(1.5, 8))
        )
        spots = np.sign(wave) * 0.2 if rng.random() < 0.4 else wave * 4
        paint = paint * (1 + spots[..., np.newaxis]).astype(np.float32)
    return np.clip(paint, 0.03, 1)


def _gloss(seen: Seen, rng: _Rng) -> _Pixels:
    half = _lamp(rng) + np.array([0, 0, 1], dtype=np.float32)
    half /= np.linalg.norm(half)
    shine: _Pixels = rng.uniform(0.1, 0.6) * np.clip(seen.normals @ half, 0, 1) ** rng.uniform(8, 60)
    return shine


def _unshadowed(seen: Seen, lamp: _Pixels) -> _Pixels:
    """0 where something of the front stands between a place and the lamp, else 1."""
    front = np.where(seen.covered, seen.front, -9).astype(np.float32)
    size = len(front)
    rows, columns = np.indices(front.shape).astype(np.float32)
    lit = np.ones_like(front)
    for step in range(1, _SHADOW_STEPS + 1):
        reach = 0.03 * step * 1.25
        there = cv2.remap(
            front,
            columns + lamp[0] * reach / seen.pitch,
            rows - lamp[1] * reach / seen.pitch,
            cv2.INTER_NEAREST,
            borderMode=cv2.BORDER_CONSTANT,
            borderValue=-9,
        )
        lit[there > front + lamp[2] * reach + 0.02] = 0
    return cv2.GaussianBlur(lit, (0, 0), 0.7 * size / 64)


def _ink(seen: Seen, rng: _Rng) -> _Pixels:
    """Lines where the depth leaps, paints meet, or the front turns away, float32 (N, N), 0 to 1."""
    front = np.where(seen.covered, seen.front, -1).astype(np.float32)
    leap = _step(front) > rng.uniform(0.03, 0.08)
    line = leap | (_step(seen.paint.astype(np.float32)) > 0)
    if rng.random() < 0.5:
        line |= seen.covered & (seen.normals[:, :, 2] < rng.uniform(0.15, 0.35))
    soft = line.astype(np.float32)
    if rng.random() < 0.5:
        soft = cv2.dilate(soft, np.ones((2, 2), np.uint8))
    return cv2.GaussianBlur(soft, (0, 0), 0.5)


def _step(values: _Pixels) -> _Pixels:
    return np.maximum(
        np.abs(np.diff(values, axis=0, prepend=values[:1])), np.abs(np.diff(values, axis=1, prepend=values[:, :1]))
    )
