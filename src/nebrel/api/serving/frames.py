"""A small container for arrays on the way to the page.

Layout: the bytes `NBF1`, the header's length as uint32, the header as JSON padded with spaces to a multiple of 4, then
the arrays one after another, little-endian, each padded to a multiple of 4. The header is
`{"head": …, "arrays": [{"name", "dtype", "shape", "offset"}]}` with offsets from the end of the header.
"""

import json
from collections.abc import Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel
from pydantic.json_schema import models_json_schema
from starlette.responses import Response

MAGIC = b"NBF1"


class FrameResponse(Response):
    """An answer that is a frame."""

    media_type = "application/octet-stream"


def frame_headed(head: type[BaseModel]) -> dict[int | str, dict[str, Any]]:
    """How the API's description tells of a frame: by the type of its head, which the page gets its types from."""
    schema = {"$ref": f"#/components/schemas/{head.__name__}"}
    told = "A frame of arrays. Its head is described here; the arrays follow it."
    return {200: {"content": {"application/octet-stream": {"schema": schema}}, "description": told}}


def schemas_of_heads(heads: Sequence[type[BaseModel]]) -> dict[str, Any]:
    """The same types for the description's list of them, which knows only what answers are made of."""
    _, listed = models_json_schema(
        [(head, "serialization") for head in heads], ref_template="#/components/schemas/{model}"
    )
    found: dict[str, Any] = listed["$defs"]
    return found


def pack_frame(head: BaseModel, arrays: dict[str, NDArray[np.generic]]) -> bytes:
    """The head and the named arrays in one block of bytes."""
    listing, blocks, offset = [], [], 0
    for name, array in arrays.items():
        block = _pad(np.ascontiguousarray(array).tobytes(), b"\0")
        listing.append({"name": name, "dtype": array.dtype.name, "shape": array.shape, "offset": offset})
        blocks.append(block)
        offset += len(block)
    header = _pad(json.dumps({"head": head.model_dump(mode="json"), "arrays": listing}).encode(), b" ")
    return b"".join([MAGIC, len(header).to_bytes(4, "little"), header, *blocks])


def _pad(data: bytes, filler: bytes) -> bytes:
    return data + filler * (-len(data) % 4)
