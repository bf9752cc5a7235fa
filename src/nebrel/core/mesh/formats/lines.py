"""Many lines of numbers as text, fast: what lies between the numbers is the same in every line."""

import numpy as np
from numpy.typing import NDArray

from nebrel.core.jit import compiled

DECIMALS = 6
# Sign, whole part up to 10^13, point and decimals.
WIDEST = 22


def lines_of(words: list[bytes], numbers: NDArray[np.float64] | NDArray[np.int64]) -> bytes:
    """One line for every row: `words[0]`, the first number, `words[1]`, … and the last of the words.

    Numbers are written with up to six decimals, without zeros at the end.

    Args:
        words: one more than there are columns.
        numbers: (N, columns), finite, below 10^12.
    """
    whole = np.issubdtype(numbers.dtype, np.integer)
    scaled = numbers.astype(np.int64) if whole else np.round(numbers * 10**DECIMALS).astype(np.int64)
    text = np.frombuffer(b"".join(words), dtype=np.uint8)
    ends = np.cumsum([len(word) for word in words])
    room = np.empty(len(numbers) * (len(text) + numbers.shape[1] * WIDEST), dtype=np.uint8)
    used = _write(text, ends, np.ascontiguousarray(scaled), 0 if whole else DECIMALS, room)
    return room[:used].tobytes()


@compiled
def _write(text, ends, numbers, decimals, room):
    at = 0
    digits = np.empty(24, dtype=np.uint8)
    for row in range(len(numbers)):
        start = 0
        for column in range(numbers.shape[1] + 1):
            for i in range(start, ends[column]):
                room[at] = text[i]
                at += 1
            start = ends[column]
            if column == numbers.shape[1]:
                break
            value = numbers[row, column]
            if value < 0:
                room[at] = 45
                at += 1
                value = -value
            count = 0
            while value > 0 or count <= decimals:
                digits[count] = 48 + value % 10
                value //= 10
                count += 1
            last = 0
            while last < decimals and digits[last] == 48:
                last += 1
            for i in range(count - 1, decimals - 1, -1):
                room[at] = digits[i]
                at += 1
            if last < decimals:
                room[at] = 46
                at += 1
                for i in range(decimals - 1, last - 1, -1):
                    room[at] = digits[i]
                    at += 1
    return at
