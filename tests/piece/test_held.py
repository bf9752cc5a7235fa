"""How much memory results hold, and that the cache keeps to its bound whatever they are."""

from dataclasses import dataclass, field
from functools import cached_property
from typing import NamedTuple

import numpy as np
import pytest
import shapely

from nebrel.piece.evaluation.cache import ResultCache
from nebrel.piece.evaluation.held import held_bytes

KB = np.zeros(1000, np.uint8)


@dataclass(frozen=True)
class Plain:
    one: np.ndarray
    many: list[np.ndarray] = field(default_factory=list)


@dataclass(frozen=True, slots=True)
class Slotted:
    one: np.ndarray


class Record(NamedTuple):
    one: np.ndarray
    by_name: dict[str, np.ndarray]


class Works:
    @cached_property
    def out(self) -> np.ndarray:
        return np.zeros(50_000, np.uint8)


def fresh(count: int = 1000) -> np.ndarray:
    return np.zeros(count, np.uint8)


@pytest.mark.parametrize(
    ("value", "arrays"),
    [
        ([fresh(), fresh(), fresh()], 3),
        ((fresh(), [fresh(), (fresh(),)]), 3),
        ({"a": fresh(), "b": [fresh()]}, 2),
        (Plain(fresh(), [fresh(), fresh()]), 3),
        (Slotted(fresh()), 1),
        (Record(fresh(), {"a": fresh()}), 2),
        ([KB, KB, KB], 1),
        ([KB[:10], KB[20:], KB.reshape(10, 100)], 1),
        (np.array([fresh(), None], dtype=object), 1),
    ],
)
def test_what_is_reached_counts_once_wherever_it_lies(value, arrays):
    assert arrays * 1000 <= held_bytes(value) < arrays * 1000 + 1500


def test_a_small_part_of_a_large_array_keeps_all_of_it():
    assert held_bytes(np.zeros(10**6, np.uint8)[:3]) >= 10**6


def test_what_was_worked_out_once_and_kept_counts():
    works = Works()
    before = held_bytes(works)
    _ = works.out
    assert held_bytes(works) >= before + 50_000


def test_regions_count_their_corners():
    small, large = (shapely.MultiPolygon([shapely.Point(0, 0).buffer(1, quad_segs=many)]) for many in (8, 8000))
    assert held_bytes(large) - held_bytes(small) == pytest.approx(16 * 4 * (8000 - 8), rel=0.01)
    holed = shapely.box(0, 0, 10, 10).difference(shapely.box(1, 1, 2, 2))
    assert held_bytes(holed) > held_bytes(shapely.box(0, 0, 10, 10))


def test_the_cache_keeps_to_its_bound_with_lists_of_arrays():
    cache = ResultCache(10_000)
    for key in range(8):
        cache.get(str(key), lambda: [fresh(), fresh()])
    assert 4_000 < cache.held_bytes <= 10_000


def test_what_is_larger_than_the_cache_is_not_kept_and_drives_nothing_out():
    cache, runs = ResultCache(10_000), []
    cache.get("small", lambda: runs.append("small") or fresh())
    for _ in range(2):
        cache.get("large", lambda: runs.append("large") or [fresh(9_000), fresh(9_000)])
    cache.get("small", lambda: runs.append("small") or fresh())
    assert runs == ["small", "large", "large"]
