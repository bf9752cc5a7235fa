"""Reading the frames that the page reads."""

import json

import numpy as np


def unpack(data: bytes) -> tuple[dict, dict[str, np.ndarray]]:
    """Head and arrays of a frame, as `web/src/api/frame.ts` takes them apart."""
    assert data[:4] == b"NBF1"
    length = int.from_bytes(data[4:8], "little")
    header = json.loads(data[8 : 8 + length])
    arrays = {}
    for listed in header["arrays"]:
        count = int(np.prod(listed["shape"]))
        start = 8 + length + listed["offset"]
        assert start % 4 == 0
        arrays[listed["name"]] = np.frombuffer(data, listed["dtype"], count, start).reshape(listed["shape"])
    return header["head"], arrays
