"""What it costs that previews are worked out in processes of their own, and how a server is with many pages at once."""

import io
import random
import statistics
import tempfile
import threading
import time
from collections.abc import Callable
from pathlib import Path

import httpx
import numpy as np
import psutil
from PIL import Image
from tools.running import RunningServer

from bench.heights import as_png, fractal
from bench.report import Row
from nebrel.api.messages.previews import Draft
from nebrel.api.views.frames import plan_frame, solid_frame
from nebrel.api.views.look import look_at_piece
from nebrel.jobs.lookers import Room
from nebrel.jobs.looking import Looking
from nebrel.jobs.workshop import Workshop, open_workshop
from nebrel.settings import Settings

TURNS = 15
FEW, MANY, SECONDS = 10, 50, 60.0
QUEUED, AHEAD = 500, 40
# Of what a page asks for: all but builds and edits.
LOOKS = 0.8
MIB = 2**20


def previews() -> list[Row]:
    """Previews that are in memory, asked of a process and made in this one, in turn: all that is left is the way."""
    with tempfile.TemporaryDirectory() as folder:
        settings = Settings(data_dir=Path(folder))
        workshop = open_workshop(settings)
        piece = workshop.start_piece(as_png(fractal(1024)), "ground.png").id
        looking = Looking(1, settings.memory_cache_bytes)
        try:
            return [
                _apart(workshop, looking, piece, "plan", Draft(longest_px=720), plan_frame),
                _apart(workshop, looking, piece, "model", Draft(longest_px=720), solid_frame, 720),
            ]
        finally:
            looking.close()
            workshop.close()


def _apart(
    workshop: Workshop, looking: Looking, piece: str, name: str, draft: Draft, view: Callable[..., bytes], *given: int
) -> Row:
    def quiet(_stage: str, _part: float) -> None:
        pass

    def here() -> bytes:
        return look_at_piece(Room(workshop, quiet), view, piece, draft, *given)

    def there() -> bytes:
        order = looking.ask(workshop.settings, "page", piece, quiet, look_at_piece, view, piece, draft, *given)
        return bytes(order.outcome.result())

    assert here() == there()
    times: dict[Callable[[], bytes], list[float]] = {here: [], there: []}
    for _ in range(TURNS):
        for way, each in times.items():
            started = time.perf_counter()
            data = way()
            each.append(1000 * (time.perf_counter() - started))
    own, other = (statistics.median(each) for each in times.values())
    what = f"A {name} of {len(data) / 1024:,.0f} KiB that is in memory: in a process of its own"
    return Row(what, f"{other:.1f} ms, here {own:.1f} ms", "≤ 10 ms more", other - own <= 10)


def crowd() -> list[Row]:
    """One page, ten pages and fifty pages that edit, look, build and list: waits of each kind, mistakes, memory."""
    with tempfile.TemporaryDirectory() as folder:
        server = RunningServer(Path(folder))
        try:
            with httpx.Client(base_url=server.url, timeout=60) as client:
                files = [client.post("/api/pieces", files={"picture": ("hill.png", _hill())}) for _ in range(3)]
            pieces = [answer.json()["id"] for answer in files]
            quiet, _ = _pages(server.url, pieces, 1, SECONDS / 4)
            before = _memory(server)
            few, _ = _pages(server.url, pieces, FEW, SECONDS / 2)
            _, codes = _pages(server.url, pieces, MANY, SECONDS)
            after = _memory(server)
        finally:
            server.kill()
    worst = max(quiet, key=lambda kind: few[kind] / quiet[kind] if kind in few else 0.0)
    ratio, wrong = few[worst] / quiet[worst], sum(code >= 500 for code in codes)
    told = f"{ratio:.1f} × ({worst}: {quiet[worst]:.0f} ms, then {few[worst]:.0f} ms)"
    return [
        Row(f"{FEW} pages: median wait of the kind that suffers most, against one page", told, "≤ 5 ×", ratio <= 5),
        Row(f"{MANY} pages, {len(codes):,} requests: mistakes and resets", f"{wrong}", "0", wrong == 0),
        Row(
            f"{MANY} pages: memory of all processes afterwards",
            f"{after / MIB:,.0f} MiB, before {before / MIB:,.0f} MiB",
            "≤ 1,229 MiB more",
            after - before <= 1229 * MIB,
        ),
    ]


