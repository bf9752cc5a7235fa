"""A deep subject in a shallow relief: large differences of height are attenuated, small detail is kept."""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

STRONGEST = 60.0
SCALE_SHARE = 0.006
_Floats = NDArray[np.float32]


def compress_heights(
    shares: _Floats,
    material: NDArray[np.bool_],
    strength: float,
    progress: Callable[[float], None] = lambda _: None,
) -> _Floats:
    """Heights of the same range with their large differences attenuated, in the gradient domain.

    Gradients are scaled by log(1 + a m) / (a m), with m their size at a fixed scale of the whole (Weyrich, Deng,
    Barnes, Rusinkiewicz and Finkelstein, "Digital Bas-Relief from 3D Scenes", 2007; Fattal, Lischinski and Werman,
    "Gradient Domain High Dynamic Range Compression", 2002), then integrated again by a Poisson equation with free
    borders, solved by cosine transforms.

    Args:
        shares: float32 (H, W), 0 lowest to 1 highest.
        material: bool (H, W); blanks bend nothing.
        strength: 0 changes nothing, 1 attenuates most.
        progress: called with the fraction done.

    Returns:
        float32 (H, W), as wide a range over the material as came in.
    """
    if strength <= 0:
        return shares
    scale = max(0.7, SCALE_SHARE * max(shares.shape))
    factor = _attenuation(shares, material, scale, STRONGEST * strength * strength)
    progress(0.3)
    across = np.diff(shares, axis=1) * (factor[:, 1:] + factor[:, :-1]) / 2
    across *= material[:, 1:] & material[:, :-1]
    divergence = np.zeros_like(shares)
    divergence[:, :-1] += across
    divergence[:, 1:] -= across
    del across
    down = np.diff(shares, axis=0) * (factor[1:] + factor[:-1]) / 2
    down *= material[1:] & material[:-1]
    divergence[:-1] += down
    divergence[1:] -= down
    del down, factor
    progress(0.5)
    integrated = _poisson(divergence)
    progress(0.9)
    return _stretch(integrated, shares, material)


def _attenuation(shares: _Floats, material: NDArray[np.bool_], scale: float, strength: float) -> _Floats:
    from scipy import ndimage

    soft = ndimage.gaussian_filter(shares, scale, mode="nearest")
    size = np.hypot(ndimage.sobel(soft, 1, mode="nearest"), ndimage.sobel(soft, 0, mode="nearest"))
    size *= material
    usual = float(size.mean(where=material)) if material.any() else 0.0
    if usual <= 0:
        return np.ones_like(shares)
    steep = np.maximum(size * np.float32(strength / usual), np.float32(1e-4))
    return (np.log1p(steep) / steep).astype(np.float32)


def _poisson(divergence: _Floats) -> _Floats:
    """The field of mean 0 whose Laplacian with free borders is `divergence`."""
    rows, columns = divergence.shape
    from scipy import fft

    spectrum = fft.dctn(divergence, type=2, norm="ortho", overwrite_x=True)
    down = 2 * np.cos(np.pi * np.arange(rows) / rows) - 2
    across = 2 * np.cos(np.pi * np.arange(columns) / columns) - 2
    bend = (down[:, np.newaxis] + across).astype(np.float32)
    bend[0, 0] = 1
    spectrum /= bend
    spectrum[0, 0] = 0
    return np.asarray(fft.idctn(spectrum, type=2, norm="ortho", overwrite_x=True), dtype=np.float32)


def _stretch(values: _Floats, like: _Floats, material: NDArray[np.bool_]) -> _Floats:
    low, high = float(values.min(where=material, initial=np.inf)), float(values.max(where=material, initial=-np.inf))
    floor = float(like.min(where=material, initial=np.inf))
    top = float(like.max(where=material, initial=-np.inf))
    if high <= low:
        return like
    scaled = (values - np.float32(low)) * np.float32((top - floor) / (high - low)) + np.float32(floor)
    return np.clip(scaled, np.float32(floor), np.float32(top))
