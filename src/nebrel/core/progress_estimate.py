"""Progress for calls into libraries that tell none."""

import math
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager

EVERY_SECONDS = 0.25


@contextmanager
def beating(progress: Callable[[float], None], reaches: float, expected_seconds: float) -> Iterator[None]:
    """While the block runs, tell progress from 0 towards `reaches`, slower the longer it takes beyond what is expected.

    The fractions are an estimate from the time passed; they never reach `reaches`.
    """
    ended = threading.Event()

    def beat() -> None:
        beats = 0
        while not ended.wait(EVERY_SECONDS):
            beats += 1
            progress(reaches * (1 - math.exp(-beats * EVERY_SECONDS / max(expected_seconds, EVERY_SECONDS))))

    thread = threading.Thread(target=beat, daemon=True)
    thread.start()
    try:
        yield
    finally:
        ended.set()
        thread.join()
