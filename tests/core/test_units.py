"""Lengths as people type them on the command line."""

import pytest

from nebrel.core.errors import BadValueError
from nebrel.core.units import parse_length


@pytest.mark.parametrize(
    ("text", "mm"),
    [
        ("80", 80),
        ("3.15in", 80.01),
        ("1/8 in", 3.175),
        ("2 1/4in", 57.15),
        ("-3", -3),
        ("7mm", 7),
        (".5", 0.5),
        ("2cm", 20),
    ],
)
def test_lengths(text, mm):
    assert parse_length(text) == pytest.approx(mm)


@pytest.mark.parametrize("text", ["", "abc", "1/0", "3 feet", "nan", "inf", "1e3", "--1"])
def test_other_words_are_refused(text):
    with pytest.raises(BadValueError, match="not a length"):
        parse_length(text)
