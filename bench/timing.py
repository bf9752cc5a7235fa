"""Timing side by side."""

import time
from collections.abc import Callable


def best_of(times: int, *works: Callable[[], object]) -> list[float]:
    """Shortest run of each work in seconds, the works taking turns so that all meet the same machine."""
    best = [float("inf")] * len(works)
    for _ in range(times):
        for i, work in enumerate(works):
            started = time.perf_counter()
            work()
            best[i] = min(best[i], time.perf_counter() - started)
    return best
