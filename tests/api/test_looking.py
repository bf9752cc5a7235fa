"""Previews in processes of their own: fair, bounded, left off, and never the end of anything else."""

import os
import time
from concurrent.futures import CancelledError
from pathlib import Path

import httpx
import numpy as np
import psutil
import pytest
from tools.running import RunningServer

from nebrel.core.errors import BadValueError, BusyError, LeftError, TooLargeError, UnitNeededError
from nebrel.jobs import looking
from nebrel.jobs.looking import Looking, OwnMistakeError
from nebrel.jobs.turns import Order, Turns
from tests.api import works

PATIENCE_SECONDS = 60


@pytest.fixture
def one():
    """A single process."""
    made = Looking(1, 2**20)
    yield made
    made.close()


@pytest.fixture
def ask(one, settings):
    """Have something done for a page."""

    def asked(work, *given, page: str = "page", about: str = "piece", progress=lambda _stage, _part: None):
        return one.ask(settings, page, about, progress, work, *given)

    return asked


def until(condition) -> None:
    ends = time.monotonic() + PATIENCE_SECONDS
    while not condition():
        assert time.monotonic() < ends
        time.sleep(0.01)


def says(marker: Path, words: str) -> bool:
    return marker.exists() and marker.read_text() == words


def test_what_is_done_comes_back_large_or_small(ask):
    assert ask(works.number_of).outcome.result() == ask(works.number_of).outcome.result()
    for size in (256, 2**16, 5 * 2**20):
        assert ask(works.block, size).outcome.result() == works.block(None, size)


def test_what_compiled_loops_stand_on_is_loaded_before_anything_can_be_left_off(ask):
    assert ask(works.has_loaded, "numba.cpython.unicode").outcome.result()


def test_a_process_that_was_spoilt_by_leaving_off_is_replaced(one, ask, tmp_path):
    pid, marker = ask(works.use).outcome.result(), tmp_path / "marker"
    order = ask(works.turn_round, str(marker))
    until(lambda: says(marker, "begun"))
    one.leave(order)
    with pytest.raises(LeftError):
        order.outcome.result(PATIENCE_SECONDS)
    again = ask(works.use).outcome.result()
    assert again != pid and ask(works.use).outcome.result() == again


def test_what_nobody_waits_for_is_left_off_and_its_process_goes_on(one, ask, tmp_path):
    pid, marker, heard = ask(works.number_of).outcome.result(), tmp_path / "marker", []
    order = ask(works.turn_round, str(marker), progress=lambda stage, part: heard.append((stage, part)))
    until(lambda: heard)
    one.leave(order)
    with pytest.raises(LeftError):
        order.outcome.result(PATIENCE_SECONDS)
    assert says(marker, "left off")
    assert ask(works.number_of).outcome.result() == pid


@pytest.mark.skipif(not hasattr(os, "sched_setaffinity"), reason="the system holds no process to one core")
def test_what_begins_a_thread_just_when_it_is_left_off_ends_like_any_other(one, ask, tmp_path):
    pid = ask(works.number_of).outcome.result()
    for turn in range(30):
        marker = tmp_path / str(turn)
        order = ask(works.begin_threads, str(marker))
        until(lambda marker=marker: says(marker, "begun"))
        one.leave(order)
        with pytest.raises(LeftError):
            order.outcome.result(PATIENCE_SECONDS)
    assert ask(works.number_of).outcome.result() == pid


def test_what_takes_no_notice_is_ended_and_what_was_beside_it_is_done_again(one, ask, tmp_path, monkeypatch):
    monkeypatch.setattr(looking, "GRACE_SECONDS", 0.3)
    pid, marker, noted = ask(works.number_of).outcome.result(), tmp_path / "marker", tmp_path / "noted"
    stubborn = ask(works.hold_on, str(marker))
    until(lambda: says(marker, "begun"))
    beside = ask(works.note, str(noted), "beside", 1.0, page="other")
    one.leave(stubborn)
    with pytest.raises(LeftError):
        stubborn.outcome.result(PATIENCE_SECONDS)
    beside.outcome.result(PATIENCE_SECONDS)
    assert noted.read_text() == "beside\n"
    assert ask(works.number_of).outcome.result() != pid
    assert not psutil.pid_exists(pid)


def test_what_waits_still_is_never_begun(one, ask, tmp_path):
    markers, noted = [tmp_path / str(hand) for hand in range(looking.HANDS)], tmp_path / "noted"
    busy = [ask(works.turn_round, str(marker)) for marker in markers]
    until(lambda: all(says(marker, "begun") for marker in markers))
    waiting = ask(works.note, str(noted), "late", 0.0)
    one.leave(waiting)
    with pytest.raises(CancelledError):
        waiting.outcome.result(PATIENCE_SECONDS)
    for order in busy:
        one.leave(order)
        with pytest.raises(LeftError):
            order.outcome.result(PATIENCE_SECONDS)
    ask(works.number_of).outcome.result()
    assert not noted.exists()


def test_what_takes_too_long_is_refused(ask, tmp_path, monkeypatch):
    monkeypatch.setattr(looking, "MOST_SECONDS", 0.3)
    with pytest.raises(TooLargeError, match="minutes"):
        ask(works.turn_round, str(tmp_path / "marker")).outcome.result(PATIENCE_SECONDS)


