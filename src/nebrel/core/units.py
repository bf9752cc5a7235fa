"""Lengths as people type them, in millimetres inside."""

import math
import re

from nebrel.core.errors import BadValueError

MM_PER_INCH = 25.4
_LENGTH = re.compile(
    r"^\s*(?P<sign>-?)(?:(?P<whole>\d+)\s+)?(?P<number>\d+(?:\.\d*)?|\.\d+)(?:/(?P<divisor>\d+))?\s*"
    r"(?P<unit>mm|in|\"|cm)?\s*$",
    re.IGNORECASE,
)
_MM_PER_UNIT = {"": 1.0, "mm": 1.0, "cm": 10.0, "in": MM_PER_INCH, '"': MM_PER_INCH}


_BYTES = re.compile(r"^\s*(?P<number>\d+(?:\.\d*)?|\.\d+)\s*(?P<unit>[kmg]i?b|b)?\s*$", re.IGNORECASE)
_BYTES_PER_UNIT = {
    "": 1, "b": 1, "kb": 10**3, "mb": 10**6, "gb": 10**9, "kib": 2**10, "mib": 2**20, "gib": 2**30
}  # fmt: skip


def parse_length(text: str) -> float:
    """Millimetres from `80`, `3.15in`, `1/8 in` or `2 1/4 in`; a bare number is millimetres.

    Raises:
        BadValueError: the text is not a length.
    """
    match = _LENGTH.match(text)
    divisor = float(match["divisor"]) if match and match["divisor"] else 1.0
    if match is None or divisor == 0:
        raise BadValueError(f"“{text}” is not a length; write millimetres like 80, or inches like 3.15in.")
    value = (float(match["whole"] or 0) + float(match["number"]) / divisor) * _MM_PER_UNIT[
        (match["unit"] or "").lower()
    ]
    return -value if match["sign"] else value


def parse_bytes(text: str) -> int:
    """Bytes from `20MB`, `20 MiB`, `500kB` or `123456`; MB counts in millions.

    Raises:
        BadValueError: the text is not a size of a file.
    """
    match = _BYTES.match(text)
    if match is None or float(match["number"]) <= 0:
        raise BadValueError(f"“{text}” is not a file size; write bytes, or something like 20MB.")
    return int(float(match["number"]) * _BYTES_PER_UNIT[(match["unit"] or "").lower()])


def in_range(value: float, what: str, lowest: float, highest: float) -> float:
    """`value` if it is finite and within [lowest, highest] mm.

    Raises:
        BadValueError: it is not.
    """
    if not math.isfinite(value) or not lowest <= value <= highest:
        raise BadValueError(f"{what} is {value:g} mm; {lowest:g} to {highest:g} mm would be accepted.")
    return value
