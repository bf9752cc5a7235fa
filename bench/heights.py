"""The relief that is measured on: fractal ground with ridges, as a 16-bit picture."""

import io

import numpy as np
from numpy.typing import NDArray
from PIL import Image

RELIEF_MM = 5.0
WIDTH_MM = 100.0


def fractal(side_px: int, seed: int = 20, roughness: float = 1.9) -> NDArray[np.uint16]:
    """Uint16 (side, side) tones with a power spectrum that falls as a hillside's does."""
    rng = np.random.default_rng(seed)
    frequency = np.hypot(np.fft.fftfreq(side_px)[:, np.newaxis], np.fft.rfftfreq(side_px)[np.newaxis]) * side_px
    amplitude = np.where(frequency > 0, np.maximum(frequency, 1) ** -roughness, 0) * np.exp(-((frequency / 220) ** 2))
    phases = np.exp(2j * np.pi * rng.uniform(0, 1, amplitude.shape))
    ground = np.fft.irfft2(amplitude * phases, s=(side_px, side_px))
    ground = -np.abs(ground)
    ground = (ground - ground.min()) / np.ptp(ground)
    return np.round(ground * 65535).astype(np.uint16)


def as_png(tones: NDArray[np.uint16]) -> bytes:
    """The picture file."""
    file = io.BytesIO()
    Image.fromarray(tones).save(file, "PNG", compress_level=1)
    return file.getvalue()
