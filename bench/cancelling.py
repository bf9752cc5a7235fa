"""How fast long work ends when it is told to."""

import io
import tempfile
import time
from pathlib import Path

import httpx
import numpy as np
import psutil
from PIL import Image
from tools.running import RunningServer

from bench.report import Row

SIDE_PX = 3000
TRIES = 3
WORKING_S = 4.0


def cancelling() -> list[Row]:
    """From asking a build to stop until its process is gone, at several moments of the build."""
    tones = np.random.default_rng(7).integers(0, 65536, (SIDE_PX, SIDE_PX)).astype(np.uint16)
    file = io.BytesIO()
    Image.fromarray(tones).save(file, "PNG")
    with tempfile.TemporaryDirectory() as folder:
        server = RunningServer(Path(folder) / "data")
        try:
            with httpx.Client(base_url=server.url, timeout=120) as client:
                piece = client.post("/api/pieces", files={"picture": ("noise.png", file.getvalue())}).json()
                waits = [_ended(client, piece["id"], WORKING_S * (i + 1)) for i in range(TRIES)]
        finally:
            server.kill()
    return [
        Row(
            f"Cancelling a build until its process is gone, {TRIES} times",
            f"{max(waits):.2f} s at most",
            "≤ 1 s",
            max(waits) <= 1,
        )
    ]


def _ended(client: httpx.Client, piece_id: str, after: float) -> float:
    """Seconds from the request until the largest process that started no others has ended."""
    job = client.post(f"/api/pieces/{piece_id}/build").json()
    time.sleep(after)
    workers = [process for process in psutil.Process().children(recursive=True) if not process.children()]
    busy = max(workers, key=lambda process: process.memory_info().rss)
    started = time.perf_counter()
    client.post(f"/api/jobs/{job['id']}/cancel")
    psutil.wait_procs([busy], timeout=30)
    return time.perf_counter() - started
