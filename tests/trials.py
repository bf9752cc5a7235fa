"""Trials that take long: `make test` runs some of each kind, `make test-deep` all."""

from collections.abc import Iterable

import pytest


def deep_but(cases: Iterable[object], kept: Iterable[object]) -> list[object]:
    """Cases for `parametrize`, those that are not kept marked `deep`."""
    always = list(kept)
    found = [
        case
        if case in always
        else pytest.param(*(case if isinstance(case, tuple) else (case,)), marks=pytest.mark.deep)
        for case in cases
    ]
    assert sum(case in always for case in found) == len(always)
    return found
