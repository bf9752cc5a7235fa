"""A class of fifty at once, full disks, kills at any moment: no answer is a mistake, nothing acknowledged is lost."""

import itertools
import os
import random
import shutil
import signal
import sqlite3
import statistics
import subprocess
import threading
import time
from contextlib import closing
from pathlib import Path

import httpx
import psutil
import pytest
from tools.running import RunningServer

from tests.api import hostile

PAGES = 50
TRIALS = [pytest.param(6.0, id="short"), pytest.param(300.0, id="long", marks=pytest.mark.deep)]


@pytest.fixture
def server(tmp_path):
    running = RunningServer(tmp_path / "data")
    yield running
    running.kill()


def start_some(server: RunningServer, hill: bytes, count: int = 3) -> list[str]:
    with httpx.Client(base_url=server.url, timeout=60) as client:
        files = [client.post("/api/pieces", files={"picture": ("hill.png", hill)}) for _ in range(count)]
        return [answer.json()["id"] for answer in files]


def work(client: httpx.Client, pieces: list[str], chance: random.Random) -> httpx.Response:
    """What a page asks for next."""
    piece = chance.choice(pieces)
    url, dice = f"/api/pieces/{piece}", chance.random()
    if dice < 0.35:
        return client.get("/api/pieces")
    if dice < 0.6:
        return client.get(url)
    if dice < 0.75:
        return client.post(f"{url}/plan", json={"longest_px": 96})
    if dice < 0.8:
        return client.post(f"{url}/undo", params={"base": client.get(url).json()["revision"]})
    if dice < 0.82:
        return client.post(f"{url}/build")
    if dice < 0.84:
        return client.get("/api/jobs", params={"piece_id": piece})
    change = {"height": {"rule": {"relief_mm": round(chance.uniform(1, 9), 2)}}}
    order = {"base": client.get(url).json()["revision"], "label": "Deeper", "change": change}
    return client.post(f"{url}/revisions", json=order)


