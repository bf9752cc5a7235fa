"""Builds of 4,096² and 16,384²: that they finish, how much memory they take, how often their progress moves."""

import json
import resource
import subprocess
import sys
import tempfile
import time
from itertools import pairwise
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from bench.heights import WIDTH_MM, as_png, fractal
from bench.report import Row
from nebrel.core.mesh.formats.stl import write_stl
from nebrel.core.picture.read import read_facts
from nebrel.piece.evaluation.cache import ResultCache
from nebrel.piece.evaluation.sources import Sources
from nebrel.piece.kinds.panel.document import PanelDocument
from nebrel.piece.kinds.panel.evaluator import PanelEvaluator
from nebrel.piece.parts.pictured import picture_source
from nebrel.piece.parts.refusals import parse_part
from nebrel.settings import Settings

SIDE_PX, LARGEST_PX = 4096, 16_384
TOLERANCE_MM = 0.02
MEMORY_LIMITS_GIB = {SIDE_PX: 1.5, LARGEST_PX: 6.0}


def large_build() -> list[Row]:
    """4,096² of the ground that all is measured on."""
    return _built("4,096²", SIDE_PX, fractal(SIDE_PX))


def noise_build() -> list[Row]:
    """4,096² of pure noise, the heaviest that there is."""
    return _built("4,096² of pure noise", SIDE_PX, np.random.default_rng(1).integers(0, 65536, (SIDE_PX, SIDE_PX)))


def largest_build() -> list[Row]:
    """The largest picture that is accepted: ground of 4,096² drawn four times as fine, in ranges of noise."""
    ground = cv2.resize(fractal(SIDE_PX), (LARGEST_PX, LARGEST_PX), interpolation=cv2.INTER_CUBIC)
    rng = np.random.default_rng(2)
    for rows in range(0, LARGEST_PX, 1024):
        part = ground[rows : rows + 1024, : LARGEST_PX // 8]
        part[:] = np.clip(part + rng.normal(0, 60, part.shape), 0, 65535)
    return _built("16,384²", LARGEST_PX, ground)


def _built(what: str, side: int, tones: NDArray[np.integer]) -> list[Row]:
    """Run a build in a process of its own and read what it used."""
    limit = MEMORY_LIMITS_GIB[side]
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "large.png"
        path.write_bytes(as_png(tones.astype(np.uint16)))
        del tones
        done = subprocess.run(
            [sys.executable, "-m", "bench.large", str(path)], capture_output=True, text=True, check=True
        )
    told = json.loads(done.stdout)
    return [
        Row(
            f"{what} at 0.02 mm: {told['triangles']:,} triangles in {told['seconds']:.0f} s, "
            f"{'sound' if told['sound'] else 'NOT sound'}, {told['max_error']:.6f} mm off at most",
            f"peak memory {told['peak_gib']:.2f} GiB",
            f"≤ {limit:g} GiB",
            told["peak_gib"] <= limit and told["sound"] and told["max_error"] <= TOLERANCE_MM,
        ),
        Row(
            f"{what}: longest wait for progress",
            f"{told['longest_wait']:.2f} s, {told['where']}",
            "≤ 1 s",
            told["longest_wait"] <= 1,
        ),
    ]


def measured(path: Path) -> dict[str, object]:
    """Build and write one picture as `nebrel make relief` does."""
    data = path.read_bytes()
    limits = Settings().read_limits
    facts = read_facts(data, path.name, limits)
    source = picture_source("0" * 64, path.name, facts)
    body = {"width_mm": WIDTH_MM * facts.width_px / 2048}
    document = parse_part(PanelDocument, {"title": "Large", "picture": source.model_dump(), "body": body})
    started = time.perf_counter()
    seen = [(started, "starting", 0.0)]

    def progress(stage: str, fraction: float) -> None:
        if (stage, fraction) != seen[-1][1:]:
            seen.append((time.perf_counter(), stage, fraction))

    sources = Sources(lambda _: data, ResultCache(64 * 2**20), limits)
    slab, report = PanelEvaluator(document, sources).build(progress)
    with path.with_suffix(".stl").open("wb") as file:
        write_stl(slab.mesh, file, lambda part: progress("Writing the file", part))
    seen.append((time.perf_counter(), "done", 1.0))
    waits = [(after[0] - before[0], f"after “{before[1]}” {before[2]:.0%}") for before, after in pairwise(seen)]
    longest = max(waits)
    return {
        "triangles": report.triangles,
        "sound": report.sound,
        "max_error": report.max_error_mm,
        "seconds": time.perf_counter() - started,
        "peak_gib": resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 2**20,
        "longest_wait": longest[0],
        "where": longest[1],
    }


if __name__ == "__main__":
    print(json.dumps(measured(Path(sys.argv[1]))))
