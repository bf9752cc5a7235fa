"""Many pictures by one recipe: what a second worker gives, what a job costs besides its work, what is kept."""

import json
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from bench.heights import as_png, fractal
from bench.report import Row

PICTURES, SIDE_PX = 40, 1000
RECIPE = "Coin"


def two_workers() -> list[Row]:
    """Pictures of a megapixel by one worker and by two, beside what the same pieces take in a worker; then again."""
    with tempfile.TemporaryDirectory() as folder:
        pictures = Path(folder) / "pictures"
        pictures.mkdir()
        for number in range(PICTURES):
            (pictures / f"ground-{number:02}.png").write_bytes(as_png(fractal(SIDE_PX, number)))
        one, alone = _run(pictures, Path(folder) / "one", 1)
        two, _ = _run(pictures, Path(folder) / "two", 2)
        again, _ = _run(pictures, Path(folder) / "two", 2, "--resume")
        worked = sum(each["seconds"] for each in alone["pieces"])
        # The start of the program and of its first worker comes once.
        start, _ = _run(_one(pictures, Path(folder)), Path(folder) / "few", 1)
        start -= _seconds_of_one(alone)
    besides = (one - start - worked) / PICTURES
    return [
        Row(
            f"{PICTURES} pictures of a megapixel, two workers on two cores",
            f"{(one - start) / (two - start):.2f} × one ({two:.0f} s against {one:.0f} s, {start:.0f} s to start each)",
            "≥ 1.7 ×",
            one - start >= 1.7 * (two - start),
        ),
        Row("A job, besides its work", f"{1000 * besides:.0f} ms", "≤ 50 ms", besides <= 0.05),
        Row(
            "A kept result again",
            f"{1000 * (again - start) / PICTURES:.0f} ms, of {again:.1f} s for {PICTURES}",
            "≤ 100 ms",
            again - start <= 0.1 * PICTURES,
        ),
    ]


def _one(pictures: Path, folder: Path) -> Path:
    """A folder of one picture."""
    one = folder / "one picture"
    one.mkdir()
    first = sorted(pictures.iterdir())[0]
    (one / first.name).write_bytes(first.read_bytes())
    return one


def _seconds_of_one(told: dict) -> float:  # type: ignore[type-arg]
    return min(each["seconds"] for each in told["pieces"])


def _run(pictures: Path, out: Path, jobs: int, *options: str) -> tuple[float, dict]:  # type: ignore[type-arg]
    began = time.perf_counter()
    told = subprocess.run(
        [
            sys.executable, "-c", "from nebrel.cli.main import run; run()", "batch", str(pictures),
            "--recipe", RECIPE, "-o", str(out), "--jobs", str(jobs), "--json", *options,
        ],
        capture_output=True, check=False, text=True,
    )  # fmt: skip
    return time.perf_counter() - began, json.loads(told.stdout)
