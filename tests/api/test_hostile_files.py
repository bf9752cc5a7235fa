"""Files that are made to harm are refused in a sentence, by processes that can be ended; the server goes on."""

import os
import pickle
import signal
import threading
import time
from concurrent.futures import ThreadPoolExecutor

import numpy as np
import psutil
import pytest

from nebrel.core.errors import BadValueError, BusyError, LeftError, TooLargeError
from nebrel.core.picture import ReadLimits
from nebrel.jobs import reading
from nebrel.jobs.beginnings import drawing_in, picture_in
from nebrel.jobs.reading import Reading, _made_of
from tests.api import hostile

LIMITS = ReadLimits()


@pytest.fixture
def hasty(monkeypatch):
    monkeypatch.setattr(reading, "SECONDS", 1.0)


@pytest.fixture
def reader():
    made = Reading(1)
    yield made
    made.close()


def send(client, path: str, field: str, name: str, data: bytes):
    return client.post(f"/api/{path}", files={field: (name, data)})


@pytest.mark.parametrize(
    ("path", "field", "name", "made", "status"),
    [
        ("drawings", "drawing", "a.svg", hostile.nested_uses, 413),
        ("drawings", "drawing", "a.dxf", hostile.nested_blocks, 413),
        ("models", "model", "a.3mf", hostile.nested_components, 413),
        ("models", "model", "a.glb", hostile.sparse_glb, 422),
        ("models", "model", "d.glb", hostile.deep_glb, 422),
        ("motif-pack", "pack", "l.zip", lambda: hostile.lying_pack(60 * 2**20), 422),
    ],
)
def test_a_small_file_takes_neither_memory_nor_time(client, hasty, path, field, name, made, status):
    before = psutil.Process().memory_info().rss
    answer = send(client, path, field, name, made())
    assert (answer.status_code, list(answer.json())) == (status, ["message"])
    assert answer.json()["message"].startswith(name)
    assert psutil.Process().memory_info().rss - before < 100 * 2**20
    assert client.get("/api/health").json()["ok"]


def test_honest_files_are_still_read_after_hostile_ones(client, hasty, hill):
    for _ in range(3):
        assert send(client, "models", "model", "a.3mf", hostile.nested_components()).status_code == 413
    assert send(client, "pieces", "picture", "hill.png", hill).status_code == 201


def test_a_pack_of_copies_reads_its_file_once(client, hill, monkeypatch):
    answer = send(client, "motif-pack", "pack", "copies.zip", hostile.pack_of_copies(hill, 300))
    assert answer.status_code == 201 and len(answer.json()) == 300


@pytest.mark.parametrize("side", ["NaN", "Infinity", "-3", "0", "1e9", '"wide"'])
def test_a_pack_of_motifs_of_no_size_is_refused(client, hill, side):
    told = f'"width_mm": {side}'.encode()
    pack = hostile.repacked(hostile.pack_of_copies(hill, 1), "motifs.json", b'"width_mm": 9', told)
    answer = send(client, "motif-pack", "pack", "p.zip", pack)
    assert answer.status_code == 422 and "p.zip" in answer.json()["message"]


def test_a_pack_with_half_a_character_is_taken(client, hill):
    pack = hostile.repacked(hostile.pack_of_copies(hill, 1), "motifs.json", b'"name": "x"', b'"name": "a\\ud800b"')
    assert send(client, "motif-pack", "pack", "p.zip", pack).json()[0]["name"] == "a?b"


def test_what_waits_for_long_is_ended_by_the_clock(reader, monkeypatch, hill):
    """Work that does not use the processor is no work; it is ended all the same."""
    reader.read(picture_in, hill, "hill.png", LIMITS)
    monkeypatch.setattr(reading, "SECONDS", 0.3)
    (pid,) = reader.pids
    os.kill(pid, signal.SIGSTOP)
    with pytest.raises(TooLargeError, match="more than 0 seconds of work"):
        reader.read(picture_in, hill, "hill.png", LIMITS)
    assert not psutil.pid_exists(pid)
    monkeypatch.setattr(reading, "SECONDS", 8.0)
    reader.read(picture_in, hill, "hill.png", LIMITS)


def test_a_reader_that_dies_is_one_sentence_and_replaced(reader, hill):
    reader.read(picture_in, hill, "hill.png", LIMITS)
    (pid,) = reader.pids
    os.kill(pid, signal.SIGSTOP)
    threading.Timer(0.3, os.kill, (pid, signal.SIGKILL)).start()
    with pytest.raises(BadValueError, match=r"hill\.png cannot be read: what reads it came to an end"):
        reader.read(picture_in, hill, "hill.png", LIMITS)
    reader.read(picture_in, hill, "hill.png", LIMITS)
    assert reader.pids != {pid}


def test_too_much_memory_is_refused_and_the_reader_goes_on(reader, monkeypatch, encode, hill):
    monkeypatch.setattr(reading, "BYTES", 40 * 2**20)
    with pytest.raises((TooLargeError, BadValueError)):
        reader.read(picture_in, encode(np.zeros((6000, 6000), np.uint16)), "wide.png", LIMITS)
    monkeypatch.setattr(reading, "BYTES", 2**30)
    reader.read(picture_in, hill, "hill.png", LIMITS)


def test_more_than_may_wait_are_asked_to_come_back_at_once(reader, monkeypatch, hill):
    reader.read(picture_in, hill, "hill.png", LIMITS)
    monkeypatch.setattr(reading, "SECONDS", 0.5)
    (pid,) = reader.pids
    os.kill(pid, signal.SIGSTOP)

    def read(_):
        began = time.monotonic()
        try:
            reader.read(picture_in, hill, "hill.png", LIMITS)
        except (BusyError, TooLargeError) as refusal:
            return type(refusal), time.monotonic() - began
        return None, 0.0

    with ThreadPoolExecutor(20) as pages:
        told = list(pages.map(read, range(20)))
    assert [kind for kind, _ in told].count(BusyError) == 20 - 1 - reading.MOST_OF_A_PAGE
    assert max(seconds for kind, seconds in told if kind is BusyError) < 0.3
    assert [kind for kind, _ in told].count(TooLargeError) == 1


def test_refusals_come_over_as_they_were(reader):
    with pytest.raises(TooLargeError, match=r"a\.svg comes to more than"):
        reader.read(drawing_in, hostile.nested_uses(), "a.svg", None)
    with pytest.raises(BadValueError, match="holds what is not known here"):
        _made_of(("broken", "Traceback …"), "odd.stl")
    assert pickle.loads(pickle.dumps(TooLargeError("Too large."))).args == ("Too large.",)


def test_a_file_that_nobody_waits_for_is_left_off_and_a_page_with_many_holds_up_no_other(reader, hill):
    reader.read(picture_in, hill, "hill.png", LIMITS)
    (pid,) = reader.pids
    os.kill(pid, signal.SIGSTOP)
    first, *rest = [reader.ask("greedy", picture_in, hill, f"{number}.png", LIMITS) for number in range(4)]
    modest = reader.ask("modest", picture_in, hill, "modest.png", LIMITS)
    while not first.outcome.running():
        time.sleep(0.01)
    heard: list[str] = []
    for order in (*rest, modest):
        order.outcome.add_done_callback(lambda outcome: heard.append(outcome.result().name))
    reader.leave(first)
    with pytest.raises(LeftError):
        first.outcome.result(60)
    assert rest[-1].outcome.result(60).name == "3.png"
    assert heard[:3] == ["modest.png", "1.png", "2.png"]
    assert not psutil.pid_exists(pid)
