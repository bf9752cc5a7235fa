"""What was measured before, and what has got slower since."""

import json
import re
import time
from dataclasses import dataclass
from datetime import date
from pathlib import Path

import numpy as np

from bench.report import Row

HISTORY = Path(__file__).parent / "history.jsonl"
# Times that differ by less are those of a machine that has other things to do.
SLOWER = 1.3
# Times and parts of speech that tell what is better when it is less.
_TIME = re.compile(r"(?<![\d,.×])(\d[\d,]*(?:\.\d+)?)\s?(ms|s|min)\b")
_SECONDS = {"ms": 0.001, "s": 1.0, "min": 60.0}


@dataclass(frozen=True)
class Noted:
    """One figure of an earlier run.

    Attributes:
        day: when it was measured.
        pace: seconds that this machine took for always the same work just before.
        seconds: that it took; None where no time is told.
    """

    day: str
    pace: float
    measured: str
    seconds: float | None


def pace_of_machine() -> float:
    """Seconds for always the same work: sorting and multiplying; machines, and hours of one, differ by two and more."""
    rng = np.random.default_rng(1)
    best = float("inf")
    for _ in range(3):
        began = time.perf_counter()
        np.sort(rng.random(2_000_000))
        square = rng.random((700, 700))
        for _ in range(4):
            square = square @ square / 700
        best = min(best, time.perf_counter() - began)
    return best


def seconds_in(measured: str) -> float | None:
    """The first time that a figure tells, in seconds."""
    found = _TIME.search(measured)
    return None if found is None else float(found[1].replace(",", "")) * _SECONDS[found[2]]


def last_of(title: str, path: Path = HISTORY) -> dict[str, Noted]:
    """What was noted last of every figure of a part."""
    found = {}
    for line in path.read_text(encoding="utf-8").splitlines() if path.exists() else ():
        told = json.loads(line)
        if told["title"] == title:
            found[told["what"]] = Noted(told["day"], told["pace"], told["measured"], seconds_in(told["measured"]))
    return found


def note(title: str, rows: list[Row], pace: float, path: Path = HISTORY) -> list[str]:
    """Write down what was measured; returns what got slower since it was noted last, a line each.

    Args:
        title: of the part.
        rows: its figures.
        pace: see `pace_of_machine`.
        path: of the history, a line of JSON for each figure.
    """
    before = last_of(title, path)
    slower = []
    with path.open("a", encoding="utf-8") as file:
        for row in rows:
            told = {"title": title, "what": row.what, "day": date.today().isoformat(), "pace": round(pace, 4)}
            file.write(json.dumps({**told, "measured": row.measured}, ensure_ascii=False) + "\n")
            past, now = before.get(row.what), seconds_in(row.measured)
            if past is None or past.seconds is None or now is None or past.seconds <= 0:
                continue
            times = (now / pace) / (past.seconds / past.pace)
            if times > SLOWER:
                slower.append(f"{row.what}: {times:.1f} × as long as on {past.day} ({past.measured} then)")
    return slower
