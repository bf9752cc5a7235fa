"""OpenEXR: pictures of float samples, such as height maps."""

import tempfile
from collections.abc import Callable
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from nebrel.core.picture.srgb import encode_srgb

SIGN = b"v/1\x01"
_OPACITY = "A"
# Of several channels without colours, the first of these that is there holds the heights.
_HEIGHTS = ("Y", "Z", "height", "H", "depth", "D", "V")
_TAKEN = "Its linear light is taken as sRGB."


def read_exr(data: bytes, check_size: Callable[[int, int], None]) -> tuple[NDArray[np.generic], str]:
    """The samples of the first part, (H, W) of one channel or (H, W, 3 or 4) as sRGB, and what is said about them.

    Args:
        data: the whole file.
        check_size: called with the width and height that the file declares, before anything is decoded.

    Raises:
        ValueError: damaged, or its channels differ in size.
    """
    import OpenEXR

    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "picture.exr"
        path.write_bytes(data)
        with OpenEXR.File(str(path), header_only=True) as head:
            low, high = head.header()["dataWindow"]
            check_size(int(high[0]) - int(low[0]) + 1, int(high[1]) - int(low[1]) + 1)
        with OpenEXR.File(str(path), separate_channels=True) as found:
            channels = {name: np.asarray(channel.pixels) for name, channel in found.channels().items()}
            parts = len(found.parts)
    more = "" if parts == 1 else f"The first of {parts:,} parts is read."
    samples, told = _chosen(channels)
    return samples, " ".join(each for each in (more, told) if each)


def _chosen(channels: dict[str, NDArray[np.generic]]) -> tuple[NDArray[np.generic], str]:
    colours = [channels[name] for name in ("R", "G", "B") if name in channels]
    if len(colours) == 3:
        light = np.stack(colours, axis=-1).astype(np.float32)
        opacity = channels.get(_OPACITY)
        if opacity is None:
            return encode_srgb(np.maximum(light, 0)), _TAKEN
        # Colours of this format are multiplied with their opacity.
        cover = np.clip(opacity.astype(np.float32), 0, 1)[..., np.newaxis]
        return np.concatenate([encode_srgb(np.maximum(light / np.maximum(cover, 1e-6), 0)), cover], axis=-1), _TAKEN
    names = sorted(name for name in channels if name != _OPACITY) or sorted(channels)
    name = next((each for each in _HEIGHTS if each in names), names[0])
    told = "" if len(names) == 1 else f"Channel {name} of {', '.join(names)} is read."
    return channels[name], told
