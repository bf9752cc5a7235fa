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


def in_range(value: float, what: str, lowest: float, highest: float) -> float:
    """`value` if it is finite and within [lowest, highest] mm.

    Raises:
        BadValueError: it is not.
    """
    if not math.isfinite(value) or not lowest <= value <= highest:
        raise BadValueError(f"{what} is {value:g} mm; {lowest:g} to {highest:g} mm would be accepted.")
    return value