def queue() -> list[Row]:
    """A page while a few builds are done one after another, and while hundreds wait."""
    with tempfile.TemporaryDirectory() as folder:
        server = RunningServer(Path(folder))
        try:
            with httpx.Client(base_url=server.url, timeout=60) as client:
                pieces = [_own_piece(client, number) for number in range(QUEUED + AHEAD)]
                for piece in pieces[:AHEAD]:
                    client.post(f"/api/pieces/{piece}/build")
                few, _ = _pages(server.url, pieces[-AHEAD:], 1, SECONDS / 3, LOOKS)
                for piece in pieces[AHEAD:]:
                    client.post(f"/api/pieces/{piece}/build")
                many, codes = _pages(server.url, pieces[-AHEAD:], 1, SECONDS / 3, LOOKS)
                waiting = client.get("/api/health").json()["waiting"]
        finally:
            server.kill()
    worst = max(few, key=lambda kind: many[kind] / few[kind] if kind in many else 0.0)
    told = ", ".join(f"{kind} {many[kind]:.0f} ms ({few[kind]:.0f})" for kind in sorted(few) if kind in many)
    bad = sum(code >= 400 for code in codes)
    return [
        Row(
            f"A page while {QUEUED} builds wait, against {AHEAD} at most: median waits, {waiting} waiting at the end",
            told,
            "≤ 1.3 × or 10 ms more, no mistake",
            not bad and many[worst] <= max(1.3 * few[worst], few[worst] + 10),
        )
    ]


def _own_piece(client: httpx.Client, number: int) -> str:
    """A piece whose solid is no other's."""
    made = client.post("/api/pieces", files={"picture": ("hill.png", _hill())}).json()
    change = {"height": {"rule": {"relief_mm": round(2 + number / 200, 3)}}}
    order = {"base": made["revision"], "label": "Height", "change": change}
    client.post(f"/api/pieces/{made['id']}/revisions", json=order).raise_for_status()
    return str(made["id"])


def _pages(
    url: str, pieces: list[str], count: int, seconds: float, most: float = 1.0
) -> tuple[dict[str, float], list[int]]:
    """Median wait of each kind of request, ms, and the codes of all answers; 599 where none came.

    Of the dice that `_next` throws, none is above `most`.
    """
    waits: dict[str, list[float]] = {}
    codes: list[int] = []
    ends = time.monotonic() + seconds

    def page(number: int) -> None:
        chance = random.Random(number)
        with httpx.Client(base_url=url, timeout=120) as client:
            while time.monotonic() < ends:
                started = time.perf_counter()
                try:
                    kind, code = _next(client, chance.choice(pieces), chance, most)
                except httpx.HTTPError:
                    kind, code = "none", 599
                waits.setdefault(kind, []).append(1000 * (time.perf_counter() - started))
                codes.append(code)
                time.sleep(chance.uniform(0, 0.3))

    threads = [threading.Thread(target=page, args=(number,)) for number in range(count)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    return {kind: statistics.median(each) for kind, each in waits.items()}, codes


def _next(client: httpx.Client, piece: str, chance: random.Random, most: float) -> tuple[str, int]:
    """What a page asks for next: the kind of it, and the code of the answer."""
    url, dice = f"/api/pieces/{piece}", most * chance.random()
    if dice < 0.3:
        return "shelf", client.get("/api/pieces").status_code
    if dice < 0.5:
        return "piece", client.get(url).status_code
    change = {"height": {"rule": {"relief_mm": round(chance.uniform(1, 9), 2)}}}
    if dice < 0.7:
        return "plan", client.post(f"{url}/plan", json={"change": change, "longest_px": 320}).status_code
    if dice < 0.8:
        return "findings", client.post(f"{url}/findings", json={"change": change, "longest_px": 320}).status_code
    if dice < 0.82:
        return "build", client.post(f"{url}/build").status_code
    order = {"base": client.get(url).json()["revision"], "label": "Deeper", "change": change}
    return "edit", client.post(f"{url}/revisions", json=order).status_code


def _memory(server: RunningServer) -> int:
    """What the server and all that works for it have in memory, bytes that they share counted once."""
    whole = psutil.Process(server.process.pid)
    return sum(each.memory_full_info().pss for each in (whole, *whole.children(recursive=True)))


def _hill() -> bytes:
    y, x = np.mgrid[0:900, 0:1200].astype(np.float32) / 900
    tones = 0.5 + 0.4 * np.sin(4 * x) * np.cos(5 * y) + 0.05 * np.sin(40 * x * y)
    file = io.BytesIO()
    Image.fromarray((tones.clip(0, 1) * 65535).astype(np.uint16)).save(file, "PNG")
    return file.getvalue()
