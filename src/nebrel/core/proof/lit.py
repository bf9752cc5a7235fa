"""A piece lit from behind: what is seen of it, and how well that matches the wanted picture."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nebrel.core.height.transmission import TranslucentMaterial
from nebrel.core.picture.srgb import WEIGHTS, decode_srgb, encode_srgb

Floats = NDArray[np.float32]
WINDOW_PX = 7
FRINGE = 0.01
UNLIT_WHITE = 0.82


@dataclass(frozen=True)
class Lamp:
    """The light round a piece.

    Attributes:
        colour: linear red, green and blue, the largest 1.
        power: of the lamp behind; 1 makes the thinnest wall white.
        ambient: of the room in front, as a share of what makes white paper white.
    """

    colour: tuple[float, float, float] = (1.0, 0.84, 0.62)
    power: float = 1.0
    ambient: float = 0.02


@dataclass(frozen=True)
class Likeness:
    """How well a lit piece matches its picture.

    Attributes:
        contrast: how many times brighter its brightest place is than its darkest.
        tones_lost: share of the picture that is darker than the thickest wall shows.
        within_reach: structural similarity of what is lit to what the light rule aims at, over the rest; 1 is the same.
        overall: that of what is lit to the picture itself, over all of it.
        mean_difference: of tones, 0 to 1.
    """

    contrast: float
    tones_lost: float
    within_reach: float
    overall: float
    mean_difference: float


def shown_tones(through: Floats, material: TranslucentMaterial, thinnest: float) -> Floats:
    """Tones that a lit wall shows when the thinnest wall shows white, float32 0 to 1.

    Args:
        through: float32, material on the way of the light, mm.
        material: what it is made of.
        thinnest: mm.
    """
    return encode_srgb(np.clip(np.exp(-material.attenuation * (through - thinnest)), 0, 1).astype(np.float32))


def shown_contrast(shown: Floats) -> float:
    """How many times brighter the brightest place is than the darkest, by the tones that a lit wall shows.

    The outermost hundredth at either end does not count, so that a pinhole or a speck does not tell it. Every report on
    a lit piece takes its contrast from here.
    """
    light = decode_srgb(shown[np.isfinite(shown)])
    return float(np.quantile(light, 1 - FRINGE) / max(float(np.quantile(light, FRINGE)), 1e-9))


def likeness(shown: Floats, aimed: Floats, picture: Floats, darkest: float) -> Likeness:
    """Compare shown tones with those that the light rule aims at, and with those of the picture.

    Structural similarity is that of Wang, Bovik, Sheikh and Simoncelli, "Image Quality Assessment" (2004).

    Args:
        shown, aimed, picture: float32 (H, W), sRGB tones; what is narrower than a window is carried on.
        darkest: the tone that the thickest wall shows.
    """
    from skimage.metrics import structural_similarity

    lacking = [(0, max(0, WINDOW_PX - side)) for side in shown.shape]
    shown, aimed, picture = (np.pad(tones, lacking, mode="edge") for tones in (shown, aimed, picture))
    _, alike = structural_similarity(aimed, shown, win_size=WINDOW_PX, data_range=1.0, full=True)
    overall = structural_similarity(picture, shown, win_size=WINDOW_PX, data_range=1.0)
    reached = picture >= darkest
    return Likeness(
        contrast=shown_contrast(shown),
        tones_lost=float(1 - reached.mean()),
        within_reach=float(alike[reached].mean()) if reached.any() else 0.0,
        overall=float(overall),
        mean_difference=float(np.abs(shown - picture).mean()),
    )


def lit_picture(
    through: Floats, material: TranslucentMaterial, thinnest: float, lamp: Lamp, colour: Floats | None = None
) -> NDArray[np.uint8]:
    """What is seen from in front, sRGB uint8 (H, W, 3): light that comes through and light of the room."""
    seen = transmitted_light(through, material, thinnest, lamp, colour) + lamp.ambient * UNLIT_WHITE
    return np.round(encode_srgb(np.clip(seen, 0, 1).astype(np.float32)) * 255).astype(np.uint8)


def transmitted_light(
    through: Floats, material: TranslucentMaterial, thinnest: float, lamp: Lamp, colour: Floats | None = None
) -> Floats:
    """Light that comes through a wall, linear float32 (H, W, 3); 1 is the lamp's at the thinnest wall.

    Args:
        through: float32 (H, W) mm of material on the way of the light.
        material, thinnest, lamp: the wall, and what stands behind it.
        colour: float32 (H, W, 3), what colour filters give to white light, whatever its brightness.
    """
    passed = np.exp(-material.attenuation * np.maximum(through - thinnest, -thinnest))[..., np.newaxis]
    if colour is not None:
        passed = passed * (colour / np.maximum(colour @ WEIGHTS, 1e-6)[..., np.newaxis])
    return np.asarray(lamp.power * passed * tint(lamp.colour, material.cast), dtype=np.float32)


def tint(lamp: tuple[float, float, float], cast: tuple[float, float, float]) -> NDArray[np.float64]:
    """Colour of the light behind a material, linear, the largest part 1."""
    colour = np.array(lamp) * np.array(cast)
    return np.asarray(colour / max(float(colour.max()), 1e-9))
