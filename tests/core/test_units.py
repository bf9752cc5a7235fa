"""Lengths as people type them on the command line."""

import pytest

from nebrel.core.errors import BadValueError
from nebrel.core.units import parse_bytes, parse_length


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


@pytest.mark.parametrize(
    ("text", "count"),
    [("123", 123), ("20MB", 20_000_000), ("1.5 MiB", 1_572_864), ("500 kb", 500_000), ("2GB", 2 * 10**9)],
)
def test_sizes_of_files(text, count):
    assert parse_bytes(text) == count


@pytest.mark.parametrize("text", ["", "many", "-3MB", "0", "20 apples"])
def test_what_is_no_size_is_refused(text):
    with pytest.raises(BadValueError, match="not a file size"):
        parse_bytes(text)
