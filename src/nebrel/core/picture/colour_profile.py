"""Colours of a file that are not sRGB turned to it: by the file's profile, from inks, from Lab."""

import contextlib
import io

import imagecodecs
import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageCms

# Bradford's adaptation, as ICC profiles use it.
D50_TO_D65 = np.array(
    [[0.9555766, -0.0230393, 0.0631636], [-0.0282895, 1.0099416, 0.0210077], [0.0122982, -0.0204830, 1.3299098]]
)
INKS_WITHOUT_PROFILE = "Its inks were taken for pure ones, as it has no colour profile."


def in_srgb(image: Image.Image, profile: bytes | None) -> tuple[Image.Image, str]:
    """An image of 8 bits in sRGB, and what is said about that; as it is where its profile is sRGB, or none.

    Args:
        image: RGB, with or without opacity, or CMYK; others are left as they are.
        profile: an ICC profile.
    """
    inks = image.mode == "CMYK"
    if not profile or image.mode not in ("RGB", "RGBA", "CMYK"):
        return image, INKS_WITHOUT_PROFILE if inks else ""
    try:
        own, name = _opened(profile)
        if "srgb" in name.lower() and not inks:
            return image, ""
        colours = image if inks else image.convert("RGB")
        turned = ImageCms.profileToProfile(colours, own, ImageCms.createProfile("sRGB"), outputMode="RGB")
    except (ImageCms.PyCMSError, OSError) as cause:
        return image, _useless(cause)
    assert turned is not None
    if image.mode == "RGBA":
        turned.putalpha(image.getchannel("A"))
    return turned, _turned_from(name)


def deep_in_srgb(samples: NDArray[np.uint16], profile: bytes | None) -> tuple[NDArray[np.uint16], str]:
    """Colours of 16 bits in sRGB of 16 bits, and what is said about that; as they are as `in_srgb` leaves them.

    Args:
        samples: (H, W, 3 or 4), red, green and blue, opacity after them.
        profile: an ICC profile.
    """
    if not profile:
        return samples, ""
    try:
        _, name = _opened(profile)
        if "srgb" in name.lower():
            return samples, ""
        turned = _transformed(samples[..., :3], profile, "rgb")
    except (ImageCms.PyCMSError, OSError, imagecodecs.CmsError) as cause:
        return samples, _useless(cause)
    return np.concatenate([turned, samples[..., 3:]], axis=-1), _turned_from(name)


def _opened(profile: bytes) -> tuple[ImageCms.ImageCmsProfile, str]:
    own = ImageCms.ImageCmsProfile(io.BytesIO(profile))
    return own, ImageCms.getProfileDescription(own).strip() or "its profile"


def _transformed(colours: NDArray[np.uint16], profile: bytes, space: str) -> NDArray[np.uint16]:
    """Colours of 16 bits, (H, W, channels), turned to sRGB by a profile."""
    target = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
    turned = imagecodecs.cms_transform(
        np.ascontiguousarray(colours), profile, target, colorspace=space, outcolorspace="rgb"
    )
    return np.asarray(turned, dtype=np.uint16)


def _turned_from(name: str) -> str:
    return f"Its colours were turned from “{name}” to sRGB."


def _useless(cause: Exception) -> str:
    return f"Its colour profile cannot be used ({str(cause)[:60]})."


def from_inks(samples: NDArray[np.generic], profile: bytes | None) -> tuple[NDArray[np.generic], str]:
    """Cyan, magenta, yellow and black, (H, W, 4 or more), as sRGB; what follows them is opacity.

    Without a profile that can be used, inks are taken for pure: each takes its share of one colour.
    """
    rest = samples[..., 4:5]
    if samples.dtype == np.uint16 and profile:
        with contextlib.suppress(ImageCms.PyCMSError, OSError, imagecodecs.CmsError):
            turned = _transformed(samples[..., :4].astype(np.uint16, copy=False), profile, "cmyk")
            return np.concatenate([turned, rest], axis=-1), _turned_from(_opened(profile)[1])
    if samples.dtype == np.uint8:
        image = Image.frombytes("CMYK", samples.shape[1::-1], np.ascontiguousarray(samples[..., :4]).tobytes())
        in_light, told = in_srgb(image, profile)
        return np.concatenate([np.asarray(in_light.convert("RGB")), rest], axis=-1), told
    full = float(np.iinfo(samples.dtype.name).max) if np.issubdtype(samples.dtype, np.integer) else 1.0
    left = 1 - samples[..., :4].astype(np.float64) / full
    colours = np.concatenate([left[..., :3] * left[..., 3:4], rest.astype(np.float64) / full], axis=-1)
    return np.clip(colours, 0, 1).astype(np.float32), INKS_WITHOUT_PROFILE


def from_luma(samples: NDArray[np.generic]) -> NDArray[np.generic]:
    """Y, Cb and Cr of 8 bits, (H, W, 3), as RGB (Rec. 601, full range)."""
    return np.asarray(
        Image.frombytes("YCbCr", samples.shape[1::-1], np.ascontiguousarray(samples).tobytes()).convert("RGB")
    )


def from_lab(samples: NDArray[np.generic], offset: bool) -> NDArray[np.float32]:
    """L*, a* and b* of a TIFF, (H, W, 3 or more) of 8 or 16 bits under D50, as sRGB; what follows them is opacity.

    Args:
        samples: unsigned as stored.
        offset: whether a* and b* are stored with 128 added, as ICC does, instead of signed.
    """
    from skimage.color import lab2xyz, xyz2rgb

    wide = samples.dtype.itemsize > 1
    full, unit = (65_535.0, 256.0) if wide else (255.0, 1.0)
    across = samples[..., 1:3].astype(np.float64) / unit
    across = across - 128 if offset else np.where(across >= 128, across - 256, across)
    lab = np.concatenate([samples[..., :1].astype(np.float64) / full * 100, across], axis=-1)
    colours = np.clip(xyz2rgb(lab2xyz(lab, illuminant="D50") @ D50_TO_D65.T), 0, 1)
    opacity = samples[..., 3:4].astype(np.float64) / full
    return np.concatenate([colours, opacity], axis=-1).astype(np.float32)
