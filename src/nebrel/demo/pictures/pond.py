"""The mill pond at dusk: sky, hills, their reflection, reeds, a waterlily and a kingfisher on a branch, in colour."""

import numpy as np
from numpy.typing import NDArray

Colours = NDArray[np.float64]
WIDTH_PX, HEIGHT_PX = 960, 640
SHORE = 0.56


def draw_pond() -> Colours:
    """Red, green and blue, float64 (640, 960, 3) in 0..1."""
    rows, columns = np.mgrid[0:HEIGHT_PX, 0:WIDTH_PX]
    x, y = columns / HEIGHT_PX, rows / HEIGHT_PX
    under = np.maximum(y - SHORE, 0)
    picture = _scene(x, np.where(y < SHORE, y, SHORE - under + 0.012 * np.sin(90 * under**0.7 + 7 * x)))
    water = (y > SHORE)[..., np.newaxis]
    picture = np.where(water, picture * (0.62, 0.72, 0.78) + (0.0, 0.02, 0.05), picture)
    for at, tall, lean in (
        (0.06, 0.5, 0.05),
        (0.1, 0.62, 0.02),
        (0.15, 0.44, -0.03),
        (1.42, 0.5, 0.04),
        (1.37, 0.38, -0.02),
    ):
        foot = 0.98
        share = np.clip((foot - y) / tall, 0, 1)
        reed = (np.abs(x - at - lean * share**2) < 0.006 * (1.2 - share)) & (y < foot) & (share < 1)
        _lay(picture, reed, (0.16, 0.3, 0.1))
        _lay(picture, np.hypot((x - at - lean) / 0.35, y - foot + tall) < 0.045, (0.3, 0.16, 0.07))
    for turn in np.linspace(-1.2, 1.2, 7):
        _petal(picture, x - 0.52, y - 0.86, turn, (0.93, 0.45 + 0.1 * abs(turn), 0.62))
    _lay(picture, _oval(x, y, 0.52, 0.875, 0.13, 0.022, 0.0), (0.2, 0.42, 0.16))
    _kingfisher(picture, x, y)
    return np.clip(picture, 0, 1)


def _scene(x: Colours, y: Colours) -> Colours:
    """Sky and hills above the shore."""
    share = np.clip(y / SHORE, 0, 1)[..., np.newaxis]
    high, middle, low = np.array((0.24, 0.3, 0.6)), np.array((0.86, 0.48, 0.5)), np.array((1.0, 0.78, 0.4))
    sky = np.where(share < 0.55, high + (middle - high) * share / 0.55, middle + (low - middle) * (share - 0.55) / 0.45)
    sun = np.hypot(x - 1.05, y - 0.42)[..., np.newaxis]
    sky = sky + np.exp(-((sun / 0.16) ** 2)) * (0.25, 0.25, 0.1)
    sky = np.where(sun < 0.055, (1.0, 0.95, 0.7), sky)
    for base, wave, colour in (
        (0.4, 2.3, (0.42, 0.36, 0.56)),
        (0.46, 3.7, (0.24, 0.3, 0.36)),
        (0.52, 5.1, (0.13, 0.24, 0.17)),
    ):
        ridge = base + 0.045 * np.sin(wave * x + 9 * base) + 0.012 * np.sin(11 * wave * x)
        sky = np.where((y > ridge)[..., np.newaxis], colour, sky)
    return sky


def _kingfisher(picture: Colours, x: Colours, y: Colours) -> None:
    _lay(picture, (np.abs(y - 0.475 + 0.1 * (x - 0.3) ** 2) < 0.011) & (x < 0.72), (0.25, 0.15, 0.1))
    _lay(picture, _oval(x, y, 0.415, 0.465, 0.014, 0.075, 0.35), (0.08, 0.3, 0.55))
    _lay(picture, _oval(x, y, 0.46, 0.37, 0.075, 0.115, -0.3), (0.95, 0.52, 0.15))
    _lay(picture, _oval(x, y, 0.425, 0.375, 0.05, 0.115, -0.25), (0.05, 0.45, 0.72))
    _lay(picture, _oval(x, y, 0.415, 0.4, 0.028, 0.09, -0.25), (0.04, 0.3, 0.52))
    _lay(picture, _oval(x, y, 0.505, 0.255, 0.062, 0.052, 0.2), (0.06, 0.5, 0.75))
    _lay(picture, _oval(x, y, 0.515, 0.282, 0.04, 0.02, 0.2), (0.95, 0.55, 0.2))
    _lay(picture, _oval(x, y, 0.475, 0.292, 0.02, 0.018, 0.2), (0.97, 0.95, 0.9))
    _lay(picture, _oval(x, y, 0.615, 0.272, 0.07, 0.011, 0.1), (0.12, 0.1, 0.1))
    _lay(picture, np.hypot(x - 0.535, y - 0.25) < 0.011, (0.08, 0.06, 0.06))
    _lay(picture, np.hypot(x - 0.538, y - 0.247) < 0.003, (1.0, 1.0, 1.0))


def _petal(picture: Colours, x: Colours, y: Colours, turn: float, colour: tuple[float, float, float]) -> None:
    middle = 0.055 * np.sin(turn), -0.055 * np.cos(turn)
    _lay(picture, _oval(x, y, *middle, 0.02, 0.055, turn), colour)


def _oval(x: Colours, y: Colours, at_x: float, at_y: float, wide: float, tall: float, turn: float) -> NDArray[np.bool_]:
    """Inside an ellipse with those half axes, turned to the right by so much, radians."""
    dx, dy = x - at_x, y - at_y
    along, across = dx * np.cos(turn) + dy * np.sin(turn), dy * np.cos(turn) - dx * np.sin(turn)
    return np.asarray((along / wide) ** 2 + (across / tall) ** 2 < 1)


def _lay(picture: Colours, where: NDArray[np.bool_], colour: tuple[float, float, float]) -> None:
    picture[where] = colour
