"""What the processes that look at pieces are given to do in trials."""

import hashlib
import os
import signal
import sys
import threading
import time
from pathlib import Path

import numpy as np

from nebrel.core.errors import UnitNeededError
from nebrel.jobs.lookers import Room


def has_loaded(_room: Room, module: str) -> bool:
    """Whether a module is there."""
    return module in sys.modules


def use(_room: Room) -> int:
    """Fails in a process that was interrupted in the middle of something that all need."""
    if os.environ.get("SPOILT"):
        raise KeyError("half loaded")
    return os.getpid()


def number_of(_room: Room) -> int:
    """Of the process in the system."""
    return os.getpid()


def block(_room: Room, size: int) -> bytes:
    """So many bytes."""
    return bytes(range(256)) * (size // 256)


def turn_round(room: Room, marker: str) -> None:
    """Never ends by itself, and tells when it has begun and when it was left off."""
    Path(marker).write_text("begun")
    try:
        while True:
            room.progress("Turning", 0.5)
            time.sleep(0.01)
    finally:
        os.environ["SPOILT"] = "yes"
        Path(marker).write_text("left off")


def begin_threads(_room: Room, marker: str) -> None:
    """Never ends by itself, and does nothing but begin threads, where new ones wait long for the only core."""
    may_use = os.sched_getaffinity(0)
    os.sched_setaffinity(0, {min(may_use)})
    over = threading.Event()
    for _ in range(4):
        threading.Thread(target=_keep_busy, args=(over,)).start()
    Path(marker).write_text("begun")
    try:
        while True:
            thread = threading.Thread(target=int)
            thread.start()
            thread.join()
    finally:
        over.set()
        os.sched_setaffinity(0, may_use)


def _keep_busy(over: threading.Event) -> None:
    data = bytes(2**20)
    while not over.is_set():
        hashlib.sha256(data)


def hold_on(_room: Room, marker: str) -> None:
    """Takes no notice of anything for a minute."""
    Path(marker).write_text("begun")
    time.sleep(60)


def fill(_room: Room, size: int) -> int:
    """Take so many bytes."""
    return int(np.ones(size, np.uint8)[-1])


def fall(_room: Room, marker: str, times: int) -> str:
    """Bring the process down so many times."""
    fallen = Path(marker)
    before = int(fallen.read_text()) if fallen.exists() else 0
    if before < times:
        fallen.write_text(str(before + 1))
        os.kill(os.getpid(), signal.SIGKILL)
    return "stood"


def refuse(_room: Room) -> None:
    """A refusal that holds more than its sentence."""
    raise UnitNeededError("bowl.stl", (1.0, 2.0, 3.0))


def stumble(_room: Room) -> None:
    """A mistake of ours."""
    raise ZeroDivisionError("by nothing")


def note(_room: Room, marker: str, name: str, seconds: float) -> None:
    """Take a while, and write down when it is done."""
    time.sleep(seconds)
    with Path(marker).open("a") as file:
        file.write(f"{name}\n")