@pytest.mark.parametrize("seconds", TRIALS)
def test_fifty_at_once_get_no_mistake_and_no_reset(server, hill, seconds):
    pieces, ends, told, broken = start_some(server, hill), time.monotonic() + seconds, [], []

    def page(number: int) -> None:
        chance = random.Random(number)
        with httpx.Client(base_url=server.url, timeout=120) as client:
            for turn in itertools.count():
                # However slow the machine, every page asks more than once.
                if turn >= 2 and time.monotonic() > ends:
                    break
                try:
                    answer = work(client, pieces, chance)
                    told.append(answer.status_code)
                    if answer.status_code >= 500:
                        broken.append(answer.text)
                except httpx.HTTPError as error:
                    broken.append(repr(error))
                time.sleep(chance.uniform(0, 0.3))

    threads = [threading.Thread(target=page, args=(number,)) for number in range(PAGES)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert broken == []
    assert set(told) <= {200, 201, 202, 409} and len(told) >= 2 * PAGES
    with httpx.Client(base_url=server.url, timeout=120) as client:
        assert client.get("/api/health").json()["ok"]
        last = client.post(f"/api/pieces/{pieces[0]}/build").json()["id"]
        _until(lambda: _state(client, last) == "done")


def _state(client: httpx.Client, job_id: str) -> str:
    return next((job["state"] for job in client.get("/api/jobs").json() if job["id"] == job_id), "done")


def _until(condition) -> None:
    ends = time.monotonic() + 300
    while not condition():
        assert time.monotonic() < ends
        time.sleep(0.1)


@pytest.mark.parametrize("count", [pytest.param(4, id="short"), pytest.param(40, id="long", marks=pytest.mark.deep)])
def test_the_shelf_answers_while_hostile_files_are_refused(server, hill, count):
    start_some(server, hill)
    file, waits, answers = hostile.wide_png(), [], []

    def send() -> None:
        answers.append(
            httpx.post(f"{server.url}/api/pieces", files={"picture": ("a.png", file)}, timeout=300).status_code
        )

    threads = [threading.Thread(target=send) for _ in range(count)]
    for thread in threads:
        thread.start()
    with httpx.Client(base_url=server.url, timeout=60) as client:
        while any(thread.is_alive() for thread in threads):
            begun = time.monotonic()
            assert client.get("/api/pieces").status_code == 200
            waits.append(time.monotonic() - begun)
            time.sleep(0.1)
    assert set(answers) <= {422, 503} and 422 in answers
    # As a median: one answer may wait for the machine itself.
    assert statistics.median(waits) < 0.5


@pytest.mark.parametrize("kills", [pytest.param(2, id="short"), pytest.param(200, id="long", marks=pytest.mark.deep)])
def test_killed_at_any_moment_nothing_acknowledged_is_lost(server, hill, kills):
    """The server, whatever works for it, or the process that those are forked from."""
    (piece,) = start_some(server, hill, 1)
    chance, kept = random.Random(7), []
    for _ in range(kills):
        with httpx.Client(base_url=server.url, timeout=60) as client:
            client.post(f"/api/pieces/{piece}/build")
            victim = chance.choice(["server", "server", "worker", "fork server"])
            timer = threading.Timer(chance.uniform(0.02, 0.6), _kill, (server, victim, chance))
            timer.start()
            try:
                while timer.is_alive() or victim != "server":
                    base = client.get(f"/api/pieces/{piece}").json()["revision"]
                    change = {"title": f"Edit {len(kept)}"}
                    order = {"base": base, "label": "Edit", "change": change}
                    answer = client.post(f"/api/pieces/{piece}/revisions", json=order)
                    assert answer.status_code == 201, answer.text
                    kept.append(answer.json()["revision"])
                    if not timer.is_alive():
                        break
            except httpx.HTTPError:
                pass
            timer.join()
        if server.process.poll() is not None:
            server.start()
        with httpx.Client(base_url=server.url, timeout=60) as client:
            assert client.get(f"/api/pieces/{piece}").json()["revision"] >= max(kept, default=0)
    with httpx.Client(base_url=server.url, timeout=120) as client:
        last = client.post(f"/api/pieces/{piece}/build").json()["id"]
        _until(lambda: _state(client, last) == "done")
    server.kill()
    with closing(sqlite3.connect(server.data / "nebrel.sqlite")) as connection:
        assert connection.execute("PRAGMA integrity_check").fetchone() == ("ok",)
        revisions = {number for (number,) in connection.execute("SELECT id FROM revisions")}
    assert set(kept) <= revisions
    server.start()
    assert not list(server.data.rglob(".part-*"))


def _kill(server: RunningServer, victim: str, chance: random.Random) -> None:
    if victim == "server":
        server.process.send_signal(signal.SIGKILL)
        server.process.wait()
        return
    children = psutil.Process(server.process.pid).children()
    forks = [child for child in children if "forkserver" in " ".join(child.cmdline())]
    for fork in forks:
        workers = fork.children()
        for each in [chance.choice(workers)] if victim == "worker" and workers else [fork]:
            each.kill()


@pytest.fixture
def small_disk(tmp_path):
    """A disk of 24 MiB, where this user may make one."""
    place = tmp_path / "small"
    place.mkdir()
    made = subprocess.run(
        ["mount", "-t", "tmpfs", "-o", "size=24m", "tmpfs", str(place)], check=False, capture_output=True
    )
    if made.returncode:
        pytest.skip("This user cannot mount a small disk.")
    yield place
    subprocess.run(["umount", "-l", str(place)], check=False)


@pytest.mark.parametrize("_", ["first", *(pytest.param(number, marks=pytest.mark.deep) for number in range(19))])
def test_a_full_disk_is_told_and_all_goes_on_once_there_is_room(small_disk: Path, hill, _):
    server = RunningServer(small_disk / "data")
    try:
        (piece,) = start_some(server, hill, 1)
        filler = small_disk / "filler"
        # Unbuffered: what is left in a buffer would be written once more as the file is closed.
        with filler.open("wb", buffering=0) as file, pytest.raises(OSError, match="No space"):
            while True:
                file.write(os.urandom(2**16))
        with httpx.Client(base_url=server.url, timeout=120) as client:
            refused = [client.post("/api/pieces", files={"picture": ("hill.png", hill + b" ")})]
            told = [answer for answer in refused if answer.status_code >= 400]
            assert [answer.status_code for answer in told] == [507] * len(told) and told
            assert "is full" in told[0].json()["message"]
            assert client.get("/api/pieces").status_code == 200
            asked = client.post(f"/api/pieces/{piece}/build")
            if asked.status_code == 202:
                _until(lambda: _state(client, asked.json()["id"]) in ("failed", "done"))
            else:
                assert asked.status_code == 507
            filler.unlink()
            again = client.post(f"/api/pieces/{piece}/build").json()["id"]
            _until(lambda: _state(client, again) == "done")
            assert client.get("/api/health").json()["ok"]
        with closing(sqlite3.connect(server.data / "nebrel.sqlite")) as connection:
            assert connection.execute("PRAGMA integrity_check").fetchone() == ("ok",)
    finally:
        server.kill()
        shutil.rmtree(small_disk / "data", ignore_errors=True)
