"""JPEG XL: how large a picture is, read before it is decoded, and its samples."""

import imagecodecs
import numpy as np
from numpy.typing import NDArray

SIGNS = (b"\xff\x0a", b"\0\0\0\x0cJXL \r\n\x87\n")
_BARE = SIGNS[0]
_BOX_HEAD, _LARGE_BOX_HEAD, _PART_INDEX = 8, 16, 4
# ISO/IEC 18181-1, SizeHeader: width over height by the number in its three bits.
_RATIOS = {1: (1, 1), 2: (12, 10), 3: (4, 3), 4: (3, 2), 5: (16, 9), 6: (5, 4), 7: (2, 1)}
_SIZE_BITS = (9, 13, 18, 30)


def declared_size(data: bytes) -> tuple[int, int]:
    """Width and height that a file declares, pixels.

    Raises:
        ValueError: there is no picture in it, or it ends too early.
    """
    stream = _codestream(data)
    bits = _Bits(stream[len(_BARE) :])
    small = bits.take(1)
    height = _side(bits, small)
    ratio = bits.take(3)
    if ratio:
        across, up = _RATIOS[ratio]
        return height * across // up, height
    return _side(bits, small), height


def samples_of(data: bytes) -> NDArray[np.generic]:
    """The samples of the first frame, (H, W) or (H, W, channels), upright."""
    found = np.asarray(imagecodecs.jpegxl_decode(data))
    return found[0] if found.ndim == 4 else found


def _codestream(data: bytes) -> bytes:
    if data.startswith(_BARE):
        return data
    at = 0
    while at + _BOX_HEAD <= len(data):
        length, kind = int.from_bytes(data[at : at + 4], "big"), data[at + 4 : at + 8]
        head = _BOX_HEAD
        if length == 1:
            length, head = int.from_bytes(data[at + 8 : at + 16], "big"), _LARGE_BOX_HEAD
        if kind in (b"jxlc", b"jxlp"):
            stream = data[at + head + (_PART_INDEX if kind == b"jxlp" else 0) :]
            if stream.startswith(_BARE):
                return stream
        if length < head:
            break
        at += length
    raise ValueError("no codestream")


def _side(bits: "_Bits", small: int) -> int:
    return 8 * (1 + bits.take(5)) if small else 1 + bits.take(_SIZE_BITS[bits.take(2)])


class _Bits:
    """Bits of bytes, the lowest of each first."""

    def __init__(self, data: bytes) -> None:
        self._left = int.from_bytes(data[:32], "little")
        self._count = 8 * min(len(data), 32)

    def take(self, count: int) -> int:
        if count > self._count:
            raise ValueError("ends too early")
        found = self._left & ((1 << count) - 1)
        self._left >>= count
        self._count -= count
        return found
