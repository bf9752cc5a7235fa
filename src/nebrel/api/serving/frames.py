"""A small container for arrays on the way to the page.

Layout: the bytes `NBF1`, the header's length as uint32, the header as JSON padded with spaces to a multiple of 4, then
the arrays one after another, little-endian, each padded to a multiple of 4. The header is
`{"head": …, "arrays": [{"name", "dtype", "shape", "offset"}]}` with offsets from the end of the header.
"""

import json

import numpy as np
from numpy.typing import NDArray

MAGIC = b"NBF1"


def pack_frame(head: dict[str, object], arrays: dict[str, NDArray[np.generic]]) -> bytes:
    """The head and the named arrays in one block of bytes."""
    listing, blocks, offset = [], [], 0
    for name, array in arrays.items():
        block = _padded(np.ascontiguousarray(array).tobytes(), b"\0")
        listing.append({"name": name, "dtype": array.dtype.name, "shape": array.shape, "offset": offset})
        blocks.append(block)
        offset += len(block)
    header = _padded(json.dumps({"head": head, "arrays": listing}).encode(), b" ")
    return b"".join([MAGIC, len(header).to_bytes(4, "little"), header, *blocks])


def _padded(data: bytes, filler: bytes) -> bytes:
    return data + filler * (-len(data) % 4)
