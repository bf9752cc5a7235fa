"""A 4,096² build: that it finishes, how much memory it takes, how often its progress moves."""

import json
import resource
import subprocess
import sys
import tempfile
import time
from itertools import pairwise
from pathlib import Path

import numpy as np

from bench.heights import WIDTH_MM, as_png, fractal
from bench.report import Row
from nebrel.core.mesh.formats.stl import write_stl
from nebrel.core.picture import read_picture
from nebrel.piece.evaluation.cache import ResultCache
from nebrel.piece.evaluation.sources import Sources
from nebrel.piece.kinds.panel.document import PanelDocument
from nebrel.piece.kinds.panel.evaluator import PanelEvaluator
from nebrel.piece.parts.pictured import picture_source
from nebrel.piece.parts.refusals import parse_part

SIDE_PX = 4096
MEMORY_LIMIT_GIB = 6.0


def large_build(noise: bool = False) -> list[Row]:
    """Run the build in a process of its own and read what it used."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "large.png"
        tones = np.random.default_rng(1).integers(0, 65536, (SIDE_PX, SIDE_PX)).astype(np.uint16)
        path.write_bytes(as_png(tones if noise else fractal(SIDE_PX)))
        done = subprocess.run(
            [sys.executable, "-m", "bench.large", str(path)], capture_output=True, text=True, check=True
        )
    told = json.loads(done.stdout)
    what = "4,096² of pure noise" if noise else "4,096²"
    return [
        Row(
            f"{what} at 0.02 mm: {told['triangles']:,} triangles in {told['seconds']:.0f} s, "
            f"{'sound' if told['sound'] else 'NOT sound'}",
            f"peak memory {told['peak_gib']:.2f} GiB",
            f"≤ {MEMORY_LIMIT_GIB:g} GiB",
            told["peak_gib"] <= MEMORY_LIMIT_GIB and told["sound"],
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
    source = picture_source("0" * 64, path.name, read_picture(data).facts)
    body = {"width_mm": WIDTH_MM * 2}
    document = parse_part(PanelDocument, {"title": "Large", "picture": source.model_dump(), "body": body})
    started = time.perf_counter()
    seen = [(started, "starting", 0.0)]

    def progress(stage: str, fraction: float) -> None:
        if (stage, fraction) != seen[-1][1:]:
            seen.append((time.perf_counter(), stage, fraction))

    sources = Sources(lambda _: data, ResultCache(64 * 2**20))
    slab, report = PanelEvaluator(document, sources).build(progress)
    with path.with_suffix(".stl").open("wb") as file:
        write_stl(slab.mesh, file, lambda part: progress("Writing the file", part))
    seen.append((time.perf_counter(), "done", 1.0))
    waits = [(after[0] - before[0], f"after “{before[1]}” {before[2]:.0%}") for before, after in pairwise(seen)]
    longest = max(waits)
    return {
        "triangles": report.triangles,
        "sound": report.sound,
        "seconds": time.perf_counter() - started,
        "peak_gib": resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 2**20,
        "longest_wait": longest[0],
        "where": longest[1],
    }


if __name__ == "__main__":
    print(json.dumps(measured(Path(sys.argv[1]))))
