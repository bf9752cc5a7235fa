"""The moon over Fernhollow as a map for a globe: craters and seas, drawn on a sphere and laid out by Mercator's map."""

import math

import numpy as np

from nebrel.demo.pictures.stamps import Grid

WIDTH_PX = 720
# The map ends this far from the poles, radians.
POLE_GAP = 0.029
CRATERS, SEAS = 140, 9


def draw_moon() -> Grid:
    """Tones, float (H, 720), north on top, running round without a seam."""
    end = math.asinh(math.tan(math.pi / 2 - POLE_GAP))
    rows = round(WIDTH_PX * end / math.pi)
    turn = np.linspace(0, 2 * math.pi, WIDTH_PX)
    latitude = np.arctan(np.sinh(np.linspace(end, -end, rows)))[:, np.newaxis]
    along, up = np.cos(latitude), np.broadcast_to(np.sin(latitude), (rows, WIDTH_PX))
    places = np.stack([along * np.cos(turn), along * np.sin(turn), up], axis=-1).astype(np.float32)
    rng = np.random.default_rng(28)
    tones = np.full((rows, WIDTH_PX), 0.78, dtype=np.float32)
    for _ in range(SEAS):
        away = _away(places, _somewhere(rng)) + 0.05 * _grain(places, rng, 5)
        tones -= 0.34 * _falling(away, rng.uniform(0.22, 0.55), 0.09)
    tones = np.maximum(tones, 0.3)
    tones += 0.035 * _grain(places, rng, 9) + 0.025 * _grain(places, rng, 23)
    for size in np.sort(0.02 + 0.17 * rng.random(CRATERS) ** 3)[::-1].tolist():
        middle = _somewhere(rng)
        away = _away(places, middle)
        tones += 0.16 * np.exp(-(((away - size) / (0.16 * size)) ** 2)) - 0.13 * _falling(
            away, 0.82 * size, 0.12 * size
        )
        if size > 0.09:
            tones += 0.1 * np.exp(-((away / (0.16 * size)) ** 2))
        if size > 0.12:
            spin = np.arctan2(*(places @ axis for axis in _across(middle)))
            rays = np.maximum(0, np.sin(7 * spin) * np.sin(11 * spin + 1)) * np.exp(-away / (4 * size))
            tones += (0.22 * rays * (away > size)).astype(np.float32)
    low, high = np.quantile(tones, (0.002, 0.998))
    return np.asarray(np.clip(0.1 + 0.88 * (tones - low) / (high - low), 0, 1), dtype=np.float64)


def _somewhere(rng: np.random.Generator) -> np.ndarray:
    place = rng.standard_normal(3)
    return (place / np.linalg.norm(place)).astype(np.float32)


def _away(places: np.ndarray, middle: np.ndarray) -> np.ndarray:
    """Angle from a place, radians."""
    return np.asarray(np.arccos(np.clip(places @ middle, -1, 1)))


def _across(middle: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Two directions at right angles to a place and to each other."""
    helper = np.array([0, 0, 1] if abs(middle[2]) < 0.8 else [1, 0, 0], dtype=np.float32)
    one = np.cross(helper, middle)
    one /= np.linalg.norm(one)
    return one, np.cross(middle, one)


def _falling(away: np.ndarray, edge: float, soft: float) -> np.ndarray:
    """1 within an edge, 0 beyond it, over a soft step."""
    return np.asarray(0.5 - 0.5 * np.tanh((away - edge) / soft))


def _grain(places: np.ndarray, rng: np.random.Generator, often: float) -> np.ndarray:
    """Waves in all directions, about -1 to 1: a texture without a seam."""
    made = np.zeros(places.shape[:2], dtype=np.float32)
    for _ in range(6):
        made += np.sin(places @ (often * _somewhere(rng) * rng.uniform(0.6, 1.6)) + np.float32(rng.uniform(0, 6.3)))
    return made / 3