def test_what_takes_too_much_memory_is_refused_and_its_process_goes_on(ask, monkeypatch):
    monkeypatch.setattr(looking, "MOST_BYTES", 2**28)
    assert ask(works.fill, 2**20).outcome.result() == 1
    pid = ask(works.number_of).outcome.result()
    with pytest.raises(TooLargeError, match="memory"):
        ask(works.fill, 2**30).outcome.result()
    assert ask(works.number_of).outcome.result() == pid


def test_what_brings_its_process_down_is_tried_again_but_not_forever(ask, tmp_path):
    assert ask(works.fall, str(tmp_path / "twice"), 2).outcome.result() == "stood"
    with pytest.raises(BadValueError, match="came to an end"):
        ask(works.fall, str(tmp_path / "always"), 99).outcome.result()
    assert ask(works.block, 256).outcome.result() == bytes(range(256))


def test_refusals_come_as_they_are_and_mistakes_with_where_they_were_made(ask):
    with pytest.raises(UnitNeededError) as refused:
        ask(works.refuse).outcome.result()
    assert refused.value.size == (1.0, 2.0, 3.0)
    with pytest.raises(OwnMistakeError, match="stumble"):
        ask(works.stumble).outcome.result()


def test_a_page_that_asks_much_holds_up_no_other(ask, tmp_path):
    noted = tmp_path / "noted"
    greedy = [ask(works.note, str(noted), "greedy", 0.2, page="greedy") for _ in range(10)]
    modest = ask(works.note, str(noted), "modest", 0.0, page="modest")
    modest.outcome.result(PATIENCE_SECONDS)
    assert noted.read_text().count("greedy") <= looking.HANDS
    for order in greedy:
        order.outcome.result(PATIENCE_SECONDS)


def test_what_is_stopped_tells_those_who_wait(one, ask, tmp_path):
    busy = [ask(works.turn_round, str(tmp_path / "marker")) for _ in range(looking.HANDS)]
    until(lambda: says(tmp_path / "marker", "begun"))
    waiting = ask(works.number_of)
    one.close()
    for order in (*busy, waiting):
        with pytest.raises((BusyError, LeftError)):
            order.outcome.result(PATIENCE_SECONDS)
    assert one.pids == set()


def order(about: str, page: str = "page") -> Order:
    return Order((), about, page)


def homes(count: int) -> dict[int, str]:
    """A subject for each of so many places."""
    found: dict[int, str] = {}
    for number in range(1000):
        found.setdefault(Turns(count, 99, 99)._home(order(str(number))), str(number))
    return found


def test_pages_take_turns_whoever_came_first():
    queue = Turns(1, 99, 99)
    for page in ("a", "a", "a", "b", "c", "b"):
        queue.add(order("x", page))
    taken = []
    for _ in range(6):
        taken.append(queue.take(0))
        queue.done(taken[-1])
    assert [each.page for each in taken] == ["a", "b", "c", "a", "b", "a"]


def test_a_place_does_what_belongs_to_it_first_and_helps_out_then():
    home, queue = homes(2), Turns(2, 99, 99)
    for about in (home[0], home[0], home[1]):
        queue.add(order(about))
    assert queue.take(1).about == home[1]
    assert queue.take(1).about == home[0]
    assert queue.take(0).about == home[0]


def test_more_than_may_wait_are_asked_to_come_back():
    queue = Turns(1, 3, 2)
    queue.add(order("x", "a"))
    queue.add(order("x", "a"))
    with pytest.raises(BusyError):
        queue.add(order("x", "a"))
    queue.add(order("x", "b"))
    with pytest.raises(BusyError):
        queue.add(order("x", "c"))


def test_a_page_that_goes_away_ends_what_it_waited_for(tmp_path, encode):
    """Walls of a picture of noise take many seconds; the processor is free again soon after the page has gone."""
    server = RunningServer(tmp_path / "data")
    try:
        noise = encode(np.random.default_rng(1).integers(0, 65535, (1500, 1500)).astype(np.uint16), compress_level=1)
        with httpx.Client(base_url=server.url, timeout=60) as client:
            piece = client.post("/api/pieces", files={"picture": ("noise.png", noise)}).json()
            change = {"change": {"finish": {"tolerance_mm": 0.001}}, "longest_px": 2048, "kind": "thickness"}
            with pytest.raises(httpx.ReadTimeout):
                client.post(f"/api/pieces/{piece['id']}/map", json=change, timeout=0.5)
            until(lambda: _idle(server))
            assert client.get("/api/health").json()["ok"]
            # Had it gone on to its end, it would be in memory now.
            with pytest.raises(httpx.ReadTimeout):
                client.post(f"/api/pieces/{piece['id']}/map", json=change, timeout=0.5)
    finally:
        server.kill()


def _idle(server: RunningServer) -> bool:
    """Whether no process of the server works."""

    def worked() -> float:
        each = psutil.Process(server.process.pid).children(recursive=True)
        return sum(sum(process.cpu_times()[:2]) for process in each)

    before = worked()
    time.sleep(0.3)
    return worked() - before < 0.05
