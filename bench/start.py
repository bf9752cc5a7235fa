"""How soon something happens after a command was typed."""

import json
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from tools.running import RunningServer

from bench.heights import as_png, fractal
from bench.report import Row

ROUNDS = 5
SIDE_PX = 512
NEBREL = str(Path(sys.executable).parent / "nebrel")


def commands() -> list[Row]:
    """Help, a refusal, and a small relief beyond the seconds that it reports for its own work."""
    with tempfile.TemporaryDirectory() as folder:
        picture, out = Path(folder) / "ground.png", Path(folder) / "ground.stl"
        picture.write_bytes(as_png(fractal(SIDE_PX)))
        relief = [NEBREL, "make", "relief", str(picture), "-o", str(out), "--width", "80", "--json"]
        _run(relief)
        told = min(_run([NEBREL, "--help"])[0] for _ in range(ROUNDS))
        refused = min(_run([NEBREL, "make", "relief", "nothing.png", "-o", str(out)])[0] for _ in range(ROUNDS))
        beyond = []
        for _ in range(ROUNDS):
            seconds, text = _run(relief)
            beyond.append(seconds - json.loads(text)["seconds"])
    return [
        Row("`nebrel --help`", f"{told:.2f} s", "≤ 0.4 s", told <= 0.4),
        Row("A refusal", f"{refused:.2f} s", "≤ 0.4 s", refused <= 0.4),
        Row(f"A relief of {SIDE_PX}², beyond its work", f"{min(beyond):.2f} s", "≤ 1.2 s", min(beyond) <= 1.2),
    ]


def demo() -> list[Row]:
    """From starting with an empty data folder until the address answers."""
    found = []
    for _ in range(2):
        with tempfile.TemporaryDirectory() as folder:
            started = time.perf_counter()
            server = RunningServer(Path(folder) / "data", "--demo", drawn=False)
            found.append(time.perf_counter() - started)
            server.kill()
    return [Row("The demo answers its address", f"{min(found):.2f} s", "≤ 3 s", min(found) <= 3)]


def _run(command: list[str]) -> tuple[float, str]:
    started = time.perf_counter()
    done = subprocess.run(command, check=False, capture_output=True, text=True)
    return time.perf_counter() - started, done.stdout
