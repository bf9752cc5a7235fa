"""PLY as text, turned to PLY of little-endian numbers, which is read many times as fast."""

import numpy as np
from numpy.typing import NDArray

_END = b"end_header"
_TEXT = b"format ascii 1.0"
_KINDS = {
    "char": "i1", "int8": "i1", "uchar": "u1", "uint8": "u1", "short": "<i2", "int16": "<i2",
    "ushort": "<u2", "uint16": "<u2", "int": "<i4", "int32": "<i4", "uint": "<u4", "uint32": "<u4",
    "float": "<f4", "float32": "<f4", "double": "<f8", "float64": "<f8",
}  # fmt: skip
_CORNERS = 3


def in_binary(data: bytes) -> bytes:
    """The same file of numbers instead of text, where it is text of vertices and triangles; any other as it is.

    Nothing is refused here: what is not as its header says is left to the reader.
    """
    end = data.find(_END, 0, 2**16)
    if end < 0 or _TEXT not in data[:end]:
        return data
    body = data.find(b"\n", end) + 1
    try:
        layouts = _layouts(data[:end].decode("ascii"))
        numbers = np.fromstring(data[body:], dtype=np.float64, sep=" ")
        parts, at = [], 0
        for rows, layout in layouts:
            width = len(layout.names or ())
            table = numbers[at : at + rows * width].reshape(rows, width)
            parts.append(_packed(table, layout))
            at += rows * width
    except (ValueError, UnicodeDecodeError, KeyError, IndexError):
        return data
    if at != len(numbers):
        return data
    head = data[:body].replace(b"\r\n", b"\n").replace(_TEXT, b"format binary_little_endian 1.0", 1)
    return b"".join([head, *parts])


def _layouts(head: str) -> list[tuple[int, np.dtype[np.void]]]:
    """Rows and numbers of every element, a list of triangles' corners as its length and three more."""
    found: list[tuple[int, list[tuple[str, str]]]] = []
    for line in head.splitlines():
        words = line.split()
        if words[:1] == ["element"]:
            found.append((int(words[2]), []))
        elif words[:2] == ["property", "list"]:
            found[-1][1].append((f"length of {words[4]}", _KINDS[words[2]]))
            found[-1][1].extend((f"{words[4]} {corner}", _KINDS[words[3]]) for corner in range(_CORNERS))
        elif words[:1] == ["property"]:
            found[-1][1].append((words[2], _KINDS[words[1]]))
    return [(rows, np.dtype(fields)) for rows, fields in found]


def _packed(table: NDArray[np.float64], layout: np.dtype[np.void]) -> bytes:
    """Rows as the layout has them.

    Raises:
        ValueError: a list of another length, or a number that is not of its kind.
    """
    rows = np.empty(len(table), dtype=layout)
    for column, name in enumerate(layout.names or ()):
        own = table[:, column]
        if name.startswith("length of ") and (own != _CORNERS).any():
            raise ValueError(name)
        kind = layout[name]
        if kind.kind in "iu" and (own != np.clip(np.trunc(own), *_span(kind))).any():
            raise ValueError(name)
        rows[name] = own
    return rows.tobytes()


def _span(kind: np.dtype[np.generic]) -> tuple[int, int]:
    limits = np.iinfo(kind.name)
    return int(limits.min), int(limits.max)
